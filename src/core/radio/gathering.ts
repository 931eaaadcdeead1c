import { BandListener } from './band';
import { ChannelFilter } from './channel-filter';
import { dbm } from './levels';
import { planBand, type BandRequest } from './resolution';
import { Weighing, type Weighed } from '../emissions/weighing';
import type { WeightingBand } from '../emissions/bands';

/** What is gathered while a receiver stands at one place: a band by every detector over some sweeps, a few frequencies weighed as an interference
 *  receiver weighs them, or the samples of a channel. */
export type GatherTask =
  | { does: 'band'; request: BandRequest; sweepS: number; sweeps: number }
  | { does: 'weigh'; hz: number[]; band: WeightingBand; seconds: number }
  | { does: 'samples'; centreHz: number; widthHz: number; lengthS: number };
export interface GatherStep {
  centreHz: number;
  /** Gain of the receiver for this step, where it is set for it. */
  gainDb?: number;
  task: GatherTask;
}

/** A band over some sweeps. Levels in dBm, one for each line. */
export interface GatheredBand {
  does: 'band';
  startHz: number;
  stepHz: number;
  noiseBandwidthHz: number;
  rms: Float32Array;
  highest: Float32Array;
  /** Mean of the magnitudes. */
  average: Float32Array;
  /** Power of the whole band in each sweep, mW: the sum of its lines by their distance over the noise bandwidth. */
  sweeps: Float64Array;
}
export type Gathered = (
  | GatheredBand
  | { does: 'weigh'; weighed: Weighed[] }
  | { does: 'samples'; sampleRateHz: number; centreHz: number; iq: Float32Array }
) & { overload: boolean };

interface Gathers {
  /** @returns share of it that is there; 1 once it is whole */
  push(iq: Float32Array, first: number): number;
  result(): Omit<Gathered, 'overload'>;
}

/** Sweeps over a band, each the mean of the transforms that fit in its time. */
class Sweeps implements Gathers {
  private readonly listener: BandListener;
  private readonly each: number;
  private seen = 0;
  private readonly sums: Record<'rms' | 'highest' | 'average', Float64Array>;
  private readonly sweeps: number[] = [];

  constructor(
    private readonly task: Extract<GatherTask, { does: 'band' }>,
    receiver: { centreHz: number; sampleRateHz: number },
  ) {
    const plan = planBand(task.request, receiver);
    this.listener = new BandListener(plan);
    this.each = Math.max(Math.ceil(task.sweepS * receiver.sampleRateHz), plan.windowLength);
    const lines = () => new Float64Array(plan.lines);
    this.sums = { rms: lines(), highest: lines(), average: lines() };
  }

  push(iq: Float32Array, first: number): number {
    const { each, listener, task } = this;
    const count = iq.length / 2;
    for (let at = 0; at < count && this.sweeps.length < task.sweeps;) {
      const take = Math.min(count - at, each - (this.seen % each));
      listener.push(iq.subarray(2 * at, 2 * (at + take)), first + at);
      at += take;
      this.seen += take;
      if (this.seen % each === 0) this.sweep();
    }
    return this.seen / (each * task.sweeps);
  }

  private sweep(): void {
    const picture = this.listener.look();
    if (!picture) return;
    const { rms, highest } = picture.powers;
    const average = picture.powers['mean of the magnitudes'];
    const { sums } = this;
    let total = 0;
    for (let l = 0; l < rms.length; l++) {
      total += rms[l];
      sums.rms[l] += rms[l];
      // Magnitudes are averaged as magnitudes over all sweeps, too.
      sums.average[l] += Math.sqrt(average[l]);
      if (highest[l] > sums.highest[l]) sums.highest[l] = highest[l];
    }
    const { stepHz, noiseBandwidthHz } = this.listener.plan;
    this.sweeps.push((total * stepHz) / noiseBandwidthHz);
  }

  result(): GatheredBand {
    const { plan } = this.listener;
    const n = this.sweeps.length;
    return {
      does: 'band',
      startHz: plan.startHz,
      stepHz: plan.stepHz,
      noiseBandwidthHz: plan.noiseBandwidthHz,
      rms: Float32Array.from(this.sums.rms, (v) => dbm(v / n)),
      highest: Float32Array.from(this.sums.highest, dbm),
      average: Float32Array.from(this.sums.average, (v) => dbm((v / n) ** 2)),
      sweeps: Float64Array.from(this.sweeps),
    };
  }
}

/** Samples of a channel. */
class Samples implements Gathers {
  private readonly filter: ChannelFilter;
  private readonly iq: Float32Array;
  private filled = 0;

  constructor(
    private readonly task: Extract<GatherTask, { does: 'samples' }>,
    receiver: { centreHz: number; sampleRateHz: number },
  ) {
    this.filter = new ChannelFilter(receiver.sampleRateHz, task.centreHz - receiver.centreHz, task.widthHz);
    this.iq = new Float32Array(2 * Math.max(16, Math.round(task.lengthS * this.filter.sampleRateHz)));
  }

  push(iq: Float32Array, first: number): number {
    const out = this.filter.push(iq, first).iq;
    const take = Math.min(out.length, this.iq.length - this.filled);
    this.iq.set(out.subarray(0, take), this.filled);
    this.filled += take;
    return this.filled / this.iq.length;
  }

  result(): Omit<Extract<Gathered, { does: 'samples' }>, 'overload'> {
    return {
      does: 'samples',
      sampleRateHz: this.filter.sampleRateHz,
      centreHz: this.task.centreHz,
      iq: this.iq,
    };
  }
}

/** Times that a step may begin anew because samples were lost in it. */
const ANEW_MOST = 20;

/** Gathers one step from samples as they come; where samples are lost in it, it begins anew: nothing is measured over a hole. */
export class Gatherer {
  private own: Gathers;
  private next = -1;
  private anew = 0;
  private overload = false;

  /** @throws `bad_input` for what cannot be had of the receiver where it stands */
  constructor(
    private readonly task: GatherTask,
    private readonly receiver: { centreHz: number; sampleRateHz: number },
  ) {
    this.own = this.begin();
  }

  private begin(): Gathers {
    const { task, receiver } = this;
    if (task.does === 'band') return new Sweeps(task, receiver);
    if (task.does === 'samples') return new Samples(task, receiver);
    return new Weighing(task, receiver);
  }

  /** Whether samples are lost again and again, so that it is never whole. */
  get hopeless(): boolean {
    return this.anew > ANEW_MOST;
  }

  /** @param first index of the block’s first sample @returns what was gathered once it is whole, or the share that is there */
  push(iq: Float32Array, first: number, overload: boolean): Gathered | number {
    if (this.next >= 0 && first !== this.next) {
      this.own = this.begin();
      this.anew++;
      this.overload = false;
    }
    this.next = first + iq.length / 2;
    this.overload ||= overload;
    const share = this.own.push(iq, first);
    return share >= 1 ? ({ ...this.own.result(), overload: this.overload } as Gathered) : share;
  }
}
