import { badInput } from '../errors';
import { checkPoints, distinct } from './points';

export interface LineFit {
  slope: number;
  offset: number;
  /** y - (slope·x + offset), in the order of the points. */
  residuals: Float64Array;
  /** sqrt(Σr² / (n-2)); NaN for two points, which leave no freedom. */
  residualStd: number;
  largestResidual: number;
  standardErrorSlope: number;
  standardErrorOffset: number;
  /** Σ(x − x̄)², of which the standard errors are made. */
  sxx: number;
  rSquared: number;
}

/** Least-squares straight line y = slope·x + offset (JCGM 100:2008, H.3).
 *  @param x shape [n], n ≥ 2 @param y shape [n]
 *  @throws `bad_input` for fewer than two points, unequal lengths, values that are no numbers or points that all have the same x */
export function fitLine(x: ArrayLike<number>, y: ArrayLike<number>): LineFit {
  const n = x.length;
  checkPoints(x, y);
  if (n < 2) throw badInput('points', n, 'Measure at least two points.');
  const meanX = mean(x);
  const meanY = mean(y);
  let sxx = 0;
  let sxy = 0;
  let syy = 0;
  for (let i = 0; i < n; i++) {
    sxx += (x[i] - meanX) ** 2;
    sxy += (x[i] - meanX) * (y[i] - meanY);
    syy += (y[i] - meanY) ** 2;
  }
  if (distinct(x) < 2)
    throw badInput(
      'points',
      `all at ${x[0]}`,
      'Measure at two different values at least: is the sensor connected and moving?',
    );
  const slope = sxy / sxx;
  const offset = meanY - slope * meanX;
  const residuals = new Float64Array(n);
  let sumSquares = 0;
  let largestResidual = 0;
  for (let i = 0; i < n; i++) {
    residuals[i] = y[i] - (slope * x[i] + offset);
    sumSquares += residuals[i] ** 2;
    largestResidual = Math.max(largestResidual, Math.abs(residuals[i]));
  }
  const residualStd = n > 2 ? Math.sqrt(sumSquares / (n - 2)) : NaN;
  const standardErrorSlope = residualStd / Math.sqrt(sxx);
  return {
    slope,
    offset,
    residuals,
    residualStd,
    largestResidual,
    standardErrorSlope,
    standardErrorOffset: residualStd * Math.sqrt(1 / n + meanX ** 2 / sxx),
    sxx,
    rSquared: syy > 0 ? 1 - sumSquares / syy : 1,
  };
}

function mean(values: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i];
  return sum / values.length;
}
