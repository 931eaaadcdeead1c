import { describe, expect, test } from 'vitest';
import type { Keep } from '$core/field/station/programme';
import type { Concern } from '$core/field/station/health';
import type { LinkView, StationLine } from '$contract/station';
import { clockOffText, comingText, keepsText, linkText, markOf, momentOf, momentText } from '$ui/field/station/words'; // prettier-ignore

// How stations are spoken of on their page.
const NOW = Date.parse('2026-11-27T13:58:00Z');
const HOUR = 3_600_000;

describe('moments', () => {
  test('are told by day and minute, UTC, without the year that goes without saying', () => {
    expect(momentText(Date.parse('2026-11-24T06:40:59Z'))).toBe('24 Nov 06:40');
  });
  test.each([
    [NOW + 3 * HOUR, 'today 16:58, in 3 h'],
    [Date.parse('2026-11-28T09:40:00Z'), 'tomorrow 09:40, in 19 h 42 min'],
    [Date.parse('2026-12-13T00:15:00Z'), '13 Dec 00:15, in 15 d 10 h'],
    // So far off that hours say nothing.
    [Date.parse('2030-11-23T00:00:00Z'), '23 Nov 2030'],
    [NOW, 'now'],
    [NOW - HOUR, 'now'],
  ])('what comes at %d is told as %s', (ms, says) => {
    expect(comingText(ms, NOW)).toBe(says);
  });
  test('tomorrow is the next day, not the next 24 hours', () => {
    expect(comingText(Date.parse('2026-11-28T00:05:00Z'), Date.parse('2026-11-27T23:55:00Z'))).toBe('tomorrow 00:05, in 10 min'); // prettier-ignore
    expect(comingText(Date.parse('2026-11-27T23:59:00Z'), Date.parse('2026-11-27T00:01:00Z'))).toMatch(/^today/); // prettier-ignore
  });
  test('when rows are written', () => {
    expect(momentOf({ kind: 'every', seconds: 900 })).toBe('every 15 min');
    expect(momentOf({ kind: 'every', seconds: 86_400 })).toBe('at midnight');
    expect(momentOf({ kind: 'event', of: 'Level', turns: 'rises above', level: 4.5 })).toBe('when Level rises above 4.5'); // prettier-ignore
    expect(momentOf({ kind: 'event', of: '', turns: 'falls below', level: 0 })).toBe('when a value falls below 0'); // prettier-ignore
  });
});

test('what a table keeps is named as long as that is short, and counted beyond', () => {
  const keep = (as: Keep['as'], of: string): Keep => ({ as, of, from: '', when: false });
  expect(keepsText([])).toBe('nothing yet');
  expect(keepsText([keep('average', 'Level')])).toBe('the average of Level');
  expect(keepsText([keep('average', 'Level'), keep('deviation', 'Air')])).toBe('the average of Level and the standard deviation of Air'); // prettier-ignore
  expect(keepsText([keep('average', 'A'), keep('lowest', 'A'), keep('highest', 'A')])).toBe('3 values');
});

describe('the link', () => {
  const link = (part: Partial<LinkView>): LinkView => ({ state: 'away', says: '', tries: 0, sinceMs: null, ...part }); // prettier-ignore
  test.each<[Partial<LinkView>, string]>([
    [{}, 'not connected'],
    [{ says: 'it is reached when it calls in' }, 'it is reached when it calls in'],
    [{ state: 'calling', says: '10.0.0.7:4720', tries: 1, sinceMs: NOW - 2000 }, 'connecting: 10.0.0.7:4720, 00:02'], // prettier-ignore
    [{ state: 'calling', says: '10.0.0.7:4720: refused, again in 10 s', tries: 3, sinceMs: NOW - 65_000 }, 'connecting: 10.0.0.7:4720: refused, again in 10 s, try 3, 01:05'], // prettier-ignore
    [{ state: 'there', says: 'it called in', sinceMs: NOW - 5000 }, 'connected: it called in, 00:05'],
    [{ state: 'silent', says: 'The line was cut.', tries: 3, sinceMs: NOW }, 'The line was cut.'],
  ])('%j reads “%s”', (part, says) => {
    expect(linkText(link(part), NOW)).toBe(says);
  });
  test('a clock of ours that lags says no negative time', () => {
    expect(linkText(link({ state: 'there', says: 'a', sinceMs: NOW + 5000 }), NOW)).toBe('connected: a, 00:00'); // prettier-ignore
  });
});

describe('marks', () => {
  const concern = (level: Concern['level']): Concern => ({ level, key: level, says: level });
  const mark = (concerns: Concern[], contactMs: number | null = NOW) => markOf({ concerns, contactMs } as StationLine); // prettier-ignore
  test('an alarm stands over a warning; a station that was never reached is neither good nor bad', () => {
    expect(mark([concern('warning'), concern('alarm')])).toEqual({ tone: 'alarm', sign: '■' });
    expect(mark([concern('warning')])).toEqual({ tone: 'warning', sign: '▲' });
    expect(mark([])).toEqual({ tone: 'good', sign: '●' });
    expect(mark([], null)).toEqual({ tone: 'none', sign: '○' });
  });
});

test('a clock that is off is told with the digits that count', () => {
  expect(clockOffText(0.4)).toBe('right');
  expect(clockOffText(-0.49)).toBe('right');
  expect(clockOffText(2.34)).toBe('2.3 s ahead');
  expect(clockOffText(-41.6)).toBe('42 s late');
});
