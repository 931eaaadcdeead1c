import { readable } from '$ui/plot/strip-plot';
import { oddUnits } from '$ui/rig/odd-units';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { StripHistory } from '$ui/live/history';
import { parseNumber } from '$ui/sentence/options';
import { liveText, rangeShare } from '$ui/shell/reading';
import { driftText, takeTag, takesByFolder } from '$ui/take/labels';
import { cellText, tableText } from '$ui/study/table-text';
import { dayText } from '$core/readings';
import { field, numberText, placeName } from '$core/sentence/sentence';
import { dateOf, dayFault, isoOf } from '$ui/kit/days';
import { z } from 'zod';
import { channel } from '../rig';

describe('numbers as people type them', () => {
  test.each([
    ['2.05', 2.05],
    ['2,05', 2.05],
    ['−3', -3],
    ['1 000', 1000],
    ['1e3', 1000],
    ['.5', 0.5],
    ['', NaN],
    ['2.05 mm', NaN],
    ['1,000,000', NaN],
    ['--2', NaN],
    ['Infinity', NaN],
    ['0x10', NaN],
  ])('“%s” is %d', (text, expected) => expect(parseNumber(text)).toBe(expected));

  test('what the page shows of a number can be typed back', () => {
    fc.assert(
      fc.property(
        fc.double({ noNaN: true, noDefaultInfinity: true }),
        (v) => Object.is(parseNumber(numberText(v)), v) || v === 0,
      ),
    );
  });
});

describe('the history of a strip', () => {
  const filled = (n: number) => {
    const h = new StripHistory();
    for (let i = 0; i < n; i++) h.push(i % 100, (i % 100) + 0.5);
    h.endMs = n * 50;
    return h;
  };

  test('short spans come bucket by bucket, with their times', () => {
    const { ms, min, max } = filled(40).recent(1000, 500);
    expect(min).toEqual(Float32Array.from({ length: 20 }, (_, i) => 20 + i));
    expect(max[0]).toBe(20.5);
    expect(ms[19]).toBe(1975); // the middle of the last bucket
    expect(ms[1] - ms[0]).toBe(50);
  });
  test('thinning loses no peak and stands still while the strip moves on', () => {
    const h = filled(10_000);
    const before = h.recent(100_000, 300);
    h.push(0, 0.5);
    h.endMs += 50;
    const after = h.recent(100_000, 300);
    expect(Math.max(...before.max)).toBe(99.5);
    // 10 001 buckets in points of seven: the window has moved on by one whole point, the points are the same.
    expect(Array.from(after.max.slice(2, 200))).toEqual(Array.from(before.max.slice(3, 201)));
  });
  test('when the ring is full the oldest go, the newest stay', () => {
    const h = filled(StripHistory.CAPACITY + 500);
    const { min } = h.recent(1e9, 1e9);
    expect(min.length).toBe(StripHistory.CAPACITY);
    expect(min.at(-1)).toBe((StripHistory.CAPACITY + 499) % 100);
  });
  test('buckets without a value stay without one', () => {
    const h = new StripHistory();
    h.push(NaN, NaN);
    h.push(1, 2);
    expect(Array.from(h.recent(100, 10).min)).toEqual([NaN, 1]);
  });
});

test('the digits of a live value follow the range and stand still; yes and no are words', () => {
  const c = channel('Flap', 'strain bridge', 'A2/1', { range: { min: 0, max: 1000 } });
  expect([liveText(c, 478.23), liveText(c, 8.2), liveText(c, NaN)]).toEqual(['478.2', '8.2', '–']);
  expect(liveText(channel('Door', 'contact', 'A5/5'), 1)).toBe('yes');
});

test('the comb shows the share of the range: from its lower end, or from zero where it is on both sides', () => {
  const share = (min: number, max: number, v: number) =>
    rangeShare(channel('x', 'voltage', 'A4/1', { range: { min, max } }), v);
  expect(share(0, 200, 50)).toBe(0.25);
  expect(share(-10, 10, -5)).toBe(0.5);
  expect(share(20, 120, 20)).toBe(0);
  expect(share(0, 1, 7)).toBe(1);
  expect(share(0, 1, NaN)).toBe(0);
});

test('a copied table carries full numbers and empty cells; the shown one is rounded', () => {
  const table = {
    title: 't',
    columns: [
      { label: 'Channel', numeric: false },
      { label: 'at', unit: 's', numeric: true },
    ],
    length: 2,
    row: (i: number) =>
      [
        ['a', 1.23456789],
        ['b', null],
      ][i],
  };
  expect(tableText(table)).toBe('Channel\tat, s\na\t1.23456789\nb\t');
  expect([
    cellText(1.23456789, true),
    cellText(160000, true),
    cellText(null, true),
    cellText('a', false),
  ]).toEqual(['1.235', '160000', '–', 'a']);
});

test('numbers of ticks never lie over each other: in a low strip the first stays, in a high one all do', () => {
  expect(readable([90, 60, 30])).toEqual([0, 1, 2]);
  expect(readable([14, 9, 4])).toEqual([0]);
  expect(readable([30, 22, 14, 6])).toEqual([0, 2]);
  expect(readable([])).toEqual([]);
});

describe('takes in a list', () => {
  const take = (name: string, number: number, folder: string, startedAt: string) => ({
    id: `${number}`,
    name,
    number,
    folder,
    startedAt: Date.parse(startedAt),
  });
  const takes = [
    take('Ramp', 1, 'day 1', '2026-11-20T09:00'),
    take('Idle', 2, '', '2026-11-20T10:00'),
    take('Ramp', 3, 'day 2', '2026-11-21T09:00'),
    take('Ramp', 4, 'day 1', '2026-11-22T09:05'),
  ];

  test('stand under their folders, the newest first; two of one name are told apart by number and time', () => {
    expect(takesByFolder(takes).map(({ folder, takes: t }) => [folder, t.map((one) => one.number)])).toEqual([
      ['', [2]],
      ['day 1', [4, 1]],
      ['day 2', [3]],
    ]);
    expect(takeTag(takes[3])).toBe('no. 4, 22 Nov, 09:05');
    expect(new Set(takes.map((t) => `${t.name} ${takeTag(t)}`)).size).toBe(4);
    expect(takesByFolder([])).toEqual([]);
  });

  test.each([
    [0, 5.6e-8, 'no drift'],
    [0.004, 1e-9, 'no drift'],
    [0.31, 5.6e-8, 'drift 0.310 ± 0.010 ppm'],
    [-12.34, 0.6, 'drift −12.34 ± 0.60 ppm'],
    [0.5, 3, 'drift 0.5 ± 3.0 ppm'],
    [NaN, NaN, 'its drift is not known yet'],
  ])('a drift of %d ± %d ppm reads “%s”', (driftPpm, driftUncertaintyPpm, text) =>
    expect(driftText({ driftPpm, driftUncertaintyPpm })).toBe(text),
  );
});

describe('days as people of a place type them', () => {
  test.each([
    ['en-GB', '14/03/2027', null],
    ['en-GB', '03/14/2027', 'Write it like 14/03/2027.'],
    ['en-US', '03/14/2027', null],
    ['en-US', '14/03/2027', 'Write it like 03/14/2027.'],
    ['de-DE', '14.3.2027', null],
    ['de-DE', '31.2.2027', 'Write it like 14.03.2027.'],
    ['sv-SE', '2027-03-14', null],
    ['en-GB', '2027-03-14', null],
    ['en-GB', '2027-02-30', 'Write it like 14/03/2027.'],
    ['en-GB', '14/03/27', 'Write it like 14/03/2027.'],
    ['en-GB', 'soon', 'Write it like 14/03/2027.'],
  ])('in %s “%s”: %s', (locale, text, says) => {
    const fault = dayFault(text, locale);
    if (says === null) expect(fault).toBeNull();
    else expect(fault).toBe(`“${text}” is no day. ${says}`);
  });

  test('what is kept of a day is that day, whatever zone it is looked at from', () => {
    const day = fc.date({ min: new Date(1900, 0, 1), max: new Date(2200, 11, 31), noInvalidDate: true });
    fc.assert(
      fc.property(day, (d) => {
        const back = dateOf(isoOf(d))!;
        expect([back.getFullYear(), back.getMonth(), back.getDate()]).toEqual([
          d.getFullYear(),
          d.getMonth(),
          d.getDate(),
        ]);
        expect(isoOf(back)).toBe(isoOf(d));
      }),
    );
    expect(isoOf(new Date(NaN))).toBe('');
    expect(isoOf(new Date('0027-03-14'))).toBe('');
    expect(dateOf('')).toBeUndefined();
    expect(dayText('2027-03-14')).toBe('14 Mar 2027');
    expect(dayText('')).toBe('');
  });
});

describe('a place of an input is called what the page calls it', () => {
  const schema = z.strictObject({
    entry: z.strictObject({
      due: field(z.string().default(''), { label: 'Due', editor: 'day' }),
      gaugeFactor: z.number().optional(),
    }),
    rows: z
      .array(z.strictObject({ topic: field(z.string(), { label: 'Topic', editor: 'text' }) }))
      .default([]),
  });
  test.each([
    [['entry', 'due'], 'Due'],
    [['entry', 'gaugeFactor'], 'gauge factor'],
    [['rows', 2, 'topic'], 'Topic of no. 3'],
    [['rows', 1], 'rows no. 2'],
    [[4], 'no. 5'],
    [['what', 'ever'], 'ever'],
    [[], ''],
  ])('%j: “%s”', (path, name) => expect(placeName(schema, path)).toBe(name));
});

describe('signals whose description has no unit that can be read', () => {
  const terminals = [
    { id: 'M/a', kind: 'value' as const, contacts: [], sheet: { unit: 'blorps' } },
    { id: 'M/b', kind: 'value' as const, contacts: [], sheet: { unit: 'A' } },
    { id: 'M/c', kind: 'value' as const, contacts: [], sheet: { unit: '1' } },
    { id: 'M/d', kind: 'value' as const, contacts: [], sheet: { unit: ' ' } },
    { id: 'M/e', kind: 'value' as const, contacts: [] },
  ];
  const modules = [{ id: 'M', title: 'message', terminals, ratesHz: [10], bandwidthShare: 0 }];
  const made = (terminal: string, unit: string) => channel(terminal, 'value', terminal, { unit });

  test('are asked for, each by its name with what it says; those that can be read, or are bare numbers, are not', () => {
    const all = [
      made('M/a', '1'),
      made('M/b', 'A'),
      made('M/c', '1'),
      made('M/d', '1'),
      made('M/e', '1'),
      made('X/y', '1'),
    ];
    expect(oddUnits(all, { modules } as never)).toEqual([
      { channelId: 'm/a', name: 'M/a', written: 'blorps' },
    ]);
    expect(oddUnits([made('M/a', 'N·m')], { modules } as never)).toEqual([]); // given meanwhile
  });
});
