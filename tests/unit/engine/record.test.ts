import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_TERM, when, type Condition } from '$core/condition/condition';
import { EMPTY_RULE, newDeed, type Deed, type Rule } from '$contract/rule';
import { clockStart } from '$contract/plan';
import { Acquisition } from '$engine/acquisition';
import { ConditionWatch } from '$engine/condition-watch';
import { rehearse } from '$engine/rehearsal';
import { UnitClock } from '$engine/unit-clock';
import { newSlot } from '$engine/slots';
import { openCountingSource } from '$engine/units/counting-source/driver';
import type { Signal } from '$engine/signals';
import type { OpenUnit } from '$engine/units/driver';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { TakeReader } from '$store/take/reader';
import fc from 'fast-check';
import { afterAll, describe, expect, test } from 'vitest';
import { rateHz, startS } from '$core/samples/sampled';
import { START_NS, UNIT, bench, channel } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-record-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
let files = 0;
/** A folder of its own for one series of takes. */
const place = () => join(mkdtempSync(join(folder, `s${files++}-`)), 'first.take');
const takesIn = (path: string) =>
  readdirSync(join(path, '..'))
    .filter((f) => f.endsWith('.take'))
    .map((f) => new TakeReader(join(path, '..', f)))
    .sort((a, b) => a.head.number - b.head.number);

const count = (name: string, n: number, rateHz: number) =>
  channel(name, 'voltage', `C1/${n}`, { rateHz, slope: 1, unit: 'V', range: { min: 0, max: 2 ** 20 } });
const counter = (n = 2) => openCountingSource(UNIT, 'count', n);
/** Values of a signal as numbers, gaps as null. */
const valuesOf = (take: TakeReader, name: string) => {
  const s = take.signals.find((x) => x.name === name)!;
  return { s, values: take.values(s.id, 0, s.length) };
};

describe('conditions over a set-up', () => {
  /** A signal that is fed by hand. */
  const fed = (name: string, rateHz: number) =>
    ({
      name,
      group: { unit: 'U', rate: { num: rateHz, den: 1 }, startNs: 0n, base: 0, first: 0, count: 0, next: 0 },
      value: new Float32Array(0),
      limit: 'none',
    }) as unknown as Signal;
  const turnsOf = (
    condition: Condition,
    data: Record<string, { rateHz: number; values: number[] }>,
    steps: number[],
  ) => {
    const signals = Object.fromEntries(Object.entries(data).map(([k, d]) => [k, fed(k, d.rateHz)]));
    const watch = new ConditionWatch(condition, (id) => signals[id]);
    const out: string[] = [];
    let ms = 0;
    for (const step of steps) {
      ms += step;
      for (const [k, { rateHz, values }] of Object.entries(data)) {
        const { group } = signals[k];
        const end = Math.min(values.length, Math.ceil((ms * rateHz) / 1000));
        group.first += group.count;
        group.count = end - group.first;
        signals[k].value = Float32Array.from(values.slice(group.first, end));
      }
      for (const t of watch.step()) out.push(`${t.atNs / 1_000_000n} ${t.on}`);
    }
    return out;
  };

  test('all and any over two rates turn at the very sample, whatever blocks the samples come in', () => {
    const level = { min: -5, max: 5 };
    fc.assert(
      fc.property(
        fc.array(fc.integer(level), { minLength: 40, maxLength: 40 }),
        fc.array(fc.integer(level), { minLength: 10, maxLength: 10 }),
        fc.constantFrom('all' as const, 'any' as const),
        fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 60, maxLength: 60 }),
        (fast, slow, join_, cuts) => {
          const condition: Condition = {
            join: join_,
            terms: [
              { ...EMPTY_TERM, channel: 'fast', test: 'is above', level: 1, hysteresis: 1 },
              { ...EMPTY_TERM, channel: 'slow', test: 'is inside', level: -2, high: 2, hold: 0.004 },
            ],
          };
          const data = { fast: { rateHz: 1000, values: fast }, slow: { rateHz: 250, values: slow } };
          const whole = turnsOf(
            condition,
            data,
            [...new Array<number>(40)].map(() => 1),
          );
          expect(turnsOf(condition, data, cuts)).toEqual(whole);
        },
      ),
      { numRuns: 60 },
    );
  });
  test('a slope counts over its window, a limit state with the block that passes it', () => {
    const ramp = Array.from({ length: 100 }, (_, i) => (i < 50 ? 0 : (i - 50) * 0.2));
    const slope = when('a', 'climbs faster than', 10, { over: 0.02 });
    // 0.2 per ms is 200 a second; over 20 ms the line is steeper than 10 a second soon after the bend.
    const [first] = turnsOf(slope, { a: { rateHz: 1000, values: ramp } }, [100]);
    expect(Number(first.split(' ')[0])).toBeGreaterThan(50);
    expect(Number(first.split(' ')[0])).toBeLessThan(56);
  });
  test('a channel that is not there is refused in words', () => {
    expect(() => new ConditionWatch(when('gone', 'is above', 1), () => undefined)).toThrow(
      /not measured now/,
    );
  });
});

describe('when a take starts, stops and goes on', () => {
  test('after so many samples it ends, to the sample; a condition keeps its seconds after', () => {
    const b = bench(counter(), [count('Fast', 1, 1000)]);
    b.run(1);
    const path = place();
    b.arm({ before: 0, longest: null, mostSamples: 1234 }, path);
    b.acquisition.start();
    b.run(3);
    const [take] = takesIn(path);
    expect(valuesOf(take, 'Fast').s.length).toBe(1234);

    const other = place();
    b.arm(
      {
        before: 0.5,
        start: 'when',
        startWhen: when('fast', 'rises above', 5000),
        stop: 'when',
        stopWhen: when('fast', 'rises above', 5999),
        stopAfter: 0.25,
        longest: null,
      },
      other,
    );
    b.run(5);
    const [second] = takesIn(other);
    const { values } = valuesOf(second, 'Fast');
    expect(values[0]).toBe(4501); // 5001 is the first above 5000, half a second before it 4501
    expect(values.at(-1)).toBe(6249); // 6000 is the first above 5999, and a quarter of a second
    expect(second.notes().map((n) => n.kind)).toEqual(expect.arrayContaining(['started', 'ended']));
  });

  test('armed again a number of times, every so often: numbers count up, starts are even, then it is over', () => {
    const b = bench(counter(), [count('Fast', 1, 1000)]);
    const path = place();
    b.arm(
      { before: 0, longest: 0.5, again: 'a number of times', times: 3, every: 2, naming: 'R-{number}' },
      path,
    );
    b.acquisition.start();
    b.run(8);
    const takes = takesIn(path);
    expect(takes.map((t) => t.head.name)).toEqual(['Take-1', 'R-2', 'R-3']);
    const starts = takes.map((t) => Number(BigInt(t.head.startNs) - START_NS) / 1e9);
    expect(starts[1] - starts[0]).toBeCloseTo(2, 6);
    expect(starts[2] - starts[1]).toBeCloseTo(2, 6);
    expect(b.acquisition.status.state).toBe('Watching');
    expect(takes.length).toBeGreaterThan(1);
    expect(takes.every((t) => valuesOf(t, 'Fast').s.length === 500)).toBe(true);
  });

  test('again and again goes on until it is disarmed, which ends no take', () => {
    const b = bench(counter(), [count('Fast', 1, 1000)]);
    const path = place();
    b.arm(
      { before: 0.2, longest: 0.5, start: 'after a delay', startDelay: 0.3, again: 'again and again' },
      path,
    );
    b.run(4);
    expect(b.acquisition.status.take?.left).toBe(-1);
    while (b.acquisition.status.state !== 'Recording') b.run(0.05);
    b.acquisition.disarm();
    expect(b.acquisition.status.state).toBe('Recording');
    b.run(1);
    expect(b.acquisition.status.state).toBe('Watching');
    expect(takesIn(path).length).toBeGreaterThan(1);
    expect(takesIn(path).every((t) => t.head.state === 'complete')).toBe(true);
  });

  test('a plan that follows another take begins where that one ends', () => {
    const b = bench(counter(), [count('Fast', 1, 1000)]);
    const [first, second] = [place(), place()];
    expect(() => b.arm({ start: 'when another take ends' }, second)).toThrow(/No take is being recorded/);
    b.arm({ before: 0, longest: 1 }, first);
    b.acquisition.start();
    b.run(0.3);
    b.arm({ start: 'when another take ends', before: 0, longest: 0.5 }, second);
    expect(b.acquisition.status.take?.follows).toBe('Take-1');
    b.run(3);
    const [a] = takesIn(first);
    const [c] = takesIn(second);
    expect(BigInt(c.head.startNs)).toBe(BigInt(a.head.startNs) + BigInt(a.head.lengthNs!));
    expect(valuesOf(c, 'Fast').values[0]).toBe(valuesOf(a, 'Fast').values.at(-1)! + 1);
  });

  test.each([
    [{ parts: 'a new part every' as const, partEvery: 1 }, 4],
    [{ parts: 'a new part at a size of' as const, partMb: 0.1 }, 2],
  ])('from part to part (%o) not a sample is lost, doubled or reordered', (parts, atLeast) => {
    const b = bench(counter(), [count('Fast', 1, 10_000), count('Slow', 2, 100)]);
    const path = place();
    b.arm({ before: 0, longest: 3.5, ...parts }, path);
    b.acquisition.start();
    b.run(5);
    const takes = takesIn(path);
    expect(takes.length).toBeGreaterThanOrEqual(atLeast);
    expect(takes.map((t) => t.head.part)).toEqual([null, ...takes.slice(1).map((_, k) => k + 2)]);
    for (const name of ['Fast', 'Slow']) {
      const all = takes.flatMap((t) => Array.from(valuesOf(t, name).values));
      expect(all.length).toBe(name === 'Fast' ? 35_000 : 350);
      expect(all.every((v, i) => i === 0 || v === all[i - 1] + 1)).toBe(true);
    }
    takes.slice(1).forEach((t, k) => {
      expect(BigInt(t.head.startNs)).toBe(BigInt(takes[k].head.startNs) + BigInt(takes[k].head.lengthNs!));
    });
  });

  test('full rates only in windows: what matters is whole, with its seconds before and after; the log goes on; the rest is said', () => {
    const saw = channel('Saw', 'computed', null, {
      formula: '"Fast" - 3000',
      unit: 'V',
      range: { min: -3000, max: 9e5 },
    });
    const b = bench(counter(), [count('Fast', 1, 1000), saw]);
    const path = place();
    b.arm(
      {
        before: 0,
        longest: 8,
        detail: 'only in windows',
        logEvery: 0.5,
        windowWhen: when('saw', 'is inside', 0, { high: 1000 }),
        windowBefore: 0.5,
        windowAfter: 0.25,
      },
      path,
    );
    b.acquisition.start();
    b.run(9);
    const [take] = takesIn(path);
    const { s, values } = valuesOf(take, 'Fast');
    const kept = Array.from(values).filter((v) => !Number.isNaN(v));
    // Saw is inside from Fast = 3000 to 4000; half a second before, a quarter after the last.
    expect(kept[0]).toBe(2500);
    expect(kept.at(-1)).toBe(4250);
    expect(kept.length).toBe(1751);
    expect(take.gaps().map((g) => [g.fromS, Math.round(g.toS * 1000) / 1000, g.reason])).toEqual([
      [0, 2.5, 'outside the windows'],
      [4.251, 8, 'outside the windows'],
    ]);
    const log = valuesOf(take, 'Fast, log');
    expect(rateHz(log.s)).toBe(2);
    expect(startS(log.s)).toBe(0.25); // a mean stands in the middle of its time
    expect(Array.from(log.values)).toEqual(Array.from({ length: 16 }, (_, i) => 500 * i + 249.5));
    expect(s.length).toBeLessThanOrEqual(8000);
  });

  test('“at a time” is the next time the clock says so; with a date it is that instant', () => {
    const now = new Date(2026, 10, 23, 18, 30).getTime();
    expect(clockStart('19:00', now)).toBe(new Date(2026, 10, 23, 19, 0).getTime());
    expect(clockStart('18:30', now)).toBe(new Date(2026, 10, 24, 18, 30).getTime());
    expect(clockStart('2026-11-25 06:00:30', now)).toBe(new Date(2026, 10, 25, 6, 0, 30).getTime());
  });
});

describe('rules', () => {
  const dock = (): OpenUnit => openDockChassis(UNIT, 'dock', START_NS, { brakeA: 6 });
  const channels = [
    channel('Wire', 'voltage', 'A4/1', { slope: 40, unit: 'mm', range: { min: 0, max: 200 } }),
    channel('Brake', 'driven', 'A6/1', { rest: 6, range: { min: 0, max: 10 } }),
  ];
  const rule = (
    deeds: Partial<Deed>[],
    rest: Partial<Rule> = {},
  ): { id: string; rule: Rule; says: string } => ({
    id: 'r',
    says: 'the rule',
    rule: {
      ...EMPTY_RULE,
      when: when('wire', 'rises above', 120, { hysteresis: 10 }),
      deeds: deeds.map(newDeed),
      ...rest,
    },
  });
  function rig(...rules: { id: string; rule: Rule; says: string }[]) {
    const unit = dock();
    const b = bench(unit, channels, rules);
    const pull = (mm: number, seconds = 0.3) => (unit.setControl!('wireMm', mm), b.run(seconds));
    pull(100);
    return { b, pull, kinds: () => b.notes.map((n) => n.kind) };
  }

  test('starts and ends takes, marks, raises alarms, calls an address, in the order written', () => {
    const { b, pull } = rig(
      rule([
        { do: 'start the take' },
        { do: 'mark', says: 'pulled' },
        { do: 'raise an alarm', says: 'wire!' },
        { do: 'call an address', address: 'http://host/hook' },
      ]),
      { ...rule([{ do: 'end the take' }], { when: when('wire', 'falls below', 60) }), id: 'end' },
    );
    const path = place();
    b.arm({ before: 0.1, longest: null }, path);
    pull(150);
    expect(b.acquisition.status.state).toBe('Recording');
    expect(b.notes.map((n) => n.kind).slice(-5)).toEqual(['rule', 'started', 'mark', 'alarm', 'call']);
    pull(30);
    expect(b.acquisition.status.state).toBe('Watching');
    const [take] = takesIn(path);
    expect(take.notes().map((n) => n.says)).toContain('pulled');
  });

  test('moves an output in a straight line; all to rest brings it back at once', () => {
    const { b, pull } = rig(rule([{ do: 'move', output: 'brake', value: 2, within: 2 }]));
    pull(150, 1.1);
    const halfway = b.last('Brake');
    expect(halfway).toBeGreaterThan(3.5);
    expect(halfway).toBeLessThan(4.6);
    pull(150, 1.5);
    expect(b.last('Brake')).toBeCloseTo(2, 1);
    b.acquisition.toRest();
    b.run(0.2);
    expect(b.last('Brake')).toBeCloseTo(6, 1);
  });

  test('once, at most every so often, and by the clock', () => {
    const cycle = (r: Partial<Rule>) => {
      const { b, pull } = rig(rule([{ do: 'mark', says: 'seen' }], r));
      for (let i = 0; i < 4; i++) {
        pull(150, 0.5);
        pull(80, 0.5);
      }
      return b.acquisition.status.rules[0].fired;
    };
    expect(cycle({})).toBe(4);
    expect(cycle({ often: 'once' })).toBe(1);
    expect(cycle({ often: 'at most every', gap: 1.8 })).toBe(2);
    expect(cycle({ cause: 'every', time: 1 })).toBe(4);
    expect(cycle({ cause: 'once a take has run for', time: 1 })).toBe(0); // no take runs
  });

  test('when the engine has stood still, outputs go to rest and it is said', () => {
    const { b } = rig();
    b.acquisition.setOutput('brake', 2);
    b.run(0.3);
    expect(b.last('Brake')).toBeCloseTo(2, 1);
    b.run(5, 5000);
    b.run(0.3);
    expect(b.last('Brake')).toBeCloseTo(6, 1);
    expect(b.notes.map((n) => n.says).join()).toMatch(/stood still for 5\.0 s; outputs are brought to rest/);
  });

  test('two rules on one output act in their order: the later has the last word', () => {
    const one = rule([{ do: 'set', output: 'brake', value: 2 }]);
    const { b, pull } = rig(one, { ...rule([{ do: 'set', output: 'brake', value: 9 }]), id: 's' });
    pull(150);
    expect(b.last('Brake')).toBeCloseTo(9, 1);
  });

  test('what cannot be done is said, and the rest of the rule is done', () => {
    const { b, pull } = rig(rule([{ do: 'end the take' }, { do: 'mark', says: 'all the same' }]));
    pull(150);
    expect(b.notes.filter((n) => n.kind === 'trouble').at(-1)!.says).toMatch(/No take is being recorded/);
    expect(b.notes.at(-1)).toMatchObject({ kind: 'mark', says: 'all the same' });
  });

  test('from the sample to the output it takes less than two blocks', () => {
    const unit = dock();
    const driven: number[] = [];
    let nowNs = START_NS;
    const setOutput = unit.setOutput.bind(unit);
    unit.setOutput = (t, v) => (driven.push(Number(nowNs - START_NS) / 1e6), setOutput(t, v));
    const slot = newSlot(unit, UNIT, 'dock');
    const fired: number[] = [];
    const a = new Acquisition([slot], {
      frame: () => undefined,
      waves: () => undefined,
      call: () => undefined,
      changed: () => undefined,
      take: () => undefined,
      note: () => undefined,
    });
    a.configure({ units: [], channels, rules: [rule([{ do: 'set', output: 'brake', value: 2 }])] }, nowNs);
    for (let ms = 50; ms <= 2000; ms += 50) {
      nowNs = START_NS + BigInt(ms) * 1_000_000n;
      if (ms === 1000) unit.setControl!('wireMm', 150);
      if (ms === 500) unit.setControl!('wireMm', 100);
      a.step(nowNs);
      const { lastMs } = a.status.rules[0];
      if (lastMs !== null && fired.length === 0) fired.push(lastMs - Number(START_NS / 1_000_000n));
    }
    expect(fired).toHaveLength(1);
    expect(driven.at(-1)! - fired[0]).toBeLessThan(100);
  });
});

test('a rehearsal tells to the millisecond what happened when the take was made, and follows a changed plan', () => {
  const b = bench(counter(), [count('Fast', 1, 1000)]);
  const channels = [count('Fast', 1, 1000)];
  const path = place();
  b.run(1);
  b.arm({ before: 0, longest: 6 }, path);
  b.acquisition.start();
  b.run(8);
  const [take] = takesIn(path);
  const { head } = take;
  const began = valuesOf(take, 'Fast').values[0];
  const plan = {
    ...head.plan,
    start: 'when' as const,
    startWhen: when('fast', 'rises above', 3000),
    before: 0.5,
    longest: 2,
  };
  const rules = [
    {
      id: 'r',
      says: 'high',
      rule: {
        ...EMPTY_RULE,
        when: when('fast', 'rises above', 4000),
        deeds: [newDeed({ do: 'mark', says: 'four' })],
      },
    },
  ];
  const said = rehearse({ path, channels, rules, plan, head: { ...head, plan } }, () => undefined);
  expect(said.takes).toHaveLength(1);
  expect(said.takes[0].fromS).toBeCloseTo((3001 - began) / 1000 - 0.5, 3);
  expect(said.takes[0].toS).toBeCloseTo((3001 - began) / 1000 + 2, 3);
  expect(said.fired.r).toBe(1);
  expect(said.events.find((e) => e.kind === 'mark')!.says).toBe('four');
  expect(said.tookS).toBeLessThan(said.durationS); // faster than it was
  expect(() =>
    rehearse({ path, channels: [count('Other', 1, 1000)], rules: [], plan, head }, () => undefined),
  ).toThrow(/holds none of the channels/);
});

test('the drift of a unit’s clock is found within what is stated for it', () => {
  let hits = 0;
  for (let seed = 1; seed <= 100; seed++) {
    let state = seed * 2654435761;
    const random = () => (state = (state * 1664525 + 1013904223) >>> 0) / 2 ** 32;
    const clock = new UnitClock('u', 'unit');
    for (let i = 0; i < 1200; i++) clock.push(i * 0.05, 0.004 + 25e-6 * i * 0.05 + 0.02 * random());
    const { driftPpm, driftUncertaintyPpm, offsetMs } = clock.timing!;
    expect(offsetMs).toBeGreaterThan(13);
    expect(offsetMs).toBeLessThan(17);
    if (Math.abs(driftPpm - 25) <= driftUncertaintyPpm) hits++;
  }
  expect(hits).toBeGreaterThanOrEqual(90); // stated at about 95 %
});
