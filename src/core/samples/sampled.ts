import { hz, type Rate } from '../time/rate';

/** What is known of samples without reading them. */
export interface SampledHead {
  /** Names it among its like: of a channel, of a result. */
  id: string;
  name: string;
  /** What is measured, as the trade calls it; '' where the unit stands for several. */
  quantity: string;
  unit: string;
  /** Position in the palette of traces. */
  colour?: number;
  rate: Rate;
  /** From the start of the recording to the first sample, ns. */
  startNs: number;
  /** Numbers a sample: 1 real, 2 complex (in phase, then in quadrature). */
  width: 1 | 2;
  length: number;
}

/** Samples of one signal, wherever they lie: what studies, formats and painters read. Values are in the unit, NaN in gaps. */
export interface Sampled extends SampledHead {
  /** Samples [first, first + count), `width` numbers each, in a buffer that is valid until the next call. */
  read(first: number, count: number): Float32Array;
  /** Expanded uncertainty (about 95 %) of the mean level of some samples, in the unit; null where the calibration does not say. */
  uncertainty?(first: number, count: number): number | null;
}

type Placed = Pick<SampledHead, 'rate' | 'startNs'>;

export const rateHz = ({ rate }: Pick<SampledHead, 'rate'>): number => hz(rate);
/** A rate as it is written: no more digits than count. */
export const rateText = (of: Pick<SampledHead, 'rate'>): string => String(Number(rateHz(of).toPrecision(6)));
export const startS = ({ startNs }: Pick<SampledHead, 'startNs'>): number => startNs / 1e9;
/** Instant of a sample, s from the start of the recording: computed from its index, never accumulated. */
export const sampleS = ({ rate, startNs }: Placed, index: number): number =>
  startNs / 1e9 + (index * rate.den) / rate.num;
/** Instant just after the last sample, s. */
export const endS = (of: Placed & Pick<SampledHead, 'length'>): number => sampleS(of, of.length);

/** Share of a sample by which an instant that was written in decimals may miss the one it means. */
const SLACK = 1e-6;
/** Index of the first sample at or after an instant, whether there is one or not. */
export const firstFrom = ({ rate, startNs }: Placed, seconds: number): number =>
  Math.ceil(((seconds - startNs / 1e9) * rate.num) / rate.den - SLACK) + 0; // no −0
/** Index of the last sample at or before an instant, whether there is one or not. */
export const lastUpTo = ({ rate, startNs }: Placed, seconds: number): number =>
  Math.floor(((seconds - startNs / 1e9) * rate.num) / rate.den + SLACK);

/** Samples of a span [fromS, toS) that there are. */
export function samplesWithin(
  of: Placed & Pick<SampledHead, 'length'>,
  fromS: number,
  toS: number | null,
): { first: number; end: number } {
  const within = (index: number) => Math.min(of.length, Math.max(0, index));
  const first = within(firstFrom(of, fromS));
  return { first, end: Math.max(first, toS === null ? of.length : within(firstFrom(of, toS))) };
}

/** Samples that lie in memory. @param values `width` numbers a sample */
export function sampledOf(head: Omit<SampledHead, 'length'>, values: Float32Array): Sampled {
  const { width } = head;
  return {
    ...head,
    length: values.length / width,
    read: (first, count) => values.subarray(first * width, (first + count) * width),
  };
}
