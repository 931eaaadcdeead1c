import { describe, expect, test } from 'vitest';
import { hermitian } from '$core/matrix/eigen';
import { FITS } from '$core/modal/fits';
import { fitted, prepared } from '$core/modal/analysis';
import { windowDecay, windowed, type Correlations } from '$core/modal/correlations';
import { gathered } from '$core/modal/gather';
import { halfSpectra, within as withinBand, type Lines } from '$core/modal/half-spectra';
import { peaksOf } from '$core/modal/indicators';
import { leastSquaresComplexFrequency } from '$core/modal/lscf';
import { clustersOf, judged, type JudgedOrder, type JudgedPole } from '$core/modal/stability';
import { stochasticSubspace } from '$core/modal/subspace';
import { mac, macMatrix, realness, type Shape } from '$core/modal/shape';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';
import { referenceCase, within, type ReferenceCase } from '../../../reference';

interface TrueMode {
  fn_hz: number;
  zeta: number;
  shape_re: number[];
  shape_im: number[];
}
interface Limits {
  fn_hz_identified: { rel: number };
  zeta_identified: { rel: number };
  shape_identified: { mac_min: number };
}
const shapeOf = (mode: Pick<TrueMode, 'shape_re' | 'shape_im'>): Shape => ({
  re: Float64Array.from(mode.shape_re),
  im: Float64Array.from(mode.shape_im),
});
const TOLERANCES = { frequency: 0.01, damping: 0.05, shape: 0.98 };

const correlationsOf = ({ inputs }: ReferenceCase): Correlations => {
  const lags = inputs.correlation.length;
  const responses = inputs.correlation[0].length;
  const references = inputs.references.length;
  const values = new Float64Array(responses * references * lags);
  inputs.correlation.forEach((row: number[][], k: number) =>
    row.forEach((r, i) => r.forEach((v, q) => (values[(i * references + q) * lags + k] = v))),
  );
  return { responses, references, lags, dtS: inputs.dt, values };
};
/** The first lags, as many as the next lower power of two: half spectra are made of such. */
const powerOfTwo = (set: Correlations): Correlations => {
  const lags = 2 ** Math.floor(Math.log2(set.lags));
  const values = new Float64Array((set.values.length / set.lags) * lags);
  for (let p = 0; p < set.values.length / set.lags; p++)
    values.set(set.values.subarray(p * set.lags, p * set.lags + lags), p * lags);
  return { ...set, lags, values };
};

const suggestedOf = (orders: JudgedOrder[], tolerances = TOLERANCES): JudgedPole[] =>
  clustersOf(orders, tolerances).map(
    ({ best }) => orders.find((o) => o.order === best.order)!.poles[best.index],
  );

/** Every mode of the case is among some poles, within its limits. @param once and no other pole has its shape */
function meets(found: JudgedPole[], { expected, tolerance }: ReferenceCase, once = true): void {
  const limits = tolerance as unknown as Limits;
  for (const mode of expected.modes as TrueMode[]) {
    const near = found.filter((p) => mac(p.shape, shapeOf(mode)) > limits.shape_identified.mac_min);
    const poles = `a pole at ${mode.fn_hz} Hz among ${found.map((p) => p.hz.toFixed(3)).join(', ')}`;
    if (once) expect(near.length, poles).toBe(1);
    near.sort((a, b) => Math.abs(a.hz - mode.fn_hz) - Math.abs(b.hz - mode.fn_hz));
    expect(Math.abs(near[0]?.hz / mode.fn_hz - 1), poles).toBeLessThan(limits.fn_hz_identified.rel);
    expect(Math.abs(near[0].damping / mode.zeta - 1), `damping at ${mode.fn_hz} Hz`).toBeLessThan(
      limits.zeta_identified.rel,
    );
  }
}

describe.each(['12_chain_correlations', '12_plate_correlations'])('%s', (name) => {
  const reference = referenceCase(name);
  const set = correlationsOf(reference);
  const band = { fromHz: 0.5, toHz: 0.5 / set.dtS };

  test('the subspace fit finds every mode', () => {
    const orders = stochasticSubspace(set, { band, order: 40, decay: 0 });
    meets(suggestedOf(judged(halfSpectra(powerOfTwo(set)), orders, TOLERANCES, 'both residuals', 0)), reference); // prettier-ignore
  });

  test.each([1, 0.05, 1e-4])('the frequency-domain fit finds every mode with %f left at the end', (left) => {
    const short = powerOfTwo(set);
    const decay = windowDecay(left, short.lags, short.dtS);
    const lines = withinBand(halfSpectra(windowed(short, decay)), band.fromHz, band.toHz);
    const orders = leastSquaresComplexFrequency(lines, { band, order: 60, decay });
    meets(suggestedOf(judged(lines, orders, TOLERANCES, 'both residuals', decay)), reference);
  });
});

test('12_chain_half_spectra: functions of continuous frequency in a band', () => {
  const reference = referenceCase('12_chain_half_spectra');
  const { frequencies_hz, half_spectra_re, half_spectra_im, references } = reference.inputs;
  const n = frequencies_hz.length;
  const responses = half_spectra_re[0].length;
  const flat = (x: number[][][]) => {
    const out = new Float64Array(responses * references.length * n);
    x.forEach((row, k) => row.forEach((r, i) => r.forEach((v, q) => (out[(i * references.length + q) * n + k] = v)))); // prettier-ignore
    return out;
  };
  const lines: Lines = {
    responses,
    references: references.length,
    hz: Float64Array.from(frequencies_hz as number[]),
    re: flat(half_spectra_re),
    im: flat(half_spectra_im),
    lags: null,
  };
  const band = { fromHz: 1, toHz: 18 };
  const orders = leastSquaresComplexFrequency(lines, { band, order: 60, decay: 0 });
  meets(suggestedOf(judged(lines, orders, TOLERANCES, 'both residuals', 0)), reference);
});

test('12_chain_random_response: from histories to modes by both fits', () => {
  const reference = referenceCase('12_chain_random_response');
  const { Ad, Bd, dt, n, sigma, seeds } = reference.inputs as { Ad: number[][]; Bd: number[][]; dt: number; n: number; sigma: number; seeds: number[] }; // prettier-ignore
  const draw = seeds.map((seed) => {
    let x = seed >>> 0;
    const next = () => {
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      return (x >>>= 0) / 4294967296;
    };
    return () => {
      let sum = 0;
      for (let k = 0; k < 12; k++) sum += next();
      return sigma * (sum - 6);
    };
  });
  const histories = seeds.map(() => new Float32Array(n));
  let x = new Float64Array(12);
  for (let k = 0; k < n; k++) {
    for (let i = 0; i < 6; i++) histories[i][k] = x[6 + i];
    const u = draw.map((d) => d());
    x = Float64Array.from(Ad, (row, i) => row.reduce((s, a, c) => s + a * x[c], 0) + Bd[i].reduce((s, b, c) => s + b * u[c], 0)); // prettier-ignore
  }
  const rms = histories.map((h) => Math.sqrt(h.reduce((s, v) => s + v * v, 0) / n));
  (reference.inputs.check.rms as number[]).forEach((r, i) => expect(rms[i] / r).toBeCloseTo(1, 5));
  const responses = histories.map((h, i) => sampledOf({ id: `${i}`, name: `${i}`, quantity: '', unit: 'm/s', rate: rateFromHz(1 / dt), startNs: 0, width: 1 }, h)); // prettier-ignore
  const references = [0, 3, 5];
  const got = gathered([{ name: 'made', responses, fromS: 0, toS: null }], { references, lags: 512, factor: 1, detrend: 'its mean', method: 'over the whole span' }, () => undefined, { aborted: false }); // prettier-ignore
  const basis = { set: got.set, references, left: 0.01, powers: got.powers };
  const tolerances = { frequency: 0.01, damping: 0.3, shape: 0.95 };
  for (const method of FITS.slice(0, 2)) {
    const settings = { band: { fromHz: 1, toHz: 20 }, order: 48, method, residuals: 'both residuals' as const, tolerances, normalised: 'largest is 1' as const }; // prettier-ignore
    meets(suggestedOf(fitted(prepared(basis), references, settings).orders, tolerances), reference, false);
  }
});

test('12_mac: shapes against shapes, and how real they are', () => {
  const reference = referenceCase('12_mac');
  reference.inputs.items.forEach((item: Record<'a_re' | 'a_im' | 'b_re' | 'b_im', number[][]>, k: number) => {
    // A shape stands in each column.
    const shapes = (re: number[][], im: number[][] | undefined): Shape[] =>
      re[0].map((_, c) => ({ re: Float64Array.from(re, (row) => row[c]), im: Float64Array.from(re, (_, i) => im?.[i][c] ?? 0) })); // prettier-ignore
    const [a, b] = [shapes(item.a_re, item.a_im), shapes(item.b_re, item.b_im)];
    const { mac: expected, mpc_a } = reference.expected.items[k] as { mac: number[][]; mpc_a: number[] };
    macMatrix(a, b).forEach((row, i) => row.forEach((v, j) => within(v, expected[i][j], reference, 'mac')));
    a.forEach((shape, i) => within(realness(shape), mpc_a[i], reference, 'mpc_a'));
  });
});

test('12_exponential_window: what it adds to the damping is taken out exactly', () => {
  const reference = referenceCase('12_exponential_window');
  reference.inputs.items.forEach(
    (
      item: {
        dt: number;
        lags: number;
        end_value: number;
        modes: { fn_hz: number; zeta: number; amplitude: number; phase: number }[];
      },
      k: number,
    ) => {
      // prettier-ignore
      const { beta, modes } = reference.expected.items[k] as { beta: number; modes: unknown[] };
      const decay = windowDecay(item.end_value, item.lags, item.dt);
      within(decay, beta, reference, 'beta');
      expect(modes.length).toBe(item.modes.length);
      const lags = 2 ** Math.floor(Math.log2(item.lags));
      const values = Float64Array.from({ length: lags }, (_, n) => item.modes.reduce((sum, m) => {
        const w = 2 * Math.PI * m.fn_hz;
        const t = n * item.dt;
        return sum + m.amplitude * Math.exp(-m.zeta * w * t) * Math.cos(w * Math.sqrt(1 - m.zeta ** 2) * t + m.phase);
      }, 0)); // prettier-ignore
      const set = windowed({ responses: 1, references: 1, lags, dtS: item.dt, values }, decay);
      const band = { fromHz: 0.1, toHz: 0.5 / item.dt };
      const orders = leastSquaresComplexFrequency(halfSpectra(set), { band, order: 2 * item.modes.length + 4, decay }); // prettier-ignore
      for (const m of item.modes) {
        const best = orders.at(-1)!.poles.reduce((a, b) => (Math.abs(b.hz - m.fn_hz) < Math.abs(a.hz - m.fn_hz) ? b : a)); // prettier-ignore
        expect(best.hz / m.fn_hz).toBeCloseTo(1, 6);
        expect(best.damping / m.zeta, `damping at ${m.fn_hz} Hz`).toBeCloseTo(1, 4);
      }
    },
  );
});

test('12_fdd_singular_values: spectral matrices taken apart', () => {
  const reference = referenceCase('12_fdd_singular_values');
  const { g_re, g_im } = reference.inputs as { g_re: number[][][]; g_im: number[][][] };
  const { singular_values, first_singular_value_peaks: peaks } = reference.expected as { singular_values: number[][]; first_singular_value_peaks: { line: number; vector_re: number[]; vector_im: number[] }[] }; // prettier-ignore
  const largest = Math.max(...singular_values.flat());
  const first = g_re.map((re, k) => {
    const { values, vectorRe, vectorIm } = hermitian(re, g_im[k]);
    values.forEach((v, i) => within(v, singular_values[k][i], reference, 'singular_values', largest));
    return { value: values[0], shape: { re: vectorRe[0], im: vectorIm[0] } };
  });
  expect(peaksOf(Float64Array.from(first, (f) => f.value), 1.2)).toEqual(peaks.map((p) => p.line)); // prettier-ignore
  for (const { line, vector_re, vector_im } of peaks)
    expect(mac(first[line].shape, shapeOf({ shape_re: vector_re, shape_im: vector_im }))).toBeCloseTo(1, 8);
});
