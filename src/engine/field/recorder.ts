import { randomBytes, randomInt, scryptSync, timingSafeEqual } from 'node:crypto';
import { fromHundredths, hundredths, type Refusal } from '$core/field/messages';
import type { Limit } from '$core/field/recorder/found';
import { batteryS, faultsOf, type RecorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import type { Break, RecorderState } from '$core/field/recorder/state';

/** What stands between an instrument and whoever asks something of it that it does not do. */
export class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.says);
  }
}
const refuse = (why: Refusal['why'], says: string, waitS?: number) => new Refused({ why, says, ...(waitS && { waitS }) }); // prettier-ignore

export interface RecorderParts {
  model: RecorderModel;
  serial: string;
  /** True time, ms since 1970. */
  now: () => number;
  /** What its sensors meet at a true time, in the order that its model measures; NaN where nothing is measured. */
  sense: (trueMs: number) => readonly number[];
  /** By how much its clock runs fast, millionths. */
  driftPpm?: number;
  /** Charge that has been taken from its battery already, a share. */
  used?: number;
}

/** Readings that are kept while it waits. */
const WAITING_MOST = 288;
const FIRMWARE = '1.4';
/** Of a lithium cell: V with all its charge, and with none. */
const [FULL_V, EMPTY_V] = [3.06, 2.42];
const MARKS_MOST = 64;

/** A pocket recorder that works by itself: whatever the time is, it has done by now what it was set up to do. A stand-in for the instrument, as honest as one: its
 *  clock drifts, its battery runs down, its memory is finite, and it forgets no password. */
export class PocketRecorder {
  private readonly memory: Int16Array;
  private setup: RecorderSetup | null = null;
  private phase: RecorderState['phase'] = 'blank';
  private run = 0;
  private startedMs: number | null = null;
  private end = 0;
  private marks: number[] = [];
  private breaks: Break[] = [];
  private alarms: RecorderState['alarms'] = { high: null, low: null, cleared: false };
  private beyond = { high: 0, low: 0 };
  /** Of the clock: true time when it was set, and what it was set to. */
  private clock: { setTrue: number; setSaid: number };
  private charge: number;
  private chargedAt: number;
  private lock: { salt: Buffer; hash: Buffer; for: 'setting up' | 'fetching too' } | null = null;
  private wrong = { tries: 0, until: 0 };
  private offFrom = 0;
  private offUntil = 0;
  private offWhy = '';
  private waiting: number[] = [];
  private waitedMs = 0;

  constructor(private readonly parts: RecorderParts) {
    const { model, now, used = 0 } = parts;
    this.memory = new Int16Array(model.memory);
    const at = now();
    this.clock = { setTrue: at, setSaid: at };
    this.charge = 1 - used;
    this.chargedAt = at;
  }

  get serial(): string {
    return this.parts.serial;
  }
  /** Numbers of a reading. */
  get width(): number {
    return this.parts.model.measures.length;
  }
  /** Readings that fit: each has `width` numbers. */
  private get room(): number {
    return Math.floor(this.parts.model.memory / this.width);
  }
  private get first(): number {
    return Math.max(0, this.end - this.room);
  }
  private said(trueMs: number): number {
    const { setTrue, setSaid } = this.clock;
    return setSaid + (trueMs - setTrue) * (1 + (this.parts.driftPpm ?? 0) * 1e-6);
  }
  private trueOf(saidMs: number): number {
    const { setTrue, setSaid } = this.clock;
    return setTrue + (saidMs - setSaid) / (1 + (this.parts.driftPpm ?? 0) * 1e-6);
  }

  /** Does all that was to be done by now. */
  private advance(): void {
    const now = this.parts.now();
    const { setup } = this;
    const spent = Math.max(0, now - this.chargedAt) / 1000;
    const lasts = setup && this.phase !== 'asleep' && this.phase !== 'stopped' ? batteryS(this.parts.model, setup) : batteryS(this.parts.model, { intervalS: 1e9, lamps: 'dark' }); // prettier-ignore
    const left = this.charge - spent / lasts;
    // Of an empty battery nothing is measured any more.
    const emptyAt = left <= 0 ? this.chargedAt + this.charge * lasts * 1000 : Infinity;
    this.charge = Math.max(0, left);
    this.chargedAt = now;
    if (!setup) return;
    const until = this.said(Math.min(now, emptyAt));
    if (this.phase === 'waits') {
      if (setup.start === 'at a time' && until >= setup.startMs!) this.begin(setup.startMs!);
      else if (setup.measuresWaiting) this.wait(until);
    }
    if (this.startedMs !== null && (this.phase === 'settles' || this.phase === 'records')) this.record(until);
    if (emptyAt !== Infinity && this.phase !== 'stopped' && this.phase !== 'asleep') {
      this.phase = 'stopped';
      this.breaks.push({ at: this.end, count: 0, why: 'The battery was empty.' });
    }
  }
  private begin(startedMs: number): void {
    this.startedMs = startedMs;
    this.phase = this.setup!.settleS > 0 ? 'settles' : 'records';
  }
  private wait(untilMs: number): void {
    const step = this.setup!.intervalS * 1000;
    const from = Math.max(this.waitedMs + step, untilMs - WAITING_MOST * step);
    for (let at = from; at <= untilMs; at += step) {
      this.waiting.push(...this.parts.sense(this.trueOf(at)).map(hundredths));
      this.waitedMs = at;
    }
    this.waiting = this.waiting.slice(-WAITING_MOST * this.width);
  }
  private record(untilMs: number): void {
    const { intervalS, readings, then, settleS, high, low } = this.setup!;
    const most = then === 'stop' ? Math.min(readings, this.room) : then === 'keep the newest' ? Infinity : this.room; // prettier-ignore
    const due = Math.min(most, Math.floor((untilMs - this.startedMs!) / (intervalS * 1000)) + 1);
    for (; this.end < due; this.end++) {
      const atSaid = this.startedMs! + this.end * intervalS * 1000;
      const at = this.trueOf(atSaid);
      const off = at >= this.offFrom && at < this.offUntil;
      const values = off ? Array.from({ length: this.width }, () => NaN) : this.parts.sense(at);
      const place = (this.end % this.room) * this.width;
      for (let k = 0; k < this.width; k++) this.memory[place + k] = hundredths(values[k] ?? NaN);
      if (off) this.missing();
      if (this.end * intervalS >= settleS) {
        this.phase = 'records';
        // Limits are of what is kept.
        const kept = fromHundredths(this.memory[place]);
        if (high) this.watch('high', high, kept > high.at, kept);
        if (low) this.watch('low', low, kept < low.at, kept);
      }
    }
    if (this.end >= most) this.phase = 'stopped';
  }
  private missing(): void {
    const last = this.breaks.at(-1);
    if (last && last.at + last.count === this.end && last.why === this.offWhy) last.count++;
    else this.breaks.push({ at: this.end, count: 1, why: this.offWhy });
  }
  private watch(side: 'high' | 'low', { after, count }: Limit, is: boolean, value: number): void {
    if (Number.isNaN(value) || this.alarms[side] !== null) return;
    if (is) this.beyond[side]++;
    else if (after === 'in a row') this.beyond[side] = 0;
    if (this.beyond[side] >= (after === 'at once' ? 1 : count)) {
      this.alarms[side] = this.end;
      this.alarms.cleared = false;
    }
  }

  state(): RecorderState {
    this.advance();
    const now = this.parts.now();
    const newest = this.phase === 'waits' ? this.waiting.slice(-this.width) : this.end ? [...this.memory.subarray(((this.end - 1) % this.room) * this.width, ((this.end - 1) % this.room) * this.width + this.width)] : []; // prettier-ignore
    return {
      model: this.parts.model.name,
      serial: this.parts.serial,
      firmware: FIRMWARE,
      name: this.setup?.name ?? '',
      phase: this.phase,
      run: this.run,
      saidMs: this.said(now),
      clockSetMs: this.clock.setSaid,
      setup: this.setup,
      startedMs: this.startedMs,
      first: this.first,
      end: this.end,
      battery: { volts: EMPTY_V + (FULL_V - EMPTY_V) * this.charge ** 0.3, share: this.charge },
      alarms: { ...this.alarms },
      marks: [...this.marks],
      breaks: this.breaks.map((b) => ({ ...b })),
      locked: this.lock?.for ?? 'nothing',
      display: this.display(newest),
      lamp: this.lamp(),
      last: newest.length ? newest.map(fromHundredths).map((v) => (Number.isNaN(v) ? null : v)) : null,
      waiting: { toMs: this.waitedMs, values: [...this.waiting] },
    };
  }

  private get alarmed(): boolean {
    const { high, low, cleared } = this.alarms;
    return (high !== null || low !== null) && !cleared;
  }
  /** Six signs at most: what it measures, with an arrow where a limit was passed; how it is where it measures nothing. */
  private display(newest: readonly number[]): string {
    if (this.charge === 0 || this.phase === 'asleep') return '';
    if (this.phase === 'blank') return '----';
    if (this.phase === 'stopped') return 'END';
    const value = newest.length ? fromHundredths(newest[0]) : NaN;
    if (Number.isNaN(value)) return this.phase === 'waits' ? 'WAIT' : '----';
    const arrow = !this.alarmed ? '' : this.alarms.high !== null ? '▲' : '▼';
    return `${value.toFixed(1)}${arrow}`;
  }
  private lamp(): RecorderState['lamp'] {
    if (!this.setup || this.setup.lamps === 'dark' || this.charge === 0 || this.phase === 'asleep') return 'dark'; // prettier-ignore
    if (!this.alarmed) return 'green, each minute';
    return this.setup.lamps === 'blink each minute' ? 'red, each minute' : 'red, quickly';
  }

  /** Lets in whoever knows the password. Wrong tries have to wait longer each time. @throws Refused */
  private open(password: string | undefined, what: 'setting up' | 'fetching too'): void {
    if (!this.lock || (what === 'fetching too' && this.lock.for === 'setting up')) return;
    const now = this.parts.now();
    if (now < this.wrong.until) throw refuse('wait', `After wrong tries it waits ${Math.ceil((this.wrong.until - now) / 1000)} s.`, Math.ceil((this.wrong.until - now) / 1000)); // prettier-ignore
    if (password === undefined) throw refuse('password', 'It asks for its password.');
    if (timingSafeEqual(hashOf(password, this.lock.salt), this.lock.hash)) return void (this.wrong = { tries: 0, until: 0 }); // prettier-ignore
    this.wrong.tries++;
    this.wrong.until = now + 1000 * 2 ** Math.min(12, this.wrong.tries - 1);
    throw refuse('password', 'That is not its password.');
  }

  setClock(utcMs: number): void {
    this.advance();
    if (this.phase === 'settles' || this.phase === 'records') throw refuse('busy', 'While it records its clock stays as it is.'); // prettier-ignore
    this.clock = { setTrue: this.parts.now(), setSaid: utcMs };
  }

  /** Sets it up: what it held is gone then. @param lock from now on; null opens it, undefined leaves it as it is @throws Refused */
  setUp(setup: RecorderSetup, { password, lock }: { password?: string; lock?: { password: string; for: 'setting up' | 'fetching too' } | null } = {}): void {
    this.advance();
    this.open(password, 'setting up');
    const [fault] = faultsOf(this.parts.model, setup, this.said(this.parts.now())).filter((f) => f.bad);
    if (fault) throw refuse('does not fit', fault.says);
    if (lock !== undefined) {
      const salt = randomBytes(16);
      this.lock = lock && { salt, hash: hashOf(lock.password, salt), for: lock.for };
    }
    this.setup = { ...setup };
    this.run = randomInt(1, 0xffffffff);
    Object.assign(this, { startedMs: null, end: 0, marks: [], breaks: [], waiting: [], phase: 'waits' });
    this.alarms = { high: null, low: null, cleared: false };
    this.beyond = { high: 0, low: 0 };
    const now = this.said(this.parts.now());
    this.waitedMs = now;
    if (setup.start === 'at once') this.begin(now);
    this.advance();
  } // prettier-ignore

  /** Readings as they are kept, as many as are asked for and there. @throws Refused where that run is over, or they are overwritten */
  readings({ run, from, count, password }: { run: number; from: number; count: number; password?: string }): Int16Array {
    this.advance();
    this.open(password, 'fetching too');
    if (run !== this.run) throw refuse('changed', 'It has been set up anew meanwhile.');
    if (from < this.first) throw refuse('changed', `Readings before ${this.first} are overwritten.`);
    const n = Math.max(0, Math.min(count, this.end - from));
    const out = new Int16Array(n * this.width);
    // In two parts where the memory goes round in between.
    for (let i = 0; i < n;) {
      const place = (from + i) % this.room;
      const part = Math.min(n - i, this.room - place);
      out.set(this.memory.subarray(place * this.width, (place + part) * this.width), i * this.width);
      i += part;
    }
    return out;
  } // prettier-ignore

  /** Its button: starts it, clears an alarm where that is allowed, makes a mark while it records or stops it where it was set up so. */
  press(): void {
    this.advance();
    const now = this.said(this.parts.now());
    if (this.phase === 'waits' && this.setup!.start === 'by its button') return this.begin(now);
    if (this.phase !== 'settles' && this.phase !== 'records') return;
    const { high, low, cleared } = this.alarms;
    if ((high !== null || low !== null) && !cleared && this.setup!.clearable)
      return void (this.alarms.cleared = true);
    if (this.setup!.then === 'stop by its button') return void (this.phase = 'stopped');
    if (this.marks.length < MARKS_MOST) this.marks.push(now);
  }
  clearAlarm(): void {
    this.advance();
    this.alarms.cleared = true;
  }
  /** For so long it measures nothing. @param why such as a changed battery */
  interrupt(seconds: number, why: string): void {
    this.advance();
    this.offFrom = this.parts.now();
    this.offUntil = this.offFrom + seconds * 1000;
    this.offWhy = why;
  }
  changeBattery(seconds: number): void {
    this.interrupt(seconds, 'The battery was changed.');
    this.charge = 1;
  }
  sleep(password?: string): void {
    this.advance();
    this.open(password, 'setting up');
    this.phase = 'asleep';
  }
}

const hashOf = (password: string, salt: Buffer) => scryptSync(password, salt, 32);
