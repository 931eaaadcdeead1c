import { describe, expect, test } from 'vitest';
import {
  aboveLevel,
  ground,
  harmonicsOf,
  limitAt,
  listPeaks,
  measureWidths,
  movePin,
  readPin,
  type HeardLine,
} from '$core/radio/measure';
import { BandReadings } from '$core/radio/readings';
import { Waterfall } from '$core/radio/waterfall';
import { hertzText, megahertzDecimals, secondsText } from '$core/radio/words';
import { noise, sum, tone } from './signals';

/** A line with Gaussian peaks over a flat ground. */
function lineOf(peaks: { hz: number; level: number }[], floor = -100): HeardLine {
  const levels = Array.from({ length: 1001 }, (_, l) =>
    peaks.reduce(
      (top, p) => Math.max(top, p.level - ((1e6 + l * 1000 - p.hz) / 1500) ** 2),
      floor + 0.2 * Math.sin(l * 1.7),
    ),
  );
  return {
    levels,
    startHz: 1e6,
    stepHz: 1000,
    resolutionHz: 2000,
    noiseBandwidthHz: 2100,
    transforms: 100,
    accuracy: { levelDb: 0.5, flatnessDb: 0.3, clock: 1e-6 },
  };
}
const line = lineOf([
  { hz: 1.2e6, level: -40 },
  { hz: 1.5003e6, level: -30 },
  { hz: 1.8e6, level: -55 },
]);
const conditions = { least: -80, rise: 6 };

describe('pins', () => {
  test('read their peak between the lines, with what they are known to', () => {
    const reads = readPin(line, { id: 1, hz: 1.5e6, follows: true })!;
    expect(reads.hz).toBeCloseTo(1.5003e6, -1);
    expect(reads.level).toBeCloseTo(-30, 2);
    expect(reads.density).toBeCloseTo(-30 - 10 * Math.log10(2100), 2);
    expect(reads.expandedDb!).toBeGreaterThan(0.6);
    expect(reads.expandedHz!).toBeGreaterThan(1.5);
    expect(readPin({ ...line, accuracy: null }, { id: 1, hz: 1.5e6, follows: true })).toMatchObject({
      expandedDb: null,
      expandedHz: null,
    });
  });
  test('follow their peak as it moves; those that stay read what is at their place', () => {
    const moved = lineOf([{ hz: 1.504e6, level: -30 }]);
    expect(readPin(moved, { id: 1, hz: 1.5e6, follows: true })!.hz).toBeCloseTo(1.504e6, -2);
    const stays = readPin(moved, { id: 1, hz: 1.5e6, follows: false })!;
    expect(stays.hz).toBe(1.5e6);
    expect(stays.level).toBeLessThan(-30);
  });
  test('outside the band there is nothing to read', () => {
    expect(readPin(line, { id: 1, hz: 0.9e6, follows: true })).toBeNull();
    expect(readPin(line, { id: 1, hz: 2.1e6, follows: true })).toBeNull();
    expect(readPin({ ...line, levels: [] }, { id: 1, hz: 1e6, follows: true })).toBeNull();
  });
  test('go onto the highest, and on from there by level or by frequency', () => {
    const at = (hz: number, to: Parameters<typeof movePin>[3]) => movePin(line, conditions, hz, to);
    const near = (hz: number | null, wanted: number) => expect(Math.abs(hz! - wanted)).toBeLessThan(400);
    near(at(1e6, 'highest'), 1.5e6);
    near(at(1.5e6, 'lower'), 1.2e6);
    near(at(1.2e6, 'lower'), 1.8e6);
    near(at(1.8e6, 'higher'), 1.2e6);
    near(at(1.2e6, 'right'), 1.5e6);
    near(at(1.5e6, 'left'), 1.2e6);
    expect(at(1.2e6, 'left')).toBeNull();
    expect(movePin(lineOf([]), conditions, 1e6, 'right')).toBeNull();
  });
  test('their harmonics are read at their multiples, as far as the band goes', () => {
    const two = lineOf([
      { hz: 1.0e6, level: -30 },
      { hz: 2.0e6, level: -62 },
    ]);
    const found = harmonicsOf(two, 1.0e6);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ order: 2 });
    expect(found[0].level).toBeCloseTo(-62, 1);
  });
});

test('the list of peaks is by level or by frequency, and of the highest', () => {
  expect(listPeaks(line, { ...conditions, order: 'level' }).map((p) => Math.round(p.level))).toEqual([
    -30, -40, -55,
  ]);
  expect(listPeaks(line, { ...conditions, order: 'frequency' }).map((p) => Math.round(p.level))).toEqual([
    -40, -30, -55,
  ]);
  expect(listPeaks(line, { ...conditions, order: 'frequency' }, 2)).toHaveLength(2);
  // Without a rise the ripple of the ground has peaks, too, once it is high enough.
  expect(listPeaks(line, { least: -101, rise: 0, order: 'level' }, 500).length).toBeGreaterThan(50);
});

test('the ground is what half of the lines stay below', () => {
  expect(ground(line.levels)).toBeCloseTo(-100, 0);
  expect(ground([NaN, -3, -2, -1])).toBe(-2);
  expect(ground([])).toBeNaN();
});

test('widths and powers of a line: what is there, and nothing where the channel reaches beyond', () => {
  const found = measureWidths(line, {
    share: 0.99,
    drop: 3,
    channel: {
      centreHz: 1.5e6,
      widthHz: 50_000,
      neighbours: [
        { offsetHz: 300_000, widthHz: 50_000 },
        { offsetHz: 600_000, widthHz: 50_000 },
      ],
    },
  });
  expect(Math.abs(found.occupied.centreHz - 1.5e6)).toBeLessThan(200_000);
  expect(found.below!.widthHz).toBeCloseTo(2 * 1500 * Math.sqrt(3), -3);
  expect(found.channel!.main).toBeGreaterThan(-30);
  expect(found.channel!.neighbours[0].below).toBeCloseTo(-10, 0);
  expect(found.channel!.neighbours[0].above).toBeCloseTo(-25, 0);
  expect(found.channel!.neighbours[1].above).toBeNaN();
  expect(found.whole).toBeGreaterThan(found.channel!.main);
  expect(measureWidths(line, { share: 0.9, drop: 0, channel: null })).toMatchObject({
    below: null,
    channel: null,
  });
});

describe('levels and limits', () => {
  test('what is above a level is counted in runs', () => {
    expect(aboveLevel(line.levels, -60).runs).toBe(3);
    expect(aboveLevel(line.levels, -35).runs).toBe(1);
    expect(aboveLevel(line.levels, 0)).toEqual({ runs: 0, share: 0 });
    expect(aboveLevel([], -10).share).toBe(0);
  });
  test('a limit is straight between its points, the stricter one at a step, and nothing beyond its ends', () => {
    const points = [
      { hz: 1e6, level: -50 },
      { hz: 2e6, level: -30 },
      { hz: 2e6, level: -60 },
      { hz: 3e6, level: -60 },
    ];
    expect(limitAt(points, 1.5e6)).toBeCloseTo(-40, 9);
    expect(limitAt(points, 2.5e6)).toBe(-60);
    expect(limitAt(points, 0.5e6)).toBeNaN();
    expect(limitAt(points, 3.5e6)).toBeNaN();
    // Where there is no limit nothing passes it.
    expect(aboveLevel([0, 0, 0], [NaN, -10, NaN]).runs).toBe(1);
  });
});

describe('a waterfall', () => {
  test('gives the row of any moment, to a hundredth of a dB', () => {
    const falls = new Waterfall(3, 100);
    for (let k = 0; k < 50; k++) falls.push([-k, -50.123, NaN], k, k + 1);
    expect(falls.span).toEqual({ fromS: 0, toS: 50 });
    expect(Array.from(falls.row(falls.at(7.5)).levels)).toEqual([-700, -5012, -32768]);
    expect(falls.at(-3)).toBe(0);
    expect(falls.at(1e9)).toBe(49);
  });
  test('of ten hours is thinned: it never holds more than it may, the newest stand as they came, and no event is lost', () => {
    const falls = new Waterfall(4, 200);
    const rows = 72_000;
    for (let k = 0; k < rows; k++)
      falls.push([k === 1234 ? -10 : -100, -100, -100, -100], k / 2, (k + 1) / 2);
    expect(falls.length).toBeLessThanOrEqual(200);
    expect(falls.span).toEqual({ fromS: 0, toS: rows / 2 });
    const at = falls.row(falls.at(1234 / 2));
    expect(at.levels[0]).toBe(-1000);
    expect(at.fromS).toBeLessThanOrEqual(617);
    expect(at.toS).toBeGreaterThanOrEqual(617.5);
    for (let k = falls.length - 50; k < falls.length; k++)
      expect(falls.row(k).toS - falls.row(k).fromS).toBe(0.5);
    // Rows follow one another without a hole.
    for (let k = 1; k < falls.length; k++) expect(falls.row(k).fromS).toBe(falls.row(k - 1).toS);
  });
  test('begins anew when its clock leaps back', () => {
    const falls = new Waterfall(1);
    falls.push([-1], 100, 101);
    falls.push([-2], 5, 6);
    expect(falls.length).toBe(1);
    expect(falls.span).toEqual({ fromS: 5, toS: 6 });
  });
});

describe('readings of bands', () => {
  const RATE = 1e6;
  const receiver = { centreHz: 100e6, sampleRateHz: RATE };
  const read = (iq: Float32Array, block: number, each = 10_000) => {
    const r = new BandReadings(
      [
        { reads: 'power', fromHz: 99.95e6, toHz: 100.15e6 },
        { reads: 'peak frequency', fromHz: 99.95e6, toHz: 100.15e6 },
        { reads: 'power', fromHz: 101e6, toHz: 102e6 },
      ],
      receiver,
      each,
    );
    const out: number[][] = [];
    for (let at = 0; at < iq.length / 2; at += block)
      r.push(iq.subarray(2 * at, 2 * (at + block)), at, (index, values) => (out[index] = values));
    return out;
  };
  const iq = sum(tone(50_000, RATE, 100_000, -40), noise(50_000, RATE, -140, 8));

  test('are the same in whatever pieces samples come; one for each so many samples', () => {
    const whole = read(iq, 50_000);
    expect(whole).toHaveLength(5);
    for (const [power, hz, far] of whole) {
      expect(power).toBeCloseTo(-40, 1);
      expect(Math.abs(hz - 50_000)).toBeLessThan(100);
      expect(far).toBeNaN();
    }
    for (const block of [1, 777, 10_000, 33_333]) expect(read(iq, block)).toEqual(whole);
  });
  test('of fewer samples than a window needs are still readings', () => {
    for (const [power] of read(iq, 50_000, 100)) expect(power).toBeCloseTo(-40, 0);
  });
  test('a reading with a hole in it is none; the next one is right', () => {
    const r = new BandReadings([{ reads: 'power', fromHz: 99.95e6, toHz: 100.15e6 }], receiver, 10_000);
    const out: number[] = [];
    r.push(iq.subarray(0, 2 * 9990), 0, (k, [v]) => (out[k] = v));
    r.push(iq.subarray(0, 2 * 20_005), 9995, (k, [v]) => (out[k] = v));
    expect(out[0]).toBeNaN();
    expect(out[1]).toBeCloseTo(-40, 1);
  });
});

test('frequencies and times are said in the unit in which they are read', () => {
  expect([868.012e6, 742e3, 2.03e6, 50, 1e9, 1e6].map((v) => hertzText(v))).toEqual([
    '868 MHz',
    '742 kHz',
    '2.03 MHz',
    '50 Hz',
    '1 GHz',
    '1 MHz',
  ]);
  expect(hertzText(868.6e6, 1)).toBe('868.6 MHz');
  expect([31e-6, 1.152e-3, 13, 0].map(secondsText)).toEqual(['31 µs', '1.15 ms', '13 s', '0 µs']);
  expect([10, 1000, 1e6].map(megahertzDecimals)).toEqual([5, 3, 0]);
});

describe('± of a channel’s power', () => {
  const of = (widthHz: number, own: Partial<HeardLine> = {}) =>
    measureWidths(
      { ...line, ...own },
      { share: 0.99, drop: 0, channel: { centreHz: 1.5e6, widthHz, neighbours: [] } },
    ).channelExpanded;
  test('is that of the receiver’s level where much is averaged, more where little is, none where levels are not known', () => {
    const limits = (2 * Math.hypot(0.5, 0.3)) / Math.sqrt(3);
    expect(of(4e5)!).toBeCloseTo(limits, 2);
    expect(of(4e5)!).toBeGreaterThan(limits);
    expect(of(3000, { transforms: 1 })!).toBeGreaterThan(limits + 2);
    expect(of(4e5, { accuracy: null })).toBe(null);
  });
  test('its noise part falls by the root of the width', () => {
    const limits = (2 * Math.hypot(0.5, 0.3)) / Math.sqrt(3);
    const noise = (widthHz: number) => Math.sqrt(of(widthHz, { transforms: 10 })! ** 2 - limits ** 2);
    expect(noise(2e4) / noise(8e4)).toBeCloseTo(2, 6);
  });
});
