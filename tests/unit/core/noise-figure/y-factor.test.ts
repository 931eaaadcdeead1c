import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { mismatch, pointResult, type PointInputs } from '$core/noise-figure/budget';
import { findings, pointPower, sourceLeft, type PointPower } from '$core/noise-figure/findings';
import { excessAt, hotTemperature, T0, tabledAt } from '$core/noise-figure/sources';
import { byY, cascadeFigure, deviceBy } from '$core/noise-figure/y-factor';
import { dbm, mw, noiseOf } from '$core/radio/levels';
import { Gatherer, type Gathered } from '$core/radio/gathering';
import { noise, sum, tone } from '../radio/signals';
import { referenceCase, within } from '../../../reference';

const none = { db: 0, kelvin: 290 };

describe('against the reference', () => {
  test('excess noise between calibrated frequencies, and how hot that is', () => {
    const known = referenceCase('09_enr_interpolation');
    const { inputs, expected } = known;
    const points = inputs.enr_table.map((p: { frequency: number; enr_db: number }) => ({
      hz: p.frequency,
      enr: p.enr_db,
      expanded: 0.2,
    }));
    inputs.frequencies.forEach((hz: number, k: number) => {
      const { enr } = excessAt(points, hz);
      within(enr, expected.enr_db[k], known, 'enr_db');
      within(hotTemperature(enr), expected.hot_temperature_k[k], known, 'hot_temperature_k');
    });
    expect(excessAt(points, 5e6).covered).toBe(false);
    expect(excessAt(points, 10e6).covered).toBe(true);
    expect(excessAt(points, 18e9).covered).toBe(true);
    expect(excessAt(points, 19e9).covered).toBe(false);
  });

  test('Y with a source that is colder or warmer than 290 K', () => {
    const known = referenceCase('09_y_factor');
    const { inputs, expected } = known;
    inputs.items.forEach(
      (
        item: { enr_db: number; hot_dbm: number; cold_dbm: number; cold_temperature_k: number },
        k: number,
      ) => {
        const want = expected.items[k];
        const got = byY(
          { on: mw(item.hot_dbm), off: mw(item.cold_dbm) },
          item.enr_db,
          item.cold_temperature_k,
        );
        within(got.y, want.y_factor, known, 'y_factor');
        within(got.effectiveK, want.effective_temperature_k, known, 'effective_temperature_k');
        within(got.factor, want.noise_factor, known, 'noise_factor');
        within(10 * Math.log10(got.factor), want.noise_figure_db, known, 'noise_figure_db');
        within(
          10 * Math.log10(byY({ on: mw(item.hot_dbm), off: mw(item.cold_dbm) }, item.enr_db, T0).factor),
          want.noise_figure_uncorrected_cold_290_db,
          known,
          'noise_figure_uncorrected_cold_290_db',
        );
      },
    );
  });

  test('second stage and loss before the device', () => {
    const known = referenceCase('09_second_stage_correction');
    const { inputs, expected } = known;
    inputs.items.forEach((item: Record<string, number>, k: number) => {
      const want = expected.items[k];
      const got = deviceBy(
        { on: mw(item.calibration_hot_dbm), off: mw(item.calibration_cold_dbm) },
        { on: mw(item.measurement_hot_dbm), off: mw(item.measurement_cold_dbm) },
        item.enr_db,
        item.cold_temperature_k,
        { db: item.input_loss_db, kelvin: item.input_loss_temperature_k },
        none,
      );
      within(got.receiverK, want.receiver_temperature_k, known, 'receiver_temperature_k');
      within(got.totalK, want.total_temperature_k, known, 'total_temperature_k');
      within(got.deviceK, want.device_temperature_k, known, 'device_temperature_k');
      within(got.figureDb, want.device_noise_figure_db, known, 'device_noise_figure_db');
      within(got.gainDb, want.device_gain_db, known, 'device_gain_db');
      within(got.figureDb, want.model_truth.device_noise_figure_db, known, 'model_truth');
    });
  });
});

/** Powers of a chain that is known. */
function chain(of: {
  figure: number;
  gain: number;
  receiver: number;
  enr?: number;
  coldK?: number;
  before?: number;
  behind?: number;
  lossK?: number;
}) {
  const { enr = 15, coldK = 290, before = 0, behind = 0, lossK = 290 } = of;
  const [l1, l2, g] = [10 ** (before / 10), 10 ** (behind / 10), 10 ** (of.gain / 10)];
  const te = (figure: number) => T0 * (10 ** (figure / 10) - 1);
  const hot = T0 * 10 ** (enr / 10) + T0;
  const out = (ts: number) => ts + te(of.receiver);
  const total =
    (l1 - 1) * lossK + l1 * te(of.figure) + (l1 * (l2 - 1) * lossK) / g + (l1 * l2 * te(of.receiver)) / g;
  const through = (ts: number) => ((ts + total) * g) / (l1 * l2);
  const kb = mw(noiseOf(2e6, 0)) / T0;
  return {
    own: { on: kb * out(hot), off: kb * out(coldK) },
    through: { on: kb * through(hot), off: kb * through(coldK) },
    enr,
    coldK,
    before: { db: before, kelvin: lossK },
    behind: { db: behind, kelvin: lossK },
  };
}

describe('the device by itself', () => {
  test('comes back whatever the losses, temperatures and the receiver are', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 12, noNaN: true }),
        fc.double({ min: -3, max: 40, noNaN: true }),
        fc.double({ min: 1, max: 25, noNaN: true }),
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.double({ min: 0, max: 6, noNaN: true }),
        fc.double({ min: 250, max: 330, noNaN: true }),
        (figure, gain, receiver, before, behind, coldK) => {
          const c = chain({ figure, gain, receiver, before, behind, coldK, lossK: coldK, enr: 15.2 });
          const got = deviceBy(c.own, c.through, c.enr, c.coldK, c.before, c.behind);
          expect(got.gainDb).toBeCloseTo(gain, 6);
          expect(got.figureDb).toBeCloseTo(figure, 5);
        },
      ),
    );
  });
  test('a cold source taken for 290 K shifts the figure, and is right when it is stated', () => {
    const c = chain({ figure: 1, gain: 20, receiver: 6, coldK: 300 });
    const stated = deviceBy(c.own, c.through, c.enr, 300, none, none);
    const not = deviceBy(c.own, c.through, c.enr, 290, none, none);
    expect(stated.figureDb).toBeCloseTo(1, 9);
    expect(Math.abs(not.figureDb - 1)).toBeGreaterThan(0.02);
  });
  test('stages in a row by Friis: a lossy cable first costs its loss, an amplifier first hides what follows', () => {
    const lna = { figureDb: 1, gainDb: 20 };
    const mixer = { figureDb: 10, gainDb: -6 };
    expect(cascadeFigure([lna])).toBeCloseTo(1, 12);
    expect(cascadeFigure([lna, mixer])).toBeCloseTo(10 * Math.log10(10 ** 0.1 + 9 / 100), 12);
    expect(cascadeFigure([{ figureDb: 3, gainDb: -3 }, lna])).toBeCloseTo(4, 12);
  });
  test('of a table between its frequencies', () => {
    const table = [
      { hz: 1e6, db: 1 },
      { hz: 3e6, db: 2 },
    ];
    expect([0, 1e6, 2e6, 3e6, 9e6].map((hz) => tabledAt(table, hz))).toEqual([1, 1, 1.5, 2, 2]);
    expect(tabledAt([], 1e6)).toBe(0);
  });
});

const quiet = (
  c: ReturnType<typeof chain>,
  relative = 1e-6,
  over: Partial<PointInputs> = {},
): PointInputs => ({
  own: { on: { mw: c.own.on, relative }, off: { mw: c.own.off, relative } },
  through: { on: { mw: c.through.on, relative }, off: { mw: c.through.off, relative } },
  enr: c.enr,
  enrExpanded: 0,
  coldK: c.coldK,
  coldExpanded: 0,
  before: c.before,
  behind: c.behind,
  lossExpanded: 0,
  vswr: { source: 1, input: 1, output: 1, receiver: 1 },
  ...over,
});

describe('±', () => {
  const c = chain({ figure: 2, gain: 22, receiver: 6 });
  test('of the excess goes into a figure behind high gain as it is', () => {
    const r = pointResult(quiet(c, 1e-9, { enrExpanded: 0.2 }));
    // d NF / d ENR is 1 for the device alone; the second stage moves with it.
    expect(r.figureExpanded).toBeCloseTo(0.2, 2);
    expect(r.gainExpanded).toBeLessThan(1e-3);
  });
  test('of jitter is what repeated measurements scatter by', () => {
    const relative = 0.004;
    const stated = pointResult(quiet(c, relative)).figureExpanded / 2;
    const gain = pointResult(quiet(c, relative)).gainExpanded / 2;
    let seed = 7;
    const gauss = () => {
      let s = 0;
      for (let k = 0; k < 12; k++) s += (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
      return s - 6;
    };
    const runs = Array.from({ length: 4000 }, () => {
      const shake = (v: number) => v * (1 + relative * gauss());
      return deviceBy(
        { on: shake(c.own.on), off: shake(c.own.off) },
        { on: shake(c.through.on), off: shake(c.through.off) },
        c.enr,
        c.coldK,
        none,
        none,
      );
    });
    const deviation = (key: 'figureDb' | 'gainDb') => {
      const mean = runs.reduce((a, r) => a + r[key], 0) / runs.length;
      return Math.sqrt(runs.reduce((a, r) => a + (r[key] - mean) ** 2, 0) / runs.length);
    };
    expect(deviation('figureDb') / stated).toBeGreaterThan(0.95);
    expect(deviation('figureDb') / stated).toBeLessThan(1.05);
    expect(deviation('gainDb') / gain).toBeGreaterThan(0.95);
    expect(deviation('gainDb') / gain).toBeLessThan(1.05);
  });
  test('grows with each standing wave, and a perfect joint adds nothing', () => {
    expect(mismatch(1, 1.5)).toBe(0);
    // ρ = 0.2 both: limits of 0.341 dB, over the root of two.
    expect(mismatch(1.5, 1.5)).toBeCloseTo((20 * Math.log10(1.04)) / Math.SQRT2, 12);
    const plain = pointResult(quiet(c));
    for (const side of ['source', 'input', 'output', 'receiver'] as const) {
      const vswr = { source: 1.2, input: 1.2, output: 1.2, receiver: 1.2 };
      const worse = pointResult(quiet(c, 1e-6, { vswr: { ...vswr, [side]: 2 } }));
      const base = pointResult(quiet(c, 1e-6, { vswr }));
      expect(
        Math.max(worse.figureExpanded - base.figureExpanded, worse.gainExpanded - base.gainExpanded),
      ).toBeGreaterThan(0.01);
      expect(base.figureExpanded).toBeGreaterThan(plain.figureExpanded);
    }
  });
  test('low gain makes the receiver’s part of it large', () => {
    const low = chain({ figure: 4.5, gain: 3, receiver: 18 });
    expect(pointResult(quiet(low, 0.003)).figureExpanded).toBeGreaterThan(
      4 * pointResult(quiet(c, 0.003)).figureExpanded,
    );
  });
});

describe('faults that powers show', () => {
  const c = chain({ figure: 2, gain: 20, receiver: 6 });
  const power = (value: number, over: Partial<PointPower> = {}): PointPower => ({
    mw: value,
    relative: 0.003,
    aboveDb: 1,
    carrier: false,
    overload: false,
    ...over,
  });
  const told = (
    own: { on: PointPower; off: PointPower },
    through: { on: PointPower; off: PointPower },
    covered = true,
    of = c,
  ) => {
    const inputs = quiet(of, 0.003);
    inputs.own = own;
    inputs.through = through;
    return findings({ own, through }, inputs, pointResult(inputs), covered);
  };
  const pair = (p: { on: number; off: number }) => ({ on: power(p.on), off: power(p.off) });

  test('nothing where nothing is', () => expect(told(pair(c.own), pair(c.through))).toEqual([]));
  test('a source that stayed off, or was on when it should be off', () => {
    const same = pair({ on: c.own.off * 1.002, off: c.own.off });
    expect(told(same, pair(c.through))[0]).toMatchObject({
      leaves: true,
      says: expect.stringContaining('not to be told'),
    });
    const swapped = pair({ on: c.own.off, off: c.own.on });
    expect(told(swapped, pair(c.through))[0].says).toContain('was it switched?');
    expect(sourceLeft([same, same])).toBe('same');
    expect(sourceLeft([swapped, swapped])).toBe('swapped');
    expect(sourceLeft([pair(c.own), pair(c.own)])).toBe(null);
    expect(sourceLeft([])).toBe(null);
  });
  test('overload, a carrier, a table that ends', () => {
    const through = pair(c.through);
    through.on.overload = true;
    expect(told(pair(c.own), through)[0].says).toContain('overloaded');
    const own = pair(c.own);
    Object.assign(own.off, { carrier: true, aboveDb: 14 });
    expect(told(own, pair(c.through))[0].says).toContain('14.0 dB over the noise');
    expect(told(pair(c.own), pair(c.through), false)).toEqual([
      { says: expect.stringContaining('outside the source’s table'), leaves: false },
    ]);
  });
  test('gain too low to correct', () => {
    const low = chain({ figure: 1, gain: -2, receiver: 14 });
    expect(told(pair(low.own), pair(low.through), true, low)[0].says).toContain('gain is too low');
  });
});

describe('the power of a point', () => {
  const rate = 4e6;
  const request = { centreHz: 1e8, spanHz: 2e6, resolutionHz: 1e5, smoothingHz: null, shape: 'Blackman-Harris' as const }; // prettier-ignore
  const gather = (iq: Float32Array, sweeps = 16): Gathered => {
    const g = new Gatherer(
      { does: 'band', request, sweepS: 0.001, sweeps },
      { centreHz: 1e8, sampleRateHz: rate },
    );
    let got: Gathered | number = 0;
    for (let at = 0; at < iq.length && typeof got === 'number'; at += 6000)
      got = g.push(iq.subarray(at, at + 6000), at / 2, false);
    return got as Gathered;
  };
  test('of white noise is its density times the width, with the scatter that its samples have', () => {
    const iq = noise(70_000, rate, -150, 3);
    const got = gather(iq);
    if (got.does !== 'band') throw new Error('no band');
    const p = pointPower(got, 40);
    expect(dbm(p.mw)).toBeCloseTo(-150 + 10 * Math.log10(got.rms.length * got.stepHz), 1);
    expect(p.carrier).toBe(false);
    // 16 ms of 2 MHz: 32 000 independent pieces at the most.
    expect(p.relative).toBeGreaterThan(0.003);
    expect(p.relative).toBeLessThan(0.02);
  });
  test('a weak carrier in it is recognised', () => {
    const got = gather(sum(noise(70_000, rate, -150, 4), tone(70_000, rate, 312_345, -150 + 50 + 8)));
    if (got.does !== 'band') throw new Error('no band');
    expect(pointPower(got, 40).carrier).toBe(true);
  });
  test('a hole makes the step begin anew: nothing is measured over it', () => {
    const iq = noise(200_000, rate, -150, 5);
    const g = new Gatherer(
      { does: 'band', request, sweepS: 0.001, sweeps: 4 },
      { centreHz: 1e8, sampleRateHz: rate },
    );
    expect(g.push(iq.subarray(0, 24_000), 0, true)).toBeCloseTo(0.75, 6);
    expect(g.push(iq.subarray(0, 8000), 50_000, false)).toBeCloseTo(0.25, 6);
    const got = g.push(iq.subarray(0, 24_000), 54_000, false);
    expect(got).toMatchObject({ does: 'band', overload: false });
    for (let k = 0; k < 40 && !g.hopeless; k++) g.push(iq.subarray(0, 800), 1e6 + k * 10_000, false);
    expect(g.hopeless).toBe(true);
  });
});
