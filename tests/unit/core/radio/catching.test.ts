import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import { Catcher, type Caught, type CatchRequest } from '$core/radio/catching';
import { ChannelFilter } from '$core/radio/channel-filter';
import { dbm, MW_PER_V2 } from '$core/radio/levels';
import { overTime } from '$core/radio/over-time';
import { noise, sum, tone } from './signals';

const RATE = 4e6;
const power = (iq: Float32Array) => dbm((iq.reduce((a, v) => a + v * v, 0) / (iq.length / 2)) * MW_PER_V2);

describe('one channel out of a band', () => {
  const through = (hz: number, offset = 500_000, width = 200_000) => {
    const filter = new ChannelFilter(RATE, offset, width);
    const { iq } = filter.push(tone(40_000, RATE, hz, -20), 0);
    return { filter, iq: iq.subarray(200) };
  };
  test('passes what lies in its width unharmed, and nothing of what would fold onto it', () => {
    for (const f of [0, 50_000, -90_000, 99_000]) expect(power(through(500_000 + f).iq)).toBeCloseTo(-20, 1);
    for (const f of [200_000, -300_000, 1_000_000, -1_400_000])
      expect(power(through(500_000 + f).iq)).toBeLessThan(-85);
  });
  test('a tone stands at its distance from the channel’s centre, with the phase that it had', () => {
    const { filter, iq } = through(530_000);
    const f = overTime(iq, 'frequency', filter.sampleRateHz);
    for (const v of f.subarray(1)) expect(Math.abs(v - 30_000)).toBeLessThan(20);
    const { iq: still } = through(500_000);
    const phase = overTime(still, 'phase', filter.sampleRateHz);
    for (const v of phase) expect(Math.abs(v)).toBeLessThan(0.01);
  });
  test('in whatever pieces samples come, the same comes out', () => {
    const input = sum(tone(20_000, RATE, 540_000, -30), noise(20_000, RATE, -140, 3));
    const whole = new ChannelFilter(RATE, 500_000, 150_000).push(input, 7);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 6000 }), { minLength: 3, maxLength: 12 }), (cuts) => {
        const filter = new ChannelFilter(RATE, 500_000, 150_000);
        const got: number[] = [];
        let at = 0;
        let first = -1;
        for (const n of [...cuts, 20_000]) {
          const count = Math.min(n, 20_000 - at);
          const out = filter.push(input.subarray(2 * at, 2 * (at + count)), 7 + at);
          if (first < 0 && out.iq.length) first = out.first;
          got.push(...out.iq);
          at += count;
        }
        expect(first).toBe(whole.first);
        expect(got.length).toBe(whole.iq.length);
        got.forEach((v, i) => expect(Math.abs(v - whole.iq[i])).toBeLessThan(1e-7));
      }),
      { numRuns: 20 },
    );
  });
  test('hours later it mixes as exactly as at the begin', () => {
    const late = RATE * 36_000 + 17;
    const filter = new ChannelFilter(RATE, 500_000.25, 200_000);
    // A tone at the centre, as it stands at those samples.
    const iq = new Float32Array(2 * 20_000);
    for (let i = 0; i < 20_000; i++) {
      const turns = (500_000.25 * 36_000 + (500_000.25 * (17 + i)) / RATE) % 1;
      iq[2 * i] = Math.cos(2 * Math.PI * turns);
      iq[2 * i + 1] = Math.sin(2 * Math.PI * turns);
    }
    const phase = overTime(filter.push(iq, late).iq, 'phase', filter.sampleRateHz);
    for (const v of phase) expect(Math.abs(v)).toBeLessThan(0.5);
  });
  test('as wide as the band it is the band', () => {
    const filter = new ChannelFilter(RATE, 0, RATE);
    const iq = noise(100, RATE, -100, 1);
    expect(filter.each).toBe(1);
    expect(Array.from(filter.push(iq, 3).iq)).toEqual(Array.from(iq, (v) => Math.fround(v)));
  });
});

describe('pictures over time', () => {
  const receiver = { centreHz: 868e6, sampleRateHz: RATE };
  const request: CatchRequest = {
    centreHz: 868.4e6,
    widthHz: 400_000,
    lengthS: 0.002,
    beforeS: 0.0005,
    begins: { by: 'level', level: -60, way: 'rises above', back: 3, waitS: 0 },
  };
  /** Bursts of 0.3 ms at some times, s, on the channel. */
  const bursts = (seconds: number, at: number[], seed = 2) => {
    const n = Math.round(seconds * RATE);
    const iq = noise(n, RATE, -150, seed);
    const carrier = tone(n, RATE, 400_000, -40);
    for (const t of at)
      for (let i = Math.round(t * RATE); i < Math.round((t + 0.0003) * RATE); i++)
        for (const k of [2 * i, 2 * i + 1]) iq[k] += carrier[k];
    return iq;
  };
  const run = (own: CatchRequest, iq: Float32Array, block = 50_000, from = 0) => {
    const caught: Caught[] = [];
    const catcher = new Catcher(own, receiver);
    for (let at = 0; at < iq.length / 2; at += block)
      catcher.push(iq.subarray(2 * at, 2 * (at + block)), from + at, (c) => caught.push(c));
    return caught;
  };
  const iq = bursts(0.03, [0.004, 0.0101, 0.0171, 0.0222]);

  test('begin where the power crosses the level, with what came before', () => {
    const caught = run(request, iq);
    expect(caught).toHaveLength(4);
    [0.004, 0.0101, 0.0171, 0.0222].forEach((t, k) => {
      const c = caught[k];
      expect(Math.abs(c.fromS + c.beginAt / c.sampleRateHz - t)).toBeLessThan(8e-6);
      expect(c.iq.length / 2).toBe(Math.round(0.002 * c.sampleRateHz));
      const p = overTime(c.iq, 'power', c.sampleRateHz);
      expect(p[c.beginAt]).toBeGreaterThanOrEqual(-60);
      for (let i = 0; i < c.beginAt - 8; i++) expect(p[i]).toBeLessThan(-60);
    });
  });
  test('are the same in whatever blocks samples come', () => {
    const whole = run(request, iq, 1e9);
    for (const block of [997, 8000, 33_000]) {
      const got = run(request, iq, block);
      expect(got.map((c) => c.fromS)).toEqual(whole.map((c) => c.fromS));
      got.forEach((c, k) => c.iq.forEach((v, i) => expect(Math.abs(v - whole[k].iq[i])).toBeLessThan(1e-7)));
    }
  });
  test('wait after one for as long as is asked; one that begins within another is none of its own', () => {
    const waits = { ...request, begins: { ...request.begins, waitS: 0.01 } as CatchRequest['begins'] };
    expect(run(waits, iq)).toHaveLength(2);
    expect(run({ ...request, lengthS: 0.012 }, iq)).toHaveLength(2);
  });
  test('a crossing before there is memory enough is not drawn with a hole', () => {
    expect(run(request, bursts(0.01, [0.0003, 0.005]))).toHaveLength(1);
  });
  test('at a clock they begin at its multiples, wherever samples begin; by itself one follows the other', () => {
    const clock = run({ ...request, begins: { by: 'clock', everyS: 0.005 } }, iq, 50_000, 12_345);
    for (const c of clock) {
      const t = (c.fromS + c.beginAt / c.sampleRateHz) / 0.005;
      expect(Math.abs(t - Math.round(t))).toBeLessThan(0.001);
    }
    expect(clock.length).toBeGreaterThanOrEqual(4);
    const free = run({ ...request, begins: { by: 'itself' } }, iq);
    expect(free.length).toBeGreaterThanOrEqual(9);
  });
  test('over lost samples no picture reaches', () => {
    const catcher = new Catcher(request, receiver);
    const caught: Caught[] = [];
    const one = bursts(0.0045, [0.004]);
    catcher.push(one, 0, (c) => caught.push(c));
    catcher.push(bursts(0.01, [0.005], 9), 1_000_000, (c) => caught.push(c));
    expect(caught).toHaveLength(1);
    expect(caught[0].fromS).toBeGreaterThan(0.25);
  });
  test.each([
    ['outside the band', { centreHz: 900e6 }, /outside what is received/],
    ['too long', { lengthS: 10 }, /it can be/],
    ['of nothing', { lengthS: 0 }, /it can be/],
    ['all before its begin', { beforeS: 0.002 }, /shorter than the picture/],
  ])('one %s is refused, with what can be had', (_, own, says) => {
    expect(() => new Catcher({ ...request, ...own }, receiver)).toThrow(FarrierError);
    expect(() => new Catcher({ ...request, ...own }, receiver)).toThrow(says);
  });
});
