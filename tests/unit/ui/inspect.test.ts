import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { clockTicks, momentOf, SINCE_START } from '$core/figures/clock';
import { firstPeak } from '$core/signal/peaks';
import { USUAL_DRAWING } from '$contract/drawing';
import { packed, unpacked } from '$contract/packed';
import { usualStrips, type TakeSignal, type TakeView } from '$contract/take';
import { addressText, numbersText, readAddress, readNumbers, type Looked } from '$ui/inspect/address';
import { channelsShown, panelsOf, wholeSpan } from '$ui/inspect/panels';
import { firstPlace } from '$ui/plot/trace-layer';

const signal = (name: string, unit: string, rest: Partial<TakeSignal> = {}): TakeSignal => ({
  id: 0,
  channelId: name,
  name,
  unit,
  quantity: '',
  decimals: 2,
  group: '',
  colour: 0,
  role: 'measured',
  rate: { num: 10, den: 1 },
  startNs: 0,
  width: 1,
  length: 100,
  sentence: '',
  calibration: '',
  corrected: null,
  made: null,
  mends: [],
  ...rest,
});
const take = (id: string, signals: TakeSignal[], durationS = 10): TakeView =>
  ({ head: { id, name: id, number: 1, facts: {}, startNs: '0' }, durationS, signals, notes: [], gaps: [], judgements: [] }) as unknown as TakeView; // prettier-ignore

describe('the address of what is looked at', () => {
  const looked: Looked = {
    beside: [3, 7, 8, 9, 12],
    drawing: { ...USUAL_DRAWING, channels: ['Load & travel', 'Größe “x”'], aligned: 'a crossing', alignBy: 'Load & travel', level: 0.2, axis: { 'Größe “x”': { min: 0, max: null, logarithmic: false, unit: 'mm' } } }, // prettier-ignore
    window: [1.25, 7.5],
    cursors: [3.000000001, null],
    recorded: true,
    series: 'abc',
  };
  test('holds all of it, and reads back as it was written', () => {
    expect(readAddress(new URLSearchParams(addressText(looked)))).toEqual(looked);
  });
  test('says nothing of what is usual', () => {
    const usual = { beside: [], drawing: USUAL_DRAWING, window: null, cursors: [null, null] as [null, null], recorded: false, series: null }; // prettier-ignore
    expect(addressText(usual)).toBe('');
    expect(readAddress(new URLSearchParams())).toEqual(usual);
  });
  test('what cannot be read is left at its usual: a link that was cut opens all the same', () => {
    const read = readAddress(new URLSearchParams('view={"as":"nonsense"&window=9~2&at1=x&with=a,-1,4-'));
    expect(read).toMatchObject({ drawing: USUAL_DRAWING, window: null, cursors: [null, null], beside: [] });
  });
  test('numbers of takes are written short and read back', () => {
    expect(numbersText([15, 16, 17, 20, 22, 23])).toBe('15-17,20,22,23');
    expect(readNumbers('1-1000000')).toHaveLength(100); // not more than can be laid over each other
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 5000 }), { maxLength: 60 }), (numbers) => {
        expect(readNumbers(numbersText(numbers))).toEqual(numbers);
      }),
    );
  });
});

describe('panels of a drawing', () => {
  const a = take('a', [
    signal('Load', 'kN', { id: 1 }),
    signal('Travel', 'mm', { id: 2 }),
    signal('Gap', 'm', { id: 3 }),
  ]);
  const b = take('b', [signal('Load', 'N', { id: 5 }), signal('Travel', 'mm', { id: 6 })], 30);
  const draw = (change: Partial<typeof USUAL_DRAWING>, takes = [a, b]) =>
    panelsOf({ ...USUAL_DRAWING, ...change }, takes);

  test('a strip for each channel, takes over each other; another unit of the quantity is converted', () => {
    const { panels, missing } = draw({ channels: ['Load', 'Travel'] });
    expect(panels.map((p) => p.curves.map((c) => c.take.head.id))).toEqual([['a', 'b'], ['a', 'b']]); // prettier-ignore
    expect(panels[0].axes[0].shown).toBe('kN');
    expect(panels[0].curves[1].into.factor).toBeCloseTo(1e-3, 12);
    expect(missing).toEqual([]);
  });
  test('one plot: an axis for each quantity, or for each channel, left and right in turns', () => {
    const [one] = draw({ as: 'one plot', channels: ['Load', 'Travel', 'Gap'] }).panels;
    expect(one.axes.map((x) => [x.shown, x.side])).toEqual([['kN', 'left'], ['mm', 'right']]); // prettier-ignore
    expect(one.curves.find((c) => c.signal.name === 'Gap')!.into.factor).toBeCloseTo(1000, 9);
    expect(
      draw({ as: 'one plot', axes: 'channel', channels: ['Load', 'Travel', 'Gap'] }).panels[0].axes,
    ).toHaveLength(3);
  });
  test('channels that are drawn together share a strip; takes under each other have their own', () => {
    expect(draw({ channels: ['Load', 'Travel', 'Gap'], together: { Gap: 'Travel' } }).panels.map((p) => p.heads.map((h) => h.name))).toEqual([['Load'], ['Travel', 'Gap']]); // prettier-ignore
    const under = draw({ channels: ['Load'], laid: 'under each other' }).panels;
    expect(under.map((p) => p.heads[0].name)).toEqual(['a', 'b']);
  });
  test('a channel that a take lacks is said; one whose unit became another quantity is not drawn on its axis', () => {
    expect(draw({ channels: ['Load', 'Gap'] }).missing).toEqual([{ channel: 'Gap', takes: ['b'] }]);
    const c = take('c', [signal('Load', '°C')]);
    expect(draw({ channels: ['Load'] }, [a, c]).panels[0].curves.map((k) => k.take.head.id)).toEqual(['a']);
    // A display unit that does not fit any more is passed over.
    const axis = { Load: { min: null, max: null, logarithmic: false, unit: 'mm' } };
    expect(draw({ channels: ['Load'], axis }).panels[0].axes[0].shown).toBe('kN');
  });
  test('without a choice the usual channels are drawn; of one group those of other quantities, too', () => {
    const press = [signal('Load', 'kN', { group: 'P', quantity: 'force' }), signal('Load 2', 'kN', { group: 'P', quantity: 'force' }), signal('Travel', 'mm', { group: 'P', quantity: 'length' }), signal('Silent', 'mm', { group: 'Q', length: 0 })]; // prettier-ignore
    expect(usualStrips(press).map((s) => s.name)).toEqual(['Load', 'Travel']);
    expect(channelsShown(USUAL_DRAWING, [take('x', []), take('y', press)])).toEqual(['Load', 'Travel']);
  });
  test('the whole is from the first beginning to the last end, by where each take lies', () => {
    expect(wholeSpan([a, b], (id) => (id === 'a' ? 2 : 5))).toEqual([-5, 25]);
    expect(wholeSpan([], () => 0)).toEqual([0, 1]);
    expect(wholeSpan([take('empty', [], 0)], () => 0)).toEqual([0, 1]);
  });
});

describe('times along an axis', () => {
  const texts = (...args: Parameters<typeof clockTicks>) => clockTicks(...args).map((t) => t.text);
  test('since the start: whole seconds, minutes, quarter hours', () => {
    expect(texts(SINCE_START, 0, 72, 5)).toEqual(['0', '15', '30', '45', '60']);
    expect(texts(SINCE_START, 0, 252, 5)).toEqual(['00:00', '01:00', '02:00', '03:00', '04:00']);
    expect(texts(SINCE_START, 0.2, 0.26, 4)).toEqual(['0.20', '0.22', '0.24', '0.26']);
  });
  test('by the clock they are round on the clock, wherever the take began; midnight says the day', () => {
    const at = Date.UTC(2027, 2, 14, 21, 7, 13) / 1000;
    expect(texts({ clockS: at, zeroS: 0 }, 0, 5 * 3600, 6)).toEqual([
      '22:00',
      '23:00',
      '15 Mar',
      '01:00',
      '02:00',
    ]);
    const ticks = clockTicks({ clockS: at, zeroS: 0 }, 0, 60, 5);
    expect(ticks.map((t) => t.text)).toEqual(['21:07:15', '21:07:30', '21:07:45', '21:08:00']);
    expect(ticks[0].value).toBeCloseTo(2, 6);
  });
  test('since a mark they are round from it, before it below zero', () => {
    const ticks = clockTicks({ clockS: null, zeroS: 3.7 }, 0, 10, 4);
    expect(ticks.map((t) => t.text)).toContain('0');
    expect(ticks.find((t) => t.text === '0')!.value).toBeCloseTo(3.7, 9);
    expect(momentOf({ clockS: null, zeroS: 3.7 }, 1.2, 1)).toBe('−2.5');
  });
  test('none lies outside, whatever the span, and they rise', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -1e5, max: 1e6, noNaN: true }),
        fc.double({ min: 1e-3, max: 1e6, noNaN: true }),
        fc.option(fc.double({ min: 0, max: 2e9, noNaN: true }), { nil: null }),
        (from, span, clockS) => {
          // prettier-ignore
          const values = clockTicks({ clockS, zeroS: 0 }, from, from + span, 6).map((t) => t.value);
          for (const v of values) expect(v >= from && v <= from + span).toBe(true);
          expect([...values].sort((p, q) => p - q)).toEqual(values);
        },
      ),
    );
  });
});

describe('peaks', () => {
  test('the first that stands out on both sides; noise, an edge and a rising end are none', () => {
    expect(firstPeak([0, 5, 1, 9, 0], 2)).toBe(1);
    expect(firstPeak([0, 1, 0.5, 9, 0], 2)).toBe(3);
    expect(firstPeak([9, 5, 1], 2)).toBe(-1);
    expect(firstPeak([0, 5, 9], 2)).toBe(-1);
    expect(firstPeak([0, NaN, 5, NaN, 1], 2)).toBe(2);
    expect(firstPeak([], 1)).toBe(-1);
    expect(firstPeak([3, 3, 3], 0)).toBe(-1);
  });
});

test('numbers behind a head come back as they were', () => {
  fc.assert(
    fc.property(
      fc.array(fc.float32Array({ maxLength: 20 }), { maxLength: 5 }),
      fc.jsonValue(),
      (numbers, says) => {
        const bytes = packed({ says, counts: numbers.map((n) => n.length) }, numbers);
        const { head, next } = unpacked<{ says: unknown; counts: number[] }>(bytes.buffer);
        expect(JSON.stringify(head.says)).toBe(JSON.stringify(says));
        head.counts.forEach((count, k) => expect(next(count)).toEqual(numbers[k]));
      },
    ),
  );
});

test('the place of the first value at or after another, among rising ones', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 50 })),
      fc.integer({ min: -1, max: 51 }),
      (values, wanted) => {
        const rising = values.sort((p, q) => p - q);
        const expected = rising.findIndex((v) => v >= wanted);
        expect(firstPlace(rising, wanted)).toBe(expected < 0 ? rising.length : expected);
      },
    ),
  );
});
