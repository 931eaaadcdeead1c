import { describe, expect, test } from 'vitest';
import { compileConversion, IDENTITY } from '$core/conversion/conversion';
import { fitForm, showsCurvature, type FitForm } from '$core/fit/forms';
import { fitPolynomial } from '$core/fit/polynomial';
import { polynomial } from '$core/conversion/conversion';
import { Random } from '$core/random';
import { leadDesensitisation, shuntChange, twoPointCorrection } from '$core/sensors/shunt';
import { measureTone } from '$core/signal/tone';
import { crossSpectrum } from '$core/spectrum/cross';
import { studentFactor } from '$core/statistics/student-t';
import { recipeSamples, referenceCase, within } from '../../reference';

describe('fits', () => {
  test('polynomials meet the reference cases', () => {
    const reference = referenceCase('01_polynomial_fit');
    reference.inputs.datasets.forEach(
      (
        { x, y, orders, evaluate_at }: { x: number[]; y: number[]; orders: number[]; evaluate_at: number[] },
        k: number,
      ) =>
        orders.forEach((order, m) => {
          const expected = reference.expected.datasets[k].fits[m];
          const c = fitPolynomial(x, y, order);
          c.forEach((v, j) =>
            within(v, expected.coefficients_ascending[j], reference, 'coefficients_ascending'),
          );
          evaluate_at.forEach((at, j) => within(polynomial(c, at), expected.values[j], reference, 'values'));
        }),
    );
  });

  const x = [0, 1, 2, 3, 4, 5];
  const bent = x.map((v) => 3 + 2 * v + 0.05 * v * v);
  test.each<[FitForm, number]>([
    ['parabola', 1e-9],
    ['cubic', 1e-9],
    ['table', 1e-12],
  ])('a %s takes a bent sensor without rest', (form, rest) => {
    const fit = fitForm(form, { x, y: bent });
    expect(fit.largestResidual).toBeLessThan(rest);
    const out = new Float64Array(1);
    compileConversion({ ...IDENTITY, law: fit.law })([2], out, 1);
    expect(out[0]).toBeCloseTo(bent[2], 9);
  });

  test('a line through zero is the least-squares one, Σxy/Σx², and has one coefficient', () => {
    const fit = fitForm('straight line through zero', { x: [1, 2, 4], y: [2.1, 3.9, 8.2] });
    expect(fit.slope).toBeCloseTo((2.1 + 7.8 + 32.8) / 21, 12);
    expect(fit.offset).toBe(0);
    expect(fit.dof).toBe(2);
  });

  test('hysteresis is what one target reads differently from above and from below', () => {
    const fit = fitForm('straight line', {
      x: [0, 1.0, 2, 1.01, 0],
      y: [0, 50, 100, 50, 0],
      going: ['up', 'up', 'up', 'down', 'down'],
    });
    expect(fit.hysteresis).toBeCloseTo(0.5, 2);
    expect(fitForm('straight line', { x: [0, 1], y: [0, 1], going: ['up', 'up'] }).hysteresis).toBeNaN();
  });

  test('curvature is seen in a bend and not in noise', () => {
    const random = new Random(7);
    const noise = x.map((v) => 3 + 2 * v + 0.02 * random.gauss());
    expect(showsCurvature({ x, y: bent.map((v) => v + 0.002 * random.gauss()) })).toBe(true);
    expect(showsCurvature({ x, y: noise })).toBe(false);
  });

  test.each<[string, FitForm, number[], number[], RegExp]>([
    ['one target only', 'straight line', [1, 2, 3], [5, 5, 5], /two different values/],
    ['one reading only', 'straight line', [1, 1, 1], [1, 2, 3], /two different values/],
    ['too few points', 'parabola', [1, 2], [1, 2], /at least 3/],
    ['a table that turns back', 'table', [1, 3, 2], [1, 2, 3], /do not go one way/],
    ['a parabola that turns back', 'parabola', [0, 1, 2, 3], [0, 3, 4, 3.2], /turns back/],
  ])('refused: %s', (_, form, xs, ys, why) => {
    expect(() => fitForm(form, { x: xs, y: ys })).toThrow(why);
  });

  test('the true slope lies within the stated uncertainty in at least 93 of 100 repetitions', () => {
    const random = new Random(412);
    let within95 = 0;
    for (let run = 0; run < 100; run++) {
      const at = [0, 50, 100, 150, 200];
      const read = at.map((v) => 0.027 + v / 40.2 + 0.0015 * random.gauss());
      const fit = fitForm('straight line', { x: read, y: at });
      if (Math.abs(fit.slope - 40.2) <= studentFactor(0.95, fit.dof) * fit.standardErrorSlope) within95++;
    }
    expect(within95).toBeGreaterThanOrEqual(93);
  });
});

describe('bridges', () => {
  test('the step of a shunt, the loss in leads and the two-point correction meet the reference cases', () => {
    const shunt = referenceCase('06_shunt_calibration');
    shunt.inputs.items.forEach((item: Record<string, number>, k: number) => {
      const bridge = { gaugeOhm: item.gauge_resistance, shuntOhm: item.shunt_resistance };
      const expected = shunt.expected.items[k];
      within(shuntChange(bridge), expected.bridge_output_mv_per_v, shunt, 'bridge_output_mv_per_v');
      within(
        shuntChange({ ...bridge, arm: 2 }),
        expected.reading_if_r2_shunted_mv_per_v,
        shunt,
        'reading_if_r2_shunted_mv_per_v',
      );
    });
    const leads = referenceCase('06_lead_resistance');
    leads.inputs.items.forEach((item: Record<string, number>, k: number) => {
      const of = (n: number) => leadDesensitisation(item.gauge_resistance, item.lead_resistance_each, n);
      within(of(1), leads.expected.items[k].three_wire_desensitisation, leads, 'three_wire_desensitisation');
      within(of(2), leads.expected.items[k].two_wire_desensitisation, leads, 'two_wire_desensitisation');
    });
    const two = referenceCase('06_two_point_correction');
    two.inputs.items.forEach(
      (
        item: { zero_reading: number; shunt_reading: number; shunt_target: number; raw_readings: number[] },
        k: number,
      ) => {
        const { gain, offset } = twoPointCorrection(item.zero_reading, item.shunt_reading, item.shunt_target);
        const expected = two.expected.items[k];
        within(gain, expected.gain, two, 'gain');
        item.raw_readings.forEach((raw, j) =>
          within(raw * gain + offset, expected.corrected[j], two, 'corrected'),
        );
      },
    );
  });
});

describe('tones', () => {
  const rate = 25_600;
  const record = (make: (t: number) => number, seconds = 2) =>
    Float64Array.from({ length: rate * seconds }, (_, i) => make(i / rate));
  const sine = (rms: number, hz: number, t: number, phase = 0.7) =>
    rms * Math.SQRT2 * Math.sin(2 * Math.PI * hz * t + phase);

  test('a tone is measured apart from hum, offset and noise, whatever its phase against the record', () => {
    const random = new Random(33);
    const signal = record((t) => 3 + sine(10, 159.21, t) + sine(2.5, 50, t) + 0.4 * random.gauss());
    const tone = measureTone(signal, rate, 159.15);
    expect(tone.frequencyHz).toBeCloseTo(159.21, 3);
    // A broad-band rms would read 3 % more.
    expect(Math.abs(tone.rms / 10 - 1)).toBeLessThan(3e-4);
    expect(tone.mean).toBeCloseTo(3, 1);
    expect(tone.noise).toBeCloseTo(Math.hypot(2.5, 0.4), 1);
  });

  test('distortion is the share of the harmonics, instability that of the level', () => {
    const pure = measureTone(
      record((t) => sine(1, 1000, t) + sine(0.012, 2000, t) + sine(0.009, 3000, t, 0)),
      rate,
      1000,
    );
    expect(pure.distortion).toBeCloseTo(0.015, 6);
    expect(pure.instability).toBeLessThan(1e-4);
    const swaying = measureTone(
      record((t) => (1 + 0.05 * Math.sin(2 * Math.PI * 0.5 * t)) * sine(1, 1000, t)),
      rate,
      1000,
    );
    expect(swaying.instability).toBeGreaterThan(0.03);
  });

  test('no tone, a tone elsewhere, a gap and too short a record are refused with the reason', () => {
    const random = new Random(3);
    expect(() =>
      measureTone(
        record(() => random.gauss()),
        rate,
        1000,
      ),
    ).toThrow(/no tone near 1000 Hz/);
    expect(() =>
      measureTone(
        record((t) => sine(1, 80, t)),
        rate,
        1000,
      ),
    ).toThrow(/no tone/);
    const gap = record((t) => sine(1, 1000, t));
    gap[500] = NaN;
    expect(() => measureTone(gap, rate, 1000)).toThrow(/missing/);
    expect(() => measureTone(new Float64Array(100), rate, 1000)).toThrow(/ten periods/);
    expect(() => measureTone(gap, rate, 20_000)).toThrow(/sample faster/);
  });
});

test('cross spectrum, coherence and both transfer estimates meet the reference case', () => {
  const reference = referenceCase('02_csd_coherence');
  const { x, y, nperseg, noverlap } = reference.inputs;
  const got = crossSpectrum(recipeSamples(x), recipeSamples(y), {
    sampleRateHz: x.fs,
    segmentLength: nperseg,
    window: 'Hann',
    overlap: noverlap / nperseg,
  });
  const most = Math.max(...reference.expected.pxy.re.map(Math.abs));
  reference.expected.coherence.forEach((expected: number, k: number) => {
    if (k === 0) return;
    within(got.coherence[k], expected, reference, 'coherence');
    expect(Math.abs(got.pxy.re[k] - reference.expected.pxy.re[k])).toBeLessThan(1e-7 * most);
    expect(Math.abs(got.pxy.im[k] - reference.expected.pxy.im[k])).toBeLessThan(1e-7 * most);
    expect(Math.abs(got.pxy.re[k] / got.pxx[k] - reference.expected.h1.re[k])).toBeLessThan(1e-6);
  });
});
