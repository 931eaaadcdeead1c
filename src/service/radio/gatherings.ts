import { randomUUID } from 'node:crypto';
import { cancelled, conflict, FarrierError } from '$core/errors';
import type { Gathered, GatherStep } from '$core/radio/gathering';
import type { GatherTold } from '$contract/radio-gathering';
import type { App } from '../app';

/** How long a receiver may be silent while it gathers, ms. */
const SILENT_MS = 15_000;

interface Running {
  id: string;
  what: string;
  steps: number;
  gathered: (step: number, gathered: Gathered) => void;
  share: (step: number, share: number) => void;
  resolve: () => void;
  reject: (error: Error) => void;
  timer: ReturnType<typeof setTimeout>;
}

/** What receivers gather step by step, for whoever asks: one at a time on each. */
export class Gatherings {
  private readonly running = new Map<string, Running>();

  constructor(private readonly app: App) {}

  /** What a receiver is busy with; '' when with nothing. */
  busy = (unit: string): string => this.running.get(unit)?.what ?? '';

  /** @param what it is for, in words @returns once every step was gathered
   *  @throws `conflict` while it gathers something else, `cancelled`, `unavailable` when it falls silent */
  async run(
    unit: string,
    what: string,
    steps: GatherStep[],
    each: { gathered: Running['gathered']; share?: Running['share'] },
  ): Promise<void> {
    const other = this.running.get(unit);
    if (other)
      throw conflict('the receiver', `It is busy with ${other.what}.`, 'Wait for its end, or stop it first.');
    const id = randomUUID();
    const done = new Promise<void>((resolve, reject) => {
      this.running.set(unit, {
        id,
        what,
        steps: steps.length,
        gathered: each.gathered,
        share: each.share ?? (() => undefined),
        resolve,
        reject,
        timer: this.waits(unit),
      });
    });
    try {
      done.catch(() => undefined); // it may end before the engine has answered
      await this.app.engine.command({ do: 'gather', unit, wish: { id, steps } });
      await done;
    } finally {
      clearTimeout(this.running.get(unit)?.timer);
      if (this.running.get(unit)?.id === id) this.running.delete(unit);
    }
  }

  private waits(unit: string): ReturnType<typeof setTimeout> {
    return setTimeout(() => {
      this.end(
        unit,
        new FarrierError('unavailable', {
          what: 'The receiver has fallen silent.',
          where: unit,
          next: 'See on the rig whether it answers, and measure again.',
        }),
      );
    }, SILENT_MS);
  }
  private end(unit: string, error: Error): void {
    const run = this.running.get(unit);
    if (!run) return;
    run.reject(error);
    this.app.engine.command({ do: 'gather', unit, wish: null }).catch(() => undefined);
  }

  /** Ends what is gathered; what was gathered so far stays with whoever asked. */
  stop = (unit: string): void => this.end(unit, cancelled('the receiver'));
  /** The engine began anew: what it gathered is gone. */
  again(): void {
    for (const unit of this.running.keys())
      this.end(
        unit,
        new FarrierError('unavailable', {
          what: 'Measuring was interrupted: the engine began anew.',
          where: unit,
          next: 'Measure again.',
        }),
      );
  }

  told(unit: string, said: GatherTold): void {
    const run = this.running.get(unit);
    if (run?.id !== said.id) return;
    clearTimeout(run.timer);
    run.timer = this.waits(unit);
    if ('fault' in said)
      return run.reject(
        new FarrierError('unavailable', { what: said.fault, where: 'the receiver', next: said.next }),
      );
    if ('share' in said) return run.share(said.step, said.share);
    try {
      run.gathered(said.step, said.gathered);
    } catch (error) {
      return this.end(unit, error as Error);
    }
    if (said.step === run.steps - 1) {
      clearTimeout(run.timer);
      run.resolve();
    }
  }
}
