import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { trueMs } from '$core/field/clock';
import { fromHundredths } from '$core/field/messages';
import { alarmAt } from '$core/field/recorder/found';
import { recorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import { PocketRecorder, Refused, type RecorderParts } from '$engine/field/recorder';

// A pocket recorder by itself: it has done by now whatever it was set up to do, and holds what it measured.
const HOUR = 3_600_000;
function bench(parts: Partial<RecorderParts> = {}) {
  let now = 1_790_000_000_000;
  const recorder = new PocketRecorder({
    model: recorderModel('PR-2')!,
    serial: 'PR2-0107',
    now: () => now,
    sense: (t) => [((t / HOUR) % 24) - 8],
    ...parts,
  });
  return { recorder, wait: (ms: number) => (now += ms), now: () => now };
}
const SETUP: RecorderSetup = { name: 'Crate 7', start: 'at once', startMs: null, measuresWaiting: false, settleS: 0, intervalS: 600, readings: 4032, then: 'keep the newest', high: null, low: null, clearable: false, lamps: 'dark' }; // prettier-ignore
const all = (r: PocketRecorder) => {
  const { run, first, end } = r.state();
  return [...r.readings({ run, from: first, count: end - first })].map(fromHundredths);
};
const refusal = (act: () => unknown) => {
  try {
    act();
  } catch (error) {
    if (error instanceof Refused) return error.refusal;
    throw error;
  }
  return null;
};

describe('what it records', () => {
  test('a reading each interval from its start, as the sensor was at that time; the same however often it is asked', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 5 * HOUR }), { minLength: 1, maxLength: 12 }),
        (waits) => {
          const often = bench();
          const once = bench();
          for (const b of [often, once]) b.recorder.setUp(SETUP);
          const started = often.now();
          for (const ms of waits) {
            often.wait(ms);
            often.recorder.state();
            once.wait(ms);
          }
          const values = all(often.recorder);
          expect(values).toEqual(all(once.recorder));
          expect(values).toHaveLength(Math.floor((often.now() - started) / 600_000) + 1);
          values.forEach((v, i) => expect(v).toBeCloseTo((((started + i * 600_000) / HOUR) % 24) - 8, 1));
        },
      ),
      { numRuns: 50 },
    );
  });
  test('by its button it starts when that is pushed; pushed later it makes marks', () => {
    const { recorder, wait, now } = bench();
    recorder.setUp({ ...SETUP, start: 'by its button', settleS: 1800 });
    wait(5 * HOUR);
    expect(recorder.state()).toMatchObject({ phase: 'waits', end: 0, startedMs: null });
    recorder.press();
    const started = now();
    expect(recorder.state()).toMatchObject({ phase: 'settles', end: 1, startedMs: started });
    wait(0.5 * HOUR);
    expect(recorder.state().phase).toBe('records');
    recorder.press();
    expect(recorder.state().marks).toEqual([now()]);
  });
  test('at a time it starts then, whether anybody looks or not', () => {
    const { recorder, wait, now } = bench();
    const startMs = now() + 2 * HOUR;
    recorder.setUp({ ...SETUP, start: 'at a time', startMs });
    wait(3 * HOUR);
    expect(recorder.state()).toMatchObject({ phase: 'records', startedMs: startMs, end: 7 });
  });
  test('it stops after so many readings, or goes round and keeps the newest', () => {
    const stops = bench();
    stops.recorder.setUp({ ...SETUP, readings: 10, then: 'stop' });
    stops.wait(100 * HOUR);
    expect(stops.recorder.state()).toMatchObject({ phase: 'stopped', first: 0, end: 10 });
    const round = bench();
    round.recorder.setUp(SETUP);
    const began = round.now();
    round.wait(9000 * 600_000);
    const state = round.recorder.state();
    expect(state).toMatchObject({ phase: 'records', first: 1001, end: 9001 });
    const values = all(round.recorder);
    expect(values).toHaveLength(8000);
    expect(values[0]).toBeCloseTo((((began + 1001 * 600_000) / HOUR) % 24) - 8, 1);
    expect(refusal(() => round.recorder.readings({ run: state.run, from: 1000, count: 1 }))).toMatchObject({ why: 'changed' }); // prettier-ignore
  });
  test('of two things measured its memory holds half as many readings', () => {
    const { recorder, wait } = bench({ model: recorderModel('PR-4')!, sense: () => [21.5, 43.2] });
    recorder.setUp({ ...SETUP, intervalS: 10 });
    wait(20_000 * 10_000);
    const { first, end, last } = recorder.state();
    expect(end - first).toBe(16_000);
    expect(last).toEqual([21.5, 43.2]);
  });
  test('measuring while it waits is kept apart, and the newest is shown', () => {
    const { recorder, wait, now } = bench({ sense: () => [19] });
    recorder.setUp({ ...SETUP, start: 'by its button', measuresWaiting: true });
    wait(100 * HOUR);
    const state = recorder.state();
    expect(state).toMatchObject({ end: 0, last: [19] });
    expect(state.waiting.values).toHaveLength(288);
    expect(now() - state.waiting.toMs).toBeLessThan(600_000);
  });
});

describe('what goes wrong with it', () => {
  test('a clock that drifts: by the time it was set and read the true times come out again', () => {
    const { recorder, wait, now } = bench({
      driftPpm: -120,
      sense: (t) => [(t - 1_790_000_000_000) / HOUR / 10],
    });
    recorder.setClock(now());
    recorder.setUp(SETUP);
    wait(30 * 24 * HOUR);
    const { saidMs, clockSetMs, startedMs, end } = recorder.state();
    expect((saidMs - now()) / 1000).toBeCloseTo(-120e-6 * 30 * 86_400, 0);
    const run = { setMs: clockSetMs, readMs: now(), saidMs };
    const values = all(recorder);
    const i = end - 1;
    // What it measured says when it was.
    expect(trueMs(startedMs! + i * 600_000, run)).toBeCloseTo(1_790_000_000_000 + values[i] * 10 * HOUR, -6);
  });
  test('while it records its clock stays as it is', () => {
    const { recorder } = bench();
    recorder.setUp(SETUP);
    expect(refusal(() => recorder.setClock(0))).toMatchObject({ why: 'busy' });
  });
  test('a changed battery is a gap with its reason; it goes on where it belongs', () => {
    const { recorder, wait } = bench({ used: 0.6 });
    recorder.setUp(SETUP);
    wait(2 * HOUR);
    recorder.changeBattery(3600);
    wait(3 * HOUR);
    const { breaks, end, battery } = recorder.state();
    // The reading of that moment was already there.
    expect(breaks).toEqual([{ at: 13, count: 5, why: 'The battery was changed.' }]);
    expect(end).toBe(31);
    expect(all(recorder).map(Number.isNaN).indexOf(true)).toBe(13);
    expect(all(recorder).filter(Number.isNaN)).toHaveLength(5);
    expect(battery.share).toBeGreaterThan(0.99);
  });
  test('of an empty battery nothing is measured any more, and that is said', () => {
    const { recorder, wait } = bench({ used: 0.999 });
    recorder.setUp(SETUP);
    wait(60 * 24 * HOUR);
    const state = recorder.state();
    expect(state).toMatchObject({ phase: 'stopped', battery: { share: 0 } });
    expect(state.end).toBeGreaterThan(5);
    expect(state.end).toBeLessThan(200);
    expect(state.breaks.at(-1)).toMatchObject({ at: state.end, why: 'The battery was empty.' });
  });
  test('its battery runs down as its plan says', () => {
    const { recorder, wait } = bench();
    recorder.setUp({ ...SETUP, lamps: 'blink each minute' });
    wait(216 * 24 * HOUR);
    // Half of 14 months.
    expect(recorder.state().battery.share).toBeCloseTo(0.5, 1);
  });
});

describe('alarms', () => {
  test('begin with the reading that the rule says, of what is kept, and never before it has settled', () => {
    const side = fc.constantFrom('high' as const, 'low' as const);
    const after = fc.constantFrom('at once' as const, 'in a row' as const, 'in total' as const);
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -900, max: 900 }), { minLength: 5, maxLength: 80 }),
        side,
        after,
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 0, max: 9 }),
        (curve, side, after, count, settles) => {
          const { recorder, wait, now } = bench({ model: recorderModel('PR-4')!, sense: (t) => [curve[Math.min(curve.length - 1, Math.round((t - began) / 600_000))] / 100, 50] }); // prettier-ignore
          const began = now();
          const limit = { at: side === 'high' ? 2 : -2, after, count };
          recorder.setUp({ ...SETUP, settleS: settles * 600, [side]: limit });
          wait((curve.length - 1) * 600_000);
          const { alarms, run, end } = recorder.state();
          const kept = [...recorder.readings({ run, from: 0, count: end })]
            .filter((_, i) => i % 2 === 0)
            .map(fromHundredths);
          expect(alarms[side]).toBe(alarmAt(kept, limit, side, settles));
        },
      ),
      { numRuns: 80 },
    );
  });
  test('are cleared by its button where that is allowed, and stay in memory', () => {
    const { recorder, wait } = bench({ sense: () => [9] });
    recorder.setUp({ ...SETUP, high: { at: 6, after: 'at once', count: 1 }, clearable: true });
    wait(HOUR);
    recorder.press();
    expect(recorder.state()).toMatchObject({ alarms: { high: 0, cleared: true }, marks: [] });
    const stays = bench({ sense: () => [9] });
    stays.recorder.setUp({ ...SETUP, high: { at: 6, after: 'at once', count: 1 } });
    stays.wait(HOUR);
    stays.recorder.press();
    expect(stays.recorder.state()).toMatchObject({ alarms: { cleared: false }, marks: [stays.now()] });
  });
});

describe('its password', () => {
  const lock = { password: 'tide', for: 'setting up' as const };
  test('is asked for what it is for; wrong tries wait longer each time, the right one ends that', () => {
    const { recorder, wait } = bench();
    recorder.setUp(SETUP, { lock });
    const { run } = recorder.state();
    expect(recorder.state().locked).toBe('setting up');
    expect(recorder.readings({ run, from: 0, count: 1 })).toHaveLength(1);
    expect(refusal(() => recorder.setUp(SETUP))).toMatchObject({ why: 'password' });
    const waits: number[] = [];
    for (let k = 0; k < 4; k++) {
      expect(refusal(() => recorder.setUp(SETUP, { password: 'ebb' }))).toMatchObject({ why: 'password' });
      const { why, waitS } = refusal(() => recorder.setUp(SETUP, { password: 'tide' }))!;
      expect(why).toBe('wait');
      waits.push(waitS!);
      wait(waitS! * 1000);
    }
    expect(waits).toEqual([1, 2, 4, 8]);
    recorder.setUp(SETUP, { password: 'tide' });
    // It stays locked until it is opened.
    expect(recorder.state().locked).toBe('setting up');
    recorder.setUp(SETUP, { password: 'tide', lock: null });
    expect(recorder.state().locked).toBe('nothing');
  });
  test('can be asked for fetching too, and nowhere in what it says of itself', () => {
    const { recorder } = bench();
    recorder.setUp(SETUP, { lock: { password: 'tide', for: 'fetching too' } });
    const { run } = recorder.state();
    expect(refusal(() => recorder.readings({ run, from: 0, count: 1 }))).toMatchObject({ why: 'password' });
    expect(recorder.readings({ run, from: 0, count: 1, password: 'tide' })).toHaveLength(1);
    expect(JSON.stringify(recorder.state())).not.toContain('tide');
  });
  test('what does not fit leaves it as it was', () => {
    const { recorder, wait } = bench();
    recorder.setUp(SETUP);
    wait(HOUR);
    const { run, end } = recorder.state();
    expect(refusal(() => recorder.setUp({ ...SETUP, intervalS: 1 }))).toMatchObject({ why: 'does not fit' });
    expect(recorder.state()).toMatchObject({ run, end });
  });
});

test('by its button it begins, and ends: an alarm is cleared first, marks are not made; full it ends, too', () => {
  const b = bench();
  b.recorder.setUp({ ...SETUP, start: 'by its button', then: 'stop by its button', readings: 10, clearable: true, high: { at: -7, after: 'at once', count: 1 } }); // prettier-ignore
  b.recorder.press();
  b.wait(5 * HOUR);
  expect(b.recorder.state()).toMatchObject({ phase: 'records', end: 31, marks: [] });
  expect(b.recorder.state().alarms).toMatchObject({ cleared: false });
  b.recorder.press();
  expect(b.recorder.state()).toMatchObject({ phase: 'records', alarms: { cleared: true } });
  b.recorder.press();
  b.wait(5 * HOUR);
  expect(b.recorder.state()).toMatchObject({ phase: 'stopped', end: 31, marks: [] });
  const full = bench();
  full.recorder.setUp({ ...SETUP, then: 'stop by its button' });
  full.wait(9000 * 600_000);
  expect(full.recorder.state()).toMatchObject({ phase: 'stopped', end: 8000, first: 0 });
});

describe('its display and its lamps', () => {
  const shown = (r: PocketRecorder) => {
    const { display, lamp } = r.state();
    return [display, lamp];
  };
  const LIT: RecorderSetup = { ...SETUP, lamps: 'blink each minute, quick in alarm', clearable: true };
  test('show what it measures, an alarm with its side until it is cleared, and nothing where it does nothing', () => {
    let celsius = -4.2;
    const b = bench({ sense: () => [celsius] });
    expect(shown(b.recorder)).toEqual(['----', 'dark']);
    b.recorder.setUp({ ...LIT, high: { at: 6, after: 'at once', count: 1 } });
    b.wait(600_000);
    expect(shown(b.recorder)).toEqual(['-4.2', 'green, each minute']);
    celsius = 7.25;
    b.wait(600_000);
    expect(shown(b.recorder)).toEqual(['7.3▲', 'red, quickly']);
    celsius = 3;
    b.wait(600_000);
    // It was beyond: that stays until it is cleared.
    expect(shown(b.recorder)).toEqual(['3.0▲', 'red, quickly']);
    b.recorder.press();
    expect(shown(b.recorder)).toEqual(['3.0', 'green, each minute']);
    b.recorder.sleep();
    expect(shown(b.recorder)).toEqual(['', 'dark']);
  });
  test('waiting, stopped, and dark where it was asked to be', () => {
    const b = bench();
    b.recorder.setUp({ ...LIT, start: 'by its button', lamps: 'blink each minute' });
    expect(shown(b.recorder)).toEqual(['WAIT', 'green, each minute']);
    b.recorder.setUp({ ...SETUP, then: 'stop', readings: 2 });
    b.wait(HOUR);
    expect(shown(b.recorder)).toEqual(['END', 'dark']);
  });
});
