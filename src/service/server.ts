import { asFarrierError } from '$core/errors';
import { setTimeout as wait } from 'node:timers/promises';
import { commonOf } from '$contract/channel';
import type { EngineMessage } from '$contract/engine';
import type { TakeHead } from '$contract/take';
import { putTake } from '$store/entities';
import { Access } from './access';
import { jobOf, log, openApp, takePath, type App } from './app';
import { atEnd } from './at-end';
import { EngineLink } from './engine-link';
import { channelsOf, pushSetup } from './setup/change';
import { closePool } from './pool';
import { existsSync } from 'node:fs';
import { recoverTake } from '$store/take/recover';

export interface Server {
  app: App;
  access: Access;
  stop: () => Promise<void>;
}

/** Opens the data, starts the engine and connects the two. */
export async function startServer(options: {
  folder: string;
  host: string;
  phrase?: string;
}): Promise<Server> {
  const access = new Access(options.host, options.phrase);
  const app = openApp(options.folder);
  const engine = new EngineLink(
    (message) => hear(app, message),
    (restarted) => {
      if (restarted) afterCrash(app);
      followWaves();
      void pushSetup(app).catch((error) => log(app, 'trouble', asFarrierError(error, 'engine').message));
    },
  );
  app.engine = engine;
  const followWaves = () =>
    void engine.command({ do: 'waves', channelIds: app.live.wanted }).catch(() => undefined);
  app.live.onWaves = followWaves;
  await engine.start();
  return {
    app,
    access,
    stop: async () => {
      app.live.closeAll();
      await Promise.race([Promise.all([engine.stop(), closePool()]), wait(5000, undefined, { ref: false })]);
      app.db.$client.close();
    },
  };
}

/** What the engine says by itself. */
export function hear(app: App, message: EngineMessage): void {
  switch (message.say) {
    case 'frame':
      app.alarms.frame(message.frame);
      return app.live.push(message.frame);
    case 'status':
      return app.live.setStatus(message.status);
    case 'waves':
      return app.live.pushWaves(message.waves);
    case 'setup':
      app.alarms.setup(message.channelIds);
      return app.live.setup(message.channelIds);
    case 'note':
      // A rule's alarm has no state that could end: it stands until somebody acknowledges it.
      if (message.kind === 'alarm') app.alarms.comes(message.by, 'alarm', message.says, message.atMs, true);
      return log(app, message.kind, message.says, message);
    case 'take':
      putTake(app.db, message.head, message.durationS * 1000);
      if (message.hash) sealed(app, message.head, message.hash);
      return;
    case 'call':
      return void callAddress(app, message.address, message.body);
  }
}

/** A take was closed: its seal goes into the logbook, and what its plan wants done at its end is done. */
function sealed(app: App, head: TakeHead, hash: string): void {
  log(app, 'seal', `${head.name} sealed, SHA-256 ${hash}.`, { takeId: head.id });
  if (head.state === 'complete') void atEnd(app, head);
}

const CALL_MS = 5000;
/** A rule calls an address; whether it was heard stands in the logbook. */
async function callAddress(app: App, address: string, body: unknown): Promise<void> {
  try {
    const response = await fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ ...(body as object), job: jobOf(app).name, readings: readings(app) }),
      signal: AbortSignal.timeout(CALL_MS),
    });
    if (!response.ok) throw new Error(`it answered ${response.status}`);
    log(app, 'rule', `${address} was called.`);
  } catch (error) {
    log(
      app,
      'trouble',
      `${address} could not be called: ${(error as Error).message}. See whether it can be reached from here.`,
    );
  }
}
const readings = (app: App) =>
  Object.fromEntries(
    channelsOf(app).map((c) => {
      const value = app.live.value(c.id);
      return [c.name, Number.isFinite(value) ? { value, unit: commonOf(c).unit } : null];
    }),
  );

/** The engine died and a fresh one took over: the take it was writing is closed with what it holds. */
function afterCrash(app: App): void {
  const { take } = app.live.status;
  log(app, 'trouble', 'The engine stopped and was started again; outputs went to rest.');
  if (!take || !existsSync(takePath(app, take.id))) return;
  const head = recoverTake(takePath(app, take.id));
  putTake(app.db, head, (head.lengthNs ?? 0) / 1e6);
  log(app, 'ended', `${head.name} was interrupted; all up to the last quarter of a second is kept.`, {
    takeId: take.id,
  });
}
