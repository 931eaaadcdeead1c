import { closeSync, openSync, readFileSync, writeSync } from 'node:fs';
import type { OpenUnit } from './units/driver';

const LENGTH = 120;

/** Says on disk which unit the engine is at work on: when it hangs or dies, whoever starts it again knows on what. */
export class AtWork {
  private readonly file: number;
  private readonly idle = Buffer.alloc(LENGTH, ' ');

  constructor(path: string) {
    this.file = openSync(path, 'w');
    writeSync(this.file, this.idle, 0, LENGTH, 0);
  }

  /** Does something with a unit. */
  on<T>(serial: string, work: () => T): T {
    writeSync(this.file, Buffer.from(serial.slice(0, LENGTH / 4).padEnd(LENGTH / 4)), 0, LENGTH / 4, 0);
    try {
      return work();
    } finally {
      writeSync(this.file, this.idle, 0, LENGTH, 0);
    }
  }

  /** A unit whose turns in the pipeline are told. */
  watch(serial: string, unit: OpenUnit): OpenUnit {
    const { start, poll } = unit;
    return Object.assign(unit, {
      start: (...given: Parameters<OpenUnit['start']>) => this.on(serial, () => start.apply(unit, given)),
      poll: (nowNs: bigint) => this.on(serial, () => poll.call(unit, nowNs)),
    });
  }

  close = () => closeSync(this.file);
}

/** The unit that an engine was at work on when it ended; '' for none. */
export function wasAtWorkOn(path: string): string {
  try {
    return readFileSync(path, 'utf8').trim();
  } catch {
    return '';
  }
}
