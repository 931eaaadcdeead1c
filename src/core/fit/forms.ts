import { compileConversion, IDENTITY, turningPoints, type Law } from '../conversion/conversion';
import { badInput } from '../errors';
import { fitLine } from './line';
import { checkPoints, distinct, extremes } from './points';
import { fitPolynomial, largestLeverage } from './polynomial';

/** Ways of laying a curve through the points of a calibration. */
export const FIT_FORMS = [
  'straight line',
  'straight line through zero',
  'parabola',
  'cubic',
  'table',
] as const;
export type FitForm = (typeof FIT_FORMS)[number];

/** Points of a calibration: what the sensor read, what it should have read, and whether the value was reached from below or above. */
export interface CalibrationRun {
  x: ArrayLike<number>;
  y: ArrayLike<number>;
  going?: readonly ('up' | 'down')[];
}

export interface CalibrationFit {
  form: FitForm;
  /** From x to y. */
  law: Law;
  /** The least-squares straight line, whatever the form: what calibrations are compared by over the years. */
  slope: number;
  offset: number;
  /** y - law(x), in the order of the points. */
  residuals: Float64Array;
  largestResidual: number;
  /** Degrees of freedom left: points less coefficients. */
  dof: number;
  /** sqrt(Σr²/dof); NaN where no freedom is left. */
  residualStd: number;
  rSquared: number;
  standardErrorSlope: number;
  /** Variance of the curve's place as a share of residualStd²: of a straight line at the middle of its points (0 for one through zero),
   *  of a curve its largest within the points. */
  placed: number;
  /** Where a straight line's slope leaves its reading alone, and Σ(ŷ − ȳ)², of which its standard error is made, as a root, both in y; null for a curve. */
  about: { mean: number; spread: number } | null;
  /** Largest distance of a point from the straight line as a share of the span of y. */
  linearity: number;
  /** Largest difference between the readings of one target reached from below and from above, in y; NaN where none was reached both ways. */
  hysteresis: number;
}

/** Fits a curve of one form through the points of a calibration.
 *  @throws `bad_input` for fewer points than the form needs, points all at one reading or one target, or a curve that turns back
 *  within the points (a reading would have two meanings) */
export function fitForm(form: FitForm, { x, y, going }: CalibrationRun): CalibrationFit {
  const n = x.length;
  checkPoints(x, y);
  const { low: lowY, high: highY } = extremes(y);
  if (n >= 2 && lowY === highY)
    throw badInput('points', `all at ${y[0]}`, 'Measure at two different values at least.');
  const line = fitLine(x, y);
  if (line.slope === 0)
    throw badInput('slope', 0, 'The reading moved, the targets did not: check the values typed.');
  const { law, coefficients, placed } = lawOf(form, x, y, line);
  const convert = compileConversion({ ...IDENTITY, law });
  const residuals = new Float64Array(n);
  convert(x, residuals, n);
  let squares = 0;
  for (let i = 0; i < n; i++) {
    residuals[i] = y[i] - residuals[i];
    squares += residuals[i] ** 2;
  }
  const meanY = Array.from(y).reduce((a, b) => a + b) / n;
  const total = Array.from(y).reduce((sum, v) => sum + (v - meanY) ** 2, 0);
  const dof = n - coefficients;
  const residualStd = dof > 0 ? Math.sqrt(squares / dof) : NaN;
  const meanX = Array.from(x).reduce((a, b) => a + b) / n;
  const zero = form === 'straight line through zero';
  const sxx = Array.from(x).reduce((sum, v) => sum + (zero ? v : v - meanX) ** 2, 0);
  const about =
    law.kind === 'linear' ? { mean: zero ? 0 : meanY, spread: Math.abs(law.slope) * Math.sqrt(sxx) } : null;
  return {
    form,
    law,
    slope: law.kind === 'linear' ? law.slope : line.slope,
    offset: law.kind === 'linear' ? law.offset : line.offset,
    residuals,
    largestResidual: residuals.reduce((most, r) => Math.max(most, Math.abs(r)), 0),
    placed,
    about,
    dof,
    residualStd,
    rSquared: 1 - squares / total,
    standardErrorSlope: law.kind === 'linear' ? residualStd / Math.sqrt(sxx) : line.standardErrorSlope,
    linearity: line.largestResidual / (highY - lowY),
    hysteresis: hysteresisOf({ x, y, going }, line.slope),
  };
}

function lawOf(
  form: FitForm,
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  line: { slope: number; offset: number },
): { law: Law; coefficients: number; placed: number } {
  switch (form) {
    case 'straight line':
      return {
        law: { kind: 'linear', slope: line.slope, offset: line.offset },
        coefficients: 2,
        placed: 1 / x.length,
      };
    case 'straight line through zero': {
      let xy = 0;
      let xx = 0;
      for (let i = 0; i < x.length; i++) {
        xy += x[i] * y[i];
        xx += x[i] * x[i];
      }
      return { law: { kind: 'linear', slope: xy / xx, offset: 0 }, coefficients: 1, placed: 0 };
    }
    case 'table': {
      const { xs, ys, fewest } = tableOf(x, y);
      return { law: { kind: 'table', xs, ys }, coefficients: xs.length, placed: 1 / fewest };
    }
    default: {
      const order = form === 'parabola' ? 2 : 3;
      const law: Law = { kind: 'polynomial', coefficients: fitPolynomial(x, y, order) };
      const { low, high } = extremes(x);
      const turn = turningPoints(law).find((t) => t > low && t < high);
      if (turn !== undefined)
        throw badInput(
          'curve',
          `turns back at a reading of ${turn.toPrecision(4)}`,
          'Measure the points again, or choose a straight line or a table.',
        );
      return { law, coefficients: order + 1, placed: largestLeverage(x, order) };
    }
  }
}

/** One point for each target: the mean of its readings, and how many it has at least. */
function tableOf(x: ArrayLike<number>, y: ArrayLike<number>): { xs: number[]; ys: number[]; fewest: number } {
  const byTarget = new Map<number, number[]>();
  for (let i = 0; i < x.length; i++) byTarget.set(y[i], [...(byTarget.get(y[i]) ?? []), x[i]]);
  const points = [...byTarget].map(([target, readings]) => ({
    x: readings.reduce((a, b) => a + b) / readings.length,
    y: target,
  }));
  points.sort((a, b) => a.y - b.y);
  const rising = points[points.length - 1].x > points[0].x;
  if (!rising) points.reverse();
  for (let k = 1; k < points.length; k++)
    if (!(points[k].x > points[k - 1].x))
      throw badInput(
        'readings',
        `${points[k - 1].x.toPrecision(5)} at ${points[k - 1].y}, ${points[k].x.toPrecision(5)} at ${points[k].y}`,
        'They do not go one way with the targets: measure these points again.',
      );
  return {
    xs: points.map((p) => p.x),
    ys: points.map((p) => p.y),
    fewest: Math.min(...[...byTarget.values()].map((readings) => readings.length)),
  };
}

function hysteresisOf({ x, y, going }: CalibrationRun, slope: number): number {
  if (!going) return NaN;
  let most = NaN;
  for (let i = 0; i < x.length; i++)
    for (let j = 0; j < x.length; j++) {
      if (y[i] !== y[j] || going[i] !== 'up' || going[j] !== 'down') continue;
      const apart = Math.abs((x[i] - x[j]) * slope);
      if (!(apart <= most)) most = apart;
    }
  return most;
}

/** Whether the residuals of a straight line are curved: a parabola takes away most of them, and its bend is beyond chance (its
 *  coefficient more than three standard errors). Needs five points. */
export function showsCurvature({ x, y }: CalibrationRun): boolean {
  if (distinct(x) < 5) return false;
  const line = fitLine(x, y);
  const [c0, c1, c2] = fitPolynomial(x, y, 2);
  let bent = 0;
  for (let i = 0; i < x.length; i++) bent += (y[i] - (c0 + c1 * x[i] + c2 * x[i] ** 2)) ** 2;
  const straight = line.residuals.reduce((sum, r) => sum + r * r, 0);
  const dof = x.length - 3;
  return straight > 4 * bent && (straight - bent) / (bent / dof) > 9;
}
