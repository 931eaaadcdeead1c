import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { RegressionSums } from '$core/fit/regression';
import { between, shaftOfPulses, shaftOfSpeed } from '$core/rotation/shaft';
import { pulsesOf, stateLevels } from '$core/signal/pulses';
import { ShockOscillator } from '$core/signal/shock';
import { bandPower, octaveBands, weightingDb } from '$core/spectrum/bands';
import { CrossAverage, crossSpectrum } from '$core/spectrum/cross';
import { SpectrumOverTime } from '$core/spectrum/over-time';
import { recipeSamples, referenceCase, within } from '../../reference';

const noise = (seed: number, n: number) =>
  recipeSamples({ fs: 1, n, terms: [{ kind: 'gauss12', sigma: 1, seed, rng: 'xorshift32' }] });

describe('spectrum over time', () => {
  const reference = referenceCase('02_spectrogram');
  const samples = recipeSamples(reference.inputs.signal);
  const options = {
    sampleRateHz: 2000,
    segmentLength: 256,
    window: 'Hamming',
    overlap: 0.75,
    removeMean: false,
  } as const;
  const over = (size: number, most?: number) => {
    const o = new SpectrumOverTime(options, most);
    for (let i = 0; i < samples.length; i += size) o.push(samples.subarray(i, i + size));
    return o.result();
  };
  test.each([1e9, 100])('meets the reference case, fed in blocks of %d', (size) => {
    const got = over(size);
    expect(got.slices).toBe(reference.expected.slice_count);
    reference.expected.times.forEach((t: number, i: number) =>
      expect((got.firstAt + i * got.step) / 2000).toBeCloseTo(t, 9),
    );
    for (const { index, psd } of reference.expected.slices) {
      const most = Math.max(...psd);
      psd.forEach((p: number, k: number) => {
        const value = got.density[k * got.slices + index];
        // Kept in single precision.
        expect(Math.abs(value - p)).toBeLessThan(1e-6 * p + 1e-9 * most);
      });
    }
    reference.expected.peak_bin_per_slice.forEach((bin: number, i: number) => {
      const column = Array.from({ length: got.lines }, (_, k) => got.density[k * got.slices + i]);
      expect(column.indexOf(Math.max(...column))).toBe(bin);
    });
  });
  test('more slices than can be drawn are averaged in groups: their mean stays', () => {
    const [whole, thin] = [over(1e9), over(1e9, 16)];
    expect(thin.slices).toBeLessThanOrEqual(16);
    const line = (o: typeof whole, k: number, i: number) => o.density[k * o.slices + i];
    const group = thin.step / whole.step;
    for (const k of [4, 20, 60]) {
      const mean =
        Array.from({ length: group }, (_, i) => line(whole, k, i)).reduce((a, b) => a + b, 0) / group;
      expect(line(thin, k, 0) / mean).toBeCloseTo(1, 4);
    }
    expect(thin.firstAt).toBeCloseTo(whole.firstAt + ((group - 1) * whole.step) / 2, 6);
  });
  test('a gap empties its slices alone; a record that is too short is refused', () => {
    const o = new SpectrumOverTime({ ...options, overlap: 0 });
    const holed = samples.slice(0, 1024);
    holed[300] = NaN;
    o.push(holed);
    const { density, slices } = o.result();
    expect([0, 1, 2, 3].map((i) => Number.isNaN(density[5 * slices + i]))).toEqual([
      false,
      true,
      false,
      false,
    ]);
    expect(() => new SpectrumOverTime(options).result()).toThrow(/needs 256 samples/);
  });
});

describe('cross spectra in blocks', () => {
  const x = noise(5, 6000);
  const y = x.map((v, i) => 0.7 * v - 0.4 * (x[i - 3] ?? 0));
  const options = { sampleRateHz: 100, segmentLength: 256, window: 'Hann' } as const;
  test('are those of the whole, wherever it is cut', () => {
    const whole = crossSpectrum(x, y, options);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 3000 }), (size) => {
        const average = new CrossAverage(options);
        for (let i = 0; i < x.length; i += size)
          average.push(x.subarray(i, i + size), y.subarray(i, i + size));
        expect(average.result()).toEqual(whole);
      }),
      { numRuns: 12 },
    );
  });
  test('segments that overlap by half scatter nearly as independent ones; without overlap they are', () => {
    const of = (overlap: number) => {
      const average = new CrossAverage({ ...options, overlap });
      average.push(x, y);
      return { segments: average.result().segments, independent: average.independent };
    };
    expect(of(0).independent).toBe(of(0).segments);
    // Hann by half: each pair shares (1/6)² of its power.
    const { segments, independent } = of(0.5);
    expect(independent / segments).toBeCloseTo(1 / (1 + 2 * (1 / 6) ** 2), 2);
    expect(of(0.9).independent).toBeLessThan(of(0.9).segments / 3);
  });
});

describe('shock response', () => {
  test('meets the reference case, in any blocks', () => {
    const reference = referenceCase('18_shock_response');
    const { fs, n, amplitude, duration_s, start_s, q } = reference.inputs;
    const x = Float64Array.from({ length: n }, (_, i) => {
      const t = i / fs - start_s;
      return t >= 0 && t <= duration_s ? amplitude * Math.sin((Math.PI * t) / duration_s) : 0;
    });
    for (const expected of reference.expected.spectrum) {
      const oscillator = new ShockOscillator(expected.f, q, fs);
      for (let i = 0; i < n; i += 37) oscillator.push(x.subarray(i, i + 37));
      const { positive, negative, maximax } = oscillator.line;
      within(positive, expected.positive, reference, 'default');
      within(negative, expected.negative, reference, 'default');
      within(maximax, expected.maximax, reference, 'default');
    }
  });
  test('a stiff mass follows its base, a soft one stands still', () => {
    const x = Float64Array.from({ length: 4000 }, (_, i) => Math.sin((2 * Math.PI * 20 * i) / 10_000));
    const at = (f: number) => {
      const o = new ShockOscillator(f, 10, 10_000);
      o.push(x);
      return o.line.maximax;
    };
    expect(at(2000)).toBeCloseTo(1, 1);
    expect(at(0.5)).toBeLessThan(0.06);
  });
});

describe('pulses', () => {
  const reference = referenceCase('15_pulse_parameters');
  type Item = Record<string, number> & { name: string; shape: string; starts_s: number[]; seed: number };
  const waveform = (item: Item) => {
    const clip = (v: number) => Math.min(1, Math.max(0, v));
    const shape = (q: number): number => {
      if (item.shape === 'trapezoid')
        return clip(q / item.rise_s) - clip((q - item.rise_s - item.flat_s) / item.fall_s);
      if (item.shape === 'gaussian') return Math.exp((-q * q) / (2 * item.sigma_s ** 2));
      if (q < 0) return 0;
      const reached = 1 - Math.exp(-item.gate_s / item.tau_s);
      return q < item.gate_s
        ? 1 - Math.exp(-q / item.tau_s)
        : reached * Math.exp(-(q - item.gate_s) / item.tau_s);
    };
    const added = item.noise_sigma ? noise(item.seed, item.n) : null;
    return Float64Array.from({ length: item.n }, (_, i) => {
      const t = i / item.fs;
      const sum = item.starts_s.reduce((all, s) => all + shape(t - s), 0);
      return item.base + (item.top - item.base) * sum + (added ? item.noise_sigma * added[i] : 0);
    });
  };
  test.each(
    reference.inputs.items.map((item: Item, k: number) => [item.name, item, k]) as [string, Item, number][],
  )('meet the reference case %s', (_, item: Item, k: number) => {
    const pulses = pulsesOf(waveform(item), item as never, { hysteresis: item.hysteresis_fraction });
    const expected = reference.expected.items[k].pulses;
    expect(pulses).toHaveLength(expected.length);
    pulses.forEach((p, i) => {
      const e = expected[i];
      const s = (samples: number) => samples / item.fs;
      within(s(p.riseAt), e.rise_50_s, reference, 'default');
      within(s(p.fallAt), e.fall_50_s, reference, 'default');
      within(s(p.rise), e.rise_time_s, reference, 'default');
      within(s(p.fall), e.fall_time_s, reference, 'default');
      within(s(p.width), e.width_s, reference, 'default');
      within(p.peak, e.peak, reference, 'default');
      within(p.overshoot * 100, e.overshoot_percent, reference, 'default');
    });
  });
  test('state levels are the fullest of the lower and of the upper half; pulses that go down are pulses, too', () => {
    const v = Float64Array.from({ length: 1000 }, (_, i) => (i % 100 < 30 ? -2 : 5) + (i % 7) * 0.001);
    const { base, top } = stateLevels(v);
    expect(base).toBeCloseTo(-2, 1);
    expect(top).toBeCloseTo(5, 1);
    const down = pulsesOf(v, { base: top, top: base });
    expect(down).toHaveLength(9);
    for (const p of down) expect(p.width).toBeCloseTo(30, 1);
    expect(stateLevels([3, 3, NaN]).top).toBeNaN();
  });
  test('one that rings settles once it stays within its band', () => {
    const v = Float64Array.from({ length: 400 }, (_, i) =>
      i < 50 || i > 350 ? 0 : 1 + 0.5 * Math.exp(-(i - 50) / 20) * Math.cos((i - 50) / 3),
    );
    const [p] = pulsesOf(v, { base: 0, top: 1 });
    expect(p.overshoot).toBeCloseTo(0.5, 1);
    const at = Math.round(p.riseAt + p.settling);
    expect(v.slice(at, 350).every((x) => Math.abs(x - 1) <= 0.02)).toBe(true);
    expect(Math.abs(v[at - 1] - 1)).toBeGreaterThan(0.02);
  });
});

describe('rotation', () => {
  test('pulses tell speed and revolutions as the reference case has them', () => {
    const reference = referenceCase('19_order_tracking');
    const shaft = shaftOfPulses(reference.inputs.edges_s, 1);
    reference.inputs.times_s.forEach((t: number, i: number) =>
      within(shaft.rpmAt(t), reference.expected.speed_rpm[i], reference, 'speed_rpm'),
    );
  });
  test('angle and time are inverse, rise together, and end where the pulses do', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.01, max: 2, noNaN: true }), { minLength: 2, maxLength: 30 }),
        fc.integer({ min: 1, max: 6 }),
        (gaps, pulses) => {
          let t = 3;
          const edges = [t, ...gaps.map((g) => (t += g))];
          const shaft = shaftOfPulses(edges, pulses);
          expect(shaft.revolutions).toBeCloseTo(gaps.length / pulses, 9);
          let last = -Infinity;
          for (let k = 0; k <= 40; k++) {
            const turn = (shaft.revolutions * k) / 40;
            const at = shaft.secondsAt(turn);
            expect(at).toBeGreaterThanOrEqual(last);
            last = at;
            if (k > 0 && k < 40) expect(shaft.secondsAt(shaft.revolutionsAt(at))).toBeCloseTo(at, 6);
          }
          expect(shaft.secondsAt(-0.01)).toBeNaN();
          expect(shaft.revolutionsAt(edges.at(-1)! + 0.1)).toBeNaN();
        },
      ),
    );
  });
  test('a speed channel is integrated; at rest, reversed or with a gap it says so', () => {
    const shaft = shaftOfSpeed(
      Float64Array.from({ length: 1001 }, (_, i) => 60 + 0.6 * i),
      2,
      0.01,
    );
    expect(shaft.revolutions).toBeCloseTo(60, 6);
    expect(shaft.rpmAt(7)).toBeCloseTo(360, 1);
    expect(shaftOfSpeed([0, 0, 60, 60], 0, 1).fromS).toBeGreaterThanOrEqual(1);
    expect(() => shaftOfSpeed([60, 60, -60], 0, 1)).toThrow(/other way at 2\.000 s/);
    expect(() => shaftOfSpeed([0, 0, 0], 0, 1)).toThrow(/no rotation/);
    expect(() => shaftOfSpeed([60, NaN, 60], 0, 1)).toThrow(/gap/);
    expect(() => shaftOfSpeed([60, Infinity, 60], 0, 1)).toThrow(/gap/);
    expect(() => shaftOfPulses([1], 1)).toThrow(/two pulses/);
  });
  test('a curve is read between its samples to the sixth order of their distance; near its ends by straight lines', () => {
    const at = (values: ArrayLike<number>, places: Float64Array) => {
      const out = new Float64Array(places.length);
      between(Float32Array.from(values), places, out);
      return out;
    };
    const worst = (n: number) => {
      const v = Float64Array.from({ length: n }, (_, i) => Math.sin((2 * Math.PI * i) / n));
      const places = Float64Array.from({ length: 200 }, (_, i) => 2 + (i * (n - 6)) / 200);
      return Math.max(...at(v, places).map((y, i) => Math.abs(y - Math.sin((2 * Math.PI * places[i]) / n))));
    };
    // At eight samples a period, as orders are read: a part in a thousand.
    expect(worst(8)).toBeLessThan(0.0012);
    expect(worst(8) / worst(16)).toBeGreaterThan(45);
    expect(Array.from(at([1, 3, 5], Float64Array.of(0, 0.5, 2, 2.5, -1)))).toEqual([1, 2, 5, NaN, NaN]);
  });
});

describe('regression', () => {
  test('finds what y was made from, with errors that hold it', () => {
    const [a, b, e] = [noise(11, 4000), noise(12, 4000), noise(13, 4000)];
    const x = [a.map((v) => 1e6 + v), b.map((v) => 1e-3 * v)];
    const y = a.map((v, i) => 7 + 2 * (1e6 + v) - 500 * (1e-3 * b[i]) + 0.1 * e[i]);
    const sums = new RegressionSums(2);
    for (let i = 0; i < 4000; i += 900)
      sums.push(
        x.map((c) => c.subarray(i, i + 900)),
        y.subarray(i, i + 900),
      );
    const r = sums.result();
    [2, -500].forEach((slope, k) =>
      expect(Math.abs(r.slopes[k] - slope)).toBeLessThan(4 * r.standardErrors[k + 1]),
    );
    expect(r.standardErrors[1]).toBeCloseTo(0.1 / Math.sqrt(4000), 4);
    expect(r.residual).toBeCloseTo(0.1, 2);
    expect(r.rSquared).toBeGreaterThan(0.99);
  });
  test('of one channel it is the straight line of the reference cases', () => {
    const reference = referenceCase('01_linear_regression');
    reference.inputs.datasets.forEach(({ x, y }: { x: number[]; y: number[] }, k: number) => {
      const sums = new RegressionSums(1);
      sums.push([x], y);
      const r = sums.result();
      const expected = reference.expected.datasets[k];
      within(r.slopes[0], expected.slope, reference, 'slope');
      within(r.offset, expected.offset, reference, 'offset');
      within(r.standardErrors[1], expected.standard_error_slope, reference, 'standard_error_slope');
      within(r.standardErrors[0], expected.standard_error_offset, reference, 'standard_error_offset');
      within(r.rSquared, expected.r_squared, reference, 'r_squared');
    });
  });
  test('channels that say the same, and too few samples, are refused; missing rows are passed over', () => {
    const x = noise(3, 50);
    const same = new RegressionSums(2);
    same.push([x, x.map((v) => 2 * v + 1)], x);
    expect(() => same.result()).toThrow(/leave it out/);
    const few = new RegressionSums(1);
    few.push([[1, 2, NaN]], [1, NaN, 3]);
    expect(few.missing).toBe(2);
    expect(() => few.result()).toThrow(/1 complete samples/);
  });
});

describe('bands and weightings', () => {
  test('exact frequencies and names of fractional octaves meet the reference cases', () => {
    const reference = referenceCase('03_fractional_octave_bands');
    type Expected = { mid: number; lower: number; upper: number; nominal?: number };
    const sets: [number, Expected[]][] = [
      [3, reference.expected.third_octave],
      ...reference.expected.other_sets.map((s: { fraction: number; bands: Expected[] }) => [
        s.fraction,
        s.bands,
      ]),
    ];
    for (const [fraction, expected] of sets) {
      const bands = octaveBands(fraction, expected[0].mid * 0.999, expected.at(-1)!.mid * 1.001);
      expect(bands).toHaveLength(expected.length);
      bands.forEach((b, k) => {
        within(b.midHz, expected[k].mid, reference, 'default');
        within(b.lowHz, expected[k].lower, reference, 'default');
        within(b.highHz, expected[k].upper, reference, 'default');
        if (expected[k].nominal) expect(b.nominal).toBe(expected[k].nominal);
      });
    }
  });
  test('A and C meet the reference cases, the table of the standard and the levels of a spectrum', () => {
    const reference = referenceCase('03_weighting_a_c');
    for (const row of reference.expected.table) {
      within(weightingDb('A', row.exact_frequency), row.a_exact_db, reference, 'a_exact_db');
      within(weightingDb('C', row.exact_frequency), row.c_exact_db, reference, 'c_exact_db');
      within(weightingDb('A', row.exact_frequency), row.a_table_db, reference, 'a_table_db');
      within(weightingDb('C', row.exact_frequency), row.c_table_db, reference, 'c_table_db');
    }
    for (const { frequency, a_db, c_db } of reference.expected.others) {
      within(weightingDb('A', frequency), a_db, reference, 'a_db');
      within(weightingDb('C', frequency), c_db, reference, 'c_db');
    }
    expect(weightingDb('Z', 12)).toBe(0);
    expect(weightingDb('A', 0)).toBe(-Infinity);
  });
  test('bands side by side hold all the power, whatever their edges', () => {
    const density = noise(8, 200).map((v) => v * v);
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 100, noNaN: true }), { minLength: 1, maxLength: 9 }),
        (cuts) => {
          const edges = [0, ...cuts.sort((a, b) => a - b), 100];
          const parts = edges.slice(1).reduce((sum, to, k) => sum + bandPower(density, 0.5, edges[k], to), 0);
          expect(parts).toBeCloseTo(bandPower(density, 0.5, 0, 100), 9);
        },
      ),
    );
    expect(bandPower([1, 1, 1], 2, 1, 3)).toBe(2);
  });
});
