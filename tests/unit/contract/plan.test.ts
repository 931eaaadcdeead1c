import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { when } from '$core/condition/condition';
import { NO_NAMES } from '$core/sentence/sentence';
import { USUAL_BRIDGE_RUN } from '$contract/bridge-check';
import { expectedShuntStep, judgeBridge } from '$service/calibrate/bridge-verdict';
import { evenlySpaced, plannedPoints, usualRun } from '$contract/calibration';
import {
  EMPTY_PLAN,
  Plan,
  clockStart,
  planConditions,
  planText,
  startAtFault,
  takeName,
  waitedFor,
} from '$contract/plan';
import { doubt } from '$service/calibrate/plausible';
import { twoPoints } from '$contract/scale';
import { channel } from '../rig';

const NOON = new Date(2026, 10, 25, 12, 0, 0).getTime();

describe('when a plan starts by the clock', () => {
  test.each([
    ['13:30', new Date(2026, 10, 25, 13, 30).getTime()],
    ['11:30', new Date(2026, 10, 26, 11, 30).getTime()],
    ['12:00', new Date(2026, 10, 26, 12, 0).getTime()],
    ['2027-01-02 03:04:05', new Date(2027, 0, 2, 3, 4, 5).getTime()],
  ])('“%s” is the next time the clock says so', (text, at) => {
    expect(startAtFault(text, NOON)).toBeNull();
    expect(clockStart(text, NOON)).toBe(at);
  });

  test.each([
    ['24:00', /hours go to 23/],
    ['12:60', /minutes and seconds to 59/],
    ['2026-13-01 10:00', /no such day/],
    ['2027-02-29 10:00', /no such day/],
    ['2026-11-25 11:59', /has passed/],
    ['7:30', /Write it like/],
    ['soon', /Write it like/],
    ['', /Write it like/],
  ])('“%s” is refused', (text, why) => expect(startAtFault(text, NOON)).toMatch(why));

  test('a time of day is never more than a day away, and never now', () => {
    fc.assert(
      fc.property(fc.nat(23), fc.nat(59), fc.nat(59), fc.nat(86_399_999), (h, m, s, into) => {
        const text = [h, m, s].map((n) => String(n).padStart(2, '0')).join(':');
        const now = new Date(2026, 5, 15).getTime() + into;
        const wait = clockStart(text, now) - now;
        expect(wait).toBeGreaterThan(0);
        expect(wait).toBeLessThanOrEqual(86_400_000);
      }),
    );
  });
});

describe('a take’s name', () => {
  const facts = { Operator: 'Ada', 'Blade set': 'C' };
  test.each([
    ['BW2-{Blade set}-{number}', 'BW2-C-7'],
    ['{blade SET} {operator}', 'C Ada'],
    ['{date} {time} {plan}', '2026-11-25 12-00 Spin-up'],
    ['{nothing}Take {number} ', 'Take 7'],
    ['{{number}}', '{7}'],
    ['', ''],
  ])('“%s” becomes “%s”', (pattern, name) =>
    expect(takeName(pattern, facts, 7, { plan: 'Spin-up', atMs: NOON })).toBe(name),
  );
  test('a fact cannot bring a pattern of its own', () => {
    expect(takeName('{Operator}', { Operator: '{number}' }, 7)).toBe('{number}');
  });
});

describe('what a plan says and waits for', () => {
  test('only the conditions that it uses count; each channel is named once', () => {
    const plan: Plan = {
      ...EMPTY_PLAN,
      start: 'when',
      startWhen: {
        join: 'any',
        terms: [...when('a', 'rises above', 5).terms, ...when('b', 'falls below', 2).terms],
      },
      stop: 'by hand',
      stopWhen: when('c', 'is above', 9),
      detail: 'only in windows',
      windowWhen: when('a', 'is above', 7),
    };
    expect(waitedFor(plan).sort()).toEqual(['a', 'b']);
    expect(planConditions(plan).map((c) => c.name)).toEqual(['start', 'window']);
    expect(waitedFor({ ...plan, start: 'by hand', detail: 'all the time' })).toEqual([]);
  });

  test('its words leave out what is as usual, and end no sentence with “or any size”', () => {
    const text = planText(EMPTY_PLAN, NO_NAMES);
    expect(text).toContain('Record all channels all the time.');
    expect(text).not.toMatch(/any size|any number of samples|and 0 s more|once; kept in one file/);
    const limited = planText(
      {
        ...EMPTY_PLAN,
        stop: 'when',
        stopWhen: when('x', 'is above', 3),
        mostMb: 50,
        again: 'again and again',
      },
      NO_NAMES,
    );
    expect(limited).toMatch(/at the latest after .* or 50 MB\./);
    expect(limited).toContain('again and again');
  });

  test.each([
    [{ before: 121 }, /120 s are kept/],
    [{ before: -1 }, /At least 0 s/],
    [{ longest: 0 }, /above 0 s/],
    [{ startAt: 'noon' }, /06:30/],
    [{ times: 1.5 }, /whole number/],
    [{ colour: 'red' }, /colour/],
  ])('%j is refused in words', (edit, why) =>
    expect(() => Plan.parse({ ...EMPTY_PLAN, ...edit })).toThrow(why),
  );
});

describe('bridges under their shunt', () => {
  const shunt = { ohm: 100_000, arm: 1 as const };
  const gauge = (settings: object = {}) =>
    channel('Root', 'strain bridge', 'C1/1', {
      resistance: 350,
      gaugeFactor: 2.08,
      range: { min: -2000, max: 2000 },
      ...settings,
    });
  const at = (mean: number, noise = 1e-5) => ({ mean, noise, samples: 200 });
  const judge = (
    c: ReturnType<typeof gauge>,
    zero: number,
    step: number | null,
    more: { noise?: number; open?: boolean } = {},
  ) =>
    judgeBridge(
      c,
      undefined,
      shunt,
      at(zero, more.noise),
      step === null ? null : at(zero + step),
      USUAL_BRIDGE_RUN,
      more.open ?? false,
    );

  test('a resistor across one arm changes it by R²/(R + Rs): a quarter of that share comes out', () => {
    const step = expectedShuntStep(gauge(), shunt);
    const change = 350 / (350 + 100_000); // relative change of the arm, negative
    expect(Math.abs(step)).toBeCloseTo((1000 * change) / (4 - 2 * change), 4);
    // Twice the resistance of the shunt, half the step; three times the gauge's, three times.
    expect(expectedShuntStep(gauge(), { ...shunt, ohm: 200_350 }) / step).toBeCloseTo(0.5, 2);
    expect(expectedShuntStep(gauge({ resistance: 1000 }), shunt) / step).toBeCloseTo(1000 / 350, 1);
    // Another arm, the other way.
    expect(expectedShuntStep(gauge(), { ...shunt, arm: 2 }) / step).toBeCloseTo(-1, 2);
  });

  test('each finding has its signs, and only those', () => {
    const c = gauge();
    const right = expectedShuntStep(c, shunt);
    expect(judge(c, 0.3, right).finding).toBe('right');
    expect(judge(c, 0.3, right * 1.005).finding).toBe('right');
    expect(judge(c, 0.3, right * 1.02)).toMatchObject({
      finding: 'wrong step',
      says: expect.stringContaining('2.0 % larger') as string,
    });
    expect(judge(c, 0.3, right * (120 / 350)).says).toContain('that of 120 Ω, not of 350 Ω');
    expect(judge(c, 0.3, -right).says).toContain('the wrong way');
    expect(judge(c, 0.3, right * 0.05).finding).toBe('dead');
    expect(judge(c, 25, right).finding).toBe('pegged');
    expect(judge(c, 0.3, right, { open: true }).finding).toBe('pegged');
    expect(judge(c, 0.3, right, { noise: 0.05 }).finding).toBe('moving');
    expect(judge(c, 0.3, null)).toMatchObject({ finding: 'right', says: 'At rest at 0.3 mV/V.' });
  });

  test('a sound step that the channel reads wrongly is a wrong value', () => {
    const c = gauge();
    const wrong = {
      ...c,
      scale: {
        id: 's',
        name: 'Old',
        rawUnit: 'mV/V',
        unit: 'µε',
        law: { kind: 'linear' as const, slope: 2000, offset: 0 },
        note: '',
      },
    };
    const row = judge(wrong, 0.1, expectedShuntStep(c, shunt));
    expect(['wrong value', 'right']).toContain(row.finding);
    if (row.finding === 'wrong value') expect(row.says).toMatch(/times as much/);
  });
});

describe('values beside their siblings', () => {
  const cell = (name: string, sensitivity: number) =>
    channel(name, 'bridge sensor', 'C1/4', {
      unit: 'kN',
      sensitivity,
      fullScale: 10,
      range: { min: 0, max: 10 },
    });
  const three = [cell('A', 2), cell('B', 2.02), cell('C', 1.98)];
  test('one that is like the others is not doubted; a fourfold one is, with what usually makes it so', () => {
    expect(doubt(cell('D', 2.3), three)).toBeNull();
    expect(doubt(cell('D', 8), three)).toMatch(
      /3 others of this kind have about 4 times more.*quarter bridge with a full/,
    );
    expect(doubt(cell('D', 0.002), three)).toMatch(/a thousand/);
  });
  test('one sibling makes no rule; a value that reads the same whatever happens is always doubted', () => {
    expect(doubt(cell('D', 8), three.slice(0, 1))).toBeNull();
    expect(doubt(channel('D', 'voltage', 'A4/1', { slope: 0 }), [])).toMatch(/whatever happens/);
  });
});

describe('points of a calibration', () => {
  test('go up once, or up and down again without the top twice', () => {
    const run = {
      ...usualRun(channel('W', 'voltage', 'A4/1', { unit: 'mm', range: { min: 0, max: 200 } })),
      targets: ['0', '50', '100'],
    };
    expect(plannedPoints({ ...run, going: 'up' }).map((p) => p.target)).toEqual([0, 50, 100]);
    expect(plannedPoints({ ...run, going: 'up and down' })).toEqual([
      { target: 0, going: 'up' },
      { target: 50, going: 'up' },
      { target: 100, going: 'up' },
      { target: 50, going: 'down' },
      { target: 0, going: 'down' },
    ]);
    expect(evenlySpaced(0, 200, 5)).toEqual(['0', '50', '100', '150', '200']);
    expect(evenlySpaced(-1, 1, 3)).toEqual(['-1', '0', '1']);
  });

  test('a line through two points goes through both', () => {
    fc.assert(
      fc.property(
        fc.tuple(
          fc.integer({ min: -1000, max: 1000 }),
          fc.integer({ min: -1000, max: 1000 }),
          fc.integer({ min: 1, max: 500 }),
          fc.integer({ min: -500, max: 500 }),
        ),
        ([raw, value, dx, dy]) => {
          const { slope, offset } = twoPoints({ raw, value }, { raw: raw + dx, value: value + dy });
          expect(slope * raw + offset).toBeCloseTo(value, 6);
          expect(slope * (raw + dx) + offset).toBeCloseTo(value + dy, 6);
        },
      ),
    );
    expect(() => twoPoints({ raw: 1, value: 0 }, { raw: 1, value: 5 })).toThrow();
  });
});
