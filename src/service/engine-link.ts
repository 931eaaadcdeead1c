import { fork, spawn, type ChildProcess } from 'node:child_process';
import { rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { FarrierError, type ErrorCode, type ErrorText } from '$core/errors';
import type { EngineCommand, EngineMessage } from '$contract/engine';
import { wasAtWorkOn } from '$engine/at-work';
import type { EnginePort } from './app';

const RESTART_MS = 500;
const ANSWER_MS = 10_000;
/** An engine speaks twenty times a second; one that is silent this long has hung and is started anew, its outputs at rest. */
const SILENT_MS = 10_000;
/** So long it may take until it speaks for the first time. */
const START_MS = 60_000;
/** Time to close a take; whatever it has not closed by then the next start does. */
const STOP_MS = 3000;

interface Waiting {
  resolve: (value: unknown) => void;
  reject: (error: unknown) => void;
  timer: NodeJS.Timeout;
}

/** The engine process as seen from the web server: starts it, speaks with it, starts it again when it dies. */
export class EngineLink implements EnginePort {
  private child: ChildProcess | null = null;
  private readonly waiting = new Map<number, Waiting>();
  private next = 1;
  private stopping = false;

  /** @param onMessage what the engine says by itself @param onStart called when a fresh engine is ready (first or after a crash) */
  constructor(
    private readonly onMessage: (message: EngineMessage) => void,
    private readonly onStart: (restarted: boolean) => void,
    /** File in which the engine says what it is at work on. */
    private readonly atWork = join(tmpdir(), `farrier-engine-${process.pid}`),
    /** Told which unit the engine was at work on when it hung or died; '' for none. */
    private readonly onFailure: (serial: string) => void = () => undefined,
  ) {}

  async start(restarted = false): Promise<void> {
    const { entry } = await import('$engine/process');
    const file = fileURLToPath(entry);
    const env = { ...process.env, FARRIER_ENGINE: '1', FARRIER_AT_WORK: this.atWork };
    const child = file.endsWith('.ts')
      ? await spawnSource(file, env)
      : fork(file, { env, serialization: 'advanced' });
    this.child = child;
    let heardMs = performance.now() + START_MS - SILENT_MS;
    const watch = setInterval(() => {
      if (performance.now() - heardMs > SILENT_MS) child.kill('SIGKILL');
    }, 1000);
    child.on('message', (message) => {
      const said = message as EngineMessage;
      heardMs = performance.now();
      if (said.say === 'ready') this.onStart(restarted);
      else if (said.say === 'answer') this.answer(said);
      else this.onMessage(said);
    });
    child.on('exit', () => {
      clearInterval(watch);
      this.child = null;
      for (const [, waiting] of this.waiting) waiting.reject(this.gone());
      this.waiting.clear();
      if (this.stopping) return rmSync(this.atWork, { force: true });
      this.onFailure(wasAtWorkOn(this.atWork));
      setTimeout(() => void this.start(true), RESTART_MS);
    });
  }

  private answer({ id, value, error }: Extract<EngineMessage, { say: 'answer' }>): void {
    const waiting = this.waiting.get(id);
    if (!waiting) return;
    this.waiting.delete(id);
    clearTimeout(waiting.timer);
    if (error) waiting.reject(new FarrierError(error.code as ErrorCode, error.text as ErrorText));
    else waiting.resolve(value);
  }

  private gone = () =>
    new FarrierError('unavailable', {
      what: 'The engine does not answer.',
      where: 'engine',
      why: 'It has stopped and is being started again.',
      next: 'Try again in a moment.',
    });

  /** @throws what the engine answers, or `unavailable` when it does not */
  command(command: EngineCommand): Promise<unknown> {
    const { child } = this;
    if (!child?.connected) return Promise.reject(this.gone());
    return new Promise((resolve, reject) => {
      const id = this.next++;
      const timer = setTimeout(() => {
        this.waiting.delete(id);
        reject(this.gone());
      }, ANSWER_MS);
      this.waiting.set(id, { resolve, reject, timer });
      child.send({ id, command }, (error) => {
        if (error) reject(this.gone());
      });
    });
  }

  /** Ends the engine; it closes its take and brings outputs to rest. */
  async stop(): Promise<void> {
    this.stopping = true;
    const { child } = this;
    if (!child) return;
    const ended = new Promise<void>((resolve) => child.once('exit', () => resolve()));
    if (child.connected) child.send({ id: 0, command: { do: 'stop' } satisfies EngineCommand });
    const late = setTimeout(() => child.kill('SIGKILL'), STOP_MS);
    await ended;
    clearTimeout(late);
  }
}

/** While developing the engine runs from its sources, with the names of the rooms resolved as in the application. */
async function spawnSource(file: string, env: NodeJS.ProcessEnv): Promise<ChildProcess> {
  const root = file.slice(0, file.lastIndexOf('/src/'));
  const program = `const { rooms } = await import(${JSON.stringify(`${root}/scripts/rooms.mjs`)});
    const { runnerImport } = await import('vite');
    await runnerImport(${JSON.stringify(file)}, { configFile: false, logLevel: 'error', resolve: { alias: rooms } });`;
  return spawn(process.execPath, ['--input-type=module', '-e', program], {
    env,
    cwd: root,
    serialization: 'advanced',
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
}
