import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { crc16, crc32 } from '$core/field/checks';
import { driftPpm, trueMs } from '$core/field/clock';
import { FrameReader, MOST_CARRIED, frameBytes, type Frame } from '$core/field/frames';
import {
  fromHundredths,
  hundredths,
  packed,
  readReadings,
  readingsBytes,
  unpacked,
} from '$core/field/messages';
import { alarmAt, findings, meanKineticTemperature } from '$core/field/recorder/found';
import { RECORDER_MODELS, batteryS, durationS, faultsOf, intervalFor, nextName, phasesOf, readingsFor, recorderModel, type RecorderSetup } from '$core/field/recorder/plan'; // prettier-ignore
import { windOf } from '$core/field/wind';
import { referenceCase, within } from '../../reference';

// Instruments that work by themselves: what goes over their line, how their clocks run, what their readings say.
const bytes = (text: string) => new TextEncoder().encode(text);

describe('frames', () => {
  const frame = fc.record({
    kind: fc.integer({ min: 0, max: 255 }),
    request: fc.integer({ min: 0, max: 65535 }),
    carried: fc.uint8Array({ maxLength: 300 }),
  });
  const cutIn = (all: Uint8Array, sizes: number[]) => {
    const pieces: Uint8Array[] = [];
    for (let at = 0, k = 0; at < all.length; k++) {
      const n = sizes[k % sizes.length];
      pieces.push(all.subarray(at, at + n));
      at += n;
    }
    return pieces;
  };
  const together = (parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((p) => [...p]));
  const plain = (frames: Frame[]) => frames.map((f) => ({ ...f, carried: [...f.carried] }));

  test('the checks are those of the standards', () => {
    expect(crc32(bytes('123456789'))).toBe(0xcbf43926);
    expect(crc16(bytes('123456789'))).toBe(0x906e);
  });
  test('what is sent is found again, however the line cuts it', () => {
    fc.assert(
      fc.property(
        fc.array(frame, { maxLength: 6 }),
        fc.array(fc.integer({ min: 1, max: 60 }), { minLength: 1 }),
        (frames, sizes) => {
          const reader = new FrameReader();
          const found = cutIn(together(frames.map((f) => frameBytes(f))), sizes).flatMap((piece) =>
            reader.push(piece),
          );
          expect(plain(found)).toEqual(plain(frames));
          expect(reader.lost).toBe(0);
        },
      ),
    );
  });
  test('whatever is flipped, lost or put in between: what is found was sent, whole and in its order, and the one behind is found', () => {
    const damage = fc.array(fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), what: fc.constantFrom('flip', 'lose', 'put'), by: fc.integer({ min: 1, max: 255 }) }), { maxLength: 5 }); // prettier-ignore
    fc.assert(
      fc.property(fc.array(frame, { minLength: 1, maxLength: 5 }), damage, (frames, damages) => {
        const line = [...together(frames.map((f) => frameBytes(f)))];
        for (const { at, what, by } of damages) {
          const i = Math.min(line.length - 1, Math.floor(at * line.length));
          if (what === 'flip') line[i] ^= by;
          else if (what === 'lose') line.splice(i, 1);
          else line.splice(i, 0, by);
        }
        const reader = new FrameReader();
        const found = plain(reader.push(Uint8Array.from(line)));
        let at = 0;
        for (const one of found) {
          const next = plain(frames).findIndex(
            (f, k) => k >= at && JSON.stringify(f) === JSON.stringify(one),
          );
          expect(next).toBeGreaterThanOrEqual(at);
          at = next + 1;
        }
        expect(found.length).toBeGreaterThanOrEqual(frames.length - 2 * damages.length);
        // A damaged end is not waited for for ever: as many bytes as a frame can have later the next one is found.
        const after = { kind: 3, request: 7, carried: bytes('behind') };
        const later = [...reader.push(new Uint8Array(MOST_CARRIED + 14)), ...reader.push(frameBytes(after))];
        expect(plain(later).at(-1)).toEqual(plain([after])[0]);
      }),
    );
  });
  test('one of a later version is passed over whole; one that carries too much is refused', () => {
    const later = frameBytes({ kind: 1, request: 2, carried: bytes('x') });
    later[2] = 9;
    new DataView(later.buffer).setUint16(8, crc16(later.subarray(2, 8)), true);
    const reader = new FrameReader();
    const own = { kind: 1, request: 3, carried: bytes('y') };
    expect(plain(reader.push(together([later, frameBytes(own)])))).toEqual(plain([own]));
    expect(reader.lost).toBe(0);
    expect(() => frameBytes({ kind: 1, request: 1, carried: new Uint8Array(MOST_CARRIED + 1) })).toThrow(
      RangeError,
    );
  });
  test('readings and contents go there and back; cut off bytes are refused', () => {
    const piece = {
      run: 4_000_000_000,
      from: 70_000,
      width: 2,
      values: Int16Array.of(-32768, 0, 2150, 32767),
    };
    expect(readReadings(readingsBytes(piece))).toEqual(piece);
    expect(() => readReadings(readingsBytes(piece).subarray(0, 12))).toThrow(RangeError);
    expect(unpacked(packed({ a: [1, null, 'ü'] }))).toEqual({ a: [1, null, 'ü'] });
    expect([21.5, -40, NaN, 400, -327.68].map((v) => fromHundredths(hundredths(v)))).toEqual([21.5, -40, NaN, NaN, NaN]); // prettier-ignore
  });
});

describe('against the reference', () => {
  const own = referenceCase('16_field_metrics');
  const {
    readings_degC: readings,
    interval_s,
    high,
    low,
    k,
    clock,
    wind_speed,
    wind_direction_deg,
  } = own.inputs;
  test('mean kinetic temperature, time and degree minutes beyond limits, alarms', () => {
    const f = findings(readings, interval_s, { high, low });
    within(f.meanKinetic, own.expected.mean_kinetic_temperature, own, 'mean_kinetic_temperature');
    within(f.mean, own.expected.mean, own, 'mean');
    within(f.minutesAbove, own.expected.minutes_above, own, 'minutes_above');
    within(f.minutesBelow, own.expected.minutes_below, own, 'minutes_below');
    within(f.degreeMinutesAbove, own.expected.degree_minutes_above, own, 'degree_minutes_above');
    within(f.degreeMinutesBelow, own.expected.degree_minutes_below, own, 'degree_minutes_below');
    expect(alarmAt(readings, { at: high, after: 'in a row', count: k }, 'high')).toBe(
      own.expected.alarm_in_a_row,
    );
    expect(alarmAt(readings, { at: high, after: 'in total', count: k }, 'high')).toBe(
      own.expected.alarm_in_total,
    );
  });
  test('times corrected for a clock that ran slow', () => {
    const run = { setMs: clock.set_true_s * 1000, readMs: clock.fetched_true_s * 1000, saidMs: (clock.fetched_true_s + clock.recorder_ahead_s) * 1000 }; // prettier-ignore
    const n = readings.length;
    [0, Math.floor(n / 2), n - 1].forEach((i, k) => within(trueMs(i * interval_s * 1000, run) / 1000, own.expected.corrected_s[k], own, 'corrected_s')); // prettier-ignore
    expect(driftPpm(run)).toBeCloseTo((-41 / 30600) * 1e6, 6);
  });
  test('wind as a vector, and the spread of its direction', () => {
    const wind = windOf(wind_speed, wind_direction_deg);
    within(wind.speed, own.expected.vector_mean_speed, own, 'vector_mean_speed');
    within(wind.direction, own.expected.vector_mean_direction, own, 'vector_mean_direction');
    within(wind.unitDirection, own.expected.unit_mean_direction, own, 'unit_mean_direction');
    within(wind.spread, own.expected.sd_direction, own, 'sd_direction');
  });
});

describe('readings', () => {
  test('a missing one is beyond nothing, ends no row, and is counted as missing', () => {
    const readings = [7, NaN, 7, 2, 7, NaN, 7, 7];
    expect(alarmAt(readings, { at: 6, after: 'in a row', count: 3 }, 'high')).toBe(7);
    expect(alarmAt(readings, { at: 6, after: 'in a row', count: 2 }, 'high')).toBe(2);
    expect(alarmAt(readings, { at: 6, after: 'at once', count: 9 }, 'high', 1)).toBe(2);
    expect(alarmAt(readings, { at: 3, after: 'in total', count: 2 }, 'low')).toBeNull();
    const f = findings(readings, 60, { high: 6, low: null });
    expect(f).toMatchObject({
      count: 6,
      missing: 2,
      minutesAbove: 5,
      minutesBelow: NaN,
      highest: 7,
      lowest: 2,
    });
    expect(findings([NaN], 60, { high: 6, low: 1 })).toMatchObject({ count: 0, mean: NaN, meanKinetic: NaN, minutesAbove: 0 }); // prettier-ignore
  });
  test('a reading exactly at a limit is not beyond it', () => {
    expect(findings([6, 6.01, 1, 0.99], 60, { high: 6, low: 1 })).toMatchObject({
      minutesAbove: 1,
      minutesBelow: 1,
    });
  });
  test('until it has settled limits do not count, readings do', () => {
    const f = findings([20, 15, 5, 9], 600, { high: 8, low: null, from: 2 });
    expect([f.minutesAbove, f.degreeMinutesAbove, f.highest]).toEqual([10, 10, 20]);
    expect(alarmAt([20, 15, 5, 9], { at: 8, after: 'at once', count: 1 }, 'high', 2)).toBe(3);
  });
  test('the mean kinetic temperature lies between mean and highest, and of one temperature is that one', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -30, max: 60, noNaN: true }), { minLength: 1, maxLength: 60 }),
        (readings) => {
          const mkt = meanKineticTemperature(readings);
          const mean = readings.reduce((a, b) => a + b, 0) / readings.length;
          expect(mkt).toBeGreaterThanOrEqual(mean - 1e-6);
          expect(mkt).toBeLessThanOrEqual(Math.max(...readings) + 1e-6);
        },
      ),
    );
    expect(meanKineticTemperature([21.5, 21.5])).toBeCloseTo(21.5, 9);
  });
});

describe('clocks', () => {
  test('a corrected time keeps the order, is right when set and when read, and undoes a drift exactly', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -200, max: 200, noNaN: true }),
        fc.integer({ min: 60_000, max: 3e10 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (ppm, passed, share) => {
          const said = (t: number) => t * (1 + ppm * 1e-6);
          const run = { setMs: 0, readMs: passed, saidMs: said(passed) };
          expect(trueMs(said(share * passed), run)).toBeCloseTo(share * passed, 3);
          expect(trueMs(run.saidMs, run)).toBeCloseTo(passed, 3);
          expect(driftPpm(run)).toBeCloseTo(ppm, 3);
        },
      ),
    );
    // Read at once, or turned back: nothing is known of it.
    expect(trueMs(500, { setMs: 1000, readMs: 1000, saidMs: 1000 })).toBe(500);
    expect(driftPpm({ setMs: 1000, readMs: 1000, saidMs: 2000 })).toBe(0);
  });
});

describe('what a recorder is to do', () => {
  const model = recorderModel('PR-2')!;
  const setup = (change: Partial<RecorderSetup> = {}): RecorderSetup => ({ name: 'Crate 7', start: 'at once', startMs: null, measuresWaiting: false, settleS: 1800, intervalS: 600, readings: 4032, then: 'keep the newest', high: { at: 6, after: 'in a row', count: 3 }, low: { at: -5, after: 'at once', count: 1 }, clearable: true, lamps: 'blink each minute', ...change }); // prettier-ignore
  const bad = (change: Partial<RecorderSetup>, of = model) => faultsOf(of, setup(change), 1000).filter((f) => f.bad).map((f) => f.says); // prettier-ignore
  test('of interval, number and time two give the third', () => {
    expect(durationS({ intervalS: 600, readings: 4032 })).toBe(28 * 86_400);
    expect(readingsFor(600, 28 * 86_400)).toBe(4032);
    expect(intervalFor(model, 4032, 28 * 86_400)).toBe(600);
    expect(intervalFor(model, 1_000_000, 60)).toBe(model.leastIntervalS);
  });
  test('what suits is said to suit; each thing that does not is named', () => {
    expect(faultsOf(model, setup(), 1000)).toEqual([]);
    expect(bad({ name: ' ' })).toEqual(['It has no name.']);
    expect(bad({ intervalS: 5 })[0]).toContain('every 10 s to 24 h');
    expect(bad({ intervalS: 10.5, readings: 10 })).toEqual(['The interval is in whole seconds.']);
    expect(bad({ readings: 9000, then: 'stop' })[0]).toContain('8000 readings fit, 9000 are wanted');
    expect(faultsOf(model, setup({ readings: 9000 }), 1000)).toEqual([{ bad: false, says: '8000 readings fit: of 9000 the newest 8000 stay.' }]); // prettier-ignore
    expect(bad({ start: 'at a time', startMs: 500 })).toEqual(['The time of its start is over.']);
    expect(bad({ start: 'at a time' })).toEqual(['The time of its start is missing.']);
    expect(bad({ high: { at: 6, after: 'in total', count: 3 } })).toEqual(['PR-2 does not count readings beyond its high limit in all.']); // prettier-ignore
    expect(bad({ high: { at: 6, after: 'in total', count: 3 } }, recorderModel('PR-4'))).toEqual([]);
    expect(bad({ low: { at: 6, after: 'at once', count: 1 } })).toEqual(['The high limit lies at or below the low one.']); // prettier-ignore
    expect(bad({ high: { at: NaN, after: 'at once', count: 1 }, low: null })).toEqual(['The high limit is no number.']); // prettier-ignore
    expect(bad({ intervalS: 86_400, readings: 4000 })[0]).toContain('battery does not last');
    expect(faultsOf(model, setup({ settleS: 1e9 }), 1000)[0]).toMatchObject({ bad: false });
  });
  test('a battery lasts longer the less often it reads and the darker it is', () => {
    for (const of of RECORDER_MODELS) {
      const lasts = (intervalS: number, lamps: RecorderSetup['lamps']) => batteryS(of, { intervalS, lamps });
      expect(lasts(600, 'dark')).toBeGreaterThan(lasts(60, 'dark'));
      expect(lasts(600, 'dark')).toBeGreaterThan(lasts(600, 'blink each minute'));
      // More than a year at 10 min, blinking.
      expect(lasts(600, 'blink each minute')).toBeGreaterThan(300 * 86_400);
    }
  });
  test('its parts follow one another without a hole', () => {
    const hour = 3_600_000;
    const phases = phasesOf(setup({ start: 'by its button' }), 0, 5 * hour);
    expect(phases.map((p) => p.what)).toEqual(['waits', 'settles', 'records', 'goes round']);
    for (let k = 1; k < phases.length; k++) expect(phases[k].fromMs).toBe(phases[k - 1].toMs);
    expect(phases[2].toMs! - phases[1].fromMs).toBe(28 * 24 * hour);
    expect(phasesOf(setup({ settleS: 0, then: 'stop' }), 0, 5 * hour).map((p) => p.what)).toEqual(['records', 'stopped']); // prettier-ignore
  });
  test('names count on, and none comes twice', () => {
    expect(nextName('Crate {n}, epoxy', ['Crate 1, epoxy', 'Crate 2, epoxy', 'Crate 4, epoxy'])).toBe(
      'Crate 3, epoxy',
    );
    expect(nextName('Workshop', ['Workshop'])).toBe('Workshop');
  });
});
