import { z } from 'zod';
import { badInput } from '../../errors';
import type { Figure, LineMark } from '../../figures/figure';
import { rateHz, startS } from '../../samples/sampled';
import { heldBeside } from '../../samples/held';
import { field } from '../../sentence/sentence';
import { CrossAverage } from '../../spectrum/cross';
import { numeric, words } from '../classes';
import { densityUnit, segmentFields, upToField } from '../spectral';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, ResultTable, StudyKind, StudyResult } from '../study';

const ESTIMATES = ['H1', 'H2', 'cross spectrum'] as const;
const SHOWN = ['magnitude and phase', 'real and imaginary part'] as const;

const schema = z.strictObject({
  reference: field(z.string(), {
    label: 'Reference',
    editor: 'channel',
    help: 'What drives: the input of what is measured.',
  }),
  responses: field(z.array(z.string()).max(8), {
    label: 'Responses',
    editor: 'channels',
    help: 'What answers; of the same sample rate as the reference.',
  }),
  ...spanFields,
  estimate: field(z.enum(ESTIMATES), {
    label: 'Estimate',
    editor: 'choice',
    options: ESTIMATES,
    help: 'H1 = Pxy/Pxx is right where noise lies on the response; H2 = Pyy/conj(Pxy) where it lies on the reference. The cross spectrum Pxy alone is a density: what both have in common.',
  }),
  shown: field(z.enum(SHOWN), { label: 'Shown as', editor: 'choice', options: SHOWN }),
  ...segmentFields,
  upTo: upToField,
});

/** Frequency response with coherence by averaged cross spectra (Bendat and Piersol, Random Data, ch. 6 and 9). Segments with a gap are left out. */
export const frequencyResponse: StudyKind<typeof schema> = {
  kind: 'frequency-response',
  title: 'Frequency response',
  purpose: 'From a reference to responses, with coherence.',
  method: [
    {
      says: 'H₁ = G_xy/G_xx (noise on the response), H₂ = G_yy/G_yx (noise on the reference), coherence γ² = |G_xy|²/(G_xx·G_yy).',
      source: 'Bendat and Piersol, Random Data, ch. 6',
    },
    {
      says: 'Random error of |H₁|: ε = √(1 − γ²)/(|γ|·√(2 m)), m independent averages.',
      source: 'same, eq. 9.90',
    },
  ],
  asks: 'What follows what?',
  sketch: {
    lines: [
      [0.3, 0.32, 0.36, 0.5, 1, 0.45, 0.25, 0.15, 0.1, 0.08],
      [0.9, 0.9, 0.88, 0.82, 0.5, 0.2, 0.14, 0.12, 0.1, 0.1],
    ],
  },
  sentence: {
    schema,
    template: ({ estimate }) =>
      `The ${estimate === 'cross spectrum' ? '{estimate} of {reference} and' : 'frequency response {estimate} from {reference} to'} {responses}, from {from} to {to}, averaged over segments of {length} with a {window} window, overlapping by {overlap}; shown as {shown} up to {upTo}.`,
  },
  defaults: { reference: '', responses: [], from: 0, to: null, estimate: 'H1', shown: 'magnitude and phase', length: 1024, window: 'Hann', overlap: 50, upTo: null }, // prettier-ignore
  roles: [
    { key: 'reference', takes: 'one' },
    { key: 'responses', takes: 'several', like: 'reference' },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [reference] = take.signals.reference;
    const chosen = take.signals.responses.filter((r) => r.id !== reference.id);
    // Of all channels those can answer that are read at the instants of the reference.
    if (settings.responses.length > 8)
      throw badInput('responses', `${settings.responses.length} channels`, 'Choose up to 8.');
    const responses = settings.responses.length
      ? chosen
      : chosen.filter((r) => rateHz(r) === rateHz(reference)).slice(0, 8);
    const odd = responses.find((r) => rateHz(r) !== rateHz(reference));
    if (odd)
      throw badInput('responses', `${odd.name} at ${rateHz(odd)} S/s`, `The reference ${reference.name} has ${rateHz(reference)} S/s: choose channels of one rate, or resample one.`); // prettier-ignore
    if (responses.length === 0)
      throw badInput(
        'responses',
        'none',
        `No other channel of ${take.name} has the rate of ${reference.name}: choose another reference.`,
      );
    const { first, end } = spanOf(reference, settings);
    const real = settings.shown === 'real and imaginary part';
    const marks: [LineMark[], LineMark[], LineMark[]] = [[], [], []];
    const findings: Finding[] = [];
    const rows: ResultTable['rows'] = [];
    let skipped = 0;
    responses.forEach((response, k) => {
      const average = new CrossAverage({
        sampleRateHz: rateHz(reference),
        segmentLength: settings.length,
        window: settings.window,
        overlap: settings.overlap / 100,
      });
      const beside = heldBeside(response, reference);
      let at = first;
      readSpan(
        reference,
        first,
        end,
        (block) => {
          // Both may be read into one buffer.
          const x = block.slice();
          average.push(x, beside(at, x.length));
          at += x.length;
        },
        (share) => progress((k + share) / responses.length),
        signal,
      );
      const { pxx, pyy, pxy, coherence, segments, skipped: gaps, frequencyHz } = average.result();
      skipped = Math.max(skipped, gaps);
      const lines =
        settings.upTo === null
          ? pxx.length
          : Math.min(pxx.length, Math.floor(settings.upTo / frequencyHz[1]) + 1);
      const [re, im] = [new Float64Array(lines), new Float64Array(lines)];
      for (let i = 0; i < lines; i++) {
        // H2 = Pyy / conj(Pxy) = Pyy · Pxy / |Pxy|²
        const scale =
          settings.estimate === 'H1'
            ? 1 / pxx[i]
            : settings.estimate === 'H2'
              ? pyy[i] / (pxy.re[i] ** 2 + pxy.im[i] ** 2)
              : 1;
        re[i] = pxy.re[i] * scale;
        im[i] = pxy.im[i] * scale;
      }
      const magnitude = re.map((v, i) => Math.hypot(v, im[i]));
      const phase = re.map((v, i) => (Math.atan2(im[i], v) * 180) / Math.PI);
      const unit =
        settings.estimate === 'cross spectrum'
          ? reference.unit === response.unit
            ? densityUnit(response.unit)
            : `${response.unit}·${reference.unit}/Hz`
          : reference.unit === response.unit
            ? '1'
            : `${response.unit}/${reference.unit}`;
      const x = { from: frequencyHz[1], step: frequencyHz[1], length: lines - 1 };
      const mark = (y: Float64Array, of: string): LineMark => ({ mark: 'line', name: response.name, unit: of, colour: response.colour, x, y: y.slice(1) }); // prettier-ignore
      marks[0].push(mark(real ? re : magnitude, unit));
      marks[1].push(mark(real ? im : phase, real ? unit : 'deg'));
      marks[2].push(mark(coherence.slice(0, lines), '1'));
      let peak = 1;
      for (let i = 2; i < lines - 1; i++) if (magnitude[i] > magnitude[peak]) peak = i;
      const error = randomError(coherence[peak], average.independent);
      findings.push({
        label: `${response.name}, highest`,
        value: magnitude[peak],
        unit,
        note: `at ${Number(frequencyHz[peak].toPrecision(5))} Hz, ± ${(200 * error).toPrecision(2)} %, coherence ${coherence[peak].toFixed(3)}`,
      });
      rows.push([
        response.name,
        frequencyHz[peak],
        magnitude[peak],
        phase[peak],
        coherence[peak],
        200 * error,
        unit,
        segments,
        average.independent,
        gaps,
        frequencyHz[1],
      ]);
    });
    const x = { label: 'Frequency', unit: 'Hz', scale: 'linear' } as const;
    const units = [...new Set(marks[0].map((m) => m.unit ?? ''))];
    const unit = units.length === 1 ? units[0] : 'each in its own unit';
    const pair: Figure[] = real
      ? [
          { title: 'Real part', x, y: { label: 'Real part', unit, scale: 'linear' }, marks: marks[0] },
          {
            title: 'Imaginary part',
            x,
            y: { label: 'Imaginary part', unit, scale: 'linear' },
            marks: marks[1],
          },
        ]
      : [
          { title: 'Magnitude', x, y: { label: 'Magnitude', unit, scale: 'logarithmic' }, marks: marks[0] },
          {
            title: 'Phase',
            x,
            y: { label: 'Phase', unit: 'deg', scale: 'angle', min: -180, max: 180 },
            marks: marks[1],
          },
        ];
    return {
      findings: [
        ...findings,
        ...(skipped ? [{ label: 'Segments with gaps', value: skipped, unit: '1', note: 'left out' }] : []),
        ...(startS(responses[0]) !== startS(reference) ? [{ label: 'Offset of the samples', value: startS(responses[0]) - startS(reference), unit: 's', note: 'turns the phase' }] : []), // prettier-ignore
      ],
      figures: [
        ...pair,
        {
          title: 'Coherence',
          x,
          y: { label: 'Coherence', unit: '1', scale: 'linear', min: 0, max: 1 },
          marks: marks[2],
        },
      ],
      tables: [
        {
          title: 'Highest lines',
          columns: [
            words('Response'),
            numeric('Frequency', 'Hz'),
            numeric('Magnitude'),
            numeric('Phase', 'deg'),
            numeric('Coherence'),
            numeric('± random', '%'),
            words('Unit'),
            numeric('Segments'),
            numeric('as independent'),
            numeric('Left out'),
            numeric('Resolution', 'Hz'),
          ],
          rows,
        },
      ],
    };
  },
};

/** Normalised random error (one standard deviation) of a magnitude of H1 (Bendat and Piersol, eq. 9.90). @param segments that are independent */
const randomError = (coherence: number, segments: number): number =>
  Math.sqrt((1 - Math.min(1, coherence)) / (2 * segments * coherence));
