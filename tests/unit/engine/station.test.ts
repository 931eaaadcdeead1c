import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { crc32 } from '$core/field/checks';
import { stationModel } from '$core/field/station/model';
import { columnOf } from '$core/field/station/state';
import { platinumResistance } from '$core/sensors/platinum';
import { Refused } from '$engine/field/recorder';
import { Station, type StationParts } from '$engine/field/station/instrument';
import { Reading, type Source } from '$engine/field/station/reading';

// A station by itself: it has woken by now as often as its programme says, and holds what it measured.
const T0 = Date.parse('2026-11-26T00:00:00Z');
function bench(parts: Partial<StationParts> = {}, sources: [string, Source][] = []) {
  let now = T0;
  const station = new Station({
    model: stationModel('ST-9')!,
    serial: 'ST9-0021',
    now: () => now,
    // Hours of the day, as volts.
    sources: new Map<string, Source>([['U1', { is: 'volts', at: (ms) => (((ms - T0) / 3_600_000) % 24) / 8 }], ...sources]), // prettier-ignore
    supply: () => 12.5,
    board: () => 15,
    ...parts,
  });
  return { station, wait: (ms: number) => (now += ms) };
}
const MIN = 60_000;
const text = (tables: string[], measures: string[] = [], head = 'station ST-9 wakes every 10 s, rejects 50 Hz') => [head, 'measure "Hour" in "h": volts "5 V" on U1, times 8', ...measures, ...tables].join('\n'); // prettier-ignore
const SHORT = 'keep in "short" every 2 min: average of "Hour"; lowest of "Hour" with its time';
const sent = (b: ReturnType<typeof bench>, programme: string) => {
  const check = crc32(new TextEncoder().encode(programme));
  b.station.send({ check, total: programme.length, from: 0, piece: programme });
  b.station.startCompile({ check, run: b.station.state().run });
  b.wait(1000);
  return b.station.state();
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
const all = (b: ReturnType<typeof bench>, table: string) => {
  const { run, tables } = b.station.state();
  const { first, end } = tables.find((t) => t.name === table)!;
  const rows = b.station.rows({ table, run, from: first, count: end - first });
  return { ...rows, columns: Array.from({ length: rows.width }, (_, k) => columnOf(rows, k)) };
};

describe('its rows', () => {
  test('are of the whole minutes of its clock, each of what came since the one before; the same however often it is asked', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 30 * MIN }), { minLength: 1, maxLength: 10 }),
        (waits) => {
          const often = bench();
          const once = bench();
          for (const b of [often, once]) sent(b, text([SHORT]));
          for (const ms of waits) {
            often.wait(ms);
            often.station.state();
            once.wait(ms);
          }
          const rows = all(often, 'short');
          expect(rows).toEqual({ ...all(once, 'short'), run: rows.run });
          rows.times.forEach((at, i) => {
            expect(at).toBe(T0 + (i + 1) * 2 * MIN);
            // Twelve wakings 10 s apart end with the row: their mean is 55 s before it. Of the first row some came before the programme ran.
            if (i > 0) expect(rows.columns[0][i]).toBeCloseTo((at - T0 - 55_000) / 3_600_000, 2);
            if (i > 0) expect(rows.columns[2][i]).toBe(10);
          });
        },
      ),
      { numRuns: 40 },
    );
  });
  test('a table goes round: the oldest are overwritten, and asking for them says so', () => {
    const b = bench();
    sent(b, text(['keep in "short" every 2 min, 30 rows: sample of "Hour"']));
    b.wait(100 * MIN);
    const { run, tables } = b.station.state();
    expect(tables[0]).toMatchObject({ room: 30, first: 20, end: 50, oldestMs: T0 + 21 * 2 * MIN, newestMs: T0 + 100 * MIN, nextMs: T0 + 102 * MIN }); // prettier-ignore
    const rows = all(b, 'short');
    expect([...rows.times]).toEqual(Array.from({ length: 30 }, (_, i) => T0 + (21 + i) * 2 * MIN));
    expect(refusal(() => b.station.rows({ table: 'short', run, from: 19, count: 1 }))).toMatchObject({ why: 'gone' }); // prettier-ignore
    expect(refusal(() => b.station.rows({ table: 'short', run: run + 1, from: 25, count: 1 }))).toMatchObject({ why: 'changed' }); // prettier-ignore
    expect(refusal(() => b.station.rows({ table: 'long', run, from: 0, count: 1 }))).toMatchObject({ why: 'unknown' }); // prettier-ignore
  });
  test('a daily table has nothing before midnight, and says when its first row comes', () => {
    const b = bench();
    sent(b, text(['keep in "day" every 1 d: highest of "Hour" with its time']));
    b.wait(23 * 60 * MIN);
    expect(b.station.state().tables[0]).toMatchObject({ first: 0, end: 0, oldestMs: null, nextMs: T0 + 24 * 60 * MIN }); // prettier-ignore
    b.wait(60 * MIN);
    const rows = all(b, 'day');
    expect([...rows.times]).toEqual([T0 + 24 * 60 * MIN]);
    expect(rows.columns[0][0]).toBeCloseTo(23.997, 2);
  });
  test('it knows no daylight saving: days are 24 h of UTC where the clocks of a country go back, and forward', () => {
    for (const change of ['2026-10-24T12:00:00Z', '2027-03-27T12:00:00Z']) {
      const b = bench();
      b.wait(Date.parse(change) - T0);
      sent(
        b,
        text(['keep in "day" every 1 d: sample of "Hour"', 'keep in "hour" every 1 h: sample of "Hour"']),
      );
      b.wait(48 * 60 * MIN);
      const days = all(b, 'day').times;
      expect([...days].map((t) => new Date(t).toISOString().slice(11, 19))).toEqual(['00:00:00', '00:00:00']);
      const hours = all(b, 'hour').times;
      expect(hours).toHaveLength(48);
      hours.forEach((t, i) => i > 0 && expect(t - hours[i - 1]).toBe(3_600_000));
    }
  });
  test('an event’s row comes once for each time that the value passes its level, not while it stays', () => {
    const b = bench({}, [['U2', { is: 'volts', at: (ms) => 2 + 1.5 * Math.sin((2 * Math.PI * (ms - T0)) / (60 * MIN)) }]]); // prettier-ignore
    sent(b, text(['keep in "surge" when "Surge" rises above 3, 50 rows: sample of "Surge"'], ['measure "Surge" in "V": volts "5 V" on U2'])); // prettier-ignore
    b.wait(300 * MIN);
    const rows = all(b, 'surge');
    expect(rows.times).toHaveLength(5);
    for (const v of rows.columns[0]) expect(v).toBeCloseTo(3, 1);
  });
  test('of its clock that runs fast the rows come early, as many as it says', () => {
    const b = bench({ driftPpm: 10_000 });
    sent(b, text([SHORT]));
    b.wait(200 * MIN);
    expect(b.station.state().tables[0].end).toBe(Math.floor(((200 * MIN + 1000) * 1.01) / (2 * MIN)));
  });
});

describe('its programme', () => {
  test('is compiled by the station itself: it takes a while, and erases what it held', () => {
    const b = bench();
    sent(b, text([SHORT]));
    b.wait(30 * MIN);
    const before = b.station.state();
    expect(before.tables[0].end).toBe(15);
    const next = text(['keep in "other" every 5 min: sample of "Hour"']);
    const check = crc32(new TextEncoder().encode(next));
    for (let from = 0; from < next.length; from += 7) b.station.send({ check, total: next.length, from, piece: next.slice(from, from + 7) }); // prettier-ignore
    b.station.startCompile({ check, run: before.run });
    expect(b.station.state()).toMatchObject({ run: before.run, compile: { state: 'compiling' }, tables: [{ name: 'short', end: 15 }] }); // prettier-ignore
    expect(refusal(() => b.station.startCompile({ check, run: before.run }))).toMatchObject({ why: 'busy' });
    b.wait(1000);
    const after = b.station.state();
    expect(after).toMatchObject({ check, compile: { state: 'runs', remarks: [] }, tables: [{ name: 'other', end: 0 }] }); // prettier-ignore
    expect(after.run).not.toBe(before.run);
    expect(b.station.runs().text).toBe(next);
  });
  test.each([
    ['with a fault', text(['keep in "t" every 2 min: average of "Depth"']), /never measured/, 3],
    ['for another model', text([SHORT.replace('with its time', '')], [], 'station ST-4 wakes every 10 s, rejects 50 Hz'), /It is for ST-4; this is ST-9/, 1], // prettier-ignore
  ])('one %s is refused with its line, and the former goes on', (_, bad, says, line) => {
    const b = bench();
    const { run } = sent(b, text([SHORT]));
    b.wait(10 * MIN);
    const state = sent(b, bad);
    expect(state).toMatchObject({ run, compile: { state: 'refused' }, tables: [{ name: 'short', end: 5 }] });
    const [fault] = state.compile.remarks.filter((r) => r.bad);
    expect(fault.line).toBe(line);
    expect(fault.says).toMatch(says);
  });
  test('that did not come whole, or was spoiled, is not compiled; nor one for what ran before', () => {
    const b = bench();
    const { run } = sent(b, text([SHORT]));
    const next = text([SHORT, 'keep in "x" every 5 min: sample of "Hour"']);
    const check = crc32(new TextEncoder().encode(next));
    b.station.send({ check, total: next.length, from: 0, piece: next.slice(0, 30) });
    expect(refusal(() => b.station.startCompile({ check, run }))).toMatchObject({ says: 'The programme did not come whole.' }); // prettier-ignore
    b.station.send({ check, total: next.length, from: 30, piece: next.slice(30) });
    expect(refusal(() => b.station.startCompile({ check, run: run + 1 }))).toMatchObject({ why: 'changed' });
    b.station.startCompile({ check, run });
    b.wait(1000);
    expect(b.station.state().tables).toHaveLength(2);
  });
  test('power lost while it compiles: the former goes on, and what was sent is to be sent again', () => {
    const b = bench();
    const { run } = sent(b, text([SHORT]));
    b.wait(10 * MIN);
    const next = text(['keep in "x" every 5 min: sample of "Hour"']);
    const check = crc32(new TextEncoder().encode(next));
    b.station.send({ check, total: next.length, from: 0, piece: next });
    b.station.startCompile({ check, run });
    b.station.losePower(60);
    b.wait(2 * MIN);
    expect(b.station.state()).toMatchObject({ run, restarts: 1, compile: { state: 'interrupted' }, tables: [{ name: 'short' }] }); // prettier-ignore
    expect(refusal(() => b.station.startCompile({ check, run }))).toMatchObject({ says: 'The programme did not come whole.' }); // prettier-ignore
  });
});

describe('power and clock', () => {
  test('power lost while a row is written: it is torn, what follows is whole, and no rows come while it is off', () => {
    const b = bench();
    sent(b, text(['keep in "short" every 2 min: sample of "Hour"']));
    b.wait(10 * MIN);
    b.station.losePower(600);
    expect(b.station.isWithoutPower).toBe(true);
    b.wait(20 * MIN);
    expect(b.station.isWithoutPower).toBe(false);
    const rows = all(b, 'short');
    const torn = rows.torn.indexOf(1);
    expect([...rows.torn].filter(Boolean)).toHaveLength(1);
    expect(rows.columns[0][torn]).toBeNaN();
    const gap = rows.times[torn + 1] - rows.times[torn - 1];
    expect(gap).toBeGreaterThanOrEqual(10 * MIN);
    expect(gap).toBeLessThanOrEqual(14 * MIN);
  });
  test('a battery that is too low stops it; from its cable it works on with 0 V', () => {
    for (const [volts, rows] of [
      [8.5, 0],
      [0, 15],
    ]) {
      const b = bench({ supply: () => volts });
      sent(b, text([SHORT]));
      b.wait(30 * MIN);
      expect(b.station.state().tables[0].end).toBe(rows);
    }
  });
  test('set back a little it waits until it has caught up: no time stands twice. Set back far, times repeat', () => {
    const b = bench();
    sent(b, text(['keep in "short" every 2 min: sample of "Hour"']));
    b.wait(20 * MIN);
    b.station.setClock(T0 + 17 * MIN);
    b.wait(10 * MIN);
    const little = all(b, 'short').times;
    expect([...little]).toEqual([...new Set(little)].sort((x, y) => x - y));
    b.station.setClock(T0 - 60 * MIN);
    b.wait(10 * MIN);
    const far = [...all(b, 'short').times];
    expect(far.some((t, i) => i > 0 && t < far[i - 1])).toBe(true);
  });
  test('what is set by hand holds until another programme runs', () => {
    const b = bench();
    sent(b, text([SHORT]));
    b.station.set({ what: 'plus', name: 'Hour', value: 100 });
    b.station.set({ what: 'output', name: '', value: 1 });
    b.wait(MIN);
    expect(b.station.values().values.find((v) => v.name === 'Hour')!.value).toBeGreaterThan(100);
    expect(b.station.state()).toMatchObject({ output: true, adjusted: { Hour: 100 } });
    expect(refusal(() => b.station.set({ what: 'plus', name: 'Depth', value: 1 }))).toMatchObject({ says: 'It measures no “Depth”.' }); // prettier-ignore
    sent(b, text([SHORT, 'keep in "x" every 5 min: sample of "Hour"']));
    b.wait(MIN);
    expect(b.station.values().values.find((v) => v.name === 'Hour')!.value).toBeLessThan(100);
    const small = bench({ model: stationModel('ST-4')! });
    expect(refusal(() => small.station.set({ what: 'output', name: '', value: 1 }))).toMatchObject({ says: 'ST-4 has no output.' }); // prettier-ignore
  });
});

describe('its terminals', () => {
  const read = (measure: Partial<Reading['measure']>, source: Source | undefined, board = 15, mainsHz: 50 | 60 = 50) => new Reading({ name: 'A', unit: '', way: 'volts', kind: '5 V', terminal: 'U1', times: 1, plus: 0, ...measure }, source, { mainsHz, wakeS: 10 }).at(T0, board); // prettier-ignore
  test('a thermocouple is read against the board’s temperature; broken it gives no number, reversed it falls when warmed', () => {
    let fault: 'none' | 'broken' | 'reversed' = 'none';
    let celsius = 8;
    const couple: Source = { is: 'couple', type: 'T', at: () => celsius, fault: () => fault };
    const warm = () => read({ way: 'thermocouple', kind: 'T' }, couple);
    for (const t of [-20, 8, 60]) {
      celsius = t;
      expect(warm()).toBeCloseTo(t, 1);
    }
    fault = 'broken';
    expect(warm()).toBeNaN();
    fault = 'reversed';
    celsius = 20;
    const before = warm();
    celsius = 25;
    expect(warm()).toBeLessThan(before);
    // At the board’s own temperature it cannot be told.
    celsius = 15;
    expect(warm()).toBeCloseTo(15, 1);
  });
  test('platinum, a bridge, pulses and words of a line', () => {
    expect(read({ way: 'resistance', kind: 'Pt100' }, { is: 'ohms', at: () => platinumResistance(100, -7.5) })).toBeCloseTo(-7.5, 2); // prettier-ignore
    expect(read({ way: 'bridge', kind: '2 mV/V' }, { is: 'ratio', at: () => 1.234 })).toBeCloseTo(1.234, 4);
    expect(read({ way: 'bridge', kind: '2 mV/V' }, { is: 'ratio', at: () => 2.5 })).toBeNaN();
    // Whole pulses: 12.34 a second for 10 s are 123.
    expect(read({ way: 'pulses', kind: 'a second' }, { is: 'pulses', hz: () => 12.34 })).toBeCloseTo(12.3, 9);
    expect(read({ way: 'pulses', kind: 'counted' }, { is: 'pulses', hz: () => 12.34 })).toBe(123);
    expect(read({ way: 'serial', kind: '2' }, { is: 'line', words: () => [31.5, 8.25] })).toBe(8.25);
    expect(read({ way: 'serial', kind: '3' }, { is: 'line', words: () => [31.5, 8.25] })).toBeNaN();
  });
  test('nothing, or something else on a terminal, or more than its range, gives no number', () => {
    expect(read({}, undefined)).toBeNaN();
    expect(read({ way: 'resistance', kind: 'Pt100' }, { is: 'volts', at: () => 1 })).toBeNaN();
    expect(read({ kind: '0.5 V' }, { is: 'volts', at: () => 0.7 })).toBeNaN();
  });
  test('hum of the mains falls out when it is the mains that is rejected', () => {
    const off = (mainsHz: 50 | 60) => {
      const quiet = new Reading({ name: 'A', unit: '', way: 'volts', kind: '0.05 V', terminal: 'U1', times: 1, plus: 0 }, { is: 'volts', at: () => 0.01 }, { mainsHz, wakeS: 10 }); // prettier-ignore
      return Math.max(
        ...Array.from({ length: 30 }, (_, k) => Math.abs(quiet.at(T0 + k * 10_000, 15) - 0.01)),
      );
    };
    expect(off(50)).toBeLessThan(1e-6);
    expect(off(60)).toBeGreaterThan(4e-6);
  });
});
