import { when } from '$core/condition/condition';
import { EMPTY_RULE, newDeed, type Rule } from '$contract/rule';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, test } from 'vitest';
import { startS } from '$core/samples/sampled';
import { COUNT_MODULUS, openCountingSource } from '$engine/units/counting-source/driver';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { TakeReader } from '$store/take/reader';
import { START_NS, UNIT, bench, channel } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
afterAll(() => rmSync(folder, { recursive: true }));
const file = (name: string) => join(folder, `${name}.take`);

const dock = (options = {}) => openDockChassis(UNIT, 'dock', START_NS, { brakeA: 0, ...options });

const count = (name: string, terminal: number, rateHz: number) =>
  channel(name, 'voltage', `C1/${terminal}`, { rateHz, range: { min: 0, max: COUNT_MODULUS } });

describe('the stand-in rig measures its own physics', () => {
  const channels = [
    channel('Speed', 'pulses', 'A5/1'),
    channel('Bearing', 'thermocouple', 'A1/1'),
    channel('Seal', 'platinum sensor', 'A1/5'),
    channel('Torque', 'bridge sensor', 'A2/4'),
    channel('Flow', 'current loop', 'A4/2'),
    channel('Flap', 'strain bridge', 'A2/1', { zero: 0.021 }),
    channel('Acceleration', 'vibration', 'A3/1'),
    channel('Power', 'computed', null, { formula: '"Torque" * "Speed" * pi / 30', unit: 'kW' }),
    channel('Brake', 'driven', 'A6/1'),
  ];

  test('a released brake lets the rotor spin up to a balance of flow and load, and everything reads it', () => {
    const b = bench(dock(), channels);
    b.run(0.5);
    expect(b.last('Speed')).toBeLessThan(2);
    b.run(120);
    expect(b.last('Speed')).toBeGreaterThan(10);
    expect(b.last('Speed')).toBeLessThan(30);
    expect(b.last('Flow')).toBeGreaterThan(1.6);
    expect(b.last('Flap')).toBeGreaterThan(150);
    expect(b.last('Bearing')).toBeGreaterThan(15);
    expect(b.last('Seal')).toBeCloseTo(11.4, 0);
    expect(b.last('Power')).toBeCloseTo((b.last('Torque') * b.last('Speed') * Math.PI) / 30, 1); // torque is sampled 20 times as often
    b.acquisition.setOutput('brake', 10);
    b.run(60);
    expect(b.last('Speed')).toBeLessThan(0.5);
    expect(b.last('Brake')).toBeCloseTo(10, 2);
  });

  test('the same seed gives the same samples, however fast the engine turns', () => {
    const run = (stepMs: number) => {
      const b = bench(dock(), channels);
      b.run(3, stepMs);
      return channels.map((c) => b.last(c.name));
    };
    expect(run(50)).toEqual(run(250));
  });

  test('the junction’s drift does not reach a thermocouple, an open wire reads as no number, a reversed one falls when warmed', () => {
    const unit = dock();
    const b = bench(unit, [channel('Bearing', 'thermocouple', 'A1/1')]);
    b.run(1);
    const before = b.last('Bearing');
    expect(before).toBeCloseTo(24, 0);
    b.run(350); // a quarter of the cabinet's swing of 1.5 K
    unit.setFault!('A1/1', 'reversed polarity');
    unit.setControl!('heat', 40);
    b.run(1);
    const reversed = b.last('Bearing');
    b.run(60);
    expect(b.last('Bearing')).toBeLessThan(reversed);
    unit.setFault!('A1/1', 'open wire');
    b.run(1);
    expect(b.last('Bearing')).toBeNaN();
  });
});

describe('recording', () => {
  test('a take starts at the very sample that passes the level, with the time before it, and ends after its duration', () => {
    const b = bench(openCountingSource(UNIT, 'count', 2), [count('Fast', 1, 51_200), count('Slow', 2, 1000)]);
    b.run(3);
    b.arm(
      {
        start: 'when',
        startWhen: when('slow', 'rises above', 5000),
        before: 2,
        longest: 1.5,
      },
      file('exact'),
    );
    b.run(4);
    expect(b.heads.map((h) => h.state)).toEqual(['recording', 'complete']);
    const take = new TakeReader(file('exact'));
    const [fast, slow] = [
      take.signals.find((s) => s.name === 'Fast')!,
      take.signals.find((s) => s.name === 'Slow')!,
    ];
    // The level is passed at index 5001, 5.001 s after the unit's start; the take begins 2 s before.
    expect(slow.length).toBe(3500);
    expect(take.values(slow.id, 0, 1)[0]).toBe(3001);
    expect(take.values(slow.id, 2000, 1)[0]).toBe(5001);
    expect(take.notes().find((n) => n.kind === 'started')!.atS).toBeCloseTo(2, 9);
    // Sample after sample, across memory, rows and commits, the fast signal is its own index.
    const first = Math.ceil(3.001 * 51_200);
    const values = take.values(fast.id, 0, fast.length);
    expect(values.every((v, i) => v === (first + i) % COUNT_MODULUS)).toBe(true);
    expect(fast.length).toBe(Math.ceil(4.501 * 51_200 + 2 * 51_200) - first - 0);
    expect(startS(fast)).toBeCloseTo(first / 51_200 - 3.001, 9);
    take.close();
  });

  test('started the moment it is armed, a take begins there: nothing is there from before, and nothing is made up', () => {
    const b = bench(openCountingSource(UNIT, 'count', 2), [count('Fast', 1, 1000), count('Slow', 2, 10)]);
    b.run(1);
    b.arm({ before: 2, longest: 1 }, file('at-once'));
    b.acquisition.start();
    b.run(2);
    const take = new TakeReader(file('at-once'));
    expect(take.durationS).toBeCloseTo(1, 9);
    for (const s of take.signals)
      expect(take.values(s.id, 0, s.length).every((v) => !Number.isNaN(v))).toBe(true);
    expect(take.values(take.signals[0].id, 0, 2)).toEqual(Float32Array.of(1000, 1001));
    take.close();
  });

  test('it stops when a level was held without a break, not at the first dip', () => {
    const unit = dock();
    const b = bench(unit, [
      channel('Wire', 'voltage', 'A4/1', { slope: 40, unit: 'mm', range: { min: 0, max: 200 } }),
    ]);
    const pull = (mm: number, seconds: number) => (unit.setControl!('wireMm', mm), b.run(seconds));
    pull(100, 1);
    b.arm(
      {
        before: 0,
        stop: 'when',
        stopWhen: when('wire', 'falls below', 50, { hold: 2 }),
      },
      file('held'),
    );
    b.acquisition.start();
    pull(20, 1.5);
    pull(100, 1);
    expect(b.acquisition.status.state).toBe('Recording');
    pull(20, 3);
    expect(b.acquisition.status.state).toBe('Watching');
    // The wire settles with 0.12 s, so it passes 50 mm on its way from 100 to 20 that much later.
    expect(b.heads.at(-1)!.lengthNs! / 1e9).toBeCloseTo(4.5 + 0.12 * Math.log(80 / 30), 1);
  });

  test('a unit lost and found again leaves a gap with its reason, and the samples after it stand at their true time', () => {
    const unit = dock();
    const b = bench(unit, [
      channel('Junction sees', 'thermocouple', 'A1/1', { rateHz: 10 }),
      channel('Door', 'contact', 'A5/5'),
    ]);
    b.run(1);
    b.arm({ before: 0, longest: null }, file('gap'));
    b.acquisition.start();
    b.run(2);
    unit.setControl!('plugged', 0);
    b.run(3);
    expect(b.frames.at(-1)!.last[1]).toBeNaN();
    unit.setControl!('plugged', 1);
    b.run(2);
    b.acquisition.end();
    const take = new TakeReader(file('gap'));
    const door = take.signals.find((s) => s.name === 'Door')!;
    expect(door.length).toBe(700);
    const [gap] = take.gaps();
    expect(gap.fromS).toBeCloseTo(2, 1);
    expect(gap.toS).toBeCloseTo(5, 0);
    expect(gap.reason).toContain('lost');
    const values = take.values(door.id, 0, 700);
    expect([values[199], values[250], values[699]]).toEqual([1, NaN, 1]);
    expect(b.notes.map((n) => n.says).join(' ')).toMatch(/was lost.*was found again/);
  });

  test('a set-up cannot change under a take, and says so', () => {
    const b = bench(dock(), [channel('Door', 'contact', 'A5/5')]);
    b.run(0.2);
    b.arm({}, file('frozen'));
    expect(() => b.acquisition.configure({ units: [], channels: [], rules: [] }, START_NS)).toThrow(
      /armed.*End the take first/,
    );
    b.acquisition.disarm();
    expect(b.acquisition.status.state).toBe('Watching');
  });
});

test('a rule sets its output when the level is passed and returns it to rest when it no longer holds', () => {
  const unit = dock();
  const channels = [
    channel('Wire', 'voltage', 'A4/1', { slope: 40, unit: 'mm', range: { min: 0, max: 200 } }),
    channel('Brake', 'driven', 'A6/1', { rest: 6, range: { min: 0, max: 10 } }),
  ];
  const rule: Rule = {
    ...EMPTY_RULE,
    when: when('wire', 'rises above', 120, { hysteresis: 10 }),
    deeds: [newDeed({ do: 'set', output: 'brake', value: 2, after: 'return it to rest' })],
  };
  const b = bench(unit, channels, [{ id: 'r', rule, says: 'ease the brake' }]);
  const pull = (mm: number) => (unit.setControl!('wireMm', mm), b.run(0.3));
  pull(100);
  pull(150);
  expect(b.last('Brake')).toBeCloseTo(2, 2);
  pull(115); // within the hysteresis: nothing happens
  expect(b.last('Brake')).toBeCloseTo(2, 2);
  pull(80);
  expect(b.last('Brake')).toBeCloseTo(6, 2);
  expect(b.acquisition.status.rules[0].fired).toBe(1);
});

test('a wrong formula is said and leaves the other channels alone', () => {
  const b = bench(dock(), [
    channel('Door', 'contact', 'A5/5'),
    channel('Twice', 'computed', null, { formula: '"Door" * 2' }),
    channel('Lost', 'computed', null, { formula: '"Nobody" + 1' }),
    channel('Circle A', 'computed', null, { formula: '"Circle B"' }),
    channel('Circle B', 'computed', null, { formula: '"Circle A"' }),
  ]);
  b.run(0.2);
  expect(b.last('Twice')).toBe(2);
  expect(b.last('Lost')).toBeNaN();
  const said = b.notes.map((n) => n.says).join('\n');
  expect(said).toMatch(/no channel “Nobody”/);
  expect(said).toMatch(/need each other: Circle A → Circle B → Circle A/);
});
