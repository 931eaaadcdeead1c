import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { integrated, differentiated } from '$core/filters/calculus';
import { Cascade, bothWays, endSamples } from '$core/filters/cascade';
import {
  designFilter,
  designNarrow,
  responseOf,
  settlingSamples,
  type Band,
  type Family,
  type Section,
} from '$core/filters/design';
import { convolve, designFir, firResponse } from '$core/filters/fir';
import { halved } from '$core/filters/halve';
import { Resampler } from '$core/filters/resample';
import { localPolynomial, movingMeans, movingMedians, smoothedLocally } from '$core/filters/smoothing';
import { rosetteState } from '$core/sensors/rosette';
import { kaiserWindow, scallopingDb, spectralWindow, type WindowName } from '$core/spectrum/windows';
import { recipeSamples, referenceCase, within } from '../../reference';

const BAND: Record<string, Band> = {
  lowpass: 'low pass',
  highpass: 'high pass',
  bandpass: 'band pass',
  bandstop: 'band stop',
};
interface Design {
  id: string;
  family: string;
  band: string;
  order: number;
  edges: number[];
  fs: number;
  ripple_db: number;
  stop_db: number;
  norm: string;
  frequencies: number[];
}
const family = (d: Design): Family =>
  d.family === 'chebyshev1'
    ? { family: 'chebyshev', rippleDb: d.ripple_db }
    : d.family === 'chebyshev2'
      ? { family: 'inverse chebyshev', attenuationDb: d.stop_db }
      : d.family === 'bessel'
        ? { family: 'bessel', norm: d.norm === 'mag' ? '−3 dB at the edge' : 'phase' }
        : { family: 'butterworth' };
const designed = (d: Design) =>
  designFilter({ ...family(d), band: BAND[d.band], order: d.order, edgesHz: d.edges }, d.fs);
const sectionsOf = (sos: number[][]): Section[] =>
  sos.map(([b0, b1, b2, , a1, a2]) => ({ b0, b1, b2, a1, a2 }));
const largest = (values: ArrayLike<number>) => Math.max(...Array.from(values, Math.abs));

describe('recursive filters meet the reference cases', () => {
  const reference = referenceCase('03_iir_designs');
  reference.inputs.designs.forEach((design: Design, k: number) => {
    test(`${design.id}: response and poles`, () => {
      const expected = reference.expected.designs[k];
      const sections = designed(design);
      expect(sections).toHaveLength(expected.sections);
      design.frequencies.forEach((f, i) => {
        const [re, im] = responseOf(sections, f, design.fs);
        within(re, expected.response.re[i], reference, 'response');
        within(im, expected.response.im[i], reference, 'response');
        const db = 20 * Math.log10(Math.hypot(re, im));
        if (expected.magnitude_db[i] > -120) within(db, expected.magnitude_db[i], reference, 'magnitude_db');
      });
      const poles = sections
        .flatMap(({ a1, a2 }) => {
          const inside = a1 * a1 - 4 * a2;
          if (inside < 0) return [[-a1 / 2, Math.sqrt(-inside) / 2]];
          const root = Math.sqrt(inside);
          return [(-a1 + root) / 2, (-a1 - root) / 2].map((re) => [re, 0]);
        })
        .filter(([re, im]) => Math.hypot(re, im) > 1e-9);
      for (const pole of expected.poles_upper_half as { re: number; im: number }[])
        expect(Math.min(...poles.map(([re, im]) => Math.hypot(re - pole.re, im - pole.im)))).toBeLessThan(
          1e-6,
        );
    });
  });

  test('notch and peak', () => {
    const narrow = referenceCase('03_notch_peak');
    narrow.inputs.filters.forEach(
      (f: { kind: string; f0: number; q: number; fs: number; frequencies: number[] }, k: number) => {
        const sections = designNarrow(f.kind === 'notch' ? 'stop' : 'pass', f.f0, f.q, f.fs);
        f.frequencies.forEach((hz, i) => {
          const [re, im] = responseOf(sections, hz, f.fs);
          within(re, narrow.expected.filters[k].response.re[i], narrow, 'response');
          within(im, narrow.expected.filters[k].response.im[i], narrow, 'response');
        });
      },
    );
  });

  test('from rest, from the steady state, forward and backward', () => {
    const filtering = referenceCase('03_sos_filtering');
    const x = recipeSamples(filtering.inputs.signal);
    filtering.inputs.filters.forEach((f: { sos: number[][]; padlen: number }, k: number) => {
      const expected = filtering.expected.filters[k];
      const sections = sectionsOf(f.sos);
      const compare = (got: Float64Array, wanted: number[]) =>
        got.forEach((v, i) => within(v, wanted[i], filtering, 'default', largest(wanted)));
      const rest = x.slice();
      new Cascade(sections).run(rest);
      compare(rest, expected.forward_zero_state);
      const steady = x.slice();
      const cascade = new Cascade(sections);
      cascade.settle(x[0]);
      // In two calls: what is held goes on.
      cascade.run(steady, 0, 101);
      cascade.run(steady, 101);
      compare(steady, expected.forward_steady_state);
      expect(endSamples(sections)).toBe(f.padlen);
      const both = x.slice();
      bothWays(sections, both);
      compare(both, expected.forward_backward);
    });
  });
});

test('filters by the window method, and decimated records, meet the reference cases', () => {
  const reference = referenceCase('03_fir_designs');
  const WINDOW: Record<string, WindowName> = {
    hamming: 'Hamming',
    hann: 'Hann',
    blackmanharris: 'Blackman-Harris',
  };
  reference.inputs.designs.forEach(
    (d: Design & { taps: number; window: string; beta: number }, k: number) => {
      const window =
        d.window === 'kaiser'
          ? kaiserWindow(d.beta, d.taps)
          : spectralWindow(WINDOW[d.window], d.taps, 'symmetric');
      const taps = designFir(BAND[d.band], d.edges, window, d.fs);
      const expected = reference.expected.designs[k];
      taps.forEach((t, i) => within(t, expected.taps[i], reference, 'default'));
      d.frequencies.forEach((f, i) => {
        const delay = (2 * Math.PI * f * ((d.taps - 1) / 2)) / d.fs;
        const size = firResponse(taps, f, d.fs);
        within(size * Math.cos(delay), expected.response.re[i], reference, 'response');
        within(-size * Math.sin(delay), expected.response.im[i], reference, 'response');
      });
    },
  );
  const decimation = referenceCase('03_decimation');
  const x = recipeSamples(decimation.inputs.signal);
  const [fir, iir] = decimation.inputs.decimators;
  const around = new Float64Array(x.length + fir.taps.length - 1);
  around.set(x, (fir.taps.length - 1) / 2);
  const filtered = convolve(around, Float64Array.from(fir.taps));
  const both = x.slice();
  bothWays(sectionsOf(iir.sos), both, iir.padlen);
  [filtered, both].forEach((values, k) => {
    const { factor } = decimation.inputs.decimators[k];
    const wanted = decimation.expected.decimators[k].samples as number[];
    wanted.forEach((v, i) => within(values[i * factor], v, decimation, 'default', largest(wanted)));
  });
});

test('Kaiser’s window and what a window lowers between two lines meet the reference cases', () => {
  const reference = referenceCase('02_windows');
  const kaiser = reference.expected.windows.find((w: { name: string }) => w.name === 'kaiser');
  spectralWindow('Kaiser β 8.6', reference.inputs.N).forEach((w, i) =>
    within(w, kaiser.periodic[i], reference, 'default'),
  );
  const NAMES: Record<string, WindowName> = {
    boxcar: 'rectangular',
    hann: 'Hann',
    hamming: 'Hamming',
    flattop: 'flat top',
    blackmanharris: 'Blackman-Harris',
    kaiser: 'Kaiser β 8.6',
  };
  for (const w of reference.expected.windows)
    within(
      -scallopingDb(spectralWindow(NAMES[w.name], reference.inputs.N_figures)),
      w.scalloping_loss_db,
      reference,
      'scalloping_loss_db',
    );
});

test('integral, derivative and local polynomial meet the reference cases', () => {
  const integration = referenceCase('04_integration');
  const record = recipeSamples(integration.inputs.record);
  const { fs } = integration.inputs.record;
  const compare = (got: Float64Array, wanted: number[], reference = integration) =>
    wanted.forEach((v, i) => within(got[i], v, reference, 'default', largest(wanted)));
  const trapezoid = integrated(record, fs);
  compare(trapezoid, integration.expected.trapezoid);
  const pass = (x: Float64Array) => {
    const out = x.slice();
    new Cascade(sectionsOf(integration.inputs.high_pass_sos)).run(out);
    return out;
  };
  const velocity = pass(trapezoid);
  compare(velocity, integration.expected.chain_velocity);
  compare(pass(integrated(velocity, fs)), integration.expected.chain_displacement);

  const differentiation = referenceCase('04_differentiation');
  const x = recipeSamples(differentiation.inputs.signal);
  const rate = differentiation.inputs.signal.fs;
  compare(differentiated(x, rate), differentiation.expected.central, differentiation);
  const { window_length, order } = differentiation.inputs.polynomial;
  const half = (window_length - 1) / 2;
  const slopes = smoothedLocally(x, half, order, 'slope').map((v) => v * rate);
  compare(slopes.slice(half, -half), differentiation.expected.polynomial_interior, differentiation);
});

test('rosettes meet the reference cases', () => {
  const reference = referenceCase('06_rosettes');
  reference.inputs.items.forEach((item: Record<string, never>, k: number) => {
    const got = rosetteState(
      item.rosette,
      item.microstrain_a,
      item.microstrain_b,
      item.microstrain_c,
      item.youngs_modulus_mpa * 1e-6,
      item.poisson,
    );
    const expected = reference.expected.items[k];
    within(got.strain1, expected.principal_strain_1_microstrain, reference, 'default');
    within(got.strain2, expected.principal_strain_2_microstrain, reference, 'default');
    within(got.angleDeg, expected.angle_deg, reference, 'default');
    within(got.stress1, expected.principal_stress_1_mpa, reference, 'default');
    within(got.stress2, expected.principal_stress_2_mpa, reference, 'default');
    within(got.vonMises, expected.von_mises_mpa, reference, 'default');
  });
});

describe('what holds of any filter', () => {
  const anyFamily = fc.constantFrom<Family>(
    { family: 'butterworth' },
    { family: 'chebyshev', rippleDb: 0.5 },
    { family: 'inverse chebyshev', attenuationDb: 40 },
    { family: 'bessel', norm: '−3 dB at the edge' },
  );

  test('it is stable, passes its band and stops the other, up to order 10', () => {
    fc.assert(
      fc.property(
        anyFamily,
        fc.integer({ min: 1, max: 10 }),
        fc.double({ min: 0.002, max: 0.45, noNaN: true }),
        fc.constantFrom<Band>('low pass', 'high pass'),
        (kind, order, share, band) => {
          const sections = designFilter({ ...kind, band, order, edgesHz: [share * 1000] }, 1000);
          for (const { a2 } of sections) expect(Math.abs(a2)).toBeLessThan(1);
          const passing = band === 'low pass' ? 1e-6 : 499.999;
          const size = Math.hypot(...responseOf(sections, passing, 1000));
          const ripple = kind.family === 'chebyshev' && order % 2 === 0 ? 10 ** (-0.5 / 20) : 1;
          expect(size).toBeCloseTo(ripple, 3);
          const edge = Math.hypot(...responseOf(sections, share * 1000, 1000));
          const wanted = { butterworth: Math.SQRT1_2, bessel: Math.SQRT1_2, chebyshev: 10 ** (-0.5 / 20), 'inverse chebyshev': 0.01 }; // prettier-ignore
          expect(edge / wanted[kind.family]).toBeCloseTo(1, 4);
        },
      ),
      { numRuns: 200 },
    );
  });

  test('both ways a tone keeps its phase, and its size by the square of the response', () => {
    const sections = designFilter({ family: 'butterworth', band: 'low pass', order: 4, edgesHz: [40] }, 1000);
    const x = Float64Array.from({ length: 4000 }, (_, i) => Math.cos((2 * Math.PI * 30 * i) / 1000));
    const y = x.slice();
    bothWays(sections, y);
    const gain = Math.hypot(...responseOf(sections, 30, 1000)) ** 2;
    for (let i = 1000; i < 3000; i++) expect(y[i]).toBeCloseTo(gain * x[i], 6);
  });

  test('both ways is the same forwards and backwards in time, in the middle of a record', () => {
    const sections = designFilter({ family: 'chebyshev', rippleDb: 1, band: 'band pass', order: 3, edgesHz: [50, 120] }, 1000); // prettier-ignore
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 50, maxLength: 300 }),
        (values) => {
          const quiet = settlingSamples(sections, 1e-12);
          const x = new Float64Array(values.length + 2 * quiet);
          x.set(values, quiet);
          const y = x.slice();
          bothWays(sections, y);
          const z = x.toReversed();
          bothWays(sections, z);
          z.reverse();
          for (let i = 0; i < x.length; i++) expect(Math.abs(y[i] - z[i])).toBeLessThan(1e-8);
        },
      ),
      { numRuns: 20 },
    );
  });

  test('an impulse has died out after the samples that it is said to take', () => {
    const sections = designFilter({ family: 'butterworth', band: 'low pass', order: 8, edgesHz: [2] }, 1000);
    const n = settlingSamples(sections, 1e-9);
    const x = new Float64Array(3 * n);
    x[0] = 1;
    new Cascade(sections).run(x);
    expect(largest(x.subarray(n)) / largest(x)).toBeLessThan(1e-6);
    expect(largest(x.subarray(Math.floor(n / 10))) / largest(x)).toBeGreaterThan(1e-6);
  });

  test.each([
    ['low pass', [600], /between 0 and 500 Hz/],
    ['low pass', [0], /between 0 and 500 Hz/],
    ['band pass', [80, 40], /first has to lie below/],
  ] as [Band, number[], RegExp][])('%s at %j Hz is refused', (band, edgesHz, why) => {
    expect(() => designFilter({ family: 'butterworth', band, order: 2, edgesHz }, 1000)).toThrow(why);
    expect(() => designFir(band, edgesHz, spectralWindow('Hann', 31, 'symmetric'), 1000)).toThrow(why);
  });
});

describe('smoothing', () => {
  const values = fc.array(fc.double({ min: -100, max: 100, noNaN: true }), { minLength: 30, maxLength: 200 });
  const halves = fc.integer({ min: 2, max: 7 });

  test('means and medians are those of the values about each', () => {
    fc.assert(
      fc.property(values, halves, (list, half) => {
        const x = Float64Array.from(list);
        const means = movingMeans(x, half);
        const medians = movingMedians(x, half);
        x.forEach((_, i) => {
          const about = Array.from(x.subarray(Math.max(0, i - half), i + half + 1)).sort((a, b) => a - b);
          const mean = about.reduce((sum, v) => sum + v, 0) / about.length;
          expect(Math.abs(means[i] - mean)).toBeLessThan(1e-9);
          const mid = about.length >> 1;
          // Zero has two signs.
          expect(medians[i] + 0).toBe(
            (about.length % 2 ? about[mid] : (about[mid - 1] + about[mid]) / 2) + 0,
          );
        });
      }),
    );
  });

  test('a polynomial of its order passes a local polynomial unchanged, up to the ends; its slope is its slope', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 4, maxLength: 4 }),
        halves,
        (c, half) => {
          const at = (t: number) => c[0] + c[1] * t + c[2] * t ** 2 + c[3] * t ** 3;
          const x = Float64Array.from({ length: 60 }, (_, i) => at(i / 30));
          const y = smoothedLocally(x, half, 3);
          const slope = smoothedLocally(x, half, 3, 'slope');
          x.forEach((v, i) => {
            expect(Math.abs(y[i] - v)).toBeLessThan(1e-9);
            const t = i / 30;
            expect(Math.abs(slope[i] * 30 - (c[1] + 2 * c[2] * t + 3 * c[3] * t * t))).toBeLessThan(1e-8);
          });
        },
      ),
    );
    expect(localPolynomial(2, 2).map((w) => Math.round(w * 35))).toEqual(Float64Array.of(-3, 12, 17, 12, -3));
  });

  test('the derivative of an integral is the mean of two neighbours', () => {
    fc.assert(
      fc.property(values, (list) => {
        const x = Float64Array.from(list);
        const back = differentiated(integrated(x, 50), 50);
        for (let i = 1; i < x.length - 1; i++)
          expect(Math.abs(back[i] - (x[i - 1] + 2 * x[i] + x[i + 1]) / 4)).toBeLessThan(1e-9);
      }),
    );
  });
});

describe('from one rate to another', () => {
  const rates = fc.record({ num: fc.integer({ min: 20, max: 5000 }), den: fc.integer({ min: 1, max: 7 }) });

  test('a tone in the narrower band stays what it is, a constant to the last digit', () => {
    fc.assert(
      fc.property(rates, rates, fc.double({ min: 0.01, max: 0.78, noNaN: true }), (from, to, share) => {
        const [a, b] = [from.num / from.den, to.num / to.den];
        fc.pre(a / b < 50 && b / a < 50);
        const f = (share * Math.min(a, b)) / 2;
        const resampler = new Resampler(from, to);
        const first = Math.ceil((resampler.reach + 1) * (b / a)) + 17;
        const tone = resampler.read(first, 40, (at, n) =>
          Array.from({ length: n }, (_, i) => Math.sin((2 * Math.PI * f * (at + i)) / a)),
        );
        tone.forEach((v, i) =>
          expect(Math.abs(v - Math.sin((2 * Math.PI * f * (first + i)) / b))).toBeLessThan(3e-5),
        );
        for (const v of resampler.read(first, 5, (_, n) => new Float64Array(n).fill(7)))
          expect(v).toBeCloseTo(7, 10);
      }),
      { numRuns: 60 },
    );
  });

  test('what the new rate cannot hold is taken out by 100 dB', () => {
    const resampler = new Resampler({ num: 8000, den: 1 }, { num: 1000, den: 1 });
    for (const f of [500, 620, 999, 1730, 3900]) {
      const out = resampler.read(500, 200, (at, n) =>
        Array.from({ length: n }, (_, i) => Math.sin((2 * Math.PI * f * (at + i)) / 8000 + 0.3)),
      );
      expect(largest(out)).toBeLessThan(1.2e-5);
    }
  });

  test('a piece is the same as a part of the whole, far into a record', () => {
    const resampler = new Resampler({ num: 51200, den: 3 }, { num: 1000, den: 7 });
    const read = (at: number, n: number) => Array.from({ length: n }, (_, i) => Math.sin((at + i) * 0.01));
    const whole = resampler.read(1_000_000, 100, read);
    const piece = resampler.read(1_000_050, 50, read);
    piece.forEach((v, i) => expect(Math.abs(v - whole[50 + i])).toBeLessThan(1e-7));
  });
});

describe('at half the rate', () => {
  const tone = (f: number, n = 4000) =>
    Float32Array.from({ length: n }, (_, i) => Math.sin(2 * Math.PI * f * i + 0.4));
  test('what is up to 0.1 of the new rate stays where and as large as it is; what would fold onto it is gone', () => {
    for (const f of [0.001, 0.02, 0.05])
      halved(tone(f)).forEach((v, k) => {
        if (k > 30 && k < 1970)
          expect(Math.abs(v - Math.sin(2 * Math.PI * f * 2 * k + 0.4))).toBeLessThan(1e-4);
      });
    for (const f of [0.45, 0.47, 0.4999])
      expect(largest(halved(tone(f)).subarray(30, 1970))).toBeLessThan(10 ** (-78 / 20));
  });
  test('a constant stays itself to its ends, any length goes, a gap takes along what lies within reach of it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 200 }), (n) => {
        const out = halved(new Float32Array(n).fill(3));
        expect(out).toHaveLength(Math.ceil(n / 2));
        for (const v of out) expect(v).toBeCloseTo(3, 5);
      }),
    );
    const x = new Float32Array(400).fill(1);
    x[200] = NaN;
    halved(x).forEach((v, k) => {
      if (Math.abs(2 * k - 200) > 7) expect(v).toBeCloseTo(1, 5);
    });
    expect(halved(x)[100]).toBeNaN();
    expect(halved(new Float32Array(0))).toHaveLength(0);
  });
});
