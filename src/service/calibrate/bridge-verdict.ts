import { shuntChange } from '$core/sensors/shunt';
import { convertUnit } from '$core/quantities/quantities';
import type { BridgeReading, BridgeRow, BridgeRun, ModuleShunt } from '$contract/bridge-check';
import type { BridgeFinding } from '$contract/calibration-record';
import { valueOf } from '$contract/calibration';
import { channelKind, commonOf, type Channel } from '$contract/channel';
import { leadsInArm } from '$contract/kinds/bridges';
import type { Sensor } from '$contract/sensor';
import { likely } from './plausible';

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
  const { value, unit: fixed } = channelKind(channel.kind).bridge!.stepOf(sheet, step);
  if (fixed) return convertUnit(value, fixed, unit);
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
