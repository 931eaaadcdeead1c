import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { StripHistory } from '$ui/live/history';
import { parseNumber } from '$ui/sentence/options';
import { liveText, rangeShare } from '$ui/shell/reading';
import { cellText, tableText } from '$ui/study/table-text';
import { numberText } from '$core/sentence/sentence';
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
    rows: [
      ['a', 1.23456789],
      ['b', null],
    ],
  };
  expect(tableText(table)).toBe('Channel\tat, s\na\t1.23456789\nb\t');
  expect([
    cellText(1.23456789, true),
    cellText(160000, true),
    cellText(null, true),
    cellText('a', false),
  ]).toEqual(['1.235', '160000', '–', 'a']);
});
