import { when } from '$core/condition/condition';
import fc from 'fast-check';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { magnitudes } from '$core/signal/magnitude';
import { burstsOf } from '$core/radio/bursts';
import { BandListener } from '$core/radio/band';
import { MW_PER_V2, dbm, noiseOf } from '$core/radio/levels';
import { highestLine, peakAt } from '$core/radio/peaks';
import { planBand } from '$core/radio/resolution';
import { channelPower, occupiedWidth } from '$core/radio/widths';
import { LINE_DEFAULTS, LISTENING_DEFAULTS, bandOf, type HeardBand, type ListenWish } from '$contract/radio';
import { decodeHeard, encodeHeard } from '$contract/radio-wire';
import { Air, AIR_CONTROLS, figureAt, HEARS } from '$engine/units/receiver/air';
import { BEACON, TELEMETRY } from '$engine/units/receiver/emitters';
import { openStandIn } from '$engine/units/receiver/driver';
import { TakeReader } from '$store/take/reader';
import { START_NS, UNIT, bench, channel } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-radio-'));
afterAll(() => rmSync(folder, { recursive: true }));

const RATE = 1e6;
const known = (settings: object) => ({
  serial: UNIT,
  kind: 'receiver',
  name: 'Quay receiver',
  config: { settings: { centre: 868, rate: RATE / 1e6, gain: 20, ...settings }, sources: [], database: null },
});
const receiver = (settings = {}) => openStandIn(known(settings), START_NS);
const silent = Object.fromEntries(AIR_CONTROLS.filter((c) => c.unit === 'dBm').map((c) => [c.id, -130]));
const airOf = (levels: Record<string, number>, rate = RATE) =>
  new Air(
    rate,
    5,
    (id) => ({ ...Object.fromEntries(AIR_CONTROLS.map((c) => [c.id, c.value])), ...silent, ...levels })[id]!,
  );

/** What is heard of the air around a frequency. */
function hear(
  air: Air,
  centreHz: number,
  own: { spanHz?: number; resolutionHz?: number; gainDb?: number; seconds?: number } = {},
) {
  const {
    spanHz = air.sampleRateHz * 0.8,
    resolutionHz = air.sampleRateHz / 500,
    gainDb = 20,
    seconds = 0.2,
  } = own;
  const listener = new BandListener(
    planBand(
      { centreHz, spanHz, resolutionHz, smoothingHz: null, shape: 'Blackman-Harris' },
      { centreHz, sampleRateHz: air.sampleRateHz },
    ),
  );
  listener.push(air.read(0, Math.round(seconds * air.sampleRateHz), { centreHz, gainDb }), 0);
  const picture = listener.look()!;
  return {
    plan: listener.plan,
    picture,
    levels: Array.from(picture.powers.rms, dbm),
    highest: Array.from(picture.powers.highest, dbm),
  };
}

describe('the air at the quay', () => {
  test('in whatever pieces samples are asked for, they are the same', () => {
    const air = airOf({ carrier: -60, telemetry: -50, hopper: -60, beacon: -40, voice: -70, supply: -80 });
    const at = { centreHz: 868.4e6, gainDb: 20 };
    const whole = air.read(7000, 20_000, at);
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 2, maxLength: 6 }), (cuts) => {
        let from = 7000;
        for (const n of cuts) {
          const count = Math.min(n, 27_000 - from);
          if (count <= 0) break;
          const piece = air.read(from, count, at);
          // The first sample of a piece misses its neighbour in the uneven response.
          for (let i = 2; i < piece.length; i++)
            expect(Math.abs(piece[i] - whole[2 * (from - 7000) + i])).toBeLessThan(2e-7);
          from += count;
        }
      }),
      { numRuns: 3 },
    );
  });

  test('a carrier reads the level that is set, within what the data sheet says, and where it is', () => {
    for (const centreHz of [866.85e6, 867.15e6 - 1234, 867.45e6]) {
      const { levels, plan } = hear(airOf({ carrier: -55 }), centreHz);
      // Beside it the receiver’s own DC and spur are weaker.
      const peak = peakAt(levels, highestLine(levels), plan);
      expect(Math.abs(peak.level + 55)).toBeLessThan(HEARS.accuracy.levelDb + HEARS.accuracy.flatnessDb);
      expect(Math.abs(peak.hz - 867.15e6)).toBeLessThan(plan.stepHz * 0.02);
    }
  });

  test('its floor is kTB and its noise figure; gain lowers it, to the figure of its first stage', () => {
    for (const gainDb of [0, 20, 40]) {
      const { levels, plan } = hear(airOf({}), 900e6, { gainDb, seconds: 1 });
      const lines = levels.filter(
        (_, l) =>
          Math.abs(l - levels.length / 2) > 20 &&
          Math.abs(plan.startHz + l * plan.stepHz - 900e6 - RATE / 4) > 20_000,
      );
      const floor = dbm(lines.reduce((a, v) => a + 10 ** (v / 10), 0) / lines.length);
      expect(Math.abs(floor - noiseOf(plan.noiseBandwidthHz, figureAt(gainDb)))).toBeLessThan(0.2);
    }
    expect(figureAt(40)).toBeCloseTo(HEARS.noiseFigure, 1);
    expect(figureAt(0)).toBeGreaterThan(20);
  });

  test('beside a strong carrier stands its mirror image, as far down as the data sheet says; DC and a spur are its own', () => {
    const { levels, plan } = hear(airOf({ carrier: -30 }), 867.05e6);
    const at = (hz: number) => {
      const l = Math.round((hz - plan.startHz) / plan.stepHz);
      return Math.max(...levels.slice(l - 2, l + 3));
    };
    expect(at(866.95e6) - at(867.15e6)).toBeCloseTo(HEARS.image, 0);
    expect(at(867.05e6)).toBeCloseTo(HEARS.dc - 20, 0);
    expect(Math.abs(at(867.05e6 + RATE / 4) - HEARS.spur + 20)).toBeLessThan(1);
  });

  test('the telemetry has the power that is set and the width of its filter', () => {
    const air = airOf({ telemetry: -50 }, 2e6);
    // While a frame is on.
    const { levels, plan } = hear(air, 868e6, { seconds: 0.038, resolutionHz: 4000 });
    expect(Math.abs(channelPower(levels, plan, plan.noiseBandwidthHz, 867.5e6, 868.5e6) + 50)).toBeLessThan(
      1,
    );
    const { widthHz } = occupiedWidth(levels, plan, 0.99);
    // Root-raised-cosine: all of it within (1 + α)·symbol rate, most within the symbol rate.
    expect(widthHz).toBeGreaterThan(TELEMETRY.symbolHz);
    expect(widthHz).toBeLessThan(TELEMETRY.symbolHz * (1 + TELEMETRY.rollOff));
  });

  test('the beacon’s pulses are as they are said to be', () => {
    const air = airOf({ beacon: -40 });
    const bursts = burstsOf(air.read(0, 60_000, { centreHz: 868.9e6, gainDb: 20 }), RATE);
    expect(bursts.length).toBeGreaterThan(8);
    const [b] = bursts.slice(1);
    expect(b.widthS * 1e6).toBeCloseTo(BEACON.widthS * 1e6, -1);
    expect(b.periodS * 1e6).toBeCloseTo(BEACON.periodS * 1e6, 0);
    expect(Math.abs(b.riseS - 0.8 * BEACON.edgeS)).toBeLessThan(2e-6);
    expect(b.droop / BEACON.droopDb).toBeGreaterThan(0.7);
    expect(Math.abs(b.sweepHz)).toBeGreaterThan(0.7 * BEACON.sweepHz);
  });

  test('the hopper is on each of its channels in the highest line, and nowhere for long', () => {
    const { highest, levels, plan } = hear(airOf({ hopper: -60 }), 869.75e6, {
      seconds: 2,
      resolutionHz: 5000,
    });
    for (let k = 0; k < 16; k++) {
      const l = Math.round((869.75e6 + (k - 7.5) * 50_000 - plan.startHz) / plan.stepHz);
      expect(Math.max(...highest.slice(l - 2, l + 3))).toBeGreaterThan(-62);
      expect(Math.max(...levels.slice(l - 2, l + 3))).toBeLessThan(-66);
    }
  });

  test('too strong a carrier is clipped and said; less gain takes it', () => {
    const air = airOf({ carrier: -5 });
    air.read(0, 1000, { centreHz: 867.05e6, gainDb: 20 });
    expect(air.overload).toBe(true);
    air.read(0, 1000, { centreHz: 867.05e6, gainDb: 0 });
    expect(air.overload).toBe(false);
    // An attenuation takes more, and costs more noise.
    const strong = airOf({ carrier: 14 });
    strong.read(0, 1000, { centreHz: 867.05e6, gainDb: 0 });
    expect(strong.overload).toBe(true);
    const read = strong.read(0, 1000, { centreHz: 867.05e6, gainDb: -10 });
    expect(strong.overload).toBe(false);
    expect(dbm((read.reduce((a, v) => a + v * v, 0) / 1000) * MW_PER_V2)).toBeCloseTo(14.25, 0);
    expect(figureAt(-10) - figureAt(0)).toBeGreaterThan(9);
  });
});

describe('a receiver in the pipeline', () => {
  const channels = [
    channel('Band', 'radio samples', 'R/iq', { rateHz: RATE, unit: 'mV' }),
    channel('Telemetry', 'power in a band', 'P/1', { from: 867.65, to: 868.35, rateHz: 20 }),
    channel('Highest', 'peak level', 'P/2', { from: 867.7, to: 868.3, rateHz: 20 }),
    channel('Where', 'peak frequency', 'P/3', { from: 867.7, to: 868.3, rateHz: 20, unit: 'Hz' }),
    channel('Far', 'power in a band', 'P/4', { from: 900, to: 901, rateHz: 20 }),
  ];

  test('reads powers and peaks of bands; what lies outside is not there', () => {
    const unit = receiver();
    for (const [id, level] of Object.entries(silent)) unit.setControl!(id, level);
    unit.setControl!('other', -50);
    unit.setControl!('otherMHz', 868.12);
    const b = bench(unit, channels);
    b.run(1);
    expect(b.last('Telemetry')).toBeCloseTo(-50, 0);
    expect(b.last('Highest')).toBeCloseTo(-50, 0);
    expect(Math.abs(b.last('Where') - 120_000)).toBeLessThan(10);
    expect(b.last('Far')).toBeNaN();
    // Of complex samples the magnitude is read: −50 dBm are 0.707 mV over 50 Ω.
    expect(b.last('Band')).toBeGreaterThan(0.6);
    expect(b.last('Band')).toBeLessThan(0.85);
  });

  test('tuned elsewhere it reads what is there', () => {
    const unit = receiver();
    for (const [id, level] of Object.entries(silent)) unit.setControl!(id, level);
    const b = bench(unit, channels);
    b.run(0.5);
    expect(b.last('Far')).toBeNaN();
    unit.tune!(900.5e6);
    b.run(0.5);
    expect(Number.isFinite(b.last('Far'))).toBe(false); // 1 MHz is wider than four fifths of the rate
    expect(b.last('Telemetry')).toBeNaN();
    expect(() => unit.tune!(1e12)).toThrow(/6 GHz/);
    expect(unit.describe().receiver!.centreHz).toBe(900.5e6);
  });

  test('a band is recorded by a condition, with memory from before, sample for sample; its centre and level stand in the take', () => {
    const unit = receiver();
    for (const [id, level] of Object.entries(silent)) unit.setControl!(id, level);
    const b = bench(unit, channels);
    const path = join(folder, 'band.take');
    b.arm(
      { start: 'when', startWhen: when('telemetry', 'rises above', -80), before: 0.2, longest: 0.5 },
      path,
    );
    b.run(1);
    unit.setControl!('telemetry', -46);
    b.run(2);
    const head = b.heads.at(-1)!;
    expect(head.state).toBe('complete');
    const reader = new TakeReader(path);
    const iq = reader.signals.find((s) => s.name === 'Band')!;
    expect(iq).toMatchObject({ width: 2, unit: 'mV' });
    expect((iq.snapshot as { receiver?: { centreHz: number; sampleRateHz: number } }).receiver).toMatchObject(
      { centreHz: 868e6, sampleRateHz: RATE },
    );
    expect(iq.length / RATE).toBeCloseTo(0.7, 1);
    // Silence in the memory from before, telemetry after the start; in mV.
    const values = reader.values(iq.id, 0, iq.length);
    expect(values).toHaveLength(2 * iq.length);
    const m = magnitudes(values, 2);
    const mean = (a: number, z: number) => m.subarray(a, z).reduce((x, v) => x + v, 0) / (z - a);
    expect(mean(0, 100_000)).toBeLessThan(0.05);
    expect(mean(300_000, 500_000)).toBeGreaterThan(0.4);
    expect(values.every((v) => Number.isFinite(v))).toBe(true);
    reader.close();
  });

  test('a log beside windows keeps magnitudes of complex samples', () => {
    const b = bench(receiver(), channels);
    const path = join(folder, 'log.take');
    b.arm(
      {
        detail: 'only in windows',
        windowWhen: when('telemetry', 'is above', 40),
        windowBefore: 0,
        windowAfter: 0,
        logEvery: 0.1,
        longest: 1,
      },
      path,
    );
    b.acquisition.start();
    b.run(2);
    const reader = new TakeReader(path);
    const log = reader.signals.find((s) => s.name === 'Band, log')!;
    expect(log.width).toBe(1);
    const values = reader.values(log.id, 0, log.length);
    expect(values.length).toBeGreaterThan(7);
    for (const v of values) if (v === v) expect(v).toBeGreaterThan(0);
    reader.close();
  });

  test('unplugged it is lost and found again; over range is said', () => {
    const unit = receiver();
    const b = bench(unit, channels);
    b.run(0.5);
    unit.setControl!('plugged', 0);
    b.run(0.5);
    expect(b.notes.some((n) => /was lost/.test(n.says))).toBe(true);
    unit.setControl!('plugged', 1);
    b.run(1.5);
    expect(b.notes.some((n) => /found again/.test(n.says))).toBe(true);
    expect(Number.isFinite(b.last('Telemetry'))).toBe(true);
    unit.setControl!('other', 0);
    unit.setControl!('otherMHz', 868.05);
    b.run(0.3);
    const state = b.frames.at(-1)!.state[0];
    expect(b.notes.some((n) => /over range/.test(n.says))).toBe(true);
    expect(state).toBeGreaterThan(0);
  });

  test('a band that ends before it begins is refused by name', () => {
    const b = bench(receiver(), [channel('Wrong', 'power in a band', 'P/1', { from: 869, to: 868 })]);
    expect(b.notes.map((n) => n.says).join()).toMatch(/begin has to lie below its end/);
  });
});

describe('listening', () => {
  const wish = (own: Partial<ListenWish> = {}, listening = {}): ListenWish => ({
    request: bandOf({ ...LISTENING_DEFAULTS, around: 868, wide: 0.8, resolving: 5, ...listening }),
    detector: 'rms',
    top: -20,
    height: 100,
    eachS: 0.05,
    fadeS: 10,
    count: null,
    lines: LINE_DEFAULTS.map((l) => ({
      id: l.id,
      line: l.shows === 'average' ? { shows: 'average', of: 50, on: 'power' } : { shows: l.shows as 'now' },
      held: false,
      begins: 0,
    })),
    ...own,
  });
  /** A receiver that is listened to for some time. */
  async function listen(own: ListenWish, seconds = 1) {
    const unit = receiver();
    for (const [id, level] of Object.entries(silent)) unit.setControl!(id, level);
    unit.setControl!('other', -50);
    unit.setControl!('otherMHz', 868.1);
    const heard: HeardBand[] = [];
    const faults: { says: string; next: string }[] = [];
    unit.listen!({ band: own, catching: null }, (h) =>
      'plan' in h ? heard.push({ unit: UNIT, ...h }) : 'says' in h && faults.push(h),
    );
    await import('$engine/radio/listen-thread');
    await new Promise((done) => setTimeout(done)); // what listens is loaded, and told
    let nowNs = START_NS;
    const run = (s: number) => {
      for (let k = 0; k < s * 20; k++) unit.poll((nowNs += 50_000_000n));
    };
    run(seconds);
    return { unit, heard, faults, run };
  }

  test('twenty pictures a second, with every line, the highest for the waterfall, and now and then the density', async () => {
    const { heard } = await listen(wish());
    expect(heard.length).toBeGreaterThanOrEqual(18);
    const { plan, lines, highest, density, transforms } = heard[0];
    expect(lines.map((l) => l.id)).toEqual(['now', 'highest', 'average']);
    for (const { levels } of lines) {
      const peak = peakAt(levels!, highestLine(levels!), plan);
      expect(Math.abs(peak.level + 50)).toBeLessThan(1);
      expect(Math.abs(peak.hz - 868.1e6)).toBeLessThan(100);
    }
    expect(highest).toHaveLength(plan.lines);
    expect(density!.transforms).toBe(transforms);
    expect(heard.filter((h) => h.density).length).toBeLessThan(heard.length / 2);
    // All samples are looked at, one picture after the other.
    for (let k = 1; k < heard.length; k++) expect(heard[k].fromS).toBeLessThanOrEqual(heard[k - 1].toS);
    expect(heard.every((h) => h.lost === 0 && !h.overload)).toBe(true);
  });

  test('a picture each half second: ten times the transforms, nothing left out, the density still told; changed while it is heard', async () => {
    const { heard: fast } = await listen(wish());
    const { heard, unit, run } = await listen(wish({ eachS: 0.5 }), 2);
    expect(heard.length).toBeGreaterThanOrEqual(3);
    expect(heard.length).toBeLessThanOrEqual(4);
    expect(heard[1].transforms / fast[5].transforms).toBeCloseTo(10, 0);
    expect(heard[1].toS - heard[1].fromS).toBeCloseTo(0.5, 1);
    for (let k = 1; k < heard.length; k++) expect(heard[k].fromS).toBeLessThanOrEqual(heard[k - 1].toS);
    expect(heard.every((h) => h.density !== null)).toBe(true);
    // Steadier: the mean of ten times as many.
    const scatter = (h: HeardBand) => {
      const now = [...h.lines[0].levels!].slice(20, 80);
      const mean = now.reduce((s, v) => s + v, 0) / now.length;
      return Math.sqrt(now.reduce((s, v) => s + (v - mean) ** 2, 0) / now.length);
    };
    expect(scatter(heard[1])).toBeLessThan(0.6 * scatter(fast[5]));
    const before = heard.length;
    unit.listen!({ band: wish(), catching: null }, (h) => 'plan' in h && heard.push({ unit: UNIT, ...h }));
    run(1);
    expect(heard.length - before).toBeGreaterThanOrEqual(17);
  });

  test('a carrier is counted to a few Hz where its lines are kHz apart; what is not there is not', async () => {
    const { heard } = await listen(wish({ count: { hz: 868.1012e6, bandwidthHz: 40_000 } }));
    const { counted } = heard.at(-1)!;
    expect(Math.abs(counted!.hz - 868.1e6)).toBeLessThan(5);
    // The reference of a part in a million is what is left: ±1 kHz.
    expect(counted!.expandedHz).toBeCloseTo((2 * 868) / Math.sqrt(3), -1);
    const far = await listen(wish({ count: { hz: 900e6, bandwidthHz: 40_000 } }));
    expect(far.heard.at(-1)!.counted).toBeNull();
  });

  test('a band wider than it receives is gone through in steps and joined; it is tuned back when nobody listens any more', async () => {
    const { unit, heard, run } = await listen(wish({}, { around: 868, wide: 4, resolving: 10 }), 6);
    unit.setControl!('carrier', -60);
    run(6);
    const { plan, lines, receiver: seen, density } = heard.at(-1)!;
    expect(plan).toMatchObject({ steps: 11, certainS: null });
    expect(seen.centreHz).toBe(868e6);
    expect(density).toBeNull();
    const levels = lines[0].levels!;
    // The tone at 868.1 MHz and the crane far away are both there, each once.
    const found = [868.1e6, 867.15e6].map((hz) => {
      const l = Math.round((hz - plan.startHz) / plan.stepHz);
      return Math.max(...levels.slice(l - 2, l + 3));
    });
    expect(Math.abs(found[0] + 50)).toBeLessThan(1);
    expect(Math.abs(found[1] + 60)).toBeLessThan(1);
    // To the rig it stands where it stood.
    expect(unit.describe().receiver!.centreHz).toBe(868e6);
    unit.listen!({ band: null, catching: null }, () => undefined);
    unit.start([], START_NS + 20_000_000_000n);
    expect(unit.describe().receiver!.centreHz).toBe(868e6);
  });

  test('lost in the middle of a sweep, it goes on when it is found again', async () => {
    const { unit, heard, run } = await listen(wish({}, { around: 868, wide: 4, resolving: 10 }), 0.3);
    unit.setControl!('plugged', 0);
    expect(() => run(0.1)).toThrow(/does not answer/);
    unit.setControl!('plugged', 1);
    run(2);
    expect(heard.length).toBeGreaterThan(0);
    expect(Math.max(...heard[0].lines[0].levels!)).toBeGreaterThan(-52);
  });

  test('while channels are measured of its band it does not leave it for a wider one', async () => {
    const unit = receiver();
    const b = bench(unit, [
      channel('Power', 'power in a band', 'P/1', { from: 867.9, to: 868.1, rateHz: 20 }),
    ]);
    b.run(0.2);
    const faults: string[] = [];
    unit.listen!(
      { band: wish({}, { around: 868, wide: 4 }), catching: null },
      (h) => 'says' in h && faults.push(h.says),
    );
    b.run(0.5);
    expect(faults.join()).toMatch(/Channels are measured/);
    expect(Number.isFinite(b.last('Power'))).toBe(true);
  });

  test('what the receiver does not hear is said once, with what to do; it goes on when it is put right', async () => {
    const { unit, heard, faults, run } = await listen(wish({}, { around: 880 }));
    expect(heard).toHaveLength(0);
    expect(faults).toHaveLength(1);
    expect(faults[0].says).toMatch(/879\.6 MHz to 880\.4 MHz is more than is received/);
    unit.tune!(880e6);
    run(0.5);
    expect(heard.length).toBeGreaterThan(5);
    unit.listen!({ band: null, catching: null }, () => undefined);
    const before = heard.length;
    run(0.5);
    expect(heard.length).toBe(before);
  });

  test('a line that is cleared begins anew, one that is held stays, the others go on', async () => {
    const { unit, heard, run } = await listen(wish(), 0.5);
    unit.setControl!('other', -130);
    run(0.1);
    const lines = wish().lines.map((l) => ({
      ...l,
      held: l.id === 'average',
      begins: l.id === 'highest' ? 1 : 0,
    }));
    const told: HeardBand[] = heard;
    const held = told.at(-1)!.lines[2].levels!.slice();
    unit.listen!(
      { band: wish({ lines }), catching: null },
      (h) => 'plan' in h && told.push({ unit: UNIT, ...h }),
    );
    run(0.3);
    const [now, highest, average] = told.at(-1)!.lines;
    expect(Math.max(...now.levels!)).toBeLessThan(-80);
    expect(Math.max(...highest.levels!)).toBeLessThan(-80);
    expect(average.levels).toEqual(held);
    expect(highest.pictures).toBeLessThan(now.pictures);
  });

  test('a picture goes over the wire unchanged', async () => {
    const { heard } = await listen(wish(), 0.4);
    for (const picture of heard) {
      const back = decodeHeard(encodeHeard(picture));
      expect(back.lines.map((l) => Array.from(l.levels!))).toEqual(
        picture.lines.map((l) => Array.from(l.levels!)),
      );
      expect(back.highest).toEqual(picture.highest);
      expect(back.density?.cells).toEqual(picture.density?.cells);
      expect(back.plan).toEqual(picture.plan);
    }
    // At an odd place of a longer message, too, and with a line that has nothing yet.
    const odd = encodeHeard({
      ...heard[0],
      lines: [{ ...heard[0].lines[0], levels: null }, heard[0].lines[1]],
    });
    const moved = new Uint8Array(odd.length + 3);
    moved.set(odd, 3);
    const back = decodeHeard(moved.subarray(3));
    expect(back.lines[0].levels).toBeNull();
    expect(back.lines[1].levels).toEqual(heard[0].lines[1].levels);
  });
});
