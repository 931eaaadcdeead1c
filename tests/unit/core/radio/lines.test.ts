import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Random } from '$core/random';
import type { BandPicture } from '$core/radio/band';
import { dbm, mw, noiseOf, quickLevels } from '$core/radio/levels';
import { LineKeeper, levelsOf, type BandLine } from '$core/radio/lines';
import { highestLine, nextPeak, peakAt, peaksOf } from '$core/radio/peaks';
import { channelPower, channelPowers, noiseDensity, occupiedWidth, widthBelow } from '$core/radio/widths';
import { referenceCase, within } from '../../../reference';

const quick = (power: number) => {
  const out = new Float32Array(1);
  quickLevels(Float32Array.of(power), out);
  return out[0];
};

/** A picture of one transform. */
const pictureOf = (powers: number[] | Float64Array): BandPicture => {
  const p = Float64Array.from(powers);
  const all = Object.fromEntries(
    ['rms', 'mean of the magnitudes', 'mean of the levels', 'highest', 'lowest', 'sample'].map((d) => [d, p]),
  ) as BandPicture['powers'];
  return { firstSample: 0, endSample: 1, transforms: 1, powers: all, lost: 0 };
};

test('levels and powers are turned into each other without loss, and quickly to a thousandth of a dB', () => {
  fc.assert(
    fc.property(fc.double({ min: -170, max: 60, noNaN: true }), (level) => {
      expect(dbm(mw(level))).toBeCloseTo(level, 9);
      expect(Math.abs(quick(mw(level)) - level)).toBeLessThan(0.001);
    }),
  );
  expect(quick(0)).toBeLessThan(-380);
  // −174 dBm/Hz, as everyone knows it.
  expect(noiseOf(1, 0)).toBeCloseTo(-173.98, 2);
  expect(noiseOf(10_000, 8)).toBeCloseTo(-125.98, 2);
});

describe('peaks', () => {
  const reference = referenceCase('08_peaks');
  reference.inputs.items.forEach(
    (
      item: {
        name: string;
        trace_dbm: number[];
        start_hz: number;
        step_hz: number;
        settings: { threshold_dbm: number; excursion_db: number }[];
      },
      k: number,
    ) => {
      test.each(item.settings.map((s, i) => [s.threshold_dbm, s.excursion_db, i] as const))(
        `of ${item.name} from %d dBm up, rising %d dB`,
        (least, rise, i) => {
          const found = peaksOf(item.trace_dbm, { least, rise });
          const expected = reference.expected.items[k].results[i].peaks as {
            bin: number;
            frequency: number;
            level_dbm: number;
          }[];
          expect(found).toEqual(expected.map((p) => p.bin));
          found.forEach((bin, j) => {
            within(item.start_hz + bin * item.step_hz, expected[j].frequency, reference, 'frequency');
            within(item.trace_dbm[bin], expected[j].level_dbm, reference, 'level_dbm');
          });
          expect(highestLine(item.trace_dbm)).toBe(reference.expected.items[k].maximum.bin);
        },
      );
    },
  );

  test('the next one is the next by level or by frequency, and there is none beyond the last', () => {
    const levels = [-90, -50, -90, -40, -90, -60, -90, -45, -90];
    const peaks = peaksOf(levels, { least: -80, rise: 6 });
    expect(peaks).toEqual([3, 7, 1, 5]);
    const walk = (from: number, way: Parameters<typeof nextPeak>[3]) => nextPeak(peaks, levels, from, way);
    expect([walk(3, 'left'), walk(3, 'right'), walk(3, 'lower'), walk(3, 'higher')]).toEqual([1, 5, 7, null]);
    expect([walk(7, 'right'), walk(5, 'lower'), walk(5, 'higher'), walk(1, 'left')]).toEqual([
      null,
      null,
      1,
      null,
    ]);
  });

  test('of two as high the walk down in level comes to both, and to each once', () => {
    const levels = [-90, -40, -90, -40, -90, -50, -90];
    const peaks = peaksOf(levels, { least: -80, rise: 6 });
    const seen: number[] = [1];
    for (let at: number | null = 1; (at = nextPeak(peaks, levels, at, 'lower')) !== null;) seen.push(at);
    expect(seen).toEqual([1, 3, 5]);
  });

  test('more rise asked for never finds more peaks; each one that is left was there before', () => {
    const line = fc.array(fc.integer({ min: -120, max: -20 }), { minLength: 3, maxLength: 80 });
    fc.assert(
      fc.property(line, fc.nat(30), fc.nat(30), (levels, a, b) => {
        const [few, many] = [Math.max(a, b), Math.min(a, b)].map((rise) =>
          peaksOf(levels, { least: -110, rise }),
        );
        expect(many).toEqual(expect.arrayContaining(few));
      }),
    );
  });

  test('a Gaussian top is read exactly between the lines', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.49, max: 0.49, noNaN: true }),
        fc.double({ min: -80, max: 0, noNaN: true }),
        (shift, level) => {
          const levels = [-1, 0, 1].map((x) => level - 5 * (x - shift) ** 2);
          const peak = peakAt(levels, 1, { startHz: 1e6, stepHz: 1000 });
          expect(peak.hz).toBeCloseTo(1e6 + (1 + shift) * 1000, 3);
          expect(peak.level).toBeCloseTo(level, 9);
        },
      ),
    );
    expect(peakAt([-50, -50, -50], 1, { startHz: 0, stepHz: 10 })).toEqual({ line: 1, hz: 10, level: -50 });
  });
});

test('readings at pins meet the reference: distances, density of noise, power of a band, width 3 dB down', () => {
  const reference = referenceCase('08_markers');
  reference.inputs.items.forEach(
    (
      item: Record<string, never> & {
        trace_dbm: number[];
        start_hz: number;
        step_hz: number;
        noise_bandwidth_hz: number;
        reference_hz: number;
        delta_hz: number[];
        band_hz: [number, number];
      },
      k: number,
    ) => {
      const e = reference.expected.items[k];
      const scale = { startHz: item.start_hz, stepHz: item.step_hz };
      const near = (hz: number) => Math.round((hz - item.start_hz) / item.step_hz);
      const at = near(item.reference_hz);
      expect(at).toBe(e.reference.bin);
      item.delta_hz.forEach((delta: number, j: number) => {
        const other = near(item.reference_hz + delta);
        expect(other).toBe(e.deltas[j].bin);
        within(item.trace_dbm[other] - item.trace_dbm[at], e.deltas[j].delta_db, reference, 'delta_db');
      });
      within(
        noiseDensity(item.trace_dbm[at], item.noise_bandwidth_hz),
        e.noise_density_at_reference_dbm_per_hz,
        reference,
        'noise_density',
      );
      const power = channelPower(item.trace_dbm, scale, item.noise_bandwidth_hz, ...item.band_hz);
      within(power, e.band_power_dbm, reference, 'band_power_dbm');
      within(
        power - 10 * Math.log10(item.band_hz[1] - item.band_hz[0]),
        e.band_density_dbm_per_hz,
        reference,
        'band_density_dbm_per_hz',
      );
      const three = widthBelow(item.trace_dbm, scale, e.peak_bin, 3);
      within(three.lowHz, e.width_3db.lower_hz, reference, 'lower_hz');
      within(three.highHz, e.width_3db.upper_hz, reference, 'upper_hz');
    },
  );
});

describe('widths and powers', () => {
  test('occupied widths meet the reference', () => {
    const reference = referenceCase('08_occupied_bandwidth');
    reference.inputs.items.forEach(
      (item: { trace_dbm: number[]; start_hz: number; step_hz: number; percents: number[] }, k: number) => {
        const scale = { startHz: item.start_hz, stepHz: item.step_hz };
        for (const e of reference.expected.items[k].results) {
          const w = occupiedWidth(item.trace_dbm, scale, e.percent / 100);
          within(w.lowHz, e.lower_hz, reference, 'lower_hz');
          within(w.highHz, e.upper_hz, reference, 'upper_hz');
          within(w.widthHz, e.bandwidth_hz, reference, 'bandwidth_hz');
        }
      },
    );
  });

  test('powers of channels and neighbours meet the reference', () => {
    const reference = referenceCase('08_channel_power');
    reference.inputs.items.forEach(
      (
        item: {
          trace_dbm: number[];
          start_hz: number;
          step_hz: number;
          noise_bandwidth_hz: number;
          channels: { centre: number; bandwidth: number }[];
        },
        k: number,
      ) => {
        const scale = { startHz: item.start_hz, stepHz: item.step_hz };
        const powers = item.channels.map(({ centre, bandwidth }) =>
          channelPower(
            item.trace_dbm,
            scale,
            item.noise_bandwidth_hz,
            centre - bandwidth / 2,
            centre + bandwidth / 2,
          ),
        );
        const e = reference.expected.items[k];
        powers.forEach((p, j) => within(p, e.channels[j].power_dbm, reference, 'power_dbm'));
        powers
          .slice(1)
          .forEach((p, j) => within(p - powers[0], e.adjacent_ratios_db[j], reference, 'adjacent_ratios_db'));
      },
    );
  });

  test('a channel that reaches beyond the line has no power: a part of it is not the whole', () => {
    const scale = { startHz: 0, stepHz: 10 };
    const flat = Array.from({ length: 100 }, () => -50);
    expect(channelPower(flat, scale, 10, -20, 100)).toBeNaN();
    expect(channelPower(flat, scale, 10, 900, 1010)).toBeNaN();
    const powers = channelPowers(flat, scale, 10, {
      centreHz: 500,
      widthHz: 200,
      neighbours: [
        { offsetHz: 200, widthHz: 100 },
        { offsetHz: 480, widthHz: 100 },
      ],
    });
    expect(powers.main).toBeCloseTo(-50 + 10 * Math.log10(20), 9);
    expect(powers.neighbours[0]).toEqual({
      below: expect.closeTo(-3.0103, 4) as number,
      above: expect.closeTo(-3.0103, 4) as number,
    });
    expect(powers.neighbours[1].below).toBeNaN();
  });

  test('channels side by side hold what the channel over both holds, wherever they meet', () => {
    const levels = Array.from({ length: 200 }, (_, i) => -80 + 30 * Math.exp(-(((i - 90) / 20) ** 2)));
    const scale = { startHz: 5e6, stepHz: 1000 };
    fc.assert(
      fc.property(fc.double({ min: 5.001e6, max: 5.198e6, noNaN: true }), (cut) => {
        const parts =
          mw(channelPower(levels, scale, 1500, 5e6, cut)) +
          mw(channelPower(levels, scale, 1500, cut, 5.199e6));
        expect(dbm(parts)).toBeCloseTo(channelPower(levels, scale, 1500, 5e6, 5.199e6), 6);
      }),
    );
  });
});

describe('lines over a band', () => {
  const reference = referenceCase('08_trace_math');
  const sweeps: number[][] = reference.inputs.items[0].sweeps_dbm;
  const expected = reference.expected.items[0];
  const run = (line: BandLine) => {
    const keeper = new LineKeeper(line);
    sweeps.forEach((sweep, k) => keeper.push(pictureOf(sweep.map(mw)), 'rms', k * 50));
    return keeper;
  };

  test.each([
    ['the highest', { shows: 'highest' }, 'max_hold'],
    ['the lowest', { shows: 'lowest' }, 'min_hold'],
    ['the average of powers', { shows: 'average', of: 8, on: 'power' }, 'power_average'],
    ['the average of levels', { shows: 'average', of: 8, on: 'level' }, 'log_average'],
  ] as const)('%s meets the reference', (_, line, key) => {
    const levels = run(line).levels()!;
    // Levels are told as single precision.
    levels.forEach((v, l) => expect(Math.abs(v - expected[key][l])).toBeLessThan(1e-5));
  });

  test('one that is held stays, one that is cleared begins anew, one of other lines is their difference', () => {
    const [now, high] = [run({ shows: 'now' }), run({ shows: 'highest' })];
    const apart = new LineKeeper({ shows: 'difference', from: 1, minus: 0 });
    const levels = levelsOf([now, high, apart]);
    levels[2]!.forEach((v, l) => expect(v).toBeCloseTo(levels[1]![l] - levels[0]![l], 5));
    high.held = true;
    const former = high.levels();
    high.push(pictureOf(sweeps[0].map(() => 1)), 'rms', 900);
    expect(high.levels()).toEqual(former);
    high.held = false;
    high.clear();
    expect(high.levels()).toBeNull();
    expect(levelsOf([now, high, apart])[2]).toBeNull();
    high.push(pictureOf(sweeps[0].map(mw)), 'rms', 950);
    expect(high.sinceMs).toBe(950);
  });

  test('another number of lines begins it anew; a difference of two unlike ones is none', () => {
    const keeper = run({ shows: 'average', of: 50, on: 'power' });
    keeper.push(pictureOf([1, 2, 3]), 'rms', 0);
    expect(keeper.pictures).toBe(1);
    expect(Array.from(keeper.levels()!)).toEqual([1, 2, 3].map((v) => Math.fround(dbm(v))));
    expect(
      levelsOf([
        keeper,
        run({ shows: 'now' }),
        new LineKeeper({ shows: 'difference', from: 0, minus: 1 }),
      ])[2],
    ).toBeNull();
  });

  test('a long average forgets at the pace that it says', () => {
    const keeper = new LineKeeper({ shows: 'average', of: 10, on: 'power' });
    for (let k = 0; k < 100; k++) keeper.push(pictureOf([1]), 'rms', k);
    for (let k = 0; k < 10; k++) keeper.push(pictureOf([0]), 'rms', k);
    expect(mw(keeper.levels()![0])).toBeCloseTo(0.9 ** 10, 5);
  });

  test('over noise the average of levels reads 2.51 dB below the average of powers', () => {
    const random = new Random(5201);
    const { mean_dbm, count } = reference.inputs.noise;
    const power = new LineKeeper({ shows: 'average', of: count, on: 'power' });
    const level = new LineKeeper({ shows: 'average', of: count, on: 'level' });
    for (let k = 0; k < count; k++) {
      const picture = pictureOf([-Math.log(random.uniform()) * mw(mean_dbm)]);
      power.push(picture, 'rms', k);
      level.push(picture, 'rms', k);
    }
    expect(power.levels()![0]).toBeCloseTo(reference.expected.noise.power_average_dbm, 4);
    expect(level.levels()![0]).toBeCloseTo(reference.expected.noise.log_average_dbm, 4);
  });
});
