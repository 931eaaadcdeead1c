import { z } from 'zod';
import { badInput } from '../../errors';
import { field } from '../../sentence/sentence';
import { Welch, rmsAmplitude } from '../../spectrum/welch';
import { WINDOW_NAMES, scallopingDb, spectralWindow } from '../../spectrum/windows';
import type { LineMark } from '../../figures/figure';
import { rateHz } from '../../samples/sampled';
import { eachApart } from '../apart';
import { densityUnit, squareUnit } from '../spectral';
import { channelFields, readSpan, spanOf } from '../span';
import type { Finding, StudyKind } from '../study';

const LENGTHS = [
  256, 512, 1024, 2048, 4096, 8192, 16384, 32768, 65536, 131072, 262144, 524288, 1048576,
] as const;
const SHOWN = ['power spectral density', 'power', 'rms amplitude', 'peak amplitude'] as const;
const AVERAGING = ['averaged', 'the highest of each line', 'averaged, the latest most'] as const;
const SCALES = ['values', 'levels in dB'] as const;

const schema = z.strictObject({
  shown: field(z.enum(SHOWN), {
    label: 'Shown as',
    editor: 'choice',
    options: SHOWN,
    help: 'The density suits noise: it does not depend on the length. The amplitude suits tones: it reads the rms of each.',
  }),
  ...channelFields,
  length: field(
    z
      .number()
      .int()
      .refine((n) => LENGTHS.includes(n as 256), `Choose one of ${LENGTHS.join(', ')}.`),
    {
      label: 'Segment length',
      editor: 'choice',
      options: LENGTHS,
      unit: 'samples',
      help: 'Longer segments separate closer lines; shorter ones average more and scatter less.',
    },
  ),
  window: field(z.enum(WINDOW_NAMES), {
    label: 'Window',
    editor: 'choice',
    options: WINDOW_NAMES,
    help: 'Hann for most work, flat top where the height of a tone counts, rectangular only for whole periods.',
  }),
  averaging: field(z.enum(AVERAGING), {
    label: 'Segments are',
    editor: 'choice',
    options: AVERAGING,
    help: 'Averaged: for what goes on alike. The highest: for what comes once. The latest most: for what changes slowly.',
  }),
  recent: field(z.number().int().min(2).max(10_000), {
    label: 'Constant of the weights',
    editor: 'number',
    unit: 'segments',
    help: 'A segment so many before the last one weighs 1/e of it.',
  }),
  scale: field(z.enum(SCALES), { label: 'Drawn as', editor: 'choice', options: SCALES }),
  reference: field(z.number().positive('Give a value above 0.'), {
    label: 'Reference of 0 dB',
    editor: 'number',
    help: 'An amplitude in the unit of the channel: powers and densities count from its square.',
  }),
  fromHz: field(z.number().min(0).max(1e8), {
    label: 'Lowest frequency shown',
    editor: 'number',
    unit: 'Hz',
    help: 'With long segments it looks into a narrow span as closely as the record allows.',
  }),
  upTo: field(z.number().positive('Give a frequency above 0 Hz.').nullable(), {
    label: 'Highest frequency shown',
    editor: 'number',
    unit: 'Hz',
    none: 'half the sample rate',
    help: 'Only what is drawn and tabulated: the rms counts all lines.',
  }),
  overlap: field(z.number().min(0).max(95), {
    label: 'Overlap',
    editor: 'number',
    unit: '%',
    help: 'Share of a segment that the next one repeats; 50 % suits the Hann window.',
  }),
});

/** Segments that are independent of each other: with overlap neighbours tell in part the same. */
const independent = (segments: number, overlap: number): number =>
  Math.max(1, segments * Math.min(1, (1 - overlap / 100) * (overlap > 0 ? 1.6 : 1)));

/** Averaged spectrum by Welch's method of each chosen channel. */
export const spectrum: StudyKind<typeof schema> = {
  kind: 'spectrum',
  title: 'Averaged spectrum',
  purpose: 'Power spectral density or rms amplitude by Welch’s method.',
  method: [
    {
      says: 'Average of |FFT(w·x)|² of overlapping segments; density = 2·|X|²/(f_s·Σw²), amplitude = √2·|X|/Σw (rms). One-sided; segments with a gap are left out.',
      source: 'Welch, IEEE Trans. AU-15 (1967)',
    },
    {
      says: 'Equivalent noise bandwidth n·Σw²/(Σw)² lines; a tone half way between two lines is read too low by the scalloping loss.',
      source: 'Harris, Proc. IEEE 66(1) (1978)',
    },
    {
      says: 'Statistical uncertainty of an averaged line: about 1/√m of it, m independent segments.',
      source: 'Bendat and Piersol, Random Data, 8.5',
    },
  ],
  asks: 'Which frequencies?',
  sketch: { lines: [[0.1, 0.12, 0.1, 0.14, 0.9, 0.12, 0.1, 0.13, 0.1, 0.12, 0.7, 0.14, 0.1, 0.12, 0.1]] },
  sentence: {
    schema,
    template: (s) =>
      `The {shown} of {channels} from {from} to {to}, in segments of {length} with a {window} window, overlapping by {overlap}, {averaging}${s.averaging === 'averaged, the latest most' ? ' with {recent}' : ''}; drawn as {scale}${s.scale === 'levels in dB' ? ' over {reference}' : ''} from {fromHz} to {upTo}.`,
  },
  defaults: {
    shown: 'power spectral density',
    channels: [],
    from: 0,
    to: null,
    length: 4096,
    window: 'Hann',
    overlap: 50,
    averaging: 'averaged',
    recent: 10,
    scale: 'values',
    reference: 1,
    fromHz: 0,
    upTo: null,
  },
  roles: [{ key: 'channels', takes: 'several', most: 12 }],
  ...eachApart<typeof schema>('channels', (input, settings, progress, signal) => {
    const density = settings.shown === 'power spectral density';
    const powers = density || settings.shown === 'power';
    const { first, end } = spanOf(input, settings);
    const sampleRateHz = rateHz(input);
    const average = new Welch({
      sampleRateHz,
      segmentLength: settings.length,
      window: settings.window,
      overlap: settings.overlap / 100,
      averaging:
        settings.averaging === 'averaged'
          ? 'mean'
          : settings.averaging === 'the highest of each line'
            ? 'highest'
            : { recent: settings.recent },
    });
    readSpan(input, first, end, (block) => average.push(block), progress, signal);
    let result;
    try {
      result = average.result();
    } catch {
      throw badInput(
        'span',
        `${end - first} samples of ${input.name}`,
        `One segment needs ${settings.length} samples in a row (${(settings.length / sampleRateHz).toFixed(1)} s at ${sampleRateHz} S/s): choose a shorter segment, a longer span, or leave this channel out.`,
      );
    }
    const amplitude = rmsAmplitude(result);
    const shown = {
      'power spectral density': () => result.density,
      power: () => amplitude.map((a) => a * a),
      'rms amplitude': () => amplitude,
      // The lines at 0 Hz and at half the rate have no half of their own elsewhere.
      'peak amplitude': () =>
        amplitude.map((a, i) => (i === 0 || i === amplitude.length - 1 ? a : a * Math.SQRT2)),
    }[settings.shown]();
    const lowest = Math.max(1, Math.ceil(settings.fromHz / result.resolutionHz - 1e-9));
    const lines =
      settings.upTo === null
        ? shown.length
        : Math.min(shown.length, Math.floor(settings.upTo / result.resolutionHz) + 1);
    if (lowest >= lines)
      throw badInput(
        'Lowest frequency shown',
        `${settings.fromHz} Hz`,
        `It has to lie below ${settings.upTo ?? sampleRateHz / 2} Hz for ${input.name}.`,
      );
    // The lowest line of all holds what is left of the mean.
    let peak = lowest;
    for (let i = lowest + 1; i < lines; i++) if (amplitude[i] > amplitude[peak]) peak = i;
    let power = 0;
    for (let i = 1; i < result.density.length; i++) power += result.density[i] * result.resolutionHz;
    const unit = density
      ? densityUnit(input.unit)
      : settings.shown === 'power'
        ? squareUnit(input.unit)
        : input.unit;
    const line: LineMark = {
      mark: 'line',
      name: input.name,
      unit,
      colour: input.colour,
      // The lowest line holds what is left of the mean: it says nothing of the spectrum.
      x: { from: lowest * result.resolutionHz, step: result.resolutionHz, length: lines - lowest },
      y: Float64Array.from(shown.subarray(lowest, lines)),
    };
    const highest: Finding = {
      label: `${input.name}, highest line`,
      value: result.frequencyHz[peak],
      unit: 'Hz',
      note: `${amplitude[peak].toPrecision(3)} ${input.unit} rms`,
    };
    const row = [
      input.name,
      result.frequencyHz[peak],
      amplitude[peak],
      Math.sqrt(power),
      input.unit,
      result.segments,
      result.skipped,
      result.resolutionHz,
      result.noiseBandwidthHz,
      scallopingDb(spectralWindow(settings.window, Math.min(settings.length, 4096))),
      settings.averaging === 'averaged'
        ? 100 / Math.sqrt(independent(result.segments, settings.overlap))
        : null,
      sampleRateHz,
    ];
    return {
      findings: [highest],
      figures: [
        {
          title: settings.shown[0].toUpperCase() + settings.shown.slice(1),
          x: { label: 'Frequency', unit: 'Hz', scale: 'linear', ...(settings.fromHz === 0 && { min: 0 }) },
          y: {
            label: density ? 'Density' : settings.shown === 'power' ? 'Power' : 'Amplitude',
            unit: unit,
            ...(settings.scale === 'levels in dB'
              ? {
                  scale: 'decibel',
                  reference: powers ? settings.reference ** 2 : settings.reference,
                  power: powers,
                }
              : { scale: density ? 'logarithmic' : 'linear' }),
          },
          marks: [line],
        },
      ],
      tables: [
        {
          title: 'Lines and averaging',
          columns: [
            { label: 'Channel', numeric: false },
            { label: 'Highest line', unit: 'Hz', numeric: true },
            { label: 'its rms', numeric: true },
            { label: 'Rms without mean', numeric: true },
            { label: 'Unit', numeric: false },
            { label: 'Segments', numeric: true },
            { label: 'Left out', numeric: true },
            { label: 'Resolution', unit: 'Hz', numeric: true },
            { label: 'Noise bandwidth', unit: 'Hz', numeric: true },
            { label: 'Scalloping', unit: 'dB', numeric: true },
            { label: 'Scatter of a line', unit: '%', numeric: true },
            { label: 'Sampled', unit: 'S/s', numeric: true },
          ],
          rows: [row],
        },
      ],
    };
  }),
};
