import { z } from 'zod';
import { badInput } from '../../errors';
import { placeAt, type Figure } from '../../figures/figure';
import { stackedLines } from '../../figures/stacked';
import { bandPower } from '../../spectrum/bands';
import { rateHz, sampleS } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { SpectrumOverTime } from '../../spectrum/over-time';
import { numeric } from '../classes';
import { DRAWN_AS, densityUnit, segmentFields, upToField } from '../spectral';
import { readSpan, spanFields, spanOf } from '../span';
import type { StudyKind, StudyResult } from '../study';

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  ...segmentFields,
  upTo: upToField,
  moment: field(z.number().min(0).max(1e9).nullable(), {
    label: 'Cut at a moment',
    editor: 'number',
    unit: 's',
    none: 'the strongest moment',
    help: 'Seconds after the start of the take: the spectrum there is drawn beside the picture.',
  }),
  line: field(z.number().positive('Give a frequency above 0 Hz.').nullable(), {
    label: 'Cut at a frequency',
    editor: 'number',
    unit: 'Hz',
    none: 'the strongest line',
    help: 'How this line comes and goes is drawn beside the picture.',
  }),
  bandFrom: field(z.number().min(0).max(1e8).nullable(), {
    label: 'Band from',
    editor: 'number',
    unit: 'Hz',
    none: 'no band',
    help: 'The rms of what lies in the band, over time.',
  }),
  bandTo: field(z.number().positive('Give a frequency above 0 Hz.').max(1e8), {
    label: 'Band to',
    editor: 'number',
    unit: 'Hz',
  }),
  drawn: field(z.enum(DRAWN_AS), { label: 'Drawn as', editor: 'choice', options: DRAWN_AS }),
});

/** Lines that a picture can show; more are thinned for drawing, none is lost: of those that fall together the highest counts. */
const LINES = 1024;

/** Power spectral density over time of one channel, as a picture with cuts in both directions. Slices with a gap stay empty. */
export const spectrumOverTime: StudyKind<typeof schema> = {
  kind: 'spectrum-over-time',
  title: 'Spectrum over time',
  purpose: 'Which frequencies when, with cuts.',
  method: [
    {
      says: 'Density of each segment, side by side: 2·|FFT(w·x)|²/(f_s·Σw²).',
      source: 'Welch (1967), without averaging',
    },
  ],
  asks: 'Which frequencies?',
  sketch: {
    heat: [
      [1, 0.7, 0.2, 0.05, 0, 0, 0, 0],
      [0.2, 0.6, 1, 0.6, 0.1, 0, 0.05, 0],
      [0, 0.05, 0.2, 0.7, 1, 0.5, 0.1, 0],
      [0.05, 0, 0, 0.05, 0.3, 0.8, 1, 0.4],
      [0, 0, 0.05, 0, 0, 0.1, 0.4, 1],
    ],
  },
  sentence: {
    schema,
    template: ({ bandFrom }) =>
      `The spectrum of {channel} over time, from {from} to {to}, by segments of {length} with a {window} window, overlapping by {overlap}, up to {upTo}, as a {drawn}; cut at {moment} and at {line}, and ${bandFrom === null ? '{bandFrom}' : 'the band from {bandFrom} to {bandTo}'}.`,
  },
  defaults: { channel: '', from: 0, to: null, length: 1024, window: 'Hann', overlap: 50, upTo: null, moment: null, line: null, bandFrom: null, bandTo: 100, drawn: 'heat picture' }, // prettier-ignore
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    const over = new SpectrumOverTime({
      sampleRateHz: rate,
      segmentLength: settings.length,
      window: settings.window,
      overlap: settings.overlap / 100,
      removeMean: true,
    });
    readSpan(input, first, end, (block) => over.push(block), progress, signal);
    const { density, slices, lines: all, resolutionHz, firstAt, step } = over.result();
    const lines =
      settings.upTo === null ? all : Math.max(2, Math.min(all, Math.floor(settings.upTo / resolutionHz) + 1));
    const startS = sampleS(input, first);
    const middles = { from: startS + firstAt / rate, step: step / rate, length: slices };
    const at = (i: number, k: number) => density[k * slices + i];
    // The strongest line and moment, the mean’s line left out.
    let [moment, line, most] = [0, 1, -1];
    for (let k = 1; k < lines; k++)
      for (let i = 0; i < slices; i++) if (at(i, k) > most) [most, moment, line] = [at(i, k), i, k];
    const strongest = {
      atS: placeAt(middles, moment),
      hz: line * resolutionHz,
    };
    const clip = (v: number, n: number) => Math.min(n - 1, Math.max(0, Math.round(v)));
    if (settings.moment !== null) moment = clip((settings.moment - middles.from) / middles.step, slices);
    if (settings.line !== null) line = clip(settings.line / resolutionHz, lines);

    const group = Math.ceil((lines - 1) / LINES);
    const rows = Math.ceil((lines - 1) / group);
    const z = new Float32Array(rows * slices).fill(NaN);
    for (let k = 1; k < lines; k++) {
      const row = Math.floor((k - 1) / group);
      for (let i = 0; i < slices; i++) if (!(z[row * slices + i] >= at(i, k))) z[row * slices + i] = at(i, k);
    }
    const unit = densityUnit(input.unit);
    const frequency = { label: 'Frequency', unit: 'Hz', scale: 'linear' } as const;
    const level = { label: 'Density', unit, scale: 'logarithmic' } as const;
    const half = middles.step / 2;
    const time = { label: 'Time', unit: 's', scale: 'time' } as const;
    const { bandFrom, bandTo } = settings;
    if (bandFrom !== null && !(bandTo > bandFrom))
      throw badInput('Band to', `${bandTo} Hz`, `It has to lie above ${bandFrom} Hz.`);
    const inBand =
      bandFrom === null
        ? null
        : Float64Array.from({ length: slices }, (_, i) =>
            Math.sqrt(
              bandPower(
                Float64Array.from({ length: all }, (_, k) => at(i, k)),
                resolutionHz,
                bandFrom,
                bandTo,
              ),
            ),
          );
    const picture: Figure =
      settings.drawn === 'stack of lines'
        ? stackedLines(
            'Spectrum over time',
            { axis: frequency, places: { from: resolutionHz, step: resolutionHz, length: lines - 1 } },
            time,
            Array.from({ length: slices }, (_, i) => ({
              at: placeAt(middles, i),
              // Densities span powers of ten: their roots can be seen beside each other.
              values: Float64Array.from({ length: lines - 1 }, (_, k) => Math.sqrt(at(i, k + 1))),
            })),
            { name: input.name, unit: `√(${unit})` },
          )
        : {
            title: 'Spectrum over time',
            x: time,
            y: frequency,
            marks: [
              {
                mark: 'heat',
                name: 'Density',
                unit,
                x: { from: middles.from - half, step: middles.step, length: slices + 1 },
                y: { from: resolutionHz / 2, step: resolutionHz * group, length: rows + 1 },
                z,
                logarithmic: true,
              },
            ],
          };
    return {
      findings: [
        {
          label: 'Strongest line',
          value: strongest.hz,
          unit: 'Hz',
          note: `at ${Number(strongest.atS.toFixed(3))} s`,
        },
        {
          label: 'Resolution',
          value: resolutionHz,
          unit: 'Hz',
          note: `a slice each ${Number(middles.step.toPrecision(3))} s, ${Number((settings.length / rate).toPrecision(3))} s long`,
        },
      ],
      figures: [
        picture,
        {
          title: `At ${Number(placeAt(middles, moment).toFixed(2))} s`,
          x: frequency,
          y: level,
          marks: [
            { mark: 'line', name: input.name, unit, colour: input.colour, x: { from: resolutionHz, step: resolutionHz, length: lines - 1 }, y: Float64Array.from({ length: lines - 1 }, (_, k) => at(moment, k + 1)) }, // prettier-ignore
          ],
        },
        {
          title: `At ${Number((line * resolutionHz).toPrecision(5))} Hz`,
          x: { label: 'Time', unit: 's', scale: 'time' },
          y: level,
          marks: [
            {
              mark: 'line',
              name: input.name,
              unit,
              colour: input.colour,
              x: middles,
              y: Float64Array.from({ length: slices }, (_, i) => at(i, line)),
            },
          ],
        },
        ...(inBand
          ? [
              {
                title: `Rms from ${bandFrom} to ${bandTo} Hz`,
                x: time,
                y: { label: 'Rms', unit: input.unit, scale: 'linear' as const, min: 0 },
                marks: [
                  {
                    mark: 'line' as const,
                    name: input.name,
                    unit: input.unit,
                    colour: input.colour,
                    x: middles,
                    y: inBand,
                  },
                ],
              },
            ]
          : []),
      ],
      tables: [
        {
          title: 'Strongest line of each slice',
          columns: [numeric('Time', 's'), numeric('Frequency', 'Hz'), numeric('Density', unit)],
          rows: Array.from({ length: slices }, (_, i) => {
            let best = 1;
            for (let k = 2; k < lines; k++) if (at(i, k) > at(i, best)) best = k;
            const v = at(i, best);
            return [
              placeAt(middles, i),
              Number.isNaN(v) ? null : best * resolutionHz,
              Number.isNaN(v) ? null : v,
            ];
          }),
        },
      ],
    };
  },
};
