import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { readDbc } from '$core/can/dbc';
import { openBus } from '$engine/units/bus/driver';
import { AtWork, wasAtWorkOn } from '$engine/at-work';
import { LeftOut } from '$service/left-out';
import type { KnownUnit } from '$contract/engine';
import { START_NS, UNIT } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-bus-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const TEXT = 'BO_ 1 M: 8 Node\n SG_ A : 0|32@1+ (1,0) [0|0] "" X\n';
function play(lines: string[]) {
  const path = join(folder, `${Math.random()}.log`);
  writeFileSync(path, lines.join('\n'));
  const unit = openBus(
    { serial: UNIT, kind: 'CAN bus', name: 'log', path, config: { settings: {}, sources: [], database: { name: 'd', text: TEXT } } },
    START_NS,
    readDbc,
    TEXT,
    'can0',
  ); // prettier-ignore
  const request = { terminal: 'M/A', rateHz: 100, channelId: 'a', kind: 'value', settings: {} };
  unit.start([request], START_NS);
  return { unit, poll: (s: number) => unit.poll(START_NS + BigInt(Math.round(s * 1e9))) };
}
const frame = (s: number, value: number) =>
  `(${(1_700_000_000 + s).toFixed(6)}) can0 001#${[0, 8, 16, 24].map((b) => ((value >> b) & 255).toString(16).padStart(2, '0')).join('')}`;

test('a log whose times run backwards is played in the order of its times, and ends its turn', () => {
  const { poll, unit } = play([frame(0.3, 3), frame(0.1, 1), frame(0.2, 2), frame(0, 0)]);
  poll(0.15);
  expect(unit.probe('M/A', null).mean).toBe(1);
  poll(0.25);
  expect(unit.probe('M/A', null).mean).toBe(2);
  poll(60); // two hundred turns of it
  expect(unit.describe().counts[0].count).toBeGreaterThan(400);
});

test('more frames at one time than any bus carries cost one step no more than its share, and none is lost', () => {
  const many = Array.from({ length: 60_000 }, (_, k) => frame(0, k));
  const { poll, unit } = play(many);
  const counts: number[] = [];
  for (let k = 1; k <= 100; k++) {
    poll(k * 0.05);
    counts.push(unit.describe().counts[0].count);
  }
  const steps = counts.map((c, k) => c - (counts[k - 1] ?? 0));
  expect(Math.max(...steps)).toBeLessThanOrEqual(10_000);
  expect(counts.at(-1)!).toBeGreaterThanOrEqual(60_000);
});

test('a unit on which the engine failed twice is left out until it is set up differently; one failure is chance', () => {
  let now = 0;
  const out = new LeftOut(() => now);
  const unit: KnownUnit = { serial: 'A', kind: 'CAN bus', name: 'log', config: { settings: {}, sources: [], database: null } }; // prettier-ignore
  expect(out.failed(unit)).toBe(false);
  now += 3_600_000;
  expect(out.failed(unit)).toBe(false); // an hour later: nothing to do with the first
  now += 1000;
  expect(out.failed(unit)).toBe(true);
  expect(out.mark(unit).leftOut).toMatch(/failed twice/);
  expect(out.mark({ ...unit, serial: 'B' }).leftOut).toBeUndefined();
  expect(out.mark({ ...unit, path: '/other.log' }).leftOut).toBeUndefined();
  expect(out.mark(unit).leftOut).toBeUndefined(); // tried again from then on
});

test('on what the engine was at work is known after it died in the middle of it, and only then', () => {
  const path = join(folder, 'at-work');
  const work = new AtWork(path);
  work.on('SN-7', () => expect(wasAtWorkOn(path)).toBe('SN-7'));
  expect(wasAtWorkOn(path)).toBe('');
  expect(() => work.on('SN-8', () => { throw new Error('refused'); })).toThrow('refused'); // prettier-ignore
  expect(wasAtWorkOn(path)).toBe('');
  expect(wasAtWorkOn(join(folder, 'none'))).toBe('');
  work.close();
});
