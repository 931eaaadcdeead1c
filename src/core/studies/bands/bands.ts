import { z } from 'zod';
import { badInput } from '../../errors';
import { convertUnit, definition, isUnit } from '../../quantities/quantities';
import { sameDimension } from '../../quantities/symbols';
import { rateHz } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { WEIGHTINGS, bandPower, octaveBands, weightingDb, type Band } from '../../spectrum/bands';
import { Welch } from '../../spectrum/welch';
import { numeric, words } from '../classes';
import { segmentFields } from '../spectral';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, StudyKind, StudyResult } from '../study';

const WIDTHS = ['third octaves', 'octaves', 'sixth octaves', 'one band'] as const;
const FRACTION = { 'third octaves': 3, octaves: 1, 'sixth octaves': 6, 'one band': 0 };
const READ_AS = ['as it is', 'velocity'] as const;
const LEVELS = ['rms', 'dB'] as const;

const schema = z.strictObject({
  channel: field(z.string(), { label: 'Channel', editor: 'channel' }),
  ...spanFields,
  as: field(z.enum(READ_AS), {
    label: 'Read as',
    editor: 'choice',
    options: READ_AS,
    help: 'Velocity from acceleration: each line over 2πf, in mm/s, as vibration severity asks (ISO 20816-1, 10 to 1000 Hz).',
  }),
  bands: field(z.enum(WIDTHS), { label: 'Bands', editor: 'choice', options: WIDTHS }),
  lowest: field(z.number().positive('Give a frequency above 0 Hz.'), {
    label: 'From',
    editor: 'number',
    unit: 'Hz',
  }),
  highest: field(z.number().positive('Give a frequency above 0 Hz.'), {
    label: 'To',
    editor: 'number',
    unit: 'Hz',
  }),
  weighting: field(z.enum(WEIGHTINGS), {
    label: 'Frequency weighting',
    editor: 'choice',
    options: WEIGHTINGS,
    help: 'A and C of IEC 61672-1 for sound; Z leaves everything as it is.',
  }),
  shown: field(z.enum(LEVELS), { label: 'Shown as', editor: 'choice', options: LEVELS }),
  reference: field(z.number().positive('Give a value above 0.'), {
    label: 'Reference of 0 dB',
    editor: 'number',
    help: 'In the unit of what is read: 0.00002 Pa for sound, 0.000001 m/s² for acceleration.',
  }),
  ...segmentFields,
});

/** Band levels out of an averaged spectrum: octaves and their parts by exact frequencies of base ten (IEC 61260-1), one band for a severity, weighted by IEC 61672-1.
 *  Bands are summed from lines: no filter class is claimed. Segments with a gap are left out. */
export const bands: StudyKind<typeof schema> = {
  kind: 'bands',
  title: 'Levels in bands',
  purpose: 'Third octaves, sound, vibration severity.',
  method: [
    {
      says: 'Mean square of a band = Σ over its lines of density × line distance; limits f_m·10^(±3/(20 b)) about f_m = 1000 Hz·10^(3k/(10 b)); level L = 20 lg(rms/reference).',
      source: 'IEC 61260-1, exact frequencies of base ten; summed from lines, no filter class is claimed',
    },
    {
      says: 'Weightings A and C by their pole frequencies.',
      source: 'IEC 61672-1, annex E',
    },
    {
      says: 'Velocity from acceleration: each line over 2πf; severity as rms of 10 to 1000 Hz.',
      source: 'ISO 20816-1',
    },
  ],
  asks: 'How large is it?',
  sketch: { bars: [0.25, 0.35, 0.5, 0.45, 0.7, 0.95, 0.8, 0.6, 0.65, 0.4, 0.3, 0.2] },
  sentence: {
    schema,
    template: (s) =>
      `The level of {channel} from {from} to {to}, read {as}, in {bands} from {lowest} to {highest}, weighted {weighting}, shown as {shown}${s.shown === 'dB' ? ' over {reference}' : ''}; by segments of {length} with a {window} window, overlapping by {overlap}.`,
  },
  defaults: { channel: '', from: 0, to: null, as: 'as it is', bands: 'third octaves', lowest: 10, highest: 1000, weighting: 'Z', shown: 'rms', reference: 1, length: 4096, window: 'Hann', overlap: 50 }, // prettier-ignore
  roles: [{ key: 'channel', takes: 'one' }],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const { first, end } = spanOf(input, settings);
    const rate = rateHz(input);
    if (!(settings.highest > settings.lowest))
      throw badInput('to', `${settings.highest} Hz`, `It has to be above ${settings.lowest} Hz.`);
    const velocity = settings.as === 'velocity';
    if (
      velocity &&
      !(isUnit(input.unit) && sameDimension(definition(input.unit).dimension, definition('m/s²').dimension))
    )
      throw badInput(
        'channel',
        `${input.name} in ${input.unit}`,
        'A velocity comes from an acceleration: choose a channel in m/s² or g.',
      );
    const unit = velocity ? 'mm/s' : input.unit;
    const average = new Welch({ sampleRateHz: rate, segmentLength: settings.length, window: settings.window, overlap: settings.overlap / 100 }); // prettier-ignore
    readSpan(input, first, end, (block) => average.push(block), progress, signal);
    let found;
    try {
      found = average.result();
    } catch {
      throw badInput(
        'span',
        `${end - first} samples of ${input.name}`,
        `One segment needs ${settings.length} samples in a row: choose a shorter segment or a longer span.`,
      );
    }
    const { density, resolutionHz } = found;
    const toSi = velocity ? convertUnit(1, input.unit, 'm/s²') * 1000 : 1;
    const weighted = density.map((d, k) => {
      const hz = k * resolutionHz;
      if (k === 0 && (velocity || settings.weighting !== 'Z')) return 0;
      const factor = velocity ? toSi / (2 * Math.PI * hz) : 1;
      return d * factor ** 2 * 10 ** (weightingDb(settings.weighting, hz || 1) / 10);
    });
    const fraction = FRACTION[settings.bands];
    const list: Band[] = fraction
      ? octaveBands(fraction, settings.lowest, settings.highest).filter((b) => b.highHz <= rate / 2)
      : [{ lowHz: settings.lowest, midHz: Math.sqrt(settings.lowest * settings.highest), highHz: Math.min(settings.highest, rate / 2), nominal: 0 }]; // prettier-ignore
    if (list.length === 0 || !(list[0].highHz > list[0].lowHz))
      throw badInput(
        'bands',
        `${settings.lowest} to ${settings.highest} Hz`,
        `Half the sample rate is ${rate / 2} Hz: choose lower frequencies.`,
      );
    const rms = list.map((b) => Math.sqrt(bandPower(weighted, resolutionHz, b.lowHz, b.highHz)));
    const total = Math.sqrt(rms.reduce((sum, v) => sum + v * v, 0));
    const db = settings.shown === 'dB';
    const level = (v: number) => (db ? 20 * Math.log10(v / settings.reference) : v);
    const shownUnit = db ? 'dB' : unit;
    const names = list.map((b) =>
      fraction ? bandName(b.nominal) : `${settings.lowest} to ${settings.highest}`,
    );
    const top = rms.reduce((best, v, k) => (v > rms[best] ? k : best), 0);
    // A band that is narrower than some lines says little of what lies in it.
    const coarse = list.findIndex((b) => b.highHz - b.lowHz >= 2 * resolutionHz);
    const findings: Finding[] = [
      {
        label: fraction ? 'All bands' : 'Level',
        value: level(total),
        unit: shownUnit,
        note: `${settings.weighting === 'Z' ? '' : `${settings.weighting} weighted, `}${velocity ? 'rms velocity' : 'rms'}`,
      },
      ...(fraction
        ? [{ label: 'Strongest band', value: level(rms[top]), unit: shownUnit, note: `${names[top]} Hz` }]
        : []),
      ...(coarse !== 0 && fraction
        ? [
            {
              label: 'Too narrow for the segments',
              value: coarse < 0 ? list.length : coarse,
              unit: '1',
              note: `bands below ${Number((2 * resolutionHz).toPrecision(3))} Hz width: choose longer segments`,
            },
          ]
        : []),
      ...(found.skipped
        ? [{ label: 'Segments with gaps', value: found.skipped, unit: '1', note: 'left out' }]
        : []),
    ];
    return {
      findings,
      figures: [
        {
          title: 'Levels in bands',
          x: { label: 'Band, Hz', unit: '1', scale: 'classes', classes: names },
          y: { label: db ? 'Level' : 'Rms', unit: shownUnit, scale: 'linear', ...(db ? {} : { min: 0 }) },
          marks: [{ mark: 'bar', name: input.name, unit: shownUnit, colour: input.colour, x: { from: 0, step: 1, length: list.length }, y: Float64Array.from(rms, level), width: 0.92, ...(db ? { base: Math.floor(Math.min(...rms.map(level).filter(Number.isFinite)) / 10) * 10 } : {}) }], // prettier-ignore
        },
      ],
      tables: [
        {
          title: 'Bands',
          columns: [
            words('Band'),
            numeric('From', 'Hz'),
            numeric('Middle', 'Hz'),
            numeric('To', 'Hz'),
            numeric('Rms', unit),
            ...(db ? [numeric('Level', 'dB')] : []),
          ],
          rows: list.map((b, k) => [
            names[k],
            b.lowHz,
            b.midHz,
            b.highHz,
            rms[k],
            ...(db ? [rms[k] > 0 ? level(rms[k]) : null] : []),
          ]),
        },
      ],
    };
  },
};

const bandName = (hz: number) => (hz >= 1000 ? `${Number((hz / 1000).toPrecision(3))}k` : String(hz));
