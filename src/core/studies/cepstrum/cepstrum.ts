import FFT from 'fft.js';
import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Welch } from '../../spectrum/welch';
import { segmentFields } from '../spectral';
import { readSpan, spanFields, spanOf } from '../span';
import type { StudyKind } from '../study';

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  ...segmentFields,
  shortest: field(z.number().positive('Give a time above 0 s.').nullable(), {
    label: 'Looked for from',
    editor: 'number',
    unit: 's',
    none: '16 samples',
    help: 'What is shorter tells of the shape of the spectrum, not of what repeats.',
  }),
});

/** Power cepstrum of an averaged spectrum: families of lines one distance apart, and echoes, are single peaks. */
export const cepstrum: StudyKind<typeof schema> = {
  kind: 'cepstrum',
  title: 'Cepstrum',
  purpose: 'Lines that lie one distance apart, echoes: as one peak.',
  method: [
    {
      says: 'c(τ) = inverse FFT of ln S(f), S the averaged density; a family of lines Δf apart, or an echo after τ, makes a peak at τ = 1/Δf.',
      source: 'Bogert, Healy and Tukey (1963); Randall, Vibration-based Condition Monitoring, ch. 3',
    },
  ],
  asks: 'Which frequencies?',
  sketch: { lines: [[0.3, 0.25, 0.2, 0.22, 0.18, 0.9, 0.2, 0.18, 0.2, 0.19, 0.55, 0.18, 0.2, 0.19, 0.18]] },
  sentence: {
    schema,
    template: () =>
      'The cepstrum of {channel} from {from} to {to}, of its spectrum averaged over segments of {length} with a {window} window, overlapping by {overlap}; looked for from {shortest}.',
  },
  defaults: { channel: '', from: 0, to: null, length: 4096, window: 'Hann', overlap: 50, shortest: null },
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal) {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    const n = settings.length;
    const average = new Welch({
      sampleRateHz: rate,
      segmentLength: n,
      window: settings.window,
      overlap: settings.overlap / 100,
    });
    readSpan(input, first, end, (block) => average.push(block), progress, signal);
    const { density, segments, skipped } = average.result();
    const mean = density.reduce((sum, d) => sum + d, 0) / density.length;
    if (!(mean > 0)) throw badInput('channel', `${input.name}, which does not move`, 'Choose one that does.');
    const fft = new FFT(n);
    const log = new Float64Array(2 * n);
    // Lines that hold nothing at all, as of a computed signal, are no gap in the logarithm.
    for (let k = 0; k < n; k++)
      log[2 * k] = Math.log(density[Math.max(1, Math.min(k, n - k))] + mean * 1e-12);
    const out = new Float64Array(2 * n);
    fft.inverseTransform(out, log);
    const half = n / 2;
    const values = Float64Array.from({ length: half }, (_, i) => out[2 * i]);
    const from = settings.shortest === null ? 16 : Math.max(1, Math.ceil(settings.shortest * rate - 1e-9));
    if (from >= half)
      throw badInput('Looked for from', `${settings.shortest} s`, `Segments of ${n} samples tell of ${Number((half / rate).toPrecision(3))} s at most: take longer ones.`); // prettier-ignore
    let peak = from;
    for (let i = from; i < half; i++) if (values[i] > values[peak]) peak = i;
    return {
      findings: [
        {
          label: 'Repeats after',
          value: peak / rate,
          unit: 's',
          note: `height ${values[peak].toPrecision(3)}`,
        },
        { label: 'Lines lie apart by', value: rate / peak, unit: 'Hz', note: `± half a sample: ${(rate / (2 * peak * peak)).toPrecision(2)} Hz` }, // prettier-ignore
        {
          label: 'Segments',
          value: segments,
          unit: '1',
          note: skipped ? `${skipped} left out for gaps` : undefined,
        },
      ],
      figures: [
        {
          title: 'Cepstrum',
          x: { label: 'Time', unit: 's', scale: 'linear', min: 0 },
          y: { label: 'Cepstrum', unit: '1', scale: 'linear' },
          marks: [
            { mark: 'line', name: input.name, colour: input.colour, x: { from: from / rate, step: 1 / rate, length: half - from }, y: values.slice(from) }, // prettier-ignore
          ],
        },
      ],
      tables: [],
    };
  },
};
