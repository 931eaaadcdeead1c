import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { rateHz } from '$core/samples/sampled';
import { when } from '$core/condition/condition';
import type { Channel } from '$contract/channel';
import type { NumberedRule } from '$contract/engine';
import { EMPTY_RULE, newDeed, type Rule } from '$contract/rule';
import { openBenchChassis } from '$engine/units/bench-chassis/driver';
import { TakeReader } from '$store/take/reader';
import { bench, channel, UNIT } from '../rig';

let folder: string;
beforeAll(() => void (folder = mkdtempSync(join(tmpdir(), 'farrier-changes-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
let files = 0;
const file = () => join(folder, `${files++}.take`);

const RANGE = { range: { min: 0, max: 120 } };
const rule = (rest: Partial<Rule>, id = 'r'): NumberedRule => ({
  id,
  rule: { ...EMPTY_RULE, ...rest },
  says: 'a rule',
});
const opens = (test: 'is above' | 'rises above' = 'is above', level = 50) =>
  rule({
    when: when('heat', test, level),
    deeds: [newDeed({ do: 'set', output: 'valve', value: 8, after: 'return it to rest' })],
  });

/** A thermocouple, an encoder and an output on one chassis. */
function rig(rules: NumberedRule[] = [], more: Channel[] = []) {
  const unit = openBenchChassis({ serial: UNIT, kind: 'bench chassis', name: 'bench' });
  const channels = [
    channel('Heat', 'thermocouple', 'B2/1', { rateHz: 50, ...RANGE }),
    channel('Turns', 'counter', 'B7/1', { counts: 'total', edges: 'one edge', unit: '1', perTurn: 1, rateHz: 100, range: { min: 0, max: 1e6 } }),
    channel('Valve', 'driven', 'B9/1', { slope: 1, rest: 1, unit: 'V', range: { min: 0, max: 10 } }),
    ...more,
  ]; // prettier-ignore
  const b = bench(unit, channels, rules);
  const warm = (celsius: number) => unit.setControl!('B2/1', celsius);
  const valve = () => b.acquisition.status.outputs.valve;
  return {
    b,
    unit,
    channels,
    warm,
    valve,
    fired: () => b.acquisition.status.rules[0]?.fired,
    /** Takes over the set-up with some channels and rules changed. */
    change(edit: Partial<Record<string, Partial<Channel> | null>>, next = rules) {
      const made = channels.flatMap((c) => {
        const e = edit[c.id];
        return e === null ? [] : [{ ...c, ...e, settings: { ...c.settings, ...e?.settings } }];
      });
      b.configure({ units: [{ serial: UNIT, kind: 'bench chassis', name: 'bench', config: { settings: {}, sources: [], database: null } }], channels: made, rules: next });
    }, // prettier-ignore
  };
}

describe('a change of the set-up begins only what it concerns anew', () => {
  test('a rule that holds goes on holding over names, colours and limits, fires no second time, and gives its output back in the end', () => {
    const { b, warm, valve, fired, change } = rig([opens()]);
    warm(80);
    b.run(1);
    expect([valve(), fired()]).toEqual([8, 1]);
    change({ turns: { name: 'Revolutions', colour: 5 } });
    change({ heat: { settings: { warnAbove: 100 } } });
    change({ heat: { name: 'Bearing' } });
    b.run(1);
    expect([valve(), fired()]).toEqual([8, 1]);
    warm(20);
    b.run(1);
    expect(valve()).toBe(1);
    expect(fired()).toBe(1);
  });

  test('a sample rate of its own unit begins the acquisition anew, and what holds still holds', () => {
    const { b, warm, valve, fired, change } = rig([opens('rises above')]);
    warm(20);
    b.run(0.5);
    warm(80);
    b.run(1);
    expect([valve(), fired()]).toEqual([8, 1]);
    change({ turns: { settings: { rateHz: 500 } } });
    b.run(1);
    expect([valve(), fired()]).toEqual([8, 1]);
    warm(20);
    b.run(1);
    expect(valve()).toBe(1);
  });

  test('a rule that is removed, or waits for something else, gives back what it holds', () => {
    for (const next of [[], [opens('is above', 500)]]) {
      const { b, warm, valve, change } = rig([opens()]);
      warm(80);
      b.run(1);
      expect(valve()).toBe(8);
      change({}, next);
      b.run(0.2);
      expect(valve()).toBe(1);
      expect(b.notes.map((n) => n.says).join()).toMatch(/Valve returned to rest, 1 V/);
    }
  });

  test('another value in a rule that holds is set at once', () => {
    const { b, warm, valve, change } = rig([opens()]);
    warm(80);
    b.run(1);
    const { rule: now } = opens();
    change({}, [rule({ ...now, deeds: [{ ...now.deeds[0], value: 5 }] })]);
    b.run(0.2);
    expect(valve()).toBe(5);
    warm(20);
    b.run(1);
    expect(valve()).toBe(1);
  });

  test('a new unit with its level converted is the same condition: no second firing, no release', () => {
    const { b, warm, valve, fired, change } = rig([opens('rises above', 50)]);
    warm(20);
    b.run(0.5);
    warm(80);
    b.run(1);
    change({ heat: { settings: { unit: '°F', range: { min: 32, max: 248 } } } }, [opens('rises above', 122)]);
    b.run(1);
    expect([valve(), fired()]).toEqual([8, 1]);
    warm(45);
    b.run(1);
    expect(valve()).toBe(1);
    expect(b.last('Heat')).toBeCloseTo(113, 0);
  });

  test('counts, windows and formulas with a memory go on; those that are written anew begin', () => {
    const formula = { formula: 'peak("Heat")', unit: '°C', range: { min: 0, max: 200 } };
    const { b, warm, unit, change } = rig([], [channel('Hottest', 'computed', null, formula)]);
    unit.setControl!('B7/1', 50);
    warm(90);
    b.run(2);
    warm(30);
    b.run(1);
    const turned = b.last('Turns');
    expect(turned).toBeGreaterThan(100);
    change({ heat: { name: 'Bearing' }, hottest: { settings: { formula: 'peak("Bearing")' } } });
    b.run(1);
    expect(b.last('Turns')).toBeGreaterThan(turned);
    expect(b.last('Hottest')).toBeGreaterThan(85);
    change({ hottest: { settings: { formula: 'peak("Heat") + 0' } } });
    b.run(1);
    expect(b.last('Hottest')).toBeLessThan(40);
  });

  test('an alarm that stands goes on standing when its limit is written in another unit', () => {
    const { b, warm, change, channels } = rig();
    const limits = { alarmAbove: 60, limitHold: 0, limitBack: 20 };
    change({ heat: { settings: limits } });
    warm(80);
    b.run(1);
    warm(50); // back by less than the hysteresis: it still stands
    b.run(1);
    const state = () => b.frames.at(-1)!.state[channels.findIndex((c) => c.id === 'heat')];
    const alarm = state();
    change({
      heat: {
        settings: { ...limits, unit: '°F', alarmAbove: 140, limitBack: 36, range: { min: 32, max: 248 } },
      },
    });
    b.run(0.5);
    expect(state()).toBe(alarm);
    warm(20);
    b.run(1);
    expect(state()).not.toBe(alarm);
  });
});

describe('one bad channel costs only itself', () => {
  test('a law that does not fit its unit, and a terminal that is not there, are named once; the others measure on', () => {
    const bad: Channel = {
      ...channel('Bad', 'voltage', 'B4/1', { unit: 'bar' }),
      scale: { id: 's', name: 'lever', rawUnit: 'V', unit: 'mm', law: { kind: 'linear', slope: 1, offset: 0 }, note: '' },
    }; // prettier-ignore
    const { b, warm } = rig([], [bad, channel('Lost', 'voltage', 'B4/99')]);
    warm(40);
    b.run(3);
    expect(b.last('Heat')).toBeCloseTo(40, 0);
    const said = b.notes.filter((n) => n.kind === 'trouble').map((n) => n.says);
    expect(said).toHaveLength(2);
    expect(said.join()).toMatch(/Bad is not measured.*Lost is not measured/s);
    expect(b.acquisition.status.units[0].answering).toBe(true);
  });
});

describe('rules that are in force during a take', () => {
  const during = (test: 'is above' | 'rises above') =>
    rule({
      active: 'during a take',
      when: when('heat', test, 50),
      deeds: [newDeed({ do: 'mark', says: 'hot' })],
    });
  const marks = (b: ReturnType<typeof rig>['b']) => b.notes.filter((n) => n.says === 'hot');

  test('what holds already as the take begins counts; what only happened before it does not', () => {
    for (const [test_, wanted] of [['is above', 1], ['rises above', 0]] as const) {
      const { b, warm } = rig([during(test_)]);
      b.run(0.5);
      warm(80);
      b.run(3);
      b.arm({ start: 'by hand' }, file());
      b.acquisition.start();
      b.run(1);
      expect(marks(b), test_).toHaveLength(wanted);
    } // prettier-ignore
  });

  test('the pulse that starts the take counts, though it is over before the take is begun', () => {
    const { b, unit } = rig([
      rule({ active: 'during a take', when: when('volts', 'rises above', 1), deeds: [newDeed({ do: 'mark', says: 'hot' })] }),
    ], [channel('Volts', 'voltage', 'B4/1', { rateHz: 1000 })]); // prettier-ignore
    unit.setControl!('B4/1', 0);
    b.run(0.5);
    b.arm({ start: 'when', startWhen: when('volts', 'rises above', 1) }, file());
    b.run(0.2);
    unit.setControl!('B4/1', 5);
    b.run(0.05);
    unit.setControl!('B4/1', 0);
    b.run(1);
    expect(b.acquisition.status.state).toBe('Recording');
    expect(marks(b)).toHaveLength(1);
    // The mark stands at the sample that crossed the level, not at the step in which it was found.
    const crossed = b.notes.find((n) => n.kind === 'started')!.atS!;
    expect(marks(b)[0].atS).toBeCloseTo(crossed, 3);
  });
});

describe('the start and stop of takes', () => {
  test('a stop condition that holds already ends the take as it begins', () => {
    const { b, warm } = rig();
    warm(20);
    b.run(1);
    b.arm({ start: 'by hand', stop: 'when', stopWhen: when('heat', 'is below', 50), stopAfter: 0.5 }, file());
    b.acquisition.start();
    b.run(2);
    expect(b.acquisition.status.state).toBe('Watching');
    expect(b.heads.at(-1)!.lengthNs! / 1e9).toBeCloseTo(0.5, 1);
  });
  test('one that waits for a change goes on until it comes', () => {
    const { b, warm } = rig();
    warm(20);
    b.run(1);
    b.arm(
      { start: 'by hand', stop: 'when', stopWhen: when('heat', 'falls below', 50), stopAfter: 0 },
      file(),
    );
    b.acquisition.start();
    b.run(2);
    expect(b.acquisition.status.state).toBe('Recording');
  });
  test('armed every so often on a condition that stays true, it records every time', () => {
    const { b, warm } = rig();
    warm(80);
    b.run(1);
    b.arm({ start: 'when', startWhen: when('heat', 'is above', 50), longest: 0.5, again: 'a number of times', times: 3, every: 2 }, file());
    b.run(8);
    const starts = b.notes.filter((n) => n.kind === 'started').map((n) => n.atS!);
    expect(starts).toHaveLength(3);
    expect(starts[1] - starts[0]).toBeCloseTo(2, 1);
    expect(starts[2] - starts[1]).toBeCloseTo(2, 1);
  }); // prettier-ignore
  test('a size counts the parts that are closed, too', () => {
    const { b } = rig([], [channel('Fast', 'voltage', 'B4/1', { rateHz: 10_000 })]);
    b.run(0.5);
    b.arm({ start: 'by hand', parts: 'a new part at a size of', partMb: 0.2, mostMb: 0.5 }, file());
    b.acquisition.start();
    b.run(60);
    expect(b.acquisition.status.state).toBe('Watching');
    const lengths = b.heads.filter((h) => h.state === 'complete').map((h) => h.lengthNs! / 1e9);
    expect(lengths.length).toBeGreaterThan(1);
    // 10 000 S/s beside little else at some 4.5 bytes: half a megabyte is eleven seconds, not eleven for each part.
    expect(lengths.reduce((a, s) => a + s)).toBeLessThan(14);
  });
  test('a plan that follows another take keeps what was just before it', () => {
    const { b } = rig();
    b.run(0.5);
    b.arm({ start: 'by hand', channels: ['turns'] }, file());
    b.acquisition.start();
    b.run(1);
    const path = file();
    b.arm({ start: 'when another take ends', before: 2, channels: ['heat'] }, path);
    b.run(4);
    b.acquisition.end();
    b.run(1);
    b.acquisition.end();
    const reader = new TakeReader(path);
    const begun = reader.notes().find((n) => n.kind === 'started')!.atS;
    expect(begun).toBeCloseTo(2, 1);
    expect(reader.raw(0, 0, 50).every(Number.isFinite)).toBe(true);
    reader.close();
  });
});

test('a unit that is lost until the end leaves a gap up to it: the take is as long as it took', () => {
  const { b, unit } = rig();
  b.run(0.5);
  const path = file();
  b.arm({ start: 'by hand' }, path);
  b.acquisition.start();
  b.run(2);
  unit.setControl!('plugged', 0);
  b.run(3);
  b.acquisition.end();
  const reader = new TakeReader(path);
  const heat = reader.signals.find((s) => s.name === 'Heat')!;
  expect(reader.durationS).toBeCloseTo(5, 1);
  expect(heat.length / rateHz(heat)).toBeCloseTo(5, 1);
  const missing = reader.values(heat.id, 0, heat.length).filter(Number.isNaN).length;
  expect(missing / rateHz(heat)).toBeCloseTo(3, 1);
  const gaps = reader.gaps();
  expect(gaps).toHaveLength(new Set(reader.signals.map((s) => s.groupId)).size);
  for (const gap of gaps) {
    expect(gap.reason).toMatch(/was lost/);
    expect(gap.fromS).toBeCloseTo(2, 1);
    expect(gap.toS).toBeCloseTo(5, 1);
  }
  reader.close();
});
