import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import { BURST_MEASURES, burstsOf, statisticsOf } from '$core/radio/bursts';
import { countedFrequency } from '$core/radio/counting';
import { mw, voltsAt } from '$core/radio/levels';
import { Crossings, OVER_TIME, overTime } from '$core/radio/over-time';
import { frequencyUncertainty, levelUncertainty } from '$core/radio/uncertainty';
import { pulsesOf } from '$core/signal/pulses';
import { noise, sum, tone } from './signals';

const RATE = 1_000_000;

/** Pulses of a carrier with straight edges of the magnitude. */
function keyed(
  n: number,
  own: {
    level: number;
    hz: number;
    sweepHz?: number;
    starts: number[];
    width: number;
    edge: number;
    droopDb?: number;
  },
) {
  const v = voltsAt(own.level);
  const out = new Float32Array(2 * n);
  for (const start of own.starts) {
    let phase = 0;
    for (let i = Math.floor(start - own.edge); i < start + own.width + 2 * own.edge && i < n; i++) {
      if (i < 0) continue;
      const t = i - start;
      // Half of the height at the start and at the start plus the width.
      const up = Math.max(0, Math.min(1, t / own.edge + 0.5));
      const down = Math.max(0, Math.min(1, (own.width - t) / own.edge + 0.5));
      const droop = 10 ** ((-(own.droopDb ?? 0) * Math.max(0, Math.min(1, t / own.width))) / 20);
      const hz = own.hz + (own.sweepHz ?? 0) * (t / own.width - 0.5);
      phase += (2 * Math.PI * hz) / RATE;
      out[2 * i] += v * Math.min(up, down) * droop * Math.cos(phase);
      out[2 * i + 1] += v * Math.min(up, down) * droop * Math.sin(phase);
    }
  }
  return out;
}

describe('pulses of a carrier', () => {
  const starts = [2000.3, 7000.3, 12_000.3, 17_000.3];
  const iq = sum(
    keyed(20_000, { level: -35, hz: 20_000, starts, width: 1152, edge: 23 }),
    noise(20_000, RATE, -148, 4),
  );
  const bursts = burstsOf(iq, RATE);

  test('have their width, period, duty, edges, levels and frequency', () => {
    expect(bursts).toHaveLength(4);
    bursts.forEach((b, k) => {
      expect(b.atS * RATE).toBeCloseTo(starts[k], 0);
      expect(b.widthS * 1e6).toBeCloseTo(1152, 0);
      // 10 to 90 % of a straight edge are eight tenths of it.
      expect(Math.abs(b.riseS * 1e6 - 0.8 * 23)).toBeLessThan(0.5);
      expect(Math.abs(b.fallS * 1e6 - 0.8 * 23)).toBeLessThan(0.5);
      expect(b.top).toBeCloseTo(-35, 1);
      expect(b.base).toBeCloseTo(-88, 0);
      expect(b.onToOff).toBeCloseTo(53, 0);
      expect(b.frequencyHz).toBeCloseTo(20_000, -1);
      expect(Math.abs(b.droop)).toBeLessThan(0.05);
      expect(b.over).toBeGreaterThan(0);
      expect(b.over).toBeLessThan(0.2);
    });
    for (const b of bursts.slice(0, 3)) {
      expect(b.periodS * 1e6).toBeCloseTo(5000, 0);
      expect(b.duty).toBeCloseTo(0.2304, 3);
    }
    expect(bursts[3].periodS).toBeNaN();
  });

  test('have statistics of those that have the measure', () => {
    const period = statisticsOf(bursts, 'periodS');
    expect(period.mean * 1e6).toBeCloseTo(5000, 1);
    expect(period.s * 1e6).toBeLessThan(0.2);
    expect(period.least).toBeLessThanOrEqual(period.mean);
    for (const [key] of BURST_MEASURES)
      expect(Number.isFinite(statisticsOf(bursts, key).mean), key).toBe(true);
  });

  test('edges are timed between the shares that are asked for', () => {
    const [b] = burstsOf(iq, RATE, [0.2, 0.8]);
    expect(Math.abs(b.riseS * 1e6 - 0.6 * 23)).toBeLessThan(0.5);
  });

  test('droop and a sweep inside are found', () => {
    const own = burstsOf(
      sum(
        keyed(20_000, { level: -30, hz: 0, sweepHz: 96_000, starts, width: 1152, edge: 10, droopDb: 1.2 }),
        noise(20_000, RATE, -150, 4),
      ),
      RATE,
    );
    expect(own).toHaveLength(4);
    for (const b of own) {
      expect(b.droop / 1.2).toBeGreaterThan(0.97);
      expect(b.droop / 1.2).toBeLessThan(1.03);
      expect(b.sweepHz / 96_000).toBeGreaterThan(0.98);
      expect(b.sweepHz / 96_000).toBeLessThan(1.02);
      expect(Math.abs(b.frequencyHz)).toBeLessThan(200);
    }
  });

  test('noise alone, silence and a carrier that is always there have none', () => {
    expect(burstsOf(new Float32Array(2000), RATE)).toEqual([]);
    expect(burstsOf(tone(4000, RATE, 1000, -30), RATE)).toEqual([]);
    expect(burstsOf(new Float32Array(0), RATE)).toEqual([]);
  });

  test('the edges of the reference’s pulses may be other shares, too', () => {
    const ramp = Array.from(
      { length: 400 },
      (_, i) => Math.max(0, Math.min(1, (i - 100) / 50)) - Math.max(0, Math.min(1, (i - 300) / 50)),
    );
    const [ten] = pulsesOf(ramp, { base: 0, top: 1 });
    const [twenty] = pulsesOf(ramp, { base: 0, top: 1 }, { edges: [0.2, 0.8] });
    expect([ten.rise, twenty.rise]).toEqual([expect.closeTo(40, 6), expect.closeTo(30, 6)]);
  });
});

describe('complex samples over time', () => {
  const iq = tone(1000, RATE, 12_500, -47, 0.3);

  test('power, magnitude, phase and frequency of a tone are what it is made of', () => {
    for (const v of overTime(iq, 'power', RATE)) expect(v).toBeCloseTo(-47, 3);
    for (const v of overTime(iq, 'magnitude', RATE)) expect(v).toBeCloseTo(voltsAt(-47), 7);
    const f = overTime(iq, 'frequency', RATE);
    expect(f[0]).toBeNaN();
    for (const v of f.subarray(1)) expect(Math.abs(v - 12_500)).toBeLessThan(1);
    // Twelve and a half turns in a thousand samples at a millionth of a second: unwrapped.
    const phase = overTime(iq, 'phase', RATE);
    expect(phase[999] - phase[0]).toBeCloseTo((360 * 12_500 * 999) / RATE, 1);
  });

  test('I and Q make the magnitude again, whatever comes', () => {
    fc.assert(
      fc.property(
        fc.array(fc.float({ noNaN: true, min: -1, max: 1 }), { minLength: 2, maxLength: 40 }),
        (values) => {
          const own = Float32Array.from(values.slice(0, values.length & ~1));
          const [i, q, m] = (['I', 'Q', 'magnitude'] as const).map((what) => overTime(own, what, RATE));
          m.forEach((v, k) => expect(v).toBeCloseTo(Math.hypot(i[k], q[k]), 5));
        },
      ),
    );
    for (const what of OVER_TIME) expect(overTime(iq, what, RATE)).toHaveLength(1000);
  });

  test('the phase of what is too weak says nothing', () => {
    const weak = iq.slice();
    weak.fill(0, 200, 300);
    const f = overTime(weak, 'frequency', RATE, 1e-6);
    for (let k = 100; k < 150; k++) expect(f[k]).toBeNaN();
    // Nor does the first sample after it: what it came from is not known.
    expect(f[150]).toBeNaN();
    expect(f[151]).toBeCloseTo(12_500, -1);
  });
});

describe('a picture begins', () => {
  const steps = (...levels: number[]) => {
    const out = new Float32Array(2 * levels.length);
    levels.forEach((l, k) => (out[2 * k] = voltsAt(l)));
    return out;
  };
  const begin = { level: -50, way: 'rises above' as const, back: 3, waitS: 0 };

  test('where the power rises above the level, once until it has gone back', () => {
    const c = new Crossings(begin, RATE);
    expect(c.push(steps(-80, -40, -51, -49, -60, -45, -45), 100)).toEqual([101, 105]);
  });
  test('not where it stands above it from the start on', () => {
    const c = new Crossings(begin, RATE);
    expect(c.push(steps(-40, -40, -40), 0)).toEqual([]);
    expect(c.push(steps(-60, -40), 3)).toEqual([4]);
  });
  test('where it falls below', () => {
    const c = new Crossings({ ...begin, way: 'falls below' }, RATE);
    expect(c.push(steps(-60, -40, -60, -48, -55, -40, -51), 0)).toEqual([2, 6]);
  });
  test('and no other for as long as it waits, across blocks', () => {
    const c = new Crossings({ ...begin, waitS: 5e-6 }, RATE);
    expect([...c.push(steps(-80, -40, -80, -40), 0), ...c.push(steps(-80, -40, -80, -40), 4)]).toEqual([
      1, 7,
    ]);
  });
  test('a sample that is no number begins nothing, and what follows it has to come from below', () => {
    const c = new Crossings(begin, RATE);
    const iq = steps(-80, -80, -40, -80, -40);
    iq[2] = NaN;
    expect(c.push(iq, 0)).toEqual([4]);
  });
});

describe('counting', () => {
  test('finds a frequency far finer than its lines, and its ± holds', () => {
    let outside = 0;
    for (let k = 0; k < 40; k++) {
      const hz = 123_456.7 + k * 3.1;
      const iq = sum(tone(50_000, RATE, hz, -60, k), noise(50_000, RATE, -130, k + 1));
      const got = countedFrequency(iq, RATE, 123_500, 5000);
      expect(Math.abs(got.hz - hz)).toBeLessThan(0.5);
      expect(got.expandedHz).toBeGreaterThan(0);
      if (Math.abs(got.hz - hz) > got.expandedHz) outside++;
    }
    // 95 %: two of forty, and not more than six by chance.
    expect(outside).toBeLessThanOrEqual(6);
  });
  test('needs samples enough, and says how many', () => {
    expect(() => countedFrequency(new Float32Array(100), RATE, 0, 5000)).toThrow(FarrierError);
  });
});

describe('how well it is known', () => {
  const accuracy = { levelDb: 0.5, flatnessDb: 0.3, clock: 1e-6 };
  test('the ± of a strong tone is that of the receiver; noise has its scatter on top, less with more transforms', () => {
    const strong = levelUncertainty(accuracy, 80, 100);
    expect(strong).toBeCloseTo((2 * Math.hypot(0.5, 0.3)) / Math.sqrt(3), 2);
    expect(levelUncertainty(accuracy, 0, 1)).toBeGreaterThan(8);
    expect(levelUncertainty(accuracy, 0, 10_000)).toBeLessThan(0.7);
  });
  test('scatter of noise lines is as it is said: 4.34 dB over the root of independent transforms', () => {
    const n = 64;
    const lines = Array.from({ length: 4000 }, (_, k) => {
      const iq = noise(n, RATE, -100, k + 1);
      let p = 0;
      for (let i = 0; i < n; i++) p += iq[2 * i] ** 2 + iq[2 * i + 1] ** 2;
      return 10 * Math.log10(p / n);
    });
    const mean = lines.reduce((a, b) => a + b, 0) / lines.length;
    const s = Math.sqrt(lines.reduce((a, b) => a + (b - mean) ** 2, 0) / lines.length);
    // n samples of white noise are n independent transforms of length one, which the formula takes for 4/3 · n overlapping ones.
    expect(levelUncertainty({ levelDb: 0, flatnessDb: 0, clock: 0 }, 0, n / 0.75) / 2).toBeCloseTo(s, 1);
  });
  test('a frequency is known by the reference at the best', () => {
    const found = frequencyUncertainty(1e-6, 868e6, {
      resolutionHz: 5000,
      stepHz: 1000,
      aboveNoiseDb: 60,
      transforms: 100,
    });
    expect(found).toBeGreaterThan((2 * 868) / Math.sqrt(3));
    expect(
      frequencyUncertainty(0, 868e6, { resolutionHz: 5000, stepHz: 1000, aboveNoiseDb: 0, transforms: 1 }),
    ).toBeGreaterThan(2000);
    expect(mw(-30)).toBeCloseTo(0.001, 12);
  });
});
