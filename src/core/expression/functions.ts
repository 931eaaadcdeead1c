import { lookUp } from '../conversion/table';
import { levelDb } from '../quantities/quantities';
import { PURE, SECONDS, product, type Measure } from './measure';
import * as running from './running';
import type { Evaluate } from './running';

/** How the unit of a function's result follows from its values. */
export type UnitRule =
  /** All values and the result share one unit. */
  | 'same'
  /** The first value's unit; others are checked by `like` or are plain numbers. */
  | 'first'
  /** Values share one unit, the result is yes/no. */
  | 'compare'
  /** Values are pure numbers, so is the result. */
  | 'pure'
  /** Whatever comes in, the result is yes/no or a count. */
  | 'logic'
  | ((values: Measure[]) => Measure);

/** A function of the formula language. */
export interface FormulaFunction {
  /** Its values, as shown in help and completion. */
  takes: string;
  says: string;
  least: number;
  most: number;
  /** Positions of values that have to be numbers, written in the formula. */
  numbers?: number[];
  unit: UnitRule;
  /** @param numbers the numbers at the positions of `numbers`, NaN elsewhere @throws string with the reason to refuse */
  make: (x: Evaluate[], rateHz: number, numbers: number[]) => Evaluate;
}

const pure = (of: (x: number) => number): FormulaFunction['make'] => {
  return ([x]) =>
    (i) =>
      of(x(i));
};
const window = (
  says: string,
  make: (x: Evaluate, samples: number, rateHz: number) => Evaluate,
  unit: UnitRule = 'first',
): FormulaFunction => ({
  takes: 'x, seconds',
  says,
  least: 2,
  most: 2,
  numbers: [1],
  unit,
  make: ([x], rateHz, [, seconds]) => {
    if (!(seconds > 0)) throw 'the time has to be above 0 s';
    return make(x, running.samplesOf(seconds, rateHz), rateHz);
  },
});
const one = (says: string, unit: UnitRule, of: (x: number) => number): FormulaFunction => ({
  takes: 'x',
  says,
  least: 1,
  most: 1,
  unit,
  make: pure(of),
});
const corner = (hz: number, rateHz: number) => {
  if (!(hz > 0 && hz < rateHz / 2))
    throw `a corner of ${hz} Hz does not go with ${rateHz} samples/s: it has to lie below half of that`;
  return hz;
};
const perSecond =
  (power: 1 | -1) =>
  ([x]: Measure[]) =>
    product(x, SECONDS, power);

/** Every function of the formula language, by name. */
export const FUNCTIONS: Record<string, FormulaFunction> = {
  abs: one('size without sign', 'first', Math.abs),
  sqrt: one('square root', ([x]) => (x.plain ? x : product({ ...PURE, says: x.says }, x, 0.5)), Math.sqrt),
  exp: one('e to the power of x', 'pure', Math.exp),
  log: one('natural logarithm', 'pure', Math.log),
  log10: one('logarithm to base 10', 'pure', Math.log10),
  sin: one('sine of an angle in rad', 'pure', Math.sin),
  cos: one('cosine of an angle in rad', 'pure', Math.cos),
  tan: one('tangent of an angle in rad', 'pure', Math.tan),
  asin: one('arc sine, rad', 'pure', Math.asin),
  acos: one('arc cosine, rad', 'pure', Math.acos),
  atan: one('arc tangent, rad', 'pure', Math.atan),
  atan2: {
    takes: 'y, x',
    says: 'angle of the point (x, y), rad',
    least: 2,
    most: 2,
    unit: 'compare',
    make:
      ([y, x]) =>
      (i) =>
        Math.atan2(y(i), x(i)),
  },
  round: one('nearest whole number', 'first', Math.round),
  floor: one('next whole number below', 'first', Math.floor),
  ceil: one('next whole number above', 'first', Math.ceil),
  sign: one('−1, 0 or 1', 'logic', Math.sign),
  min: {
    takes: 'a, b, …',
    says: 'smallest of several values',
    least: 2,
    most: 12,
    unit: 'same',
    make: (x) => {
      if (x.length === 2) return (i) => Math.min(x[0](i), x[1](i));
      return (i) => x.reduce((low, f) => Math.min(low, f(i)), Infinity);
    },
  },
  max: {
    takes: 'a, b, …',
    says: 'largest of several values',
    least: 2,
    most: 12,
    unit: 'same',
    make: (x) => {
      if (x.length === 2) return (i) => Math.max(x[0](i), x[1](i));
      return (i) => x.reduce((high, f) => Math.max(high, f(i)), -Infinity);
    },
  },
  clip: {
    takes: 'x, low, high',
    says: 'x kept between two limits',
    least: 3,
    most: 3,
    unit: 'same',
    make:
      ([x, low, high]) =>
      (i) =>
        Math.min(high(i), Math.max(low(i), x(i))),
  },
  mean: window('mean of the last seconds', running.movingMean),
  rms: window('root mean square of the last seconds', running.movingRms),
  lowest: window('smallest value of the last seconds', (x, n) => running.movingExtreme(x, n, -1)),
  highest: window('largest value of the last seconds', (x, n) => running.movingExtreme(x, n, 1)),
  median: window('median of the last seconds', running.movingMedian),
  slope: window('slope of the last seconds, per second', running.movingSlope, perSecond(-1)),
  derivative: {
    takes: 'x',
    says: 'change per second, from the sample before',
    least: 1,
    most: 1,
    unit: perSecond(-1),
    make: ([x], rateHz) => running.derivative(x, rateHz),
  },
  integral: {
    takes: 'x, reset',
    says: 'integral over time; 0 while reset is yes',
    least: 1,
    most: 2,
    unit: perSecond(1),
    make: ([x, reset], rateHz) => running.integral(x, rateHz, reset),
  },
  lowpass: {
    takes: 'x, Hz',
    says: 'Butterworth low-pass, 2nd order',
    least: 2,
    most: 2,
    numbers: [1],
    unit: 'first',
    make: ([x], rateHz, [, hz]) => running.butterworth(x, 'low', corner(hz, rateHz), rateHz),
  },
  highpass: {
    takes: 'x, Hz',
    says: 'Butterworth high-pass, 2nd order',
    least: 2,
    most: 2,
    numbers: [1],
    unit: 'first',
    make: ([x], rateHz, [, hz]) => running.butterworth(x, 'high', corner(hz, rateHz), rateHz),
  },
  bandpass: {
    takes: 'x, from Hz, to Hz',
    says: 'Butterworth high-pass and low-pass, 2nd order each',
    least: 3,
    most: 3,
    numbers: [1, 2],
    unit: 'first',
    make: ([x], rateHz, [, from, to]) => {
      if (!(from < to)) throw 'the lower corner has to lie below the upper one';
      const high = running.butterworth(x, 'high', corner(from, rateHz), rateHz);
      return running.butterworth(high, 'low', corner(to, rateHz), rateHz);
    },
  },
  smooth: {
    takes: 'x, seconds',
    says: 'first-order low-pass of a time constant',
    least: 2,
    most: 2,
    numbers: [1],
    unit: 'first',
    make: ([x], rateHz, [, tau]) => {
      if (!(tau > 0)) throw 'the time constant has to be above 0 s';
      return running.smooth(x, tau, rateHz);
    },
  },
  delay: window('the value of some seconds ago', running.delay),
  hysteresis: {
    takes: 'x, on, off',
    says: 'yes above on, no below off, else as before',
    least: 3,
    most: 3,
    unit: 'compare',
    make: ([x, on, off]) => running.hysteresis(x, on, off),
  },
  latch: {
    takes: 'set, reset',
    says: 'yes once set, until reset',
    least: 2,
    most: 2,
    unit: 'logic',
    make: ([set, reset]) => running.latch(set, reset),
  },
  edge: {
    takes: 'x',
    says: 'yes at the sample at which x turns to yes',
    least: 1,
    most: 1,
    unit: 'logic',
    make: ([x]) => running.edge(x),
  },
  count: {
    takes: 'x, reset',
    says: 'how often x turned to yes',
    least: 1,
    most: 2,
    unit: 'logic',
    make: ([x, reset]) => running.count(x, reset),
  },
  timer: {
    takes: 'x',
    says: 'seconds for which x is yes without a break',
    least: 1,
    most: 1,
    unit: () => SECONDS,
    make: ([x], rateHz) => running.timer(x, rateHz, false),
  },
  ontime: {
    takes: 'x',
    says: 'seconds for which x was yes in all',
    least: 1,
    most: 1,
    unit: () => SECONDS,
    make: ([x], rateHz) => running.timer(x, rateHz, true),
  },
  peak: {
    takes: 'x, reset',
    says: 'largest value so far',
    least: 1,
    most: 2,
    unit: 'first',
    make: ([x, reset]) => running.record(x, 1, reset),
  },
  trough: {
    takes: 'x, reset',
    says: 'smallest value so far',
    least: 1,
    most: 2,
    unit: 'first',
    make: ([x, reset]) => running.record(x, -1, reset),
  },
  select: {
    takes: 'number, a, b, …',
    says: 'a for 0, b for 1, and so on',
    least: 3,
    most: 12,
    unit: (values) => values[1],
    make: ([at, ...choices]) => {
      return (i) => {
        // Each choice is moved on at every sample: filters and windows in it must not stand still.
        const index = Math.round(at(i));
        let chosen = NaN;
        for (let k = 0; k < choices.length; k++) {
          const value = choices[k](i);
          if (k === index) chosen = value;
        }
        return chosen;
      };
    },
  },
  table: {
    takes: 'x, x1, y1, x2, y2, …',
    says: 'straight lines between points, held outside',
    least: 5,
    most: 81,
    numbers: Array.from({ length: 80 }, (_, k) => k + 1),
    unit: () => ({ ...PURE, scale: null, says: 'a table value', plain: true }),
    make: ([x], _, [, ...points]) => {
      if (points.length % 2) throw 'each x needs its y';
      const xs = Float64Array.from(points.filter((_, k) => k % 2 === 0));
      const ys = Float64Array.from(points.filter((_, k) => k % 2 === 1));
      if (xs.some((v, k) => k > 0 && v <= xs[k - 1])) throw 'its x have to rise';
      return (i) => lookUp(xs, ys, x(i), true);
    },
  },
  level: {
    takes: 'x, reference',
    says: 'level in dB of a field quantity, 20 lg(|x| / reference)',
    least: 2,
    most: 2,
    numbers: [1],
    unit: 'logic',
    make: ([x], _, [, reference]) => {
      if (!(reference > 0)) throw 'the reference has to be above 0';
      return (i) => levelDb(x(i), reference);
    },
  },
};

/** Names that stand for a number. */
export const CONSTANTS: Record<string, number> = { pi: Math.PI, e: Math.E, yes: 1, no: 0 };
