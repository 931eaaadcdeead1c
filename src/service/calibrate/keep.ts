import { randomUUID } from 'node:crypto';
import { notFound } from '$core/errors';
import { BudgetInputs, usualBudget } from '$contract/calibration';
import { Calibration, type UsedReference } from '$contract/calibration-record';
import { channelKind, commonOf, type Channel } from '$contract/channel';
import { proofKey } from '$contract/proof';
import type { Sensor } from '$contract/sensor';
import { convertUnit, quantityOf } from '$core/quantities/quantities';
import { getChannel, insertCalibration, listSensors } from '$store/entities';
import type { App } from '../app';
import { check } from '../check';
import { change } from '../setup/change';

/** The parts of a calibration that its way of making decides; the rest is filled in. */
export type Made = Pick<Calibration, 'method' | 'slope' | 'offset'> & Partial<Calibration>;

/** A whole record of a calibration of a channel as it is now. */
export function recordOf(channel: Channel, made: Made, by: string, at = Date.now()): Calibration {
  const kind = channelKind(channel.kind);
  const { unit } = commonOf(channel);
  return Calibration.parse({
    id: randomUUID(),
    channelId: channel.id,
    at,
    by,
    unit,
    rawUnit: (made.fromRaw ?? kind.linear) ? kind.rawUnit : unit,
    points: [],
    residuals: [],
    largestResidual: 0,
    proves: proofKey(channel),
    ...made,
  });
}

/** Accepting the same once more within this time is a double click. */
const TWICE_MS = 60_000;

/** Puts calibrations in force and keeps them for ever: one change, which undo takes back. What is in force just so already is not kept
 *  twice. @returns those that are kept now @throws `conflict` while a take runs */
export async function keep(
  app: App,
  pairs: { channel: Channel; calibration: Calibration }[],
  says: string,
  by: string,
): Promise<Calibration[]> {
  const known = pairs.map(({ channel, calibration }) => {
    const held = getChannel(app.db, channel.id).calibration;
    return held && calibration.at - held.at < TWICE_MS && resultOf(held) === resultOf(calibration)
      ? held
      : undefined;
  });
  if (known.every((c) => c !== undefined)) return known;
  await change(
    app,
    { channels: pairs.map(({ channel, calibration }) => ({ ...channel, calibration })) },
    'calibration',
    pairs.length === 1 ? pairs[0].channel.id : '',
    says,
    by,
  );
  app.db.transaction(() => pairs.forEach(({ calibration }) => insertCalibration(app.db, calibration)));
  return pairs.map((p) => p.calibration);
}

/** What a calibration found, without its number and time. */
const resultOf = ({ method, slope, offset, unit, points, measured, due }: Calibration) =>
  JSON.stringify([method, slope, offset, unit, points, measured, due]);

/** A calibration is of the sensor as it is: a tare on its channel is left aside meanwhile and taken off with it. */
export const tareText = (channel: Channel) =>
  channel.tare ? ` Its tare of ${channel.tare} ${commonOf(channel).unit} was taken off.` : '';

/** The day on which a calibration of today runs out. */
export function dueAfter(months: number, from = new Date()): string {
  const day = new Date(Date.UTC(from.getUTCFullYear(), from.getUTCMonth() + months, from.getUTCDate()));
  // The 31st of a month that has none is its last day.
  if (day.getUTCDate() !== from.getUTCDate()) day.setUTCDate(0);
  return day.toISOString().slice(0, 10);
}

/** A reference of the drawer with what its certificate says, in a channel's unit.
 *  @throws `not_found`, or `bad_input` when it measures something else */
export function referenceOf(app: App, serial: string, unit: string): UsedReference | null {
  if (!serial) return null;
  const sensor = listSensors(app.db).find((s) => s.serial === serial);
  if (!sensor) throw notFound('reference', serial);
  return usedReference(sensor, unit);
}

function usedReference(sensor: Sensor, unit: string): UsedReference {
  const same = sensor.unit === '' || sensor.unit === unit || quantityOf(sensor.unit) !== quantityOf(unit);
  const factor = same ? 1 : convertUnit(1, sensor.unit, unit) - convertUnit(0, sensor.unit, unit);
  return {
    serial: sensor.serial,
    name: sensor.model || sensor.kind,
    absolute: sensor.goodTo * Math.abs(factor),
    relative: sensor.goodToShare / 100,
    due: sensor.calibratedUntil,
  };
}

/** Inputs of a budget, checked; what is not given takes its usual value. @throws `bad_input` */
export const budgetInputs = (unit: string, given: Record<string, unknown> = {}): BudgetInputs =>
  check(BudgetInputs, { ...usualBudget(unit), ...given, unit });
