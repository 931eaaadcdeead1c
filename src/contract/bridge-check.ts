import { bridgeStrain, type BridgeArrangement } from '$core/sensors/bridge';
import { leadDesensitisation, shuntChange } from '$core/sensors/shunt';
import { convertUnit } from '$core/quantities/quantities';
import { field, type Sentence } from '$core/sentence/sentence';
import { z } from 'zod';
import type { BridgeFinding } from './calibration-record';
import { valueOf } from './calibration';
import { commonOf, type Channel } from './channel';
import { leadsInArm } from './kinds/bridges';
import type { Sensor } from './sensor';

/** How bridges are read and judged. */
export const BridgeRun = z.strictObject({
  seconds: field(z.number('Give a number.').min(0.5, 'At least 0.5 s.').max(30, 'At most 30 s.'), {
    label: 'Each for',
    editor: 'number',
    unit: 's',
  }),
  tolerance: field(z.number('Give a number.').min(0.05, 'At least 0.05 %.').max(20, 'At most 20 %.'), {
    label: 'Tolerance',
    editor: 'number',
    unit: '%',
    help: 'How far the step may be from what resistance, gauge factor and shunt give.',
  }),
  still: field(z.number('Give a number.').min(0.01, 'At least 0.01 %.').max(20, 'At most 20 %.'), {
    label: 'At rest within',
    editor: 'number',
    unit: '% of the range',
    help: 'A bridge whose reading spreads more while it should rest is touched or loaded.',
  }),
});
export type BridgeRun = z.infer<typeof BridgeRun>;
export const bridgeSentence: Sentence<typeof BridgeRun> = {
  schema: BridgeRun,
  template: () =>
    'Read zero and shunt for {seconds} each, all bridges at once. A bridge rests if it spreads less than {still}; it is right if its step is within {tolerance} of what the circuit gives.',
};
export const USUAL_BRIDGE_RUN: BridgeRun = { seconds: 2, tolerance: 1, still: 0.5 };

/** A bridge at rest or under its shunt, raw. */
export interface BridgeReading {
  mean: number;
  noise: number;
  samples: number;
}
/** What its module can do: the resistor it lays across an arm, Ω. */
export interface ModuleShunt {
  ohm: number;
  arm: 1 | 2 | 3 | 4;
}

export interface BridgeRow {
  channelId: string;
  name: string;
  unit: string;
  finding: BridgeFinding;
  /** mV/V */
  zero: number;
  noise: number;
  /** Step under the shunt: measured and by the circuit, mV/V. */
  step: number;
  expectedStep: number;
  /** The same step as the channel reads it and as it should, in its unit. */
  value: number;
  expectedValue: number;
  /** Share by which the worse of both is off. */
  off: number;
  says: string;
}

/** A reading at this share of the module's end says that the bridge is torn apart. */
const PEGGED = 20;

/** Judges one bridge by its zero and its shunted reading.
 *  @param shunted null where only the zero was read @param sensor from the drawer: its sheet says what the bridge really is
 *  @returns a broken gauge, a wrong step (resistance, leads) and a wrong value (what the channel makes of it) told apart in words */
export function judgeBridge(
  channel: Channel,
  sensor: Sensor | undefined,
  shunt: ModuleShunt,
  zero: BridgeReading,
  shunted: BridgeReading | null,
  run: BridgeRun,
  open: boolean,
): BridgeRow {
  const { unit, range } = commonOf(channel);
  const expectedStep = expectedShuntStep(channel, shunt);
  const expectedValue = expectedShuntValue(channel, sensor, expectedStep);
  const row: BridgeRow = {
    channelId: channel.id,
    name: channel.name,
    unit,
    finding: 'right',
    zero: zero.mean,
    noise: zero.noise,
    step: shunted ? shunted.mean - zero.mean : NaN,
    expectedStep,
    value: shunted ? valueOf(channel, shunted.mean) - valueOf(channel, zero.mean) : NaN,
    expectedValue,
    off: NaN,
    says: '',
  };
  const say = (finding: BridgeFinding, says: string, off = row.off): BridgeRow => ({
    ...row,
    finding,
    says,
    off,
  });
  const number = (v: number, digits = 3) => Number(v.toPrecision(digits)).toString().replace('-', '−');
  if (open || !Number.isFinite(zero.mean) || Math.abs(zero.mean) >= PEGGED)
    return say('pegged', 'It stands at the end of its range: the gauge or one of its wires is broken.');
  const spread = Math.abs(valueOf(channel, zero.mean + zero.noise) - valueOf(channel, zero.mean));
  if (spread > ((range.max - range.min) * run.still) / 100)
    return say(
      'moving',
      `It spreads by ${number(spread, 2)} ${unit} while it should rest: somebody touches it, or it is loaded.`,
    );
  if (!shunted) return say('right', `At rest at ${number(zero.mean, 4)} mV/V.`);
  const ratio = row.step / expectedStep;
  if (Math.abs(ratio) < 0.1)
    return say(
      'dead',
      `The shunt hardly moves it: ${number(row.step, 2)} of ${number(expectedStep)} mV/V. The gauge is shorted, or a signal wire is off.`,
      ratio - 1,
    );
  if (Math.abs(ratio - 1) > run.tolerance / 100)
    return say('wrong step', wrongStep(ratio, channel), ratio - 1);
  const off = row.value / expectedValue - 1;
  if (Math.abs(off) > run.tolerance / 100) {
    const reads = `It reads ${number(row.value)} ${unit} where the bridge gives ${number(expectedValue)} ${unit}, ${number(Math.abs(1 + off))} times as much`;
    return say('wrong value', `${reads}${likely(1 + off)}. The gauge is sound, its value is wrong.`, off);
  }
  return say(
    'right',
    `Within ${(100 * Math.max(Math.abs(ratio - 1), Math.abs(off))).toFixed(2)} % of the circuit.`,
    Math.abs(off) > Math.abs(ratio - 1) ? off : ratio - 1,
  );
}

/** Step of the output by resistance, shunt, leads and arm, mV/V. */
export function expectedShuntStep(channel: Channel, shunt: ModuleShunt): number {
  const { resistance, leadOhm } = channel.settings as { resistance: number; leadOhm?: number };
  return shuntChange({
    gaugeOhm: resistance,
    shuntOhm: shunt.ohm,
    arm: shunt.arm,
    leadOhm: leadOhm ?? 0,
    leadsInArm: leadsInArm(channel.settings),
  });
}

/** What that step means in the channel's unit: for gauges by the law of the bridge, for sensors by the values of their sheet. */
function expectedShuntValue(channel: Channel, sensor: Sensor | undefined, step: number): number {
  const { unit } = commonOf(channel);
  const sheet = { ...channel.settings, ...(sensor?.kind === channel.kind ? sensor.sheet : {}) } as Record<
    string,
    unknown
  >;
  if (channel.kind === 'strain bridge') {
    const factor =
      Number(sheet.gaugeFactor) *
      leadDesensitisation(Number(sheet.resistance), Number(channel.settings.leadOhm ?? 0), leadsInArm(sheet));
    const strain = bridgeStrain(sheet.arrangement as BridgeArrangement, factor, Number(sheet.poisson), step);
    return convertUnit(strain, 'm/m', unit);
  }
  const value = (Number(sheet.fullScale) / Number(sheet.sensitivity)) * step;
  if (!sensor || sensor.kind !== channel.kind || !sensor.unit || sensor.unit === unit) return value;
  return convertUnit(value, sensor.unit, unit) - convertUnit(0, sensor.unit, unit);
}

function wrongStep(ratio: number, channel: Channel): string {
  const { resistance } = channel.settings as { resistance: number };
  const percent = `${(100 * Math.abs(ratio - 1)).toFixed(1)} %`;
  if (ratio < 0)
    return 'The step goes the wrong way: the signal wires are swapped, or another arm is shunted.';
  const other = [120, 350, 1000].find((ohm) => Math.abs((ratio * resistance) / ohm - 1) < 0.02);
  if (other && other !== resistance)
    return `The step is that of ${other} Ω, not of ${resistance} Ω: set the resistance, or look at the gauge.`;
  return `The step is ${percent} ${ratio > 1 ? 'larger' : 'smaller'} than ${resistance} Ω gives: look at gauge, leads and solder joints.`;
}

/** What usually makes a value wrong by such a factor. */
export function likely(factor: number): string {
  const near = (f: number) => Math.abs(factor / f - 1) < 0.06;
  if (near(4)) return ': as a full bridge with a quarter bridge’s value does';
  if (near(2))
    return ': as a half bridge with a quarter bridge’s value, or a full one with a half bridge’s, does';
  if (near(2.6)) return ': as a full axial bridge with a quarter bridge’s value does';
  if (near(0.25)) return ': as a quarter bridge with a full bridge’s value does';
  if (near(0.5)) return ': as a bridge with the value of one with twice its arms does';
  if (near(1000) || near(0.001)) return ': a thousand, as µε and mm/m or N and kN do';
  if (near(-1)) return ': its sign is turned';
  return '';
}
