import { z } from 'zod';
import { CORRELATING } from '$core/modal/correlations';
import { FITS } from '$core/modal/fits';
import { DRIVEN, isDriven } from '$core/modal/driving';
import type { HitFault } from '$core/modal/hits';
import { NORMALISATIONS } from '$core/modal/shape';
import { RESIDUALS } from '$core/modal/residues';
import { field, type Sentence } from '$core/sentence/sentence';
import type { ErrorText } from '$core/errors';

export const LAGS = [64, 128, 256, 512, 1024, 2048, 4096, 8192, 16384, 32768] as const;
const DETRENDS = ['its mean', 'a straight line', 'nothing'] as const;
const whole = z.number('Give a number.').int('Give a whole number.');
const hz = z.number('Give a frequency.').min(0, 'At least 0 Hz.').max(1e6);

/** How responses are correlated with references. */
export const correlate = z.strictObject({
  responses: field(z.array(z.string().max(64)).max(200), {
    label: 'Responses',
    editor: 'channels',
    none: 'all that suit',
    help: 'Everything that moves and is to be seen in the shapes, references included.',
  }),
  references: field(z.array(z.string().max(64)).max(16, 'At most 16 references.'), {
    label: 'References',
    editor: 'channels',
    none: 'no reference yet',
    counted: { beyond: 2, as: 'references' },
    help: 'One from each part that moves apart from the others: a mode that no reference sees is not found. Where it is struck or shaken, the forces.',
  }),
  method: field(z.enum([...CORRELATING, ...DRIVEN]), {
    label: 'Looked at',
    editor: 'choice',
    options: [...CORRELATING, ...DRIVEN],
    help: 'In its own work: the whole span uses every sample once, segments under a window let a slow drift weigh less. With a force that is measured: hit by hit, or by segments while it lasts.',
  }),
  factor: field(whole.min(1, 'At least 1.').max(100, 'At most 100.'), {
    label: 'Every so many samples',
    editor: 'number',
    help: 'A lower rate makes the same lags reach farther. What would fold is filtered away first, down 100 dB.',
  }),
  detrend: field(z.enum(DETRENDS), { label: 'Taken away', editor: 'choice', options: DETRENDS }),
  lags: field(z.number().int().refine((n) => (LAGS as readonly number[]).includes(n), 'Choose a power of two.'), {
    label: 'Lags',
    editor: 'choice',
    options: LAGS,
    help: 'More lags give finer lines and more noise; the tail should have died out by their end.',
  }),
  left: field(z.number('Give a number.').min(0.001, 'At least 0.001 %.').max(100, 'At most 100 %: no window.'), {
    label: 'Left at the end',
    editor: 'number',
    unit: '%',
    help: 'An exponential window leaves so much at the last lag. The damping that it adds is taken out of the results.',
  }),
  keepS: field(z.number('Give a number.').min(0.0001, 'At least 0.0001 s.').max(10, 'At most 10 s.'), {
    label: 'The force counts for',
    editor: 'number',
    unit: 's',
    help: 'After that nothing but noise is left of a hit: the force window ends there.',
  }),
  level: field(z.number('Give a number.').min(1, 'At least 1 %.').max(90, 'At most 90 %.'), {
    label: 'A hit from',
    editor: 'number',
    unit: '%',
    help: 'Share of the largest force of the span from which on it is taken for a hit.',
  }),
  /** Hits that count although something speaks against them, or do not although nothing does. */
  turned: z.array(z.string().max(40)).max(2000),
  speedHz: field(z.number('Give a number.').positive('Give a speed above 0.').max(1e4).nullable(), {
    label: 'Running speed',
    editor: 'number',
    unit: 'turns a second',
    none: 'no known speed',
    help: 'Its multiples are told apart from modes.',
  }),
}); // prettier-ignore
export type Correlate = z.infer<typeof correlate>;
/** What holds where nobody has said otherwise, and of sets that were kept before there was a choice. */
export const DRIVEN_USUAL = { keepS: 0.05, level: 10, turned: [] } satisfies Partial<Correlate>;

/** A part of a take that counts. */
export const ModalSpan = z.strictObject({
  take: z.string().max(64),
  from: z.number().min(0).max(1e9).default(0),
  to: z.number().min(0).max(1e9).nullable().default(null),
});
export type ModalSpan = z.infer<typeof ModalSpan>;

/** The same with what follows from it, as the page shows it. */
const correlating = correlate.extend({
  resolution: field(z.number('Give a number.').positive('Give a resolution above 0 Hz.').max(1e5), {
    label: 'Resolution',
    editor: 'number',
    unit: 'Hz',
    help: 'The distance of the lines: the rate over the lags. The nearest number of lags that is a power of two is taken.',
  }),
  seconds: z.number(),
});
const seconds = (value: number) => `${Number(value.toPrecision(3))} s`;
export const CORRELATE_SENTENCE: Sentence<typeof correlating> = {
  schema: correlating,
  template: (value) =>
    value.method === 'hit by hit'
      ? `Follow {responses} as they answer {references} {method}, each from {level} of the largest on and its force for {keepS}; one sample of {factor} kept, over {lags} samples (${seconds(value.seconds)}, {resolution}), letting the tail die to {left}.`
      : isDriven(value.method)
        ? `Follow {responses} as they answer {references} {method}, one sample of {factor} kept, over {lags} samples (${seconds(value.seconds)}, {resolution}), letting the tail die to {left}.`
        : `Correlate {responses} with {references} {method}, one sample of {factor} kept, {detrend} taken away, over {lags} lags (${seconds(value.seconds)}, {resolution}), letting the tail die to {left}; running at {speedHz}.`,
};

/** How poles and shapes are fitted. */
export const fit = z.strictObject({
  from: field(hz, { label: 'Band from', editor: 'number', unit: 'Hz', help: 'An edge belongs into a valley, never onto a peak.' }), // prettier-ignore
  to: field(hz, { label: 'Band to', editor: 'number', unit: 'Hz' }),
  order: field(whole.min(4, 'At least 4.').max(200, 'At most 200.'), {
    label: 'Poles',
    editor: 'number',
    help: 'The highest order: each mode needs two poles, noise needs some more.',
  }),
  method: field(z.enum(FITS), {
    label: 'Fit',
    editor: 'choice',
    options: FITS,
    help: 'In the frequency domain (poly-reference least-squares complex frequency) or in time (covariance-driven stochastic subspace); singular values give frequencies to a line and no damping.',
  }),
  residuals: field(z.enum(RESIDUALS), {
    label: 'Residuals',
    editor: 'choice',
    options: RESIDUALS,
    help: 'What lies below and above the band reaches into it; residuals take it up.',
  }),
  frequency: field(z.number('Give a number.').min(0.01).max(20), { label: 'Frequency within', editor: 'number', unit: '%' }), // prettier-ignore
  damping: field(z.number('Give a number.').min(0.1).max(100), { label: 'Damping within', editor: 'number', unit: '%' }), // prettier-ignore
  shape: field(z.number('Give a number.').min(0.5, 'At least 0.5.').max(1, 'At most 1.'), { label: 'Shapes alike from', editor: 'number', help: 'Least modal assurance criterion of a shape at rest.' }), // prettier-ignore
  normalised: field(z.enum(NORMALISATIONS), { label: 'Normalised', editor: 'choice', options: NORMALISATIONS }), // prettier-ignore
});
export type Fit = z.infer<typeof fit>;
export const FIT_SENTENCE: Sentence<typeof fit> = {
  schema: fit,
  template: () =>
    'Fit {from} to {to} with up to {order} poles by {method}; at rest within {frequency} of frequency, {damping} of damping and shapes alike from {shape}; shapes with {residuals}, their {normalised}.',
};

/** A pole that somebody took for a mode. */
export const PickedMode = z.strictObject({
  order: z.number().int(),
  index: z.number().int(),
  hz: z.number(),
  damping: z.number(),
  /** What it is called. */
  name: z.string().max(80).default(''),
  /** Left out of what is put together again. */
  out: z.boolean().default(false),
});
export type PickedMode = z.infer<typeof PickedMode>;

/** A mode with all that is known of it. Arrays go over the set’s responses. */
export interface ModeView extends PickedMode {
  expanded: { hz: number | null; damping: number | null };
  shape: { re: number[]; im: number[] };
  participation: { re: number[]; im: number[] };
  realness: number;
  meanPhase: number;
  phaseDeviation: number;
  /** What speaks for a harmonic of something that turns. */
  harmonic: { kurtosis: number | null; multiple: number | null; is: boolean };
}
/** All modes of a set, put together. */
export interface ModesView {
  modes: ModeView[];
  /** Harmonics that nobody picked: they take part, so that they do not spoil the shapes beside them. */
  tones: { hz: number; damping: number; kurtosis: number | null; multiple: number | null }[];
  /** How well each pair is met, a share; [response·references + reference]. */
  met: number[];
  /** Over all pairs. */
  metAll: number;
  residuals: number[][];
  /** Raw shapes of what takes part (modes that are not left out, then tones), as they are put together. */
  parts: {
    hz: number;
    damping: number;
    shape: { re: number[]; im: number[] };
    participation: { re: number[]; im: number[] };
  }[];
  rankLoss: boolean;
  /** ± holds what blocks of the span say, too. */
  overBlocks: boolean;
}

/** A pole that is suggested. */
export interface Suggestion {
  order: number;
  index: number;
  hz: number;
  damping: number;
  /** Poles of other orders that are the same. */
  members: number;
  harmonic: ModeView['harmonic'];
}
export type SetState = 'new' | 'correlating' | 'fitting' | 'done' | 'failed' | 'cancelled';
/** A hit as its force tells it, and whether it counts. */
export interface HitView {
  /** By what it is told apart, whatever else changes. */
  key: string;
  record: number;
  force: number;
  atS: number;
  /** Of the force’s unit. */
  peak: number;
  widthS: number;
  faults: HitFault[];
  counts: boolean;
}
/** What was correlated with what, and what was found of it. */
export interface CorrelationFacts {
  rateHz: number;
  lags: number;
  /** In the order of the arrays. */
  responses: { id: string; name: string; unit: string }[];
  /** Forces, where the structure is struck or shaken. */
  forces: { id: string; name: string; unit: string }[];
  /** Places in the responses, followed by the forces. */
  references: number[];
  hits: HitView[];
  /** Frequency that each force reaches, Hz. */
  reachHz: number[];
  /** Mean coherence of each pair over what its force reaches; none of correlations. */
  coherence: number[];
  pieces: number;
  skipped: number;
  samples: number;
  /** Share of what each pair had at first that is left at the end, without the window and under it. */
  left: number[];
  leftUnder: number[];
  /** What is doubtful, and how it was made. */
  says: string[];
  notes: string[];
}
/** The reference of that number. */
export const referenceOf = (
  { responses, forces, references }: Pick<CorrelationFacts, 'responses' | 'forces' | 'references'>,
  q: number,
) => [...responses, ...forces][references[q]] as CorrelationFacts['forces'][number] | undefined;
/** A chain of sentences with all that follows from it, as it is kept. */
export interface SetBody {
  id: string;
  spans: ModalSpan[];
  correlate: Correlate;
  fit: Fit;
  /** null: it stands as it is; what went wrong, else. */
  fault: ErrorText | null;
  ended: 'new' | 'done' | 'failed' | 'cancelled';
  facts: CorrelationFacts | null;
  /** Names of the files of what was found, and what each was made from. */
  correlations: Kept | null;
  poles: Kept | null;
  says: string[];
  suggested: Suggestion[];
  /** How mutual coherence advised the references: names, and its mean over the lines, by power. */
  advice: { names: string[]; coherence: number[][]; advised: number[] } | null;
  picks: PickedMode[];
  modes: ModesView | null;
  lost: PickedMode[];
}
interface Kept {
  id: string;
  madeFrom: string;
}
export interface AnalysisBody {
  frame: string | null;
  sets: SetBody[];
}
export interface SetView extends Omit<SetBody, 'correlations' | 'poles' | 'ended'> {
  /** What it does, in a few words: names it among its like. */
  title: string;
  /** Both sentences. */
  sentence: string;
  state: SetState;
  progress: number;
  /** Names of what was found: they change when it does. */
  correlationsId: string | null;
  polesId: string | null;
  /** Something that it depends on has changed since. */
  outOfDate: boolean;
  takes: string[];
  /** Facts of its first take. */
  about: Record<string, string>;
}
export interface AnalysisView {
  id: string;
  name: string;
  createdAt: number;
  frame: string | null;
  sets: SetView[];
}
export interface AnalysisLine {
  id: string;
  name: string;
  createdAt: number;
  takes: string[];
  sets: number;
  modes: number;
  state: SetState;
}
