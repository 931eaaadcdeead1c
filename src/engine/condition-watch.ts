import {
  isBand,
  isEntering,
  isLevel,
  isSlope,
  regionOf,
  type Condition,
  type Term,
} from '$core/condition/condition';
import { Detector } from '$core/condition/detector';
import { conflict } from '$core/errors';
import { SlidingSlope } from '$core/signal/sliding';
import { hz, sampleTimeNs } from '$core/time/rate';
import { quantityOf, unitConversion } from '$core/quantities/quantities';
import type { Signal } from './signals';

/** An instant at which a condition begins or ceases to hold. */
export interface Turn {
  atNs: bigint;
  on: boolean;
}

/** One term at its signal: finds the samples at which it turns. */
class TermWatch {
  on = false;
  private readonly detector: Detector | null;
  private slope: SlidingSlope | null;
  /** The signal's unit as it was when this began: the signal itself goes on in another one. */
  private readonly unit: string;
  private readonly limit: 'warning' | 'alarm';

  constructor(
    readonly signal: Signal,
    private readonly term: Term,
  ) {
    this.unit = signal.unit;
    const rate = hz(signal.group.rate);
    const region = regionOf(term);
    this.detector =
      region && new Detector(region, Math.round((term.hold ?? 0) * rate), isEntering(term.test));
    this.slope = isSlope(term.test) ? new SlidingSlope(Math.round(term.over * rate) + 1, rate) : null;
    this.limit = term.test === 'is past a warning' ? 'warning' : 'alarm';
  }

  /** Whether another one asks the same, perhaps written in another unit. */
  asks(other: TermWatch): boolean {
    const [a, b] = [this.term, other.term];
    return (
      a.channel === b.channel &&
      a.test === b.test &&
      a.hold === b.hold &&
      a.over === b.over &&
      sameNumbers(a, this.unit, b, other.unit)
    );
  }

  /** Goes on where another one was that asks the same. */
  follow(former: TermWatch): void {
    this.on = former.on;
    if (former.detector) this.detector?.follow(former.detector);
    // A slope goes on only on the same signal in the same unit: its window holds values.
    if (this.slope && this.signal === former.signal && this.unit === former.unit) this.slope = former.slope;
  }

  /** Its turns within this step's block, in order of time. */
  step(turns: { atNs: bigint; term: TermWatch; on: boolean }[]): void {
    const { signal, detector, slope } = this;
    const { group, value } = signal;
    const turn = (index: number, on: boolean) =>
      turns.push({ atNs: sampleTimeNs(group.startNs, group.rate, group.first + index), term: this, on });
    if (!detector) {
      // A limit is judged once a block; a warning is passed by an alarm, too.
      const holds = signal.limit === 'alarm' || signal.limit === this.limit;
      if (group.count > 0 && holds !== this.on) turn(group.count - 1, (this.on = holds));
      return;
    }
    for (let i = 0; i < group.count; i++) {
      if (!detector.next(slope ? fullSlope(slope, value[i]) : value[i])) continue;
      turn(i, detector.on);
    }
    this.on = detector.on;
  }
}

/** Whether two terms mean the same levels, each written in its own unit. */
function sameNumbers(a: Term, unitA: string, b: Term, unitB: string): boolean {
  if (unitA === unitB) return a.level === b.level && a.high === b.high && a.hysteresis === b.hysteresis;
  if (!(isLevel(a.test) || isBand(a.test))) return true; // yes, no and limits have no numbers here
  if (quantityOf(unitA) !== quantityOf(unitB)) return false;
  const { factor, offset } = unitConversion(unitB, unitA);
  const near = (x: number, y: number) => Math.abs(x - y) <= 1e-6 * (Math.abs(x) + Math.abs(y)) + 1e-12;
  const place = (value: number) => (isSlope(b.test) ? value * factor : value * factor + offset);
  return (
    near(a.level, place(b.level)) &&
    (!isBand(a.test) || near(a.high, place(b.high))) &&
    near(a.hysteresis ?? 0, (b.hysteresis ?? 0) * factor)
  );
}

/** The slope once its whole time has passed, most of it with readings: a line through the rest of a gap says nothing. */
function fullSlope(slope: SlidingSlope, value: number): number {
  const found = slope.push(value);
  return slope.full ? found : NaN;
}

/** A condition over the signals of a set-up: says to the sample when it begins and ceases to hold. */
export class ConditionWatch {
  private readonly terms: TermWatch[];
  private readonly states = new Map<TermWatch, boolean>();
  private turnedNs = 0n;
  holds = false;
  /** Whether it held before the last step. */
  heldBeforeStep = false;

  /** @throws `conflict` when one of its channels is not measured now */
  constructor(
    private readonly condition: Condition,
    signalOf: (channelId: string) => Signal | undefined,
  ) {
    this.terms = condition.terms.map((term) => {
      const signal = term.channel === null ? undefined : signalOf(term.channel);
      if (!signal)
        throw conflict(
          'condition',
          'A channel that it waits for is not measured now.',
          'Choose another one, or see on the rig why it is missing.',
        );
      return new TermWatch(signal, term);
    });
    for (const term of this.terms) this.states.set(term, false);
  }

  /** Whether it waits for something to happen, instead of holding from the start. */
  get waitsForChange(): boolean {
    return this.condition.terms.some((t) => isEntering(t.test));
  }

  /** Goes on where another one was, if both ask the same of the same channels. @returns whether they do */
  follow(former: ConditionWatch): boolean {
    if (this.condition.join !== former.condition.join || this.terms.length !== former.terms.length)
      return false;
    if (!this.terms.every((term, k) => term.asks(former.terms[k]))) return false;
    this.terms.forEach((term, k) => {
      term.follow(former.terms[k]);
      this.states.set(term, former.states.get(former.terms[k])!);
    });
    this.holds = former.holds;
    this.turnedNs = former.turnedNs;
    return true;
  }

  reads = (signal: Signal) => this.terms.some((t) => t.signal === signal);

  /** Moves on by one step of the pipeline. @returns its turns, oldest first */
  step(): Turn[] {
    const raw: { atNs: bigint; term: TermWatch; on: boolean }[] = [];
    this.heldBeforeStep = this.holds;
    for (const term of this.terms) term.step(raw);
    if (raw.length === 0) return [];
    raw.sort((a, b) => (a.atNs < b.atNs ? -1 : a.atNs > b.atNs ? 1 : 0));
    const turns: Turn[] = [];
    for (const { atNs, term, on } of raw) {
      this.states.set(term, on);
      const all = this.condition.join === 'all';
      let holds = all;
      for (const state of this.states.values()) if (state !== all) holds = !all;
      if (holds === this.holds) continue;
      this.holds = holds;
      // What a unit delivers late cannot turn it before what has turned already.
      this.turnedNs = atNs > this.turnedNs ? atNs : this.turnedNs;
      turns.push({ atNs: this.turnedNs, on: holds });
    }
    return turns;
  }
}
