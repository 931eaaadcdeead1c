import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { radioSays } from '$contract/radio-text';
import {
  LINE_DEFAULTS,
  LineWish,
  LISTENING,
  LISTENING_DEFAULTS,
  bandOf,
  wishedLine,
  type HeardBand,
} from '$contract/radio';
import { CATCHING, CATCHING_DEFAULTS, catchRequest } from '$contract/radio-catching';
import { NO_NAMES, sentenceText } from '$core/sentence/sentence';
import type { UnitState } from '$contract/unit';
import { lineName, readLimit } from '$ui/radio/words';

describe('what is heard, in words', () => {
  test('the sentence of the band says it around or from–to; what it asks for is the same', () => {
    expect(sentenceText(LISTENING, LISTENING_DEFAULTS, NO_NAMES)).toBe(
      'Listen around 868.6 MHz, 3.2 MHz wide, resolving 10 kHz smoothed not at all through a Blackman-Harris filter, reading the rms.',
    );
    const other = { ...LISTENING_DEFAULTS, span: 'from' as const, smoothing: 3 };
    expect(sentenceText(LISTENING, other, NO_NAMES)).toContain(
      'Listen from 867 MHz to 870.2 MHz, resolving 10 kHz smoothed 3 kHz',
    );
    expect(bandOf(other)).toMatchObject({ ...bandOf(LISTENING_DEFAULTS), smoothingHz: 3000 });
    expect(bandOf(LISTENING_DEFAULTS)).toMatchObject({
      centreHz: expect.closeTo(868.6e6, 0) as number,
      spanHz: expect.closeTo(3.2e6, 0) as number,
      resolutionHz: 10_000,
    });
  });
  test('that of pulses names only what counts for the way it begins', () => {
    const says = (own: object) => sentenceText(CATCHING, { ...CATCHING_DEFAULTS, ...own }, NO_NAMES);
    expect(says({})).toBe(
      'Listen at 868.9 MHz, 400 kHz wide, and draw 60 ms where the power rises above -70 dBm after it was back by 6 dB, keeping 2 ms before it and waiting 20 ms after. Edges from 10 % to 90 % of the height.'.replace(
        '-70',
        '−70',
      ),
    );
    expect(says({ begins: 'at the clock' })).toContain(
      'draw 60 ms at the clock, every 1000 ms, keeping 2 ms before it. Edges',
    );
    expect(says({ begins: 'at once, again and again' })).not.toMatch(/waiting|rises/);
    expect(catchRequest({ ...CATCHING_DEFAULTS, begins: 'at the clock', every: 500 }).begins).toEqual({
      by: 'clock',
      everyS: 0.5,
    });
    expect(catchRequest({ ...CATCHING_DEFAULTS, begins: 'at once, again and again' }).begins).toEqual({
      by: 'itself',
    });
  });
  test('a line is named by what it shows; one of two others by both, also when one is gone', () => {
    const lines = [
      ...LINE_DEFAULTS,
      LineWish.parse({ id: 'd', shows: 'difference', from: 'highest', minus: 'now' }),
      LineWish.parse({ id: 'k', shows: 'kept', atMs: 0 }),
    ];
    const heard = {
      lines: [
        { id: 'highest', sinceMs: new Date(2026, 10, 27, 14, 2, 5).getTime(), pictures: 4, levels: null },
      ],
    } as unknown as HeardBand;
    expect(lines.map((l) => lineName(l, lines, heard)).slice(0, 4)).toEqual([
      'now',
      'the highest since 14:02:05',
      'the average of 50',
      'the highest minus now',
    ]);
    expect(lineName(lines[3], [lines[0], lines[3]], null)).toBe('a line that is gone minus now');
    expect(lineName(lines[4], lines, null)).toMatch(/^kept from \d\d:\d\d:\d\d$/);
    expect(wishedLine(lines[3], lines)).toEqual({ shows: 'difference', from: 1, minus: 0 });
    expect(wishedLine(lines[2], lines)).toEqual({ shows: 'average', of: 50, on: 'power' });
  });
  test('the rail says what is heard, and which receiver is silent', () => {
    const unit = (name: string, answering: boolean, centreHz?: number) =>
      ({ description: { name, receiver: centreHz && { centreHz } }, answering }) as unknown as UnitState;
    expect(radioSays([unit('Dock', true)])).toEqual({ says: 'no receiver yet', urgent: false });
    expect(radioSays([unit('Quay', true, 868.6e6)]).says).toBe('hears 868.6 MHz');
    expect(radioSays([unit('Quay', true, 1e6), unit('Pier', true, 2e6)]).says).toBe('2 receivers');
    expect(radioSays([unit('Quay', true, 1e6), unit('Pier', false, 2e6)])).toEqual({
      says: 'Pier is silent',
      urgent: true,
    });
  });
});

describe('limits from a table', () => {
  test('are read as they come from a sheet: tabs, semicolons, decimal commas, a head, in any order', () => {
    expect(readLimit('MHz\tdBm\n868,6\t−36\n868,0\t−54\n')).toEqual({
      points: [
        { hz: 868e6, level: -54 },
        { hz: 868.6e6, level: -36 },
      ],
    });
    expect(readLimit('1 -10\n2;-20')).toEqual({
      points: [
        { hz: 1e6, level: -10 },
        { hz: 2e6, level: -20 },
      ],
    });
  });
  test('what is wrong is said with its line', () => {
    expect(readLimit('1 2\nthree 4')).toEqual({ fault: expect.stringContaining('Line 2') as string });
    expect(readLimit('1 2')).toEqual({ fault: expect.stringContaining('two points') as string });
    expect(readLimit('')).toEqual({ fault: expect.stringContaining('two points') as string });
    expect(readLimit('1 2\n-5 3')).toEqual({ fault: expect.stringContaining('Line 2') as string });
    expect(readLimit('1 2\n3 4 5')).toEqual({ fault: expect.stringContaining('Line 2') as string });
  });
  test('whatever is typed, it is points in rising order or a fault', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const read = readLimit(text);
        if ('fault' in read) return;
        expect(read.points.length).toBeGreaterThanOrEqual(2);
        for (let k = 1; k < read.points.length; k++)
          expect(read.points[k].hz).toBeGreaterThanOrEqual(read.points[k - 1].hz);
      }),
    );
  });
});
