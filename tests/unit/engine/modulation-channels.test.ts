import { describe, expect, test } from 'vitest';
import { MEASURES, type Measure } from '$core/modulation/read';
import { isUnit } from '$core/quantities/quantities';
import { channelKind } from '$contract/channel';
import { kindOfNumber, numberOfKind } from '$contract/kinds/radio';
import { captureRequest, MODULATION_DEFAULTS, modulationWish } from '$contract/radio-modulation';
import { NumberReads, type NumbersTold } from '$engine/radio/number-reads';
import { Air, AIR_CONTROLS } from '$engine/units/receiver/air';
import { openStandIn } from '$engine/units/receiver/driver';
import { START_NS, UNIT, bench, channel } from '../rig';

const RATE = 1e6;
const TUNED = { centreHz: 868e6, sampleRateHz: RATE } as never;
const receiver = () =>
  openStandIn(
    {
      serial: UNIT,
      kind: 'receiver',
      name: 'Quay receiver',
      config: { settings: { centre: 868, rate: RATE / 1e6, gain: 20 }, sources: [], database: null },
    },
    START_NS,
  );
const READING = { at: 868, scheme: '4-PSK', rate: 500, rateHz: 5 };
const number = (name: string, of: Measure, own: object = {}) =>
  channel(name, kindOfNumber(of), `P/${MEASURES.indexOf(of) + 1}`, { ...READING, ...own });
/** Steps with room for what is read meanwhile. */
async function goOn(b: ReturnType<typeof bench>, seconds: number): Promise<void> {
  for (let k = 0; k < seconds * 20; k++) {
    await new Promise((done) => setImmediate(done));
    b.run(0.05);
  }
}

describe('numbers of a modulation as channels', () => {
  test('they follow what is sent: carrier, rate, imbalance; their limits hold as those of any channel', async () => {
    const unit = receiver();
    const b = bench(unit, [
      number('Off by', 'offsetHz', { warnAbove: 2000 }),
      number('Rate', 'symbolHz'),
      number('Uneven', 'imbalance'),
      number('Error', 'evmRms', { warnAbove: 50 }),
    ]);
    await goOn(b, 1);
    expect(Math.abs(b.last('Off by'))).toBeLessThan(60);
    expect(Math.abs(b.last('Rate') - 500_000)).toBeLessThan(50);
    expect(Math.abs(b.last('Uneven'))).toBeLessThan(0.2);
    const clean = b.last('Error');
    expect(clean).toBeGreaterThan(0.1);
    expect(clean).toBeLessThan(10);
    const [fine] = b.frames.at(-1)!.state;
    unit.setControl!('telemetryOff', 3000);
    unit.setControl!('telemetryUneven', 1);
    await goOn(b, 1);
    expect(Math.abs(b.last('Off by') - 3000)).toBeLessThan(60);
    expect(Math.abs(Math.abs(b.last('Uneven')) - 1)).toBeLessThan(0.2);
    expect(b.last('Error')).toBeGreaterThan(clean + 2);
    const [past, , , within] = b.frames.at(-1)!.state;
    expect(past).not.toBe(fine);
    expect(within).toBe(fine);
  });

  test('what is not read any more stands for a second and is then not there; nor is what lies outside the band', async () => {
    const unit = receiver();
    const b = bench(unit, [number('Error', 'evmRms'), number('Far', 'evm95', { at: 900 })]);
    await goOn(b, 1);
    const last = b.last('Error');
    expect(last).toBeGreaterThan(0);
    expect(b.last('Far')).toBeNaN();
    unit.setControl!('telemetry', -130);
    // What was sent before is read until the receiver has heard of it; then it stands.
    await goOn(b, 0.5);
    const stands = b.last('Error');
    expect(Number.isFinite(stands)).toBe(true);
    await goOn(b, 0.3);
    expect(b.last('Error')).toBe(stands);
    await goOn(b, 0.7);
    expect(b.last('Error')).toBeNaN();
    unit.setControl!('telemetry', -46);
    await goOn(b, 0.6);
    expect(b.last('Error')).toBeGreaterThan(0);
    unit.tune!(870e6);
    await goOn(b, 1.4);
    expect(b.last('Error')).toBeNaN();
    unit.tune!(900e6);
    unit.setControl!('telemetry', -46);
    await goOn(b, 1);
    expect(b.last('Far')).toBeNaN(); // it is heard there, but nothing is sent
    unit.tune!(868e6);
    await goOn(b, 1);
    expect(b.last('Error')).toBeGreaterThan(0);
  });

  test('a channel that is taken away or asked otherwise ends its reading; another set begins anew', async () => {
    const unit = receiver();
    const one = number('Error', 'evmRms');
    const b = bench(unit, [one]);
    await goOn(b, 0.6);
    expect(b.last('Error')).toBeGreaterThan(0);
    // Read as something that it is not: nothing like it is there, or it fits badly.
    const wrong = { ...one, settings: { ...one.settings, pattern: '0110'.repeat(16) } };
    b.configure({ units: [], channels: [wrong], rules: [] });
    await goOn(b, 1.5);
    expect(b.frames.at(-1)!.last[0]).toBeNaN();
    b.configure({ units: [], channels: [], rules: [] });
    await goOn(b, 0.2);
    b.configure({ units: [], channels: [one], rules: [] });
    await goOn(b, 0.6);
    expect(b.frames.at(-1)!.last[0]).toBeGreaterThan(0);
  });

  test('channels that read alike share captures; each way is read no more often than it is wanted', () => {
    const told: NumbersTold[] = [];
    const reads = new NumberReads((n) => told.push(n));
    const way = (key: string, everyS: number) => ({ key, capture: captureRequest(MODULATION_DEFAULTS), wish: modulationWish(MODULATION_DEFAULTS, null), everyS }); // prettier-ignore
    const controls = Object.fromEntries(AIR_CONTROLS.map((c) => [c.id, c.value]));
    const air = new Air(RATE, 5, (id) => controls[id]!);
    const step = RATE / 20;
    let at = 0;
    const go = (seconds: number) => {
      for (let k = 0; k < seconds * 20; k++, at += step)
        reads.push({ first: at, iq: air.read(at, step, { centreHz: 868e6, gainDb: 20 }), overload: false }, TUNED); // prettier-ignore
    };
    reads.want([way('five', 0.2), way('one', 1)]);
    go(2);
    const of = (key: string) => told.filter((t) => t.key === key);
    expect([of('five').length, of('one').length]).toEqual([10, 2]);
    expect(of('five').every(({ numbers, endsAt }) => numbers.evmRms > 0 && endsAt % step === 0)).toBe(true);
    // One that goes on is not begun anew by another that ends.
    reads.want([way('one', 1)]);
    go(0.5);
    expect([of('five').length, of('one').length]).toEqual([10, 3]);
    reads.want([]);
    go(1);
    expect(told).toHaveLength(13);
    // Where nothing is found it is tried ten times a second, and no more.
    let tried = 0;
    const wish = { ...modulationWish(MODULATION_DEFAULTS, null), pattern: '0110'.repeat(16) };
    const counted = Object.defineProperty({ ...way('none', 5), wish }, 'wish', { get: () => (tried++, wish), enumerable: false }); // prettier-ignore
    reads.want([counted]);
    go(1);
    expect(told).toHaveLength(13);
    expect(tried).toBeGreaterThan(5);
    expect(tried).toBeLessThanOrEqual(11);
  });

  test('each number has a kind with a unit that can be read, and none but numbers have one', () => {
    for (const of of MEASURES) {
      expect(numberOfKind(kindOfNumber(of))).toBe(of);
      const kind = channelKind(kindOfNumber(of));
      expect(isUnit(kind.rawUnit)).toBe(true);
      expect(kind.sentence.schema.safeParse(kind.defaults).success).toBe(true);
      expect(kind.accepts).toEqual(['radio reading']);
    }
    expect(numberOfKind('power in a band')).toBeUndefined();
    expect(channelKind(kindOfNumber('symbolHz')).title({})).toBe('Symbol rate');
    expect(channelKind(kindOfNumber('droop')).title({})).toBe('Droop per symbol');
  });
});
