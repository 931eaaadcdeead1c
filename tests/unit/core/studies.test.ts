import { describe, expect, test } from 'vitest';
import { STUDY_KINDS } from '$core/studies/registry';
import { QUESTIONS } from '$core/studies/study';
import { sentenceText } from '$core/sentence/sentence';
import { signalOf, studied, takeOf, timed } from '../studies';

const HZ = 200;
const sine =
  (amplitude: number, hz: number, offset = 0) =>
  (t: number) =>
    offset + amplitude * Math.sin(2 * Math.PI * hz * t);
const one = (values: ArrayLike<number>, options = {}) =>
  takeOf({ channel: [signalOf('Load', values, { hz: HZ, ...options })] });
const sum = (rows: Record<string, unknown>[], column: string) =>
  rows.reduce((all, row) => all + (row[column] as number), 0);

describe('every kind', () => {
  test.each(STUDY_KINDS.map((k) => [k.kind, k] as const))(
    '%s says itself whole and is drawn in the list',
    (_, kind) => {
      const text = sentenceText(kind.sentence, kind.defaults);
      expect(text).toMatch(/^[A-Z].*\.$/s);
      expect(text).not.toMatch(/undefined|NaN|\{|\}/);
      expect(kind.sentence.schema.safeParse({ ...kind.defaults }).success).toBe(true);
      expect(QUESTIONS).toContain(kind.asks);
      const { lines = [], bars = [], points = [], heat = [], behind = [] } = kind.sketch;
      const heights = [...lines.flat(), ...bars, ...points.flat(), ...heat.flat(), ...behind];
      expect(heights.length).toBeGreaterThan(1);
      for (const h of heights) {
        expect(h).toBeGreaterThanOrEqual(0);
        expect(h).toBeLessThanOrEqual(1);
      }
    },
  );
  test('their names are told apart', () => {
    expect(new Set(STUDY_KINDS.map((k) => k.kind)).size).toBe(STUDY_KINDS.length);
    expect(new Set(STUDY_KINDS.map((k) => k.title)).size).toBe(STUDY_KINDS.length);
  });
});

describe('time at level', () => {
  test('a ramp lies as long in each class; classes are named with their unit, shares sum to 100 %', () => {
    const ramp = one(
      timed(HZ, 12, (t) => t * 20),
      { unit: 'µε' },
    );
    const limits = { min: 0, max: 240 };
    const r = studied('time-at-level', ramp, { classes: 2, limits });
    expect(r.table('Classes').map((c) => [c.Class, c.Time])).toEqual([
      ['up to 120 µε', 6],
      ['over 120 µε', 6],
    ]);
    expect(r.finding('Half of it above')).toBeCloseTo(120, 3);
    const share = studied('time-at-level', ramp, { shown: 'share of the total' });
    expect(sum(share.table('Classes'), 'Share of the total')).toBeCloseTo(100, 9);
    expect(sum(studied('time-at-level', ramp, { shown: 'samples' }).table('Classes'), 'Samples')).toBe(2400);
  });
  test('over closed limits, and what is missing, is told apart and counts nowhere', () => {
    const values = timed(HZ, 10, (t) => (t >= 4 && t < 5 ? NaN : t));
    const r = studied('time-at-level', one(values), {
      limits: { min: 2, max: 8 },
      ends: 'closed',
      classes: 6,
    });
    expect(r.table('Classes').map((c) => c.Time)).toEqual([1, 1, 0, 1, 1, 1]);
    expect(r.finding('Beyond the limits')).toBe(4);
    expect(r.finding('Missing')).toBe(1);
    expect(r.finding('Counted')).toBe(9);
  });
  test('two jointly: the margins are what each is alone, rates may differ', () => {
    const load = signalOf('Load', timed(HZ, 8, sine(5, 0.25)), { hz: HZ });
    const angle = signalOf(
      'Angle',
      timed(50, 8, (t) => (t < 2 ? 1 : 9)),
      { hz: 50, unit: 'deg' },
    );
    const r = studied('time-at-level', takeOf({ channel: [load], jointly: [angle] }), { jointly: 'Angle' });
    const rows = r.table('Classes of Angle').filter((c) => (c.Time as number) > 0);
    expect(rows.map((c) => c.Time)).toEqual([2, 6]);
    expect(sum(r.table('Classes'), 'Time')).toBeCloseTo(8, 9);
    const heat = r.figures[1].marks[0];
    expect(heat.mark).toBe('heat');
    const cells = heat.mark === 'heat' ? Array.from(heat.z).filter((z) => !Number.isNaN(z)) : [];
    expect(cells.reduce((a, b) => a + b, 0)).toBeCloseTo(8, 9);
  });
  test('over revolutions: what the shaft turns counts, backwards too, not the time', () => {
    const load = signalOf(
      'Load',
      timed(HZ, 6, (t) => (t < 3 ? 1 : 9)),
      { hz: HZ },
    );
    const speed = signalOf(
      'Speed',
      timed(HZ, 6, (t) => (t < 3 ? 60 : -600)),
      { hz: HZ, unit: 'rpm' },
    );
    const r = studied('time-at-level', takeOf({ channel: [load], speed: [speed] }), {
      speed: 'Speed',
      classes: 2,
      limits: { min: 0, max: 10 },
    });
    const turns = r.table('Classes').map((c) => c.Revolutions as number);
    expect(turns[0]).toBeCloseTo(3, 5);
    expect(turns[1]).toBeCloseTo(30, 4);
  });
  test('a constant signal is in one class; a span without readings is refused', () => {
    const r = studied('time-at-level', one(timed(HZ, 2, () => 7)));
    expect(r.table('Classes').filter((c) => (c.Time as number) > 0)).toHaveLength(1);
    expect(() => studied('time-at-level', one([NaN, NaN]))).toThrow(/holds readings/);
    expect(() => studied('time-at-level', one([1, 2]), { from: 5, to: 6 })).toThrow(/inside the take/);
  });
});

describe('crossings and ranges', () => {
  const five = one(timed(HZ, 5, sine(10, 2, 3)));
  test('a sine passes each level once a period each way, peaks once, and its pairs have its range', () => {
    const crossings = studied('counting', five, { classes: 4, limits: { min: -6, max: 12 } });
    // Levels −6, −1.5, 3, 7.5, 12: ten periods pass each of them, the last ones by its samples.
    for (const row of crossings.table('Levels').slice(0, 4)) expect(row.Downwards).toBe(10);
    expect(crossings.finding('Reference')).toBeCloseTo(3, 2);
    const peaks = studied('counting', five, { method: 'peaks and valleys', hysteresis: 1 });
    expect(sum(peaks.table('Classes'), 'Peaks')).toBe(10);
    expect(sum(peaks.table('Classes'), 'Valleys')).toBe(10);
    const pairs = studied('counting', five, { method: 'range pairs with their mean', hysteresis: 1 });
    expect(pairs.finding('Largest range')).toBeCloseTo(20, 1);
    // From its middle on it has 22 turning points: of 21 ranges ten pairs, and one that is left counts half.
    expect(sum(pairs.table('Classes'), 'Counts')).toBe(10.5);
    expect(pairs.figures.map((f) => f.title)).toEqual(['By range', 'Range and mean']);
  });
  test('small waves interrupt simple ranges, not range pairs', () => {
    const rough = one(
      timed(HZ, 8, (t) => 10 * Math.sin(Math.PI * t * 0.5) + 0.5 * Math.sin(2 * Math.PI * 9 * t)),
    );
    const large = (method: string, hysteresis = 0) =>
      studied('counting', rough, { method, hysteresis }).finding('Largest range');
    expect(large('range pairs')).toBeGreaterThan(20);
    expect(large('ranges')).toBeLessThan(8);
    expect(large('ranges', 2)).toBeCloseTo(large('range pairs'), 6);
  });
  test('from and to holds every step between turning points', () => {
    const r = studied('counting', five, { method: 'turning points from and to', hysteresis: 1 });
    const heat = r.figures[0].marks[0];
    const cells = heat.mark === 'heat' ? Array.from(heat.z).filter((z) => !Number.isNaN(z)) : [];
    expect(cells.reduce((a, b) => a + b, 0)).toBe(r.finding('Turning points') - 1);
  });
});

describe('rainflow', () => {
  test('a sine of n periods has n cycles of its range about its mean, wherever its beginning', () => {
    const r = studied('rainflow', one(timed(HZ, 5, sine(10, 2, 3))), { residue: 'closed by repeating' });
    expect(r.finding('Cycles counted')).toBe(10);
    expect(r.finding('Largest range')).toBeCloseTo(20, 1);
    const rows = r.table('Cycles by range');
    expect(rows.at(-1)!.Cycles).toBe(10);
    expect(rows[0]['This or larger']).toBe(10);
  });
  test('the largest cycle is found in the gaps and waves about it, with its time; what is dropped is said', () => {
    const values = timed(HZ, 4, (t) => Math.sin(2 * Math.PI * 5 * t) + (t > 2.4 && t < 2.45 ? 30 : 0));
    values.fill(NaN, 10, 20);
    const r = studied('rainflow', one(values), { hysteresis: 0.5 });
    expect(r.finding('Largest range')).toBeGreaterThan(29);
    expect(r.findings.find((f) => f.label === 'Largest range')!.note).toMatch(/closed at 00:02\.4/);
    expect(r.finding('Missing')).toBe(10);
    expect(r.finding('Ranges dropped up to')).toBe(0.5);
  });
  test('it scales with the signal, and counts nothing of a constant one', () => {
    const wave = timed(HZ, 3, (t) => Math.sin(7 * t) + 0.6 * Math.sin(31 * t));
    const limits = (max: number) => ({ limits: { min: 0, max }, classes: 10, hysteresis: 0 });
    const a = studied('rainflow', one(wave), limits(4));
    const b = studied('rainflow', one(wave.map((x) => x * 8)), limits(32));
    expect(b.table('Cycles by range').map((c) => c.Cycles)).toEqual(
      a.table('Cycles by range').map((c) => c.Cycles),
    );
    const still = studied('rainflow', one(timed(HZ, 1, () => 4)));
    expect(still.finding('Cycles counted')).toBe(0);
  });
  test('a long count is cancelled in the middle', () => {
    expect(() => studied('rainflow', one(timed(HZ, 2, sine(1, 1))), {}, { aborted: true })).toThrow(/Load/);
  });
});

describe('damage and life', () => {
  const cycles = (amplitude: number, n: number) => one(timed(HZ, n, sine(amplitude, 1)));
  const line = { residue: 'closed by repeating', knee: 80, cycles: 2e6, slope: 5, hysteresis: 0 };
  test('constant cycles do n / N, life is the time until the sum is 1', () => {
    const r = studied('damage', cycles(160, 20), line);
    const expected = 20 / (2e6 / 2 ** 5);
    expect(r.finding('Damage of this duty')).toBeCloseTo(expected, 6);
    expect(r.finding('It can be repeated') * expected).toBeCloseTo(1, 3);
    expect(r.finding('Life at this duty') * 3600).toBeCloseTo(20 / expected, -2);
    const same = studied('damage', cycles(160, 20), { ...line, equal: 20 });
    expect(same.finding('Range of equal damage')).toBeCloseTo(320, 2);
  });
  test('below the knee by its slope there; a mean by Goodman does more, one at the strength is refused', () => {
    const half = (below: string) =>
      studied('damage', cycles(40, 10), { ...line, below }).finding('Damage of this duty');
    expect(half('no damage')).toBe(0);
    expect(half('the same slope')).toBeCloseTo(10 / (2e6 * 2 ** 5), 12);
    expect(half('the slope 2k − 1')).toBeCloseTo(10 / (2e6 * 2 ** 9), 13);
    const pulled = one(timed(HZ, 10, sine(100, 1, 100)));
    const goodman = { ...line, mean: 'Goodman', strength: 400 };
    const ratio = studied('damage', pulled, goodman).finding('Damage of this duty') / studied('damage', pulled, line).finding('Damage of this duty'); // prettier-ignore
    expect(ratio).toBeCloseTo((1 / (1 - 100 / 400)) ** 5, 2);
    expect(() => studied('damage', pulled, { ...goodman, strength: 100 })).toThrow(/strength/);
    expect(() => studied('damage', pulled, { ...goodman, strength: null })).toThrow(/needs the strength/);
  });
  test('takes are mixed by shares of time: the life lies where the rates say', () => {
    const [calm, rough] = [cycles(80, 10), cycles(160, 10)];
    const rate = (take: typeof calm) =>
      1 / (studied('damage', take, line).finding('Life at this duty') * 3600);
    const mixed = studied('damage', [calm, rough], { ...line, shares: '75, 25 %' });
    expect(1 / (mixed.finding('Life at this duty') * 3600)).toBeCloseTo(
      0.75 * rate(calm) + 0.25 * rate(rough),
      10,
    );
    expect(mixed.table('By take').map((t) => t['Share of time'])).toEqual([75, 25]);
    expect(sum(mixed.table('Damage by class'), 'Share')).toBeCloseTo(100, 6);
    expect(() => studied('damage', [calm, rough], { ...line, shares: '50' })).toThrow(/Give 2 numbers/);
  });
  test('without a knee it compares only, and says so; takes of other units and constant ones are refused', () => {
    const r = studied('damage', cycles(100, 5), { residue: 'closed by repeating' });
    expect(r.findings[0].note).toMatch(/comparing only/);
    expect(r.finding('Damage of this duty')).toBeCloseTo(5 / 2e6, 8);
    const other = one(timed(HZ, 2, sine(1, 1)), { unit: 'mm' });
    expect(() => studied('damage', [cycles(1, 2), other])).toThrow(/takes of one unit/);
    expect(() => studied('damage', one(timed(HZ, 2, () => 1)))).toThrow(/no cycle/);
  });
  test('survival moves the life by the scatter', () => {
    const life = (survival: number) =>
      studied('damage', cycles(160, 10), { ...line, scatter: 3, survival }).finding('Life at this duty');
    expect(life(10) / life(90)).toBeCloseTo(3, 6);
  });
});
