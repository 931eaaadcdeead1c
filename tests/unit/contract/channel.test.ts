import { describe, expect, test } from 'vitest';
import { compileConversion } from '$core/conversion/conversion';
import { sentenceText } from '$core/sentence/sentence';
import { fitPoints, usualRun, valueOf } from '$contract/calibration';
import { changeSettings, channelKind, conversionOf, type Calibration, type Channel } from '$contract/channel';
import { CHANNEL_KINDS } from '$contract/kinds/kinds';
import { EMPTY_PLAN, Plan, planText, takeName } from '$contract/plan';
import { when } from '$core/condition/condition';
import { channel } from '../rig';

const read = (c: Channel, raw: number, junction?: number) => {
  const out = new Float64Array(1);
  compileConversion(conversionOf(c))([raw], out, 1, junction === undefined ? undefined : [junction]);
  return out[0];
};

describe('each kind of channel converts as its sensor does', () => {
  test.each([
    [
      'a quarter bridge: 1000 µε at gauge factor 2.08',
      channel('a', 'strain bridge', 'A2/1'),
      (1000 * 2.08 * 1e-6 * 1000) / (4 + 2 * 2.08 * 1e-3),
      1000,
    ],
    [
      'a full bridge sensor: 2 mV/V at 5 kN·m',
      channel('a', 'bridge sensor', 'A2/1', { zero: 0.1 }),
      1.1,
      2.5,
    ],
    ['Pt100: 138.505 Ω at 100 °C', channel('a', 'platinum sensor', 'A1/1'), 138.5055, 100],
    ['an accelerometer of 10.2 mV/(m/s²)', channel('a', 'vibration', 'A3/1'), 51, 5],
    ['4–20 mA over 0 to 5 m/s', channel('a', 'current loop', 'A4/1'), 12, 2.5],
    ['60 pulses a revolution: 60 Hz are 60 rpm', channel('a', 'pulses', 'A5/1'), 60, 60],
    [
      '450 pulses a litre: 22.5 Hz are 3 L/min',
      channel('a', 'pulses', 'A5/1', { perTurn: 450, unit: 'L/min' }),
      22.5,
      3,
    ],
    ['a voltage with slope and offset', channel('a', 'voltage', 'A4/1', { slope: 40, offset: -1 }), 2.5, 99],
  ])('%s', (_, c, raw, expected) => expect(read(c, raw)).toBeCloseTo(expected, 2));

  test('a thermocouple K reads its junction along: 1 mV over a junction at 25 °C is 49.5 °C', () => {
    expect(read(channel('a', 'thermocouple', 'A1/1'), 1, 25)).toBeCloseTo(49.46, 1);
  });
});

test('a new unit converts range and limits along, and one of another quantity is refused', () => {
  const kind = channelKind('thermocouple');
  const settings = { ...kind.defaults, range: { min: 0, max: 100 }, warnAbove: 62, alarmAbove: 70 };
  expect(changeSettings(kind, settings, { unit: '°F' })).toMatchObject({
    unit: '°F',
    range: { min: 32, max: 212 },
    warnAbove: 143.6,
    alarmAbove: 158,
  });
  expect(() => changeSettings(kind, settings, { unit: 'mm' })).toThrow(
    /mm does not fit: this channel measures temperature/,
  );
  expect(() => changeSettings(kind, settings, { warnAbove: 80 })).toThrow(/come after the alarm/);
  expect(() => changeSettings(kind, settings, { type: 'X' })).toThrow(/type/);
});

test('every kind says its usual settings in a sentence without a gap, and its settings satisfy its own schema', () => {
  for (const kind of CHANNEL_KINDS) {
    const text = sentenceText(kind.sentence, kind.defaults);
    expect(text, kind.kind).toMatch(/^[A-Z].*\.$/);
    expect(text).not.toMatch(/[{}…]|undefined|NaN/);
    expect(kind.sentence.schema.safeParse(kind.defaults).success, kind.kind).toBe(true);
  }
});

describe('calibration by points', () => {
  const calibrated = (c: Channel, points: [target: number, raw: number][]): Channel => {
    const listed = points.map(([target, raw]) => ({ target, raw, noise: 0, samples: 1 }));
    const { slope, offset } = fitPoints(c, listed);
    return { ...c, calibration: { unit: c.settings.unit, slope, offset, points: listed } as Calibration };
  };

  test('a linear sensor reads by the line from then on, also in another unit', () => {
    const c = calibrated(channel('w', 'voltage', 'A4/1', { unit: 'mm', slope: 1 }), [
      [0, 0.1],
      [200, 5.1],
    ]);
    expect(read(c, 2.6)).toBeCloseTo(100, 9);
    expect(read({ ...c, settings: { ...c.settings, unit: 'cm' } }, 2.6)).toBeCloseTo(10, 9);
  });
  test('a law that is no line is corrected in its result, in whatever unit it is read', () => {
    const c = channel('p', 'platinum sensor', 'A1/5');
    const [low, high] = [valueOf(c, 100), valueOf(c, 138.5055)];
    const corrected = calibrated(c, [
      [low + 1, 100],
      [high + 3, 138.5055],
    ]);
    expect(read(corrected, 138.5055)).toBeCloseTo(103, 2);
    expect(read({ ...corrected, settings: { ...c.settings, unit: '°F' } }, 138.5055)).toBeCloseTo(
      103 * 1.8 + 32,
      1,
    );
  });
  test('points that leave the line undefined are refused in words', () => {
    const c = channel('w', 'voltage', 'A4/1');
    const p = (target: number, raw: number) => ({ target, raw, noise: 0, samples: 1 });
    expect(() => fitPoints(c, [p(0, 1)])).toThrow(/at least two points/);
    expect(() => fitPoints(c, [p(5, 1), p(5, 2)])).toThrow(/two different values/);
    expect(() => fitPoints(c, [p(0, 1), p(5, 1)])).toThrow(/is the sensor connected and moving/);
    expect(() => fitPoints(channel('d', 'driven', 'A6/1'), [p(0, 0), p(1, 1)])).toThrow(
      /nothing to calibrate/,
    );
    expect(usualRun(channel('x', 'voltage', 'A4/1', { range: { min: 0, max: 200 } })).targets).toEqual([
      '0',
      '50',
      '100',
      '150',
      '200',
    ]);
  });
});

test('a plan says itself as a sentence, and takes are named from facts, whatever their case', () => {
  const names = { channel: () => ({ name: 'Shaft speed', unit: 'rpm' }) };
  expect(
    planText({ ...EMPTY_PLAN, start: 'when', startWhen: when('x', 'rises above', 5), facts: [] }, names),
  ).toMatch(
    /^Record all channels all the time\. Keeping 2 s before it, start when Shaft speed rises above 5 rpm\. .* Ask for nothing\.$/,
  );
  // A plan as it was written first is read as what it meant.
  const { startWhen, stopWhen, facts } = Plan.parse({
    start: 'when',
    startChannel: 'x',
    startDirection: 'rises above',
    startLevel: 5,
    stopChannel: 'x',
    stopDirection: 'falls below',
    stopLevel: 3,
    stopHold: 4,
    facts: ['Operator'],
  });
  expect(startWhen).toEqual(when('x', 'rises above', 5));
  expect(stopWhen).toEqual(when('x', 'falls below', 3, { hold: 4 }));
  expect(facts[0]).toMatchObject({ name: 'Operator', kind: 'text', required: 'has to be given' });
  expect(takeName('BW2-{blade set}-{number}', { 'Blade set': 'A' }, 7)).toBe('BW2-A-7');
  expect(takeName('{nothing}', {}, 7)).toBe('');
});
