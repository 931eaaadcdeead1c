import { describe, expect, test } from 'vitest';
import { sentenceText } from '$core/sentence/sentence';
import { NEW_STATION, Reach, StationWish, byAttention, headSentence, measureSentence, stationSentence, tableSentence, type StationLine } from '$contract/station'; // prettier-ignore
import { WAYS, type Way } from '$core/field/station/model';
import { Placed, recorderSentence, NEW_WISH, setupOf, stateText, wishOf } from '$contract/field';
import { recorderModel } from '$core/field/recorder/plan';
import { fieldSays } from '$contract/field-text';
import type { RecorderState } from '$core/field/recorder/state';

// How stations and recorders are said, and what is let in.
describe('sentences', () => {
  test('how a station is looked after', () => {
    expect(sentenceText(stationSentence, { ...NEW_STATION, name: 'Pier station', place: 'Harrow Quay', address: '10.0.0.7:4720' })).toBe(
      'Pier station stands at Harrow Quay. It is reached at 10.0.0.7:4720, tried again after 10 s; it may call in by itself. Fetch it every 60 min. Say so when it is silent for 26 h, when its battery is below 11.5 V, when its clock is off by 30 s; set its clock when it is off by 5 s.',
    ); // prettier-ignore
    const away = sentenceText(stationSentence, { ...NEW_STATION, setsClock: null, everyMin: null });
    expect(away).toContain('It is reached nowhere; it may call in by itself. Fetch it by hand only.'); // prettier-ignore
    expect(away).toContain('; leave its clock as it is.');
  });
  test('the head, and a table of either kind', () => {
    expect(sentenceText(headSentence, { model: 'ST-9', wakeS: 10, mainsHz: 50 })).toBe('A ST-9 wakes every 10 s and rejects mains of 50 Hz.'); // prettier-ignore
    const table = { name: 'quarter', when: 'every so often' as const, every: '15 min', of: '', turns: 'rises above' as const, level: 0, rows: null }; // prettier-ignore
    expect(sentenceText(tableSentence, table)).toBe('Keep a row in quarter every so often: every 15 min, holding its share of the memory.'); // prettier-ignore
    expect(sentenceText(tableSentence, { ...table, when: 'at an event', of: 'Level', level: 4.5, rows: 50 })).toBe('Keep a row in quarter at an event: when Level rises above 4.5, holding 50 rows.'); // prettier-ignore
    for (const every of ['15 min', '1 d', '30 s']) expect(tableSentence.schema.safeParse({ ...table, every }).success, every).toBe(true); // prettier-ignore
    for (const every of ['', '0 s', 'often', '15']) expect(tableSentence.schema.safeParse({ ...table, every }).success, every).toBe(false); // prettier-ignore
  });
  test('every way of measuring has its sentence, with all that it is read by', () => {
    for (const way of Object.keys(WAYS) as Way[]) {
      const value = { name: 'Salinity', unit: 'PSU', way, kind: WAYS[way].kinds[0], terminal: 'S1', times: 2, plus: -1 }; // prettier-ignore
      const text = sentenceText(measureSentence, value);
      expect(text).toMatch(/^Measure Salinity in PSU by /);
      expect(text).toContain(WAYS[way].kinds[0]);
      expect(text).toMatch(/on S1, times 2 plus .1\.$/);
    }
  });
});

describe('addresses', () => {
  test.each(['', '10.0.0.7:4720', 'pier.local:80', '/dev/ttyUSB0', '/dev/serial/by-id/usb-1', '/dev/ttyS1@9600', 'COM3', 'COM12@57600'])('%j is one', (text) => {
    expect(Reach.safeParse(text).success).toBe(true);
  }); // prettier-ignore
  test.each(['pier', 'http://pier:80', '10.0.0.7', '10.0.0.7:port', '/etc/passwd', '/dev/../etc/x y', 'COM', 'a b:80', '/dev/ttyUSB0@fast'])('%j is none', (text) => {
    expect(Reach.safeParse(text).success).toBe(false);
  }); // prettier-ignore
  test('what nobody means is refused: a pause of nothing, a silence for ever, limits without end', () => {
    for (const part of [{ pauseS: 0 }, { everyMin: 0 }, { silentH: 1e6 }, { name: '' }, { limits: Array.from({ length: 21 }, () => ({ of: 'A', side: 'above', at: 1 })) }, { more: 1 }])
      expect(StationWish.safeParse({ ...NEW_STATION, ...part }).success, JSON.stringify(part).slice(0, 40)).toBe(false); // prettier-ignore
    expect(StationWish.safeParse(NEW_STATION).success).toBe(true);
  });
});

test('the list begins with what wants attention; names count on as people count', () => {
  const line = (name: string, ...levels: ('warning' | 'alarm')[]) => ({ name, concerns: levels.map((level) => ({ level, key: '', says: '' })) }) as unknown as StationLine; // prettier-ignore
  const sorted = [line('Station 10'), line('Station 2'), line('B', 'warning'), line('Z', 'warning', 'alarm'), line('A', 'warning')].sort(byAttention); // prettier-ignore
  expect(sorted.map((s) => s.name)).toEqual(['Z', 'A', 'B', 'Station 2', 'Station 10']);
});

test('what stands beside Field', () => {
  expect(fieldSays({ stations: 0, recorders: 0, attention: 0 })).toEqual({ says: 'nobody yet', urgent: false }); // prettier-ignore
  expect(fieldSays({ stations: 1, recorders: 4, attention: 0 })).toEqual({ says: '1 station, 4 recorders', urgent: false }); // prettier-ignore
  expect(fieldSays({ stations: 2, recorders: 0, attention: 1 })).toEqual({ says: '2 stations, 1 wants a look', urgent: true }); // prettier-ignore
  expect(fieldSays({ stations: 0, recorders: 1, attention: 2 }).says).toBe('1 recorder, 2 want a look');
});

describe('a recorder', () => {
  test('may be stopped by its button: said, set up, and read back as it was', () => {
    const wish = { ...NEW_WISH, then: 'stop by its button' as const, start: 'at once' as const };
    expect(sentenceText(recorderSentence, wish)).toContain('Read every 600 s for 28 d, then stop by its button.'); // prettier-ignore
    expect(wishOf(setupOf(wish, 'Crate 1')).then).toBe('stop by its button');
    expect(Placed.safeParse({ place: 'x'.repeat(81), by: '' }).success).toBe(false);
  });
  test('that stops by its button has what its memory holds, not what a number says', () => {
    const setup = setupOf({ ...NEW_WISH, then: 'stop by its button', intervalS: 600, days: 1 }, 'Crate 1');
    const state = { phase: 'records', setup, startedMs: Date.parse('2026-11-20T09:00:00Z'), end: 2000, alarms: { high: null, low: null, cleared: false }, battery: { share: 0.9, volts: 3 } } as unknown as RecorderState; // prettier-ignore
    expect(stateText({ state, findings: null, model: recorderModel('PR-2')! })).toBe('recording since 20 Nov, 75 % left'); // prettier-ignore
  });
});
