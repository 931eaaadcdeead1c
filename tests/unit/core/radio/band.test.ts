import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import { Random } from '$core/random';
import { BandListener, type BandPicture } from '$core/radio/band';
import { LevelDensity } from '$core/radio/density';
import { dbm, mw, voltsAt } from '$core/radio/levels';
import { highestLine, peakAt, peaksOf } from '$core/radio/peaks';
import { planBand, type BandRequest } from '$core/radio/resolution';
import { FILTER_SHAPES, shapeWidths, type FilterShape } from '$core/radio/response';
import { channelPower, noiseDensity, occupiedWidth } from '$core/radio/widths';
import { noise, sum, tone } from './signals';

const RATE = 4_000_000;
const CENTRE = 868e6;
const receiver = { centreHz: CENTRE, sampleRateHz: RATE };
const asked = (own: Partial<BandRequest> = {}): BandRequest => ({
  centreHz: CENTRE,
  spanHz: 3e6,
  resolutionHz: 5000,
  smoothingHz: null,
  shape: 'Blackman-Harris',
  ...own,
});
/** What is heard of samples that come in blocks of a size. */
function hear(
  iq: Float32Array,
  own: Partial<BandRequest> = {},
  block = 50_000,
): { picture: BandPicture; listener: BandListener } {
  const listener = new BandListener(planBand(asked(own), receiver));
  for (let at = 0; at < iq.length; at += 2 * block) listener.push(iq.subarray(at, at + 2 * block), at / 2);
  return { picture: listener.look()!, listener };
}
const levelsOf = (p: BandPicture, by: keyof BandPicture['powers'] = 'rms') => Array.from(p.powers[by], dbm);

describe('what a band is heard with', () => {
  test('widths of the filter shapes are those that are known of their windows', () => {
    // By numpy at steps of a thousandth of a bin: width 3 and 6 dB down and noise bandwidth (as Harris 1978, Table I, rounds them).
    const known: Partial<Record<FilterShape, [number, number, number]>> = {
      Hann: [1.44, 2.0, 1.5],
      'Blackman-Harris': [1.9, 2.66, 2.0],
    };
    for (const [shape, [at3, at6, noiseBins]] of Object.entries(known)) {
      const w = shapeWidths(shape as FilterShape);
      expect(w.at3).toBeCloseTo(at3, 1);
      expect(w.at6).toBeCloseTo(at6, 1);
      expect(w.noise).toBeCloseTo(noiseBins, 2);
    }
    for (const shape of FILTER_SHAPES)
      expect(shapeWidths(shape).at60 / shapeWidths(shape).at6).toBeGreaterThan(1.2);
    // A steep one tells weak neighbours apart better than one whose side lobes fall slowly.
    expect(shapeWidths('Blackman-Harris').at60 / shapeWidths('Blackman-Harris').at6).toBeLessThan(2.75);
    expect(shapeWidths('Hann').at60 / shapeWidths('Hann').at6).toBeGreaterThan(4);
  });

  test('a resolution is had as asked, to the rounding of a sample; the heard lines lie inside the span', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...FILTER_SHAPES),
        fc.double({ min: 2000, max: 100_000, noNaN: true }),
        fc.double({ min: 50_000, max: 3.2e6, noNaN: true }),
        (shape, resolutionHz, spanHz) => {
          const plan = planBand(asked({ shape, resolutionHz, spanHz }), receiver);
          expect(Math.abs(plan.resolutionHz / resolutionHz - 1)).toBeLessThan(1 / plan.windowLength);
          expect(plan.startHz).toBeGreaterThanOrEqual(CENTRE - spanHz / 2 - 1);
          expect(plan.startHz + (plan.lines - 1) * plan.stepHz).toBeLessThanOrEqual(CENTRE + spanHz / 2 + 1);
          // Not one line that would fit is left out.
          expect(plan.startHz - plan.stepHz).toBeLessThan(CENTRE - spanHz / 2);
        },
      ),
    );
  });

  test.each([
    [
      'finer than can be drawn',
      { resolutionHz: 10 },
      /more than 8192 lines/,
      /nearest that can be had is 695|narrow the band/,
    ],
    [
      'wider than the receiver can have',
      { resolutionHz: 2e6 },
      /wider than a receiver/,
      /nearest that can be had is 2\d\d(\.\d)? kHz/,
    ],
    [
      'beyond what is received',
      { centreHz: CENTRE + 2e6 },
      /more than is received: 866.4 MHz to 869.6 MHz/,
      /tune the receiver/,
    ],
    ['of no width', { spanHz: 0 }, /wider than nothing/, /above 0/],
    ['of no number', { resolutionHz: NaN }, /resolution/, /nearest/],
  ] as const)('%s is refused, with what can be had', (_, own, what, next) => {
    try {
      planBand(asked(own), receiver);
      expect.unreachable();
    } catch (error) {
      expect(error).toBeInstanceOf(FarrierError);
      expect((error as FarrierError).text.what).toMatch(what);
      expect((error as FarrierError).text.next).toMatch(next);
    }
  });

  test('a resolution that needs more samples than there are says how fine it can be; that one can be had', () => {
    try {
      planBand(asked({ resolutionHz: 1000 }), receiver, 4000);
      expect.unreachable();
    } catch (error) {
      const { what, next } = (error as FarrierError).text;
      expect(what).toMatch(/needs 1\.9 ms of samples; there are 1 ms|needs 1\.\d+ ms/);
      const can = Number(/is ([\d.]+) kHz/.exec(next!)![1]) * 1000;
      expect(planBand(asked({ resolutionHz: can + 1 }), receiver, 4000).windowLength).toBeLessThanOrEqual(
        4000,
      );
    }
  });
});

describe('a tone', () => {
  test('reads its level and frequency wherever it stands, on a line or between two', () => {
    const random = new Random(7);
    for (const shape of FILTER_SHAPES) {
      let [level, place] = [0, 0];
      for (let k = 0; k < 24; k++) {
        const at = (random.uniform() - 0.5) * 2.8e6;
        const { picture, listener } = hear(tone(20_000, RATE, at, -40, k), { shape });
        const levels = levelsOf(picture);
        const peak = peakAt(levels, highestLine(levels), listener.plan);
        level = Math.max(level, Math.abs(peak.level + 40));
        place = Math.max(place, Math.abs(peak.hz - CENTRE - at) / listener.plan.stepHz);
      }
      expect(level, shape).toBeLessThan(0.003);
      expect(place, shape).toBeLessThan(0.004);
    }
  });

  test('two of them a resolution apart, as strong, are two; half of it apart they are one', () => {
    const two = (apart: number) => {
      const iq = sum(tone(40_000, RATE, 100_000, -50), tone(40_000, RATE, 100_000 + apart, -50, 1.5));
      const { picture } = hear(iq, { resolutionHz: 5000, spanHz: 400_000 });
      return peaksOf(levelsOf(picture), { least: -60, rise: 0.5 }).length;
    };
    expect(two(1.5 * 5000)).toBe(2);
    expect(two(0.5 * 5000)).toBe(1);
  });

  test('every detector reads it alike: it does not change', () => {
    const { picture } = hear(tone(40_000, RATE, 0, -30));
    const line = highestLine(picture.powers.rms);
    for (const powers of Object.values(picture.powers))
      expect(dbm(powers[line])).toBeCloseTo(dbm(picture.powers.rms[line]), 2);
  });
});

describe('noise', () => {
  const N = 4_000_000;
  const iq = noise(N, RATE, -150, 99);

  test('has its density per Hz, whatever the resolution and shape, by the equivalent noise bandwidth', () => {
    for (const [shape, resolutionHz] of [
      ['Blackman-Harris', 5000],
      ['flat top', 30_000],
      ['Hann', 2000],
    ] as const) {
      const { picture, listener } = hear(iq, { shape, resolutionHz });
      const p = picture.powers.rms;
      const mean = dbm(p.reduce((a, v) => a + v, 0) / p.length);
      expect(noiseDensity(mean, listener.plan.noiseBandwidthHz)).toBeCloseTo(-150, 1);
      // The power of a part of the band by the sum of its lines.
      expect(
        channelPower(
          levelsOf(picture),
          listener.plan,
          listener.plan.noiseBandwidthHz,
          CENTRE - 5e5,
          CENTRE + 5e5,
        ),
      ).toBeCloseTo(-90, 1);
    }
  });

  test('the mean of its magnitudes lies 1.05 dB, that of its levels 2.51 dB below its rms', () => {
    const { powers } = hear(iq, { resolutionHz: 20_000 }).picture;
    const mean = (p: Float64Array) => dbm(p.reduce((a, v) => a + v, 0) / p.length);
    expect(mean(powers['mean of the magnitudes']) - mean(powers.rms)).toBeCloseTo(-1.049, 1);
    // The mean over lines of what is a mean already, in dB.
    const level = powers['mean of the levels'].reduce((a, v) => a + dbm(v), 0) / powers.rms.length;
    expect(level - mean(powers.rms)).toBeCloseTo(-2.507, 1);
    powers.rms.forEach((p, l) => {
      expect(powers.lowest[l]).toBeLessThan(p);
      expect(powers.highest[l]).toBeGreaterThan(p);
      expect(powers.sample[l]).toBeLessThanOrEqual(powers.highest[l] * (1 + 1e-9));
    });
  });

  test('smoothing narrows its scatter by the share of the bandwidths, and keeps its power', () => {
    const spread = (smoothingHz: number | null) => {
      const { picture } = hear(iq, { resolutionHz: 20_000, smoothingHz });
      const p = picture.powers.sample;
      const mean = p.reduce((a, v) => a + v, 0) / p.length;
      return { mean: dbm(mean), rel: Math.sqrt(p.reduce((a, v) => a + (v / mean - 1) ** 2, 0) / p.length) };
    };
    const [open, smooth] = [spread(null), spread(500)];
    expect(open.rel).toBeGreaterThan(0.85);
    // A first-order filter of corner f passes π/2·f of a noise of density: relative spread √(α/(2 − α)).
    const { smoothing } = planBand(asked({ resolutionHz: 20_000, smoothingHz: 500 }), receiver);
    expect(smooth.rel).toBeGreaterThan(0.7 * Math.sqrt(smoothing / (2 - smoothing)));
    expect(smooth.rel).toBeLessThan(2 * Math.sqrt(smoothing / (2 - smoothing)));
    expect(smooth.mean).toBeCloseTo(open.mean, 0);
  });

  test('a band of it is as wide as it is: 99 % of its power in 99 % of its width', () => {
    // Every transform line inside ±500 kHz has the same power: noise through an ideal filter, as tones of random phase.
    const random = new Random(11);
    const count = 256;
    const tones = Array.from({ length: count }, (_, k) =>
      tone(65_536, RATE, -500e3 + ((k + 0.5) * 1e6) / count, -60, 6.283 * random.uniform()),
    );
    const { picture, listener } = hear(sum(...tones), { resolutionHz: 8000 });
    const w = occupiedWidth(levelsOf(picture), listener.plan, 0.99);
    expect(w.widthHz).toBeGreaterThan(0.97e6);
    expect(w.widthHz).toBeLessThan(1.01e6);
    expect(Math.abs(w.centreHz - CENTRE)).toBeLessThan(5000);
  });
});

test('rectangular keying of two phases is as wide as theory says: 90 % of its power, by the integral of sinc²', () => {
  const random = new Random(3);
  const symbol = 40; // samples: 100 k symbols a second
  const v = voltsAt(-40);
  const iq = new Float32Array(2 * 400_000);
  for (let i = 0, sign = 1; i < 400_000; i++) {
    if (i % symbol === 0) sign = random.uniform() < 0.5 ? -1 : 1;
    iq[2 * i] = sign * v;
  }
  const { picture, listener } = hear(iq, { resolutionHz: 3000 });
  let [inside, f] = [0, 0];
  const step = 1e-4;
  const sinc2 = (x: number) => (x === 0 ? 1 : (Math.sin(Math.PI * x) / (Math.PI * x)) ** 2);
  let total = 0;
  for (let x = -15; x < 15; x += step) total += sinc2(x) * step; // what the span of 3 MHz holds
  while (inside < 0.9 * total) {
    inside += 2 * sinc2(f + step / 2) * step;
    f += step;
  }
  const w = occupiedWidth(levelsOf(picture), listener.plan, 0.9);
  expect(Math.abs(w.widthHz / (2 * f * 100_000) - 1)).toBeLessThan(0.05);
});

describe('nothing is missed', () => {
  test('a burst of 30 µs is caught with its full level in 1,000 of 1,000 trials, wherever it begins', () => {
    const request = asked({ resolutionHz: 90_000, shape: 'Blackman-Harris' });
    const plan = planBand(request, receiver);
    expect(plan.certainS).toBeLessThanOrEqual(32e-6);
    const long = Math.ceil(plan.certainS! * RATE);
    expect(long / RATE).toBeLessThanOrEqual(32e-6);
    const random = new Random(17);
    const burst = tone(long, RATE, 400_000, -45);
    const rest = noise(2000, RATE, -150, 5);
    let caught = 0;
    const listener = new BandListener(plan);
    for (let trial = 0, next = 0; trial < 1000; trial++, next += 2000) {
      const iq = rest.slice();
      const at = 100 + Math.floor(random.uniform() * 1700);
      for (let i = 0; i < burst.length; i++) iq[2 * at + i] += burst[i];
      listener.push(iq, next);
      const levels = Array.from(listener.look()!.powers.highest, dbm);
      if (Math.abs(peakAt(levels, highestLine(levels), plan).level + 45) < 0.3) caught++;
    }
    expect(caught).toBe(1000);
  });

  test('a burst of half that length is not caught each time: the claim is no longer than it is true', () => {
    const plan = planBand(asked({ resolutionHz: 90_000 }), receiver);
    const burst = tone(Math.floor((plan.certainS! * RATE) / 2), RATE, 400_000, -45);
    let full = 0;
    for (let at = 0; at < 64; at++) {
      const iq = new Float32Array(4000);
      iq.set(burst, 2 * (500 + at));
      const listener = new BandListener(plan);
      listener.push(iq, 0);
      const levels = Array.from(listener.look()!.powers.highest, dbm);
      if (Math.abs(Math.max(...levels) + 45) < 0.3) full++;
    }
    expect(full).toBeLessThan(64);
  });

  test('in whatever blocks samples come, the same is heard', () => {
    const iq = sum(noise(30_000, RATE, -150, 1), tone(30_000, RATE, 12_345, -70));
    const whole = hear(iq, {}, 30_000).picture;
    for (const block of [1, 7, 999, 4096]) {
      const { picture } = hear(iq, {}, block);
      expect(picture.transforms).toBe(whole.transforms);
      expect(picture.powers.rms).toEqual(whole.powers.rms);
      expect(picture.endSample).toBe(30_000);
    }
  });

  test('samples that are lost are counted, and no window reaches over the hole', () => {
    const listener = new BandListener(planBand(asked(), receiver));
    const length = listener.plan.windowLength;
    const iq = tone(length, RATE, 0, -40);
    listener.push(iq.subarray(0, 2 * (length - 1)), 0);
    listener.push(iq.subarray(0, 2), length + 500);
    expect(listener.look()).toBeNull();
    listener.push(iq, length + 501);
    const picture = listener.look()!;
    expect(picture.lost).toBe(501);
    expect(picture.transforms).toBe(1);
    const bad = iq.slice();
    bad[40] = NaN;
    listener.push(bad, 2 * length + 501);
    listener.push(iq, 3 * length + 501);
    const after = listener.look()!;
    expect(after.lost).toBeGreaterThan(0);
    for (const p of after.powers.rms) expect(Number.isFinite(p)).toBe(true);
  });

  test('a clock that leaps back begins anew and loses nothing that there was', () => {
    const listener = new BandListener(planBand(asked(), receiver));
    const iq = tone(listener.plan.windowLength, RATE, 0, -40);
    listener.push(iq, 1_000_000);
    listener.push(iq, 5000);
    expect(listener.look()).toMatchObject({ transforms: 2, lost: 0 });
  });
});

describe('how often each level occurs', () => {
  test('shares of a column add up to one; a carrier that is there half of the time has half', () => {
    const density = new LevelDensity(8, 4, 100, 0, 1);
    for (let k = 0; k < 10; k++)
      density.push(Float32Array.from({ length: 8 }, (_, l) => (l === 3 && k % 2 ? -20.5 : -90.5)));
    const shares = density.shares();
    for (let c = 0; c < 4; c++) {
      let all = 0;
      for (let r = 0; r < 100; r++) all += shares[r * 4 + c];
      expect(all).toBeCloseTo(1, 6);
    }
    // Two lines share a column: one of them half of the time.
    expect(shares[20 * 4 + 1]).toBeCloseTo(0.25, 6);
    expect(shares[90 * 4 + 1]).toBeCloseTo(0.75, 6);
  });

  test('what was counted fades and shares stay shares; beyond the edges counts at them', () => {
    const density = new LevelDensity(1, 1, 10, 0, 10);
    density.push(Float32Array.of(50));
    density.fade(0.5);
    density.push(Float32Array.of(-500));
    const shares = density.shares();
    expect(shares[0]).toBeCloseTo(1 / 3, 6);
    expect(shares[9]).toBeCloseTo(2 / 3, 6);
    expect(density.transforms).toBeCloseTo(1.5, 9);
    density.clear();
    expect(density.shares().every((s) => s === 0)).toBe(true);
  });

  test('every transform that is heard is in it', () => {
    const plan = planBand(asked(), receiver);
    const density = new LevelDensity(plan.lines, 200, 120, 0, 1);
    const listener = new BandListener(plan, (levels) => density.push(levels));
    listener.push(noise(100_000, RATE, -150, 2), 0);
    expect(density.transforms).toBe(listener.look()!.transforms);
    expect(mw(0)).toBe(1);
  });
});
