import { z } from 'zod';
import { badInput } from '../errors';
import { definition, isUnit } from '../quantities/quantities';
import { combine, sameDimension } from '../quantities/symbols';
import { field } from '../sentence/sentence';
import { samplesWithin, type Sampled } from '../samples/sampled';
import { CHUNK } from '../studies/study';

export const channelField = (label: string) =>
  field(z.string().max(200), {
    label,
    editor: 'channel',
    help: 'By its name: it is looked for in every take.',
  });
export const numberField = (label: string, unitFrom: string, help?: string) =>
  field(z.number().min(-1e15).max(1e15), { label, editor: 'number', unitFrom, help });
export const fromField = field(z.number().min(0).max(1e9).nullable(), {
  label: 'From',
  editor: 'number',
  unit: 's',
  none: 'the start',
  help: 'Seconds after the start of the take.',
});
export const toField = field(z.number().min(0).max(1e9).nullable(), {
  label: 'To',
  editor: 'number',
  unit: 's',
  none: 'the end',
  help: 'Seconds after the start of the take.',
});

/** Reads samples [first, end) a chunk at a time. @param each told the chunk and the index of its first sample; false ends it */
export function eachChunk(
  signal: Sampled,
  { first, end }: { first: number; end: number },
  each: (block: Float32Array, at: number) => boolean | void,
): void {
  for (let at = first; at < end; at += CHUNK)
    if (each(signal.read(at, Math.min(CHUNK, end - at)), at) === false) return;
}

/** Samples of a span that there are. @throws `bad_input` when there is none */
export function within(
  signal: Sampled,
  { from, to }: { from: number | null; to: number | null },
): { first: number; end: number } {
  const span = samplesWithin(signal, from ?? 0, to);
  if (span.end <= span.first)
    throw badInput(
      signal.name,
      `no sample from ${from ?? 0} s to ${to ?? 'the end'}`,
      'Choose a span inside the take.',
    );
  return span;
}

/** The value at an instant: straight between the samples beside it; NaN in a gap and outside. */
export function valueAt(signal: Sampled, atS: number): number {
  const place = ((atS - signal.startNs / 1e9) * signal.rate.num) / signal.rate.den;
  const near = Math.round(place);
  // An instant that was written in decimals means the sample beside it.
  const at = Math.abs(place - near) < 1e-6 ? near : place;
  const first = Math.floor(at);
  if (first < 0 || first >= signal.length) return NaN;
  const values = signal.read(first, Math.min(2, signal.length - first));
  return at === first
    ? values[0]
    : values.length < 2
      ? NaN
      : values[0] + (at - first) * (values[1] - values[0]);
}

/** Reads another signal at the instants of one, going forward. */
export function follower(signal: Sampled): (atS: number) => number {
  let first = -1;
  let block: Float32Array = new Float32Array(0);
  const sample = (i: number) => {
    if (i < 0 || i >= signal.length) return NaN;
    if (i < first || i >= first + block.length) {
      first = i;
      block = Float32Array.from(signal.read(i, Math.min(CHUNK, signal.length - i)));
    }
    return block[i - first];
  };
  return (atS) => {
    const place = ((atS - signal.startNs / 1e9) * signal.rate.num) / signal.rate.den;
    const near = Math.round(place);
    const at = Math.abs(place - near) < 1e-6 ? near : place;
    const i = Math.floor(at);
    const a = sample(i);
    return at === i ? a : a + (at - i) * (sample(i + 1) - a);
  };
}

/** Unit of a product or quotient, by a name where there is one: kN · mm is J.
 *  @returns the unit, and by what the numbers are multiplied to be in it */
export function combinedUnit(a: string, b: string, power: 1 | -1): { unit: string; factor: number } {
  const written = { unit: combinedSymbol(a, b, power), factor: 1 };
  if (!isUnit(a) || !isUnit(b)) return written;
  const [p, q] = [definition(a), definition(b)];
  const factor = p.factor * q.factor ** power;
  if (power === -1 && sameDimension(p.dimension, q.dimension)) return { unit: '1', factor };
  const energy = definition('J');
  if (power === 1 && sameDimension(combine(p.dimension, q.dimension, 1), energy.dimension))
    return { unit: 'J', factor: factor / energy.factor };
  return written;
}

function combinedSymbol(a: string, b: string, power: 1 | -1): string {
  const parts = (unit: string) => (unit === '1' ? ['', ''] : [...unit.split('/'), '']) as [string, string];
  if ([a, b].some((unit) => /[()]/.test(unit))) return power === 1 ? `${a} × ${b}` : `${a} per ${b}`;
  const [aOver, aUnder] = parts(a);
  const [bOver, bUnder] = power === 1 ? parts(b) : (parts(b).slice(0, 2).reverse() as [string, string]);
  const join = (...own: string[]) => own.filter(Boolean).join('·');
  const [over, under] = [join(aOver, bOver), join(aUnder, bUnder)];
  return under ? `${over || '1'}/${under}` : over || '1';
}
