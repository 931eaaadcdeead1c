import { z } from 'zod';
import { loopAreas } from '../../signal/loops';
import { badInput } from '../../errors';
import { RegressionSums } from '../../fit/regression';
import type { Figure } from '../../figures/figure';
import { rateHz, sampleS } from '../../samples/sampled';
import { heldBeside } from '../../samples/held';
import { field } from '../../sentence/sentence';
import { bestLag } from '../../signal/lag';
import { numeric, words } from '../classes';
import { readSpan, spanFields, spanOf } from '../span';
import type { Finding, StudyKind, StudyResult } from '../study';

const schema = z.strictObject({
  channel: field(z.string(), { label: 'What follows', editor: 'channel' }),
  inputs: field(z.array(z.string()).max(6), {
    label: 'From what',
    editor: 'channels',
    help: 'One or several; read at the instants of the first channel.',
  }),
  ...spanFields,
});

/** Points that are drawn; the computation sees all. */
const DRAWN = 3000;
const LAG_MOST = 1 << 18;

/** One channel from others by least squares: coefficients with their uncertainty, what is left, and for a single one the lag at which they fit best. */
export const relation: StudyKind<typeof schema> = {
  kind: 'relation',
  title: 'Relation',
  purpose: 'One channel from others, with what is left.',
  method: [
    {
      says: 'y = b₀ + Σ bᵢ·xᵢ by least squares; ± of each coefficient: t₀.₉₇₅·standard error. Samples that follow each other are not independent: the ± is that of the fit alone.',
      source: 'Draper and Smith, Applied Regression Analysis, ch. 5',
    },
    {
      says: 'Correlation over lag: r(τ) = cov(x(t), y(t + τ))/(s_x·s_y).',
      source: 'Bendat and Piersol, ch. 5',
    },
    {
      says: 'Area of a loop ∮ y dx by trapezoids, from one rise of x through the middle of its range to the next, after it was a tenth of the range below.',
      source: 'by definition; of a force over a way the work that is lost',
    },
  ],
  asks: 'What follows what?',
  sketch: {
    lines: [[0.1, 0.9]],
    points: [[0.05, 0.2], [0.15, 0.14], [0.25, 0.4], [0.35, 0.32], [0.45, 0.55], [0.55, 0.48], [0.65, 0.7], [0.75, 0.62], [0.85, 0.88], [0.95, 0.8]], // prettier-ignore
  },
  sentence: { schema, template: () => 'How {channel} follows from {inputs}, from {from} to {to}.' },
  defaults: { channel: '', inputs: [], from: 0, to: null },
  roles: [
    { key: 'channel', takes: 'one' },
    { key: 'inputs', takes: 'several', most: 6 },
  ],
  run([take], settings, progress, signal): StudyResult {
    const [input] = take.signals.channel;
    const others = (settings.inputs.length ? take.signals.inputs : take.signals.inputs.slice(0, 2)).filter((s) => s.id !== input.id).slice(0, settings.inputs.length ? 6 : 1); // prettier-ignore
    if (others.length === 0)
      throw badInput('from what', 'nothing', 'Choose a channel that this one follows.');
    const { first, end } = spanOf(input, settings);
    const beside = others.map((o) => heldBeside(o, input));
    const sums = new RegressionSums(others.length);
    const pass = (each: (y: Float32Array, x: Float32Array[], at: number) => void, from: number) => {
      let at = first;
      readSpan(
        input,
        first,
        end,
        (block) => {
          const y = block.slice();
          each(
            y,
            beside.map((read) => read(at, y.length)),
            at,
          );
          at += y.length;
        },
        (share) => progress(from + share / 2),
        signal,
      );
    };
    pass((y, x) => sums.push(x, y), 0);
    const r = sums.result();

    const every = Math.max(1, Math.ceil((end - first) / DRAWN));
    const [px, py, left, when]: number[][] = [[], [], [], []];
    const keep = others.length === 1 && end - first <= LAG_MOST;
    const [wholeX, wholeY] = [
      new Float32Array(keep ? end - first : 0),
      new Float32Array(keep ? end - first : 0),
    ];
    let [low, high] = [Infinity, -Infinity];
    pass((y, x, at) => {
      if (keep) {
        wholeX.set(x[0], at - first);
        wholeY.set(y, at - first);
      }
      for (let i = 0; i < y.length; i++) {
        const sum = x.reduce((all, c, k) => all + r.slopes[k] * c[i], r.offset);
        if (Number.isNaN(sum + y[i])) continue;
        low = Math.min(low, x[0][i]);
        high = Math.max(high, x[0][i]);
        if ((at + i - first) % every) continue;
        px.push(x[0][i]);
        py.push(y[i]);
        left.push(y[i] - sum);
        when.push(sampleS(input, at + i));
      }
    }, 0.5);
    const unit = (k: number) => (others[k].unit === input.unit ? '1' : `${input.unit}/${others[k].unit}`);
    const findings: Finding[] = [
      ...others.map((o, k) => ({ label: `A step of ${o.name} makes`, value: r.slopes[k], unit: unit(k), note: `± ${(r.factor * r.standardErrors[k + 1]).toPrecision(2)} (95 %, samples as independent)` })), // prettier-ignore
      {
        label: 'Offset',
        value: r.offset,
        unit: input.unit,
        note: `± ${(r.factor * r.standardErrors[0]).toPrecision(2)}`,
      },
      { label: 'Explained', value: r.rSquared * 100, unit: '%', note: 'R²' },
      { label: 'What is left', value: r.residual, unit: input.unit, note: 'standard deviation' },
    ];
    if (keep) {
      const lag = bestLag(wholeX, wholeY);
      if (Number.isFinite(lag.samples) && Math.abs(lag.coefficient) > 0)
        findings.push({
          label: 'Fits best later by',
          value: lag.samples / rateHz(input),
          unit: 's',
          note: `correlation ${lag.coefficient.toFixed(3)}`,
        });
    }
    const loops = keep ? loopAreas(wholeX, wholeY, (low + high) / 2, (high - low) / 10) : [];
    const areaUnit = `${input.unit === '1' ? '' : input.unit}${input.unit !== '1' && others[0].unit !== '1' ? '·' : ''}${others[0].unit === '1' ? '' : others[0].unit}` || '1'; // prettier-ignore
    if (loops.length)
      findings.push({
        label: 'Area of a loop',
        value: loops.reduce((sum, l) => sum + l.area, 0) / loops.length,
        unit: areaUnit,
        note: `mean of ${loops.length}`,
      });
    if (sums.missing)
      findings.push({ label: 'Missing', value: sums.missing, unit: '1', note: 'samples that were left out' });
    const residuals: Figure = {
      title: 'What is left',
      x: { label: 'Time', unit: 's', scale: 'time' },
      y: { label: 'Difference', unit: input.unit, scale: 'linear' },
      marks: [
        {
          mark: 'line',
          name: input.name,
          unit: input.unit,
          colour: input.colour,
          x: Float64Array.from(when),
          y: Float64Array.from(left),
        },
      ],
    };
    const order = px.map((_, i) => i).sort((a, b) => px[a] - px[b]);
    return {
      findings,
      figures: [
        ...(others.length === 1
          ? [
              {
                title: `Against ${others[0].name}`,
                x: { label: others[0].name, unit: others[0].unit, scale: 'linear' as const },
                y: { label: input.name, unit: input.unit, scale: 'linear' as const },
                marks: [
                  { mark: 'points' as const, name: input.name, unit: input.unit, colour: input.colour, x: Float64Array.from(order, (i) => px[i]), y: Float64Array.from(order, (i) => py[i]) }, // prettier-ignore
                  { mark: 'line' as const, name: 'Straight line', unit: input.unit, tone: 'muted' as const, x: Float64Array.of(low, high), y: Float64Array.of(r.offset + r.slopes[0] * low, r.offset + r.slopes[0] * high) }, // prettier-ignore
                ],
              },
            ]
          : []),
        residuals,
        ...(loops.length > 1
          ? [
              {
                title: 'Area of each loop',
                x: { label: 'Time', unit: 's', scale: 'time' as const },
                y: { label: 'Area', unit: areaUnit, scale: 'linear' as const },
                marks: [
                  { mark: 'points' as const, name: input.name, unit: areaUnit, colour: input.colour, x: Float64Array.from(loops, (l) => sampleS(input, first + l.from)), y: Float64Array.from(loops, (l) => l.area) }, // prettier-ignore
                ],
              },
            ]
          : []),
      ],
      tables: [
        {
          title: 'Coefficients',
          columns: [words('Of'), numeric('Value'), numeric('±'), words('Unit')],
          rows: [
            ['Offset', r.offset, r.factor * r.standardErrors[0], input.unit],
            ...others.map((o, k) => [o.name, r.slopes[k], r.factor * r.standardErrors[k + 1], unit(k)]),
          ],
        },
      ],
    };
  },
};
