import { field, type Sentence } from '$core/sentence/sentence';
import type { CatchRequest } from '$core/radio/catching';
import { PULSES } from '$core/modulation/pulse';
import type { Measure, ModulationWish } from '$core/modulation/read';
import { SCHEMES } from '$core/modulation/schemes';
import { z } from 'zod';

const number = z.number('Give a number.');
const bits = (label: string, none: string, help: string) =>
  field(z.string().max(4000).regex(/^[01\s]*$/, 'Bits are 0 and 1; blanks may part them.'), { label, editor: 'text', none, help }); // prettier-ignore
const LEARNS = ['decisions', 'the pattern'] as const;

/** How modulation is read, as a sentence. Frequencies in MHz, rates in kHz (thousand symbols a second). */
const modulation = z.strictObject({
  at: field(number.positive('Give a frequency above 0 MHz.').max(1e5), {
    label: 'At',
    editor: 'number',
    unit: 'MHz',
  }),
  scheme: field(z.enum(SCHEMES), { label: 'Modulation', editor: 'choice', options: SCHEMES }),
  rate: field(number.min(0.01, 'At least 10 symbols a second.').max(1e5), {
    label: 'Symbol rate',
    editor: 'number',
    unit: 'kSym/s',
    help: 'Roughly is enough: what it is within 2 % is found.',
  }),
  pulse: field(z.enum(PULSES), { label: 'Pulse', editor: 'choice', options: PULSES }),
  rollOff: field(number.min(0.01, 'At least 0.01.').max(1, 'At most 1.'), {
    label: 'Roll-off',
    editor: 'number',
    help: 'Of a Gaussian filter its bandwidth times the symbol time.',
  }),
  matched: field(z.enum(['matched', 'not matched']), {
    label: 'Receive filter',
    editor: 'choice',
    options: ['matched', 'not matched'],
    help: 'Matched filters by the same pulse, as a receiver of the link does.',
  }),
  count: field(number.int('Give a whole number.').min(16, 'At least 16.').max(5000, 'At most 5000.'), {
    label: 'Symbols',
    editor: 'number',
  }),
  begins: field(z.enum(['at once, again and again', 'where the power rises']), {
    label: 'A capture begins',
    editor: 'choice',
    options: ['at once, again and again', 'where the power rises'],
  }),
  level: field(number.min(-200).max(50), { label: 'Level', editor: 'number', unit: 'dBm' }),
  within: field(number.min(0, 'At least 0 ms.').max(1000, 'At most 1000 ms.'), {
    label: 'Searched within',
    editor: 'number',
    unit: 'ms',
    help: 'Time that a capture has beyond its symbols, in which the pattern may begin.',
  }),
  pattern: bits(
    'Pattern',
    'no pattern',
    'Known bits: they tell the turn of the constellation, and where a frame begins.',
  ),
  after: field(number.int('Give a whole number.').min(-1000).max(10_000), {
    label: 'Symbols from the pattern’s begin',
    editor: 'number',
  }),
  expected: bits(
    'Expected bits',
    'nothing',
    'Compared with the bits that are read, from the first; fewer come again and again.',
  ),
  taps: field(number.int('Give a whole number.').min(1).max(127).refine((v) => v % 2 === 1, 'Give an odd number.').nullable(), {
    label: 'Taps of the equaliser',
    editor: 'number',
    none: 'no equaliser',
    help: 'Half a symbol apart: they take out what the path did.',
  }), // prettier-ignore
  step: field(number.min(0.001, 'Above 0.').max(1, 'At most 1.'), { label: 'Step', editor: 'number' }),
  learns: field(z.enum(LEARNS), { label: 'It learns from', editor: 'choice', options: LEARNS }),
  own: z.array(z.strictObject({ re: z.number(), im: z.number() })).max(1024),
  ownTaps: z.array(z.number()).max(2000),
  ownTapsEach: z.number().int().min(1).max(64),
  captures: field(number.int('Give a whole number.').min(1).max(1000), {
    label: 'Captures of the statistics',
    editor: 'number',
  }),
  /** Limits of numbers, by what they are of: the highest that is all right. */
  most: z.partialRecord(z.string(), z.number()),
});
export const Modulation = modulation;
export type Modulation = z.infer<typeof Modulation>;

export const MODULATION: Sentence<typeof modulation> = {
  schema: modulation,
  template: (s) =>
    `Read {scheme} at {at}, {rate}, through a {pulse}${
      /cosine|Gaussian/.test(s.pulse) || s.scheme === 'GMSK' ? ' of {rollOff}' : ''
    } {matched}; {count} symbols {begins}${s.begins === 'where the power rises' ? ' above {level}' : ''}, from where {pattern} is found within {within}${
      s.pattern.trim() ? ', {after} symbols on' : ''
    }; take out what the path did with {taps}${s.taps === null ? '' : ' taps in steps of {step}, learning from {learns}'}; expect {expected}.`,
};
export const STATISTICS: Sentence<typeof modulation> = {
  schema: modulation,
  template: () => 'Of {captures} captures',
};

export const MODULATION_DEFAULTS: Modulation = {
  at: 868,
  scheme: '4-PSK',
  rate: 500,
  pulse: 'root raised cosine',
  rollOff: 0.35,
  matched: 'matched',
  count: 500,
  begins: 'where the power rises',
  level: -60,
  within: 0.2,
  pattern: '',
  after: 0,
  expected: '',
  taps: null,
  step: 0.2,
  learns: 'decisions',
  own: [],
  ownTaps: [],
  ownTapsEach: 4,
  captures: 50,
  most: {},
};

/** How it is read, without what a page makes of it: statistics and limits. */
export const ReadingWays = modulation.omit({ captures: true, most: true });
export const waysOf = (s: Modulation): z.infer<typeof ReadingWays> =>
  Object.fromEntries(Object.entries(s).filter(([key]) => key in ReadingWays.shape)) as z.infer<
    typeof ReadingWays
  >;

/** Symbols on either side that the filters need. */
const AROUND = 24;
/** Width that a modulation takes, in symbol rates: what is beyond is filtered away. */
const WIDE = 2;

/** What of a receiver is captured. */
export function captureRequest(s: Modulation): CatchRequest {
  const symbolS = 1 / (s.rate * 1e3);
  const lengthS = (s.count + 2 * AROUND + Math.max(0, s.after)) * symbolS + s.within / 1e3;
  return {
    centreHz: s.at * 1e6,
    widthHz: WIDE * s.rate * 1e3,
    lengthS,
    beforeS: s.begins === 'where the power rises' ? AROUND * symbolS : 0,
    begins:
      s.begins === 'where the power rises'
        ? { by: 'level', level: s.level, way: 'rises above', back: 6, waitS: 0 }
        : { by: 'itself' },
  };
}

export const modulationWish = (s: Modulation, held: Float64Array | null): ModulationWish => ({
  scheme: s.scheme,
  own: s.own,
  symbolHz: s.rate * 1e3,
  pulse: s.pulse,
  rollOff: s.rollOff,
  taps: s.ownTaps,
  tapsPerSymbol: s.ownTapsEach,
  matched: s.matched === 'matched',
  count: s.count,
  pattern: s.pattern,
  alike: 0.8,
  after: s.after,
  expected: s.expected,
  equaliser: s.taps === null ? null : { taps: s.taps, step: s.step, learns: s.learns },
  held,
});

/** What each number is, its unit, and by which definition. */
export const NUMBERS: Record<Measure, { name: string; unit: string; decimals: number; says: string }> = {
  evmRms: { name: 'error vector, rms', unit: '%', decimals: 2, says: 'rms of what a symbol lies beside its ideal point, over the rms of the ideal points; gain, phase, frequency, droop and origin are taken out before.' },
  evmPeak: { name: 'error vector, peak', unit: '%', decimals: 1, says: 'The largest error vector of the capture, over the rms of the ideal points.' },
  evm95: { name: 'error vector, 95 %', unit: '%', decimals: 1, says: '95 % of the symbols lie nearer to their ideal points than this.' },
  mer: { name: 'modulation error ratio', unit: 'dB', decimals: 1, says: 'Power of the ideal points over that of the error vectors (ETSI TR 101 290).' },
  snr: { name: 'signal to noise', unit: 'dB', decimals: 1, says: 'Power of the symbols over what is left when gain imbalance and quadrature error are taken out, too.' },
  magnitude: { name: 'magnitude error', unit: '%', decimals: 2, says: 'rms of the difference in magnitude, over the rms of the ideal points.' },
  phase: { name: 'phase error', unit: '°', decimals: 2, says: 'rms of the angle between symbol and ideal point.' },
  offsetHz: { name: 'carrier off by', unit: 'Hz', decimals: 0, says: 'Carrier against the frequency that is listened at, by the turning of the symbols.' },
  symbolHz: { name: 'symbol rate', unit: 'Sym/s', decimals: 0, says: 'As it was found by the beat of the envelope and by the errors.' },
  droop: { name: 'droop', unit: 'dB/Sym', decimals: 4, says: 'Slope of the level over the symbols, positive where it falls.' },
  origin: { name: 'origin offset', unit: 'dB', decimals: 1, says: 'What stays of the carrier: the middle of the constellation against the rms of the ideal points.' },
  imbalance: { name: 'gain imbalance', unit: 'dB', decimals: 2, says: 'Gain in phase over gain in quadrature. Without a pattern a square constellation may be turned by 90°: the sign is then not known.' },
  quadrature: { name: 'quadrature error', unit: '°', decimals: 2, says: 'By which the quadrature does not stand at a right angle.' },
  rho: { name: 'ρ', unit: '', decimals: 4, says: 'Share of the received power that is the ideal signal’s.' },
  deviationHz: { name: 'deviation', unit: 'Hz', decimals: 0, says: 'Half the distance of the outermost levels of frequency, by least squares.' },
  deviationError: { name: 'deviation error', unit: '%', decimals: 2, says: 'rms of what frequencies lie beside their levels, over the deviation.' },
  bitErrors: { name: 'bit errors', unit: '', decimals: 0, says: 'Bits that differ from those that were expected.' },
}; // prettier-ignore

/** Units of those numbers as channels have them. */
const CHANNEL_UNITS: Record<string, string> = { '': '1', 'Sym/s': 'Hz', 'dB/Sym': 'dB' };
export const unitOfNumber = (of: Measure): string => CHANNEL_UNITS[NUMBERS[of].unit] ?? NUMBERS[of].unit;
