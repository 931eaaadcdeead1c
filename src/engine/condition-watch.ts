import { isEntering, isSlope, regionOf, type Condition, type Term } from '$core/condition/condition';
import { Detector } from '$core/condition/detector';
import { RunningSlope } from '$core/condition/running-slope';
import { conflict } from '$core/errors';
import { hz, sampleTimeNs } from '$core/time/rate';
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
  private readonly slope: RunningSlope | null;
  private readonly limit: 'warning' | 'alarm';

  constructor(
    readonly signal: Signal,
    term: Term,
  ) {
    const rate = hz(signal.group.rate);
    const region = regionOf(term);
    this.detector =
      region && new Detector(region, Math.round((term.hold ?? 0) * rate), isEntering(term.test));
    this.slope = isSlope(term.test) ? new RunningSlope(Math.round(term.over * rate) + 1, rate) : null;
    this.limit = term.test === 'is past a warning' ? 'warning' : 'alarm';
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
      if (!detector.next(slope ? slope.push(value[i]) : value[i])) continue;
      turn(i, detector.on);
    }
    this.on = detector.on;
  }
}

/** A condition over the signals of a set-up: says to the sample when it begins and ceases to hold. */
export class ConditionWatch {
  private readonly terms: TermWatch[];
  private readonly states = new Map<TermWatch, boolean>();
  private turnedNs = 0n;
  holds = false;

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

  reads = (signal: Signal) => this.terms.some((t) => t.signal === signal);

  /** Moves on by one step of the pipeline. @returns its turns, oldest first */
  step(): Turn[] {
    const raw: { atNs: bigint; term: TermWatch; on: boolean }[] = [];
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
