import { Moments } from '$core/statistics/moments';
import { sampleTimeNs, type Rate } from '$core/time/rate';
import type { Signal } from './signals';
import type { UnitSlot } from './slots';

/** A bridge whose module can lay its shunt resistor across an arm. */
export interface ShuntedSignal {
  signal: Signal;
  /** @throws FarrierError when the unit does not answer */
  shunt(on: boolean): void;
}

/** Those signals whose module has a shunt that can be switched now. */
export const shuntedSignals = (signals: Signal[], slots: UnitSlot[]): ShuntedSignal[] =>
  signals.flatMap((signal) => {
    const slot = slots.find((s) => s.serial === signal.channel?.wire?.unit);
    if (!slot?.answering || !slot.unit.shunt || signal.trouble !== 'none') return [];
    const at = slot.unit
      .describe()
      .modules.flatMap((m) => m.terminals)
      .find((t) => t.id === signal.terminal);
    return at?.shunt ? [{ signal, shunt: (on) => slot.unit.shunt!(signal.terminal!, on) }] : [];
  });

export type ProofStep = 'zero' | 'shunt';

/** What one bridge read at rest or under its shunt, raw. */
export interface ProofReading {
  signal: Signal;
  step: ProofStep;
  atNs: bigint;
  rate: Rate;
  values: Float32Array;
  mean: number;
  noise: number;
}

/** Switch and filter need this long until a step is over. */
const SETTLE_NS = 300_000_000n;

interface Collected {
  values: number[];
  first: number;
}

/** Reads a set of bridges at rest, then under their shunts, all at once: zero for some seconds, shunt for as many. */
export class ShuntRun {
  readonly readings: ProofReading[] = [];
  private stage: 'settling' | ProofStep | 'shunting' | 'releasing' = 'settling';
  private untilNs: bigint;
  private collected: Collected[] = [];

  constructor(
    readonly moment: 'before' | 'after',
    private readonly bridges: ShuntedSignal[],
    private readonly seconds: number,
    nowNs: bigint,
  ) {
    this.untilNs = nowNs + SETTLE_NS;
    for (const { shunt } of bridges) shunt(false);
  }

  covers = (signal: Signal) => this.bridges.some((b) => b.signal === signal);

  /** What is being read, and for how long still. */
  state(nowNs: bigint): { moment: 'before' | 'after'; step: ProofStep; leftS: number } {
    const step = this.stage === 'settling' || this.stage === 'zero' ? 'zero' : 'shunt';
    const left = Number(this.untilNs - nowNs) / 1e9 + (step === 'zero' ? this.seconds + 0.6 : 0);
    return { moment: this.moment, step, leftS: Math.max(0, Math.ceil(left)) };
  }

  /** Takes what came in this step. @returns whether all is read @throws when a unit is lost: its shunts are let go as far as it answers */
  step(nowNs: bigint): boolean {
    if (this.stage === 'zero' || this.stage === 'shunt') this.collect();
    if (nowNs < this.untilNs) return false;
    const span = BigInt(Math.round(this.seconds * 1e9));
    switch (this.stage) {
      case 'settling':
        return this.begin('zero', nowNs + span);
      case 'zero':
        this.close('zero');
        for (const { shunt } of this.bridges) shunt(true);
        return this.begin('shunting', nowNs + SETTLE_NS);
      case 'shunting':
        return this.begin('shunt', nowNs + span);
      case 'shunt':
        this.close('shunt');
        for (const { shunt } of this.bridges) shunt(false);
        return this.begin('releasing', nowNs + SETTLE_NS);
      case 'releasing':
        return true;
    }
  }

  private begin(stage: ShuntRun['stage'], untilNs: bigint): false {
    this.stage = stage;
    this.untilNs = untilNs;
    this.collected = this.bridges.map(() => ({ values: [], first: -1 }));
    return false;
  }

  private collect(): void {
    this.bridges.forEach(({ signal }, k) => {
      const { group, raw } = signal;
      const held = this.collected[k];
      if (group.count > 0 && held.first < 0) held.first = group.first;
      for (let i = 0; i < group.count; i++) held.values.push(raw[i]);
    });
  }

  private close(step: ProofStep): void {
    this.bridges.forEach(({ signal }, k) => {
      const { values, first } = this.collected[k];
      const m = new Moments();
      m.push(values);
      const { rate, startNs } = signal.group;
      this.readings.push({
        signal,
        step,
        atNs: sampleTimeNs(startNs, rate, Math.max(0, first)),
        rate,
        values: Float32Array.from(values),
        mean: m.count ? m.mean : NaN,
        noise: m.standardDeviation,
      });
    });
  }

  /** Lets all shunts go, as far as their units answer. */
  cancel(): void {
    for (const { shunt } of this.bridges) {
      try {
        shunt(false);
      } catch {
        // A unit that is gone has let go by itself.
      }
    }
  }
}

/** How far zero and step of each bridge have moved between two runs, in words. @returns null when nothing can be compared */
export function driftText(before: ProofReading[], after: ProofReading[]): string | null {
  const found = before
    .filter((b) => b.step === 'zero')
    .flatMap((zeroBefore) => {
      const { signal } = zeroBefore;
      const find = (list: ProofReading[], step: ProofStep) =>
        list.find((r) => r.signal === signal && r.step === step);
      const [shuntBefore, zeroAfter, shuntAfter] = [
        find(before, 'shunt'),
        find(after, 'zero'),
        find(after, 'shunt'),
      ];
      if (!shuntBefore || !zeroAfter || !shuntAfter) return [];
      const span = shuntBefore.mean - zeroBefore.mean;
      const zero = inUnit(signal, zeroAfter.mean) - inUnit(signal, zeroBefore.mean);
      const share = (shuntAfter.mean - zeroAfter.mean) / span - 1;
      return Number.isFinite(zero) && Number.isFinite(share) ? [{ signal, zero, share }] : [];
    });
  if (found.length === 0) return null;
  const worst = found.reduce((a, b) => (Math.abs(b.share) > Math.abs(a.share) ? b : a));
  const furthest = found.reduce((a, b) => (relative(b) > relative(a) ? b : a));
  return `Since before the take the zero moved most at ${furthest.signal.name}, by ${furthest.zero.toPrecision(2)} ${furthest.signal.unit}; the shunt’s step changed most at ${worst.signal.name}, by ${(100 * worst.share).toFixed(2)} %.`;
}

const relative = ({ signal, zero }: { signal: Signal; zero: number }) => {
  const { min, max } = (signal.channel!.settings as { range: { min: number; max: number } }).range;
  return Math.abs(zero) / (max - min);
};

function inUnit(signal: Signal, raw: number): number {
  const out = new Float64Array(1);
  signal.convert([raw], out, 1);
  return out[0];
}
