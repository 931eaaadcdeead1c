import { z } from 'zod';
import { badInput } from '../../errors';
import { field } from '../../sentence/sentence';
import { Welch, rmsAmplitude } from '../../spectrum/welch';
import { WINDOW_NAMES } from '../../spectrum/windows';
import type { LineMark } from '../../figures/figure';
import { rateHz } from '../../samples/sampled';
import { densityUnit } from '../spectral';
import { channelFields, readSpan, spanOf } from '../span';
import type { Finding, ResultTable, StudyKind } from '../study';

const LENGTHS = [256, 512, 1024, 2048, 4096, 8192, 16384, 32768, 65536] as const;
const SHOWN = ['power spectral density', 'rms amplitude'] as const;

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

/** Averaged spectrum by Welch's method of each chosen channel. */
export const spectrum: StudyKind<typeof schema> = {
  kind: 'spectrum',
  title: 'Averaged spectrum',
  purpose: 'Power spectral density or rms amplitude by Welch’s method.',
  asks: 'Which frequencies?',
  sketch: { lines: [[0.1, 0.12, 0.1, 0.14, 0.9, 0.12, 0.1, 0.13, 0.1, 0.12, 0.7, 0.14, 0.1, 0.12, 0.1]] },
  sentence: {
    schema,
    template: () =>
      'The {shown} of {channels} from {from} to {to}, averaged over segments of {length} with a {window} window, overlapping by {overlap}, shown up to {upTo}.',
  },
  defaults: {
    shown: 'power spectral density',
    channels: [],
    from: 0,
    to: null,
    length: 4096,
    window: 'Hann',
    overlap: 50,
    upTo: null,
  },
  roles: [{ key: 'channels', takes: 'several', most: 12 }],
  run([take], settings, progress, signal) {
    const inputs = take.signals.channels;
    const series: LineMark[] = [];
    const findings: Finding[] = [];
    const summary: ResultTable['rows'] = [];
    const density = settings.shown === 'power spectral density';
    inputs.forEach((input, k) => {
      const { first, end } = spanOf(input, settings);
      const sampleRateHz = rateHz(input);
      const average = new Welch({
        sampleRateHz,
        segmentLength: settings.length,
        window: settings.window,
        overlap: settings.overlap / 100,
      });
      readSpan(
        input,
        first,
        end,
        (block) => average.push(block),
        (share) => progress((k + share) / inputs.length),
        signal,
      );
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
      const shown = density ? result.density : amplitude;
      const lines =
        settings.upTo === null
          ? shown.length
          : Math.min(shown.length, Math.floor(settings.upTo / result.resolutionHz) + 1);
      let peak = 1; // the lowest line holds what is left of the mean
      for (let i = 2; i < amplitude.length; i++) if (amplitude[i] > amplitude[peak]) peak = i;
      let power = 0;
      for (let i = 1; i < result.density.length; i++) power += result.density[i] * result.resolutionHz;
      const unit = density ? densityUnit(input.unit) : input.unit;
      series.push({
        mark: 'line',
        name: input.name,
        unit,
        colour: input.colour,
        // The lowest line holds what is left of the mean: it says nothing of the spectrum.
        x: { from: result.resolutionHz, step: result.resolutionHz, length: Math.max(0, lines - 1) },
        y: Float64Array.from(shown.subarray(1, lines)),
      });
      findings.push({
        label: `${input.name}, highest line`,
        value: result.frequencyHz[peak],
        unit: 'Hz',
        note: `${amplitude[peak].toPrecision(3)} ${input.unit} rms`,
      });
      summary.push([
        input.name,
        result.frequencyHz[peak],
        amplitude[peak],
        Math.sqrt(power),
        input.unit,
        result.segments,
        result.skipped,
        result.resolutionHz,
        result.noiseBandwidthHz,
        sampleRateHz,
      ]);
    });
    const units = [...new Set(series.map((s) => s.unit ?? ''))];
    return {
      findings,
      figures: [
        {
          title: density ? 'Power spectral density' : 'Rms amplitude',
          x: { label: 'Frequency', unit: 'Hz', scale: 'linear', min: 0 },
          y: {
            label: density ? 'Density' : 'Amplitude',
            unit: units.length === 1 ? units[0] : 'each in its own unit',
            scale: density ? 'logarithmic' : 'linear',
          },
          marks: series,
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
            { label: 'Sampled', unit: 'S/s', numeric: true },
          ],
          rows: summary,
        },
      ],
    };
  },
};
