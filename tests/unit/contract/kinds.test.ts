import { describe, expect, test } from 'vitest';
import { BRIDGE_ARRANGEMENTS, bridgeStrain, type BridgeArrangement } from '$core/sensors/bridge';
import { quantityOf } from '$core/quantities/quantities';
import { sentenceFields } from '$core/sentence/sentence';
import { canCalibrate, channelKind, checkSettings, unitChoices } from '$contract/channel';
import { CHANNEL_KINDS } from '$contract/kinds/kinds';
import { hearsTones, isBridge, needsProof, waysOf } from '$contract/proof';
import { SENSOR_KINDS, sheetKeys } from '$contract/sensor';
import { channel } from '../rig';

const as = (kind: string) => channel('It', kind, 'X1/1', channelKind(kind).defaults);

describe('what a kind of channel says of itself', () => {
  test.each(CHANNEL_KINDS.map((k) => [k.kind, k] as const))('%s is of one piece', (_, kind) => {
    const keys = sentenceFields(kind.sentence.schema).map((f) => f.key);
    // Its usual settings are settings, in a unit that it can be read in.
    expect(checkSettings(kind, kind.defaults)).toEqual(kind.defaults);
    for (const quantity of kind.quantities ?? [])
      expect(unitChoices(kind, String(kind.defaults.unit)).map(quantityOf)).toContain(quantity);
    // A sheet says nothing that it has no setting for; where there is one, there is a sensor.
    for (const key of kind.sheet ?? []) expect(keys).toContain(key);
    if (kind.sheet) expect(SENSOR_KINDS).toContain(kind.kind);
    expect(sheetKeys(kind.kind)).toEqual(kind.sheet ?? []);
    expect(kind.accepts.includes('bridge')).toBe(kind.bridge !== undefined);
    if (kind.needsJunction) expect(kind.accepts).toContain('thermocouple');
    // What it works within lies before the end of the input, and its usual range can be reached.
    const end = kind.rawEnd?.(kind.defaults) ?? Infinity;
    expect(end).toBeGreaterThan(kind.works?.below ?? 0);
    if (kind.tone)
      expect([kind.tone.level > 0, kind.tone.hz > 20, canCalibrate(kind)]).toEqual([true, true, true]);
    // Who drives or computes, and what is counted or told, proves nothing by itself.
    const own = as(kind.kind);
    expect(needsProof(own)).toBe((kind.role ?? 'measured') === 'measured' && kind.drifts !== false);
    expect(waysOf(own).includes('by shunt')).toBe(isBridge(own));
    expect(waysOf(own).includes('by reference tone')).toBe(hearsTones(own));
  });

  test('a bridge of gauges bears them in the arms that its arrangement has, a sensor in all', () => {
    const { bridge, defaults } = channelKind('strain bridge');
    for (const [name, arms] of [
      ['quarter', 1],
      ['half, bending', 2],
      ['full, bending', 4],
    ] as const)
      // prettier-ignore
      if (name in BRIDGE_ARRANGEMENTS)
        expect(bridge!.active({ ...defaults, arrangement: name }).filter(Boolean)).toHaveLength(arms);
    expect(channelKind('bridge sensor').bridge!.active({})).toEqual([true, true, true, true]);
  });

  test('a step of a bridge means strain by its gauge factor and leads, or load by its sheet', () => {
    const gauges = channelKind('strain bridge');
    const sheet = { ...gauges.defaults, arrangement: 'quarter', gaugeFactor: 2, leadOhm: 0, poisson: 0.3 };
    // 1 mV/V from one gauge of factor 2: 4·10⁻³ / 2, and the bow of the quarter bridge on top.
    const { value, unit } = gauges.bridge!.stepOf(sheet, 1);
    expect(unit).toBe('m/m');
    expect(value).toBeCloseTo(bridgeStrain('quarter' as BridgeArrangement, 2, 0.3, 1), 12);
    expect(value / 2e-3).toBeGreaterThan(0.99);
    expect(value / 2e-3).toBeLessThan(1.01);
    // Leads of 3.5 Ω beside 350 Ω take a hundredth of the gauge factor: the same step means more.
    const long = gauges.bridge!.stepOf(
      { ...sheet, resistance: 350, leads: 'two wires', leadOhm: 3.5 },
      1,
    ).value;
    expect(long / value).toBeGreaterThan(1.005);
    expect(long / value).toBeLessThan(1.03);
    expect(channelKind('bridge sensor').bridge!.stepOf({ fullScale: 5, sensitivity: 2 }, 1)).toEqual({
      value: 2.5,
    });
  });

  test('a voltage input ends a little above the range that is set, a loop at 24 mA', () => {
    expect(channelKind('voltage').rawEnd!({ input: 10 })).toBeCloseTo(10.4, 12);
    expect(channelKind('current loop').rawEnd!({})).toBe(24);
    expect(channelKind('current loop').works).toEqual({ above: 3.6, below: 21 });
  });
});
