import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { bandEnvelope } from '../../signal/band-envelope';
import { Welch, rmsAmplitude } from '../../spectrum/welch';
import { segmentFields, upToField } from '../spectral';
import { spanFields, spanOf } from '../span';
import type { StudyKind } from '../study';
import { readWhole } from '../whole';

const edge = (label: string) =>
  field(z.number().positive('Give a frequency above 0 Hz.').max(1e8), {
    label,
    editor: 'number',
    unit: 'Hz',
  });
const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  lowest: edge('Band from'),
  highest: edge('Band to'),
  ...segmentFields,
  upTo: upToField,
});
const DRAWN = 4000;

/** The envelope of a band and its spectrum: how often something knocks that itself rings high. Gaps count as 0 in the band, and are said. */
export const envelope: StudyKind<typeof schema> = {
  kind: 'envelope',
  title: 'Envelope of a band',
  purpose: 'How often something knocks that rings at a high frequency.',
  method: [
    {
      says: 'Envelope a(t) = 2·|low-pass of x·exp(−j2πf_m t)|, f_m the middle of the band (complex demodulation, Butterworth of order 4 both ways); then its averaged spectrum without the mean.',
      source:
        'Bendat and Piersol, Random Data, ch. 13; Randall and Antoni, Mech. Syst. Signal Process. 25 (2011)',
    },
  ],
  asks: 'Which frequencies?',
  sketch: {
    behind: [0.5, 0.9, 0.2, 0.6, 0.45, 0.52, 0.95, 0.1, 0.65, 0.45, 0.5, 0.9, 0.15, 0.6, 0.5],
    lines: [[0.55, 0.95, 0.8, 0.65, 0.55, 0.57, 0.97, 0.82, 0.66, 0.55, 0.55, 0.95, 0.8, 0.64, 0.55]],
  },
  sentence: {
    schema,
    template: () =>
      'The envelope of {channel} from {from} to {to} in the band {lowest} to {highest}; its spectrum by segments of {length} with a {window} window, overlapping by {overlap}, shown up to {upTo}.',
  },
  defaults: { channel: '', from: 0, to: null, lowest: 100, highest: 400, length: 4096, window: 'Hann', overlap: 50, upTo: null }, // prettier-ignore
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal) {
    const [input] = take.signals.channel;
    const span = spanOf(input, settings);
    const rate = rateHz(input);
    const read = readWhole(input, span, (s) => progress(0.4 * s), signal);
    let missing = 0;
    const x = Float64Array.from(read, (v) => (v === v ? v : (missing++, 0)));
    if (missing === x.length) throw badInput('span', 'nothing but gaps', 'Choose a span with readings.');
    const values = bandEnvelope(x, [settings.lowest, settings.highest], rate);
    progress(0.8);
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length;
    const average = new Welch({
      sampleRateHz: rate,
      segmentLength: settings.length,
      window: settings.window,
      overlap: settings.overlap / 100,
    });
    average.push(values);
    const result = average.result();
    const lines = rmsAmplitude(result);
    const top = settings.upTo ?? (settings.highest - settings.lowest) / 2;
    const count = Math.max(2, Math.min(lines.length - 1, Math.floor(top / result.resolutionHz)));
    let peak = 1;
    for (let i = 2; i <= count; i++) if (lines[i] > lines[peak]) peak = i;
    // Drawn by the highest of each few samples: an envelope’s peaks are what counts.
    const each = Math.max(1, Math.ceil(values.length / DRAWN));
    const drawn = Float64Array.from({ length: Math.floor(values.length / each) }, (_, k) => {
      let most = -Infinity;
      for (let i = k * each; i < (k + 1) * each; i++) most = Math.max(most, values[i]);
      return most;
    });
    const { unit, name, colour } = input;
    return {
      findings: [
        { label: 'Comes and goes with', value: result.frequencyHz[peak], unit: 'Hz', note: `${(Math.SQRT2 * lines[peak]).toPrecision(3)} ${unit} of ${mean.toPrecision(3)} ${unit}` }, // prettier-ignore
        { label: 'Depth of it', value: (Math.SQRT2 * lines[peak]) / mean, unit: '1', note: 'of its mean' },
        { label: 'Mean envelope', value: mean, unit },
        ...(missing ? [{ label: 'Missing', value: missing, unit: '1', note: 'samples, taken as 0' }] : []),
      ],
      figures: [
        {
          title: 'Spectrum of the envelope',
          x: { label: 'Frequency', unit: 'Hz', scale: 'linear', min: 0 },
          y: { label: 'Rms amplitude', unit, scale: 'linear', min: 0 },
          marks: [{ mark: 'line', name, unit, colour, x: { from: result.resolutionHz, step: result.resolutionHz, length: count }, y: lines.slice(1, count + 1) }], // prettier-ignore
        },
        {
          title: 'Envelope',
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: { label: 'Envelope', unit, scale: 'linear', min: 0 },
          marks: [{ mark: 'line', name, unit, colour, x: { from: sampleS(input, span.first), step: each / rate, length: drawn.length }, y: drawn }], // prettier-ignore
        },
      ],
      tables: [],
    };
  },
};
