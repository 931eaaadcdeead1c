import { asFarrierError, badInput, conflict, notFound } from '$core/errors';
import { NO_NAMES, fieldText, sentenceFields } from '$core/sentence/sentence';
import { decodeTeds } from '$core/teds/teds';
import { quantityOf, readUnit } from '$core/quantities/quantities';
import { changeSettings, channelKind, checkSettings, commonOf, type Channel } from '$contract/channel';
import { needsProof } from '$contract/proof';
import { chipSheet, sensorOfChip } from '$contract/chip';
import {
  NEW_SENSOR,
  REFERENCE,
  Sensor,
  type ReadChip,
  type SensorView,
  type SheetDifference,
} from '$contract/sensor';
import * as store from '$store/entities';
import { log, type App } from './app';
import { presentLine } from './calibrate/bridges';
import { keep, recordOf } from './calibrate/keep';
import { check } from './check';
import { channelsOf, idle } from './setup/change';
import { addChannel, replaceChannel } from './setup/channels';

const MAX_DOCUMENT = 20_000_000;

/** Whether a sensor's calibration is past its day. */
export const isDue = ({ calibratedUntil }: Sensor) =>
  calibratedUntil !== '' && calibratedUntil < new Date().toISOString().slice(0, 10);

/** The drawer: every sensor with where it is used, in any job, and its papers. */
export function viewSensors(app: App): SensorView[] {
  const documents = store.listDocuments(app.db);
  const used = store.listJobs(app.db).flatMap((job) =>
    store
      .listChannels(app.db, job.id)
      .filter((c) => c.sensorSerial)
      .map((c) => ({ serial: c.sensorSerial, use: { channel: c.name, channelId: c.id, job: job.name } })),
  );
  return store.listSensors(app.db).map((sensor) => ({
    ...sensor,
    usedBy: used.filter((u) => u.serial === sensor.serial).map((u) => u.use),
    documents: documents
      .filter((d) => d.sensorSerial === sensor.serial)
      .map(({ id, name, bytes }) => ({ id, name, bytes })),
    due: isDue(sensor),
  }));
}

const find = (app: App, serial: string) => store.listSensors(app.db).find((s) => s.serial === serial);

/** Puts a sensor into the drawer or changes one. @param former its serial number so far, null for a new one
 *  @throws `bad_input`, `conflict` for a serial number in use */
export function putSensor(app: App, former: string | null, edit: Partial<Sensor>, by: string): Sensor {
  const before = former === null ? null : find(app, former);
  if (before === undefined) throw notFound('sensor', former!);
  if (typeof edit.unit === 'string' && edit.unit.trim()) readUnit(edit.unit); // asks about what can be meant in two ways
  const sensor = check(Sensor, { ...(before ?? NEW_SENSOR), ...edit });
  checkSheet(sensor);
  if (sensor.serial !== former && find(app, sensor.serial))
    throw conflict(
      'serial',
      `There is a sensor ${sensor.serial} already.`,
      'Two sensors never share a serial number.',
    );
  app.db.transaction(() => {
    if (former !== null && former !== sensor.serial) store.renameSensor(app.db, former, sensor.serial);
    store.putSensor(app.db, sensor);
  });
  log(
    app,
    'sensor',
    former === null
      ? `Sensor ${sensor.serial} is in the drawer: ${sensor.kind}, ${sensor.model}.`
      : `Sensor ${sensor.serial} was changed.`,
    { by },
  );
  return sensor;
}

/** The values of a sheet have to be such as its kind of channel takes. @throws `bad_input` */
export function checkSheet({ kind, sheet, unit }: Sensor): void {
  if (kind === REFERENCE) {
    const [key] = Object.keys(sheet);
    if (key) throw badInput(key, sheet[key], 'A reference has no values of a channel.');
    return;
  }
  const of = channelKind(kind);
  for (const key of Object.keys(sheet))
    if (!(key in of.sentence.schema.shape)) throw badInput(key, sheet[key], `A ${kind} has no such value.`);
  const base = unit && of.lawUnit === null ? { ...of.defaults, unit } : of.defaults;
  checkSettings(of, { ...base, ...sheet });
}

/** @throws `not_found`, `conflict` while a channel of some job uses it */
export function removeSensor(app: App, serial: string, by: string): void {
  const view = viewSensors(app).find((s) => s.serial === serial);
  if (!view) throw notFound('sensor', serial);
  if (view.usedBy.length)
    throw conflict(
      'sensor',
      `“${view.usedBy[0].channel}” of ${view.usedBy[0].job} uses it.`,
      'Take it off the channel first.',
    );
  store.deleteSensor(app.db, serial);
  log(
    app,
    'sensor',
    `Sensor ${serial} was taken out of the drawer${view.documents.length ? `, with ${view.documents.length} papers` : ''}.`,
    { by },
  );
}

/** @throws `bad_input` when it is empty or larger than 20 MB */
export function attach(app: App, serial: string, name: string, content: Buffer): void {
  if (!find(app, serial)) throw notFound('sensor', serial);
  if (content.length === 0 || content.length > MAX_DOCUMENT)
    throw badInput('document', `${content.length} bytes`, 'Attach a file of at most 20 MB.');
  store.insertDocument(app.db, serial, name.replace(/[\\/]/g, ' ').slice(0, 120) || 'document', content);
}

export const readDocument = (app: App, id: number) => store.getDocument(app.db, id);
export const removeDocument = (app: App, id: number): void => store.deleteDocument(app.db, id);

/** What a sensor's sheet makes of a channel. @throws `bad_input` when they do not go together */
function withSheet(channel: Channel, sensor: Sensor): Channel {
  if (sensor.kind === REFERENCE)
    throw badInput(
      'sensor',
      sensor.serial,
      'It is a reference to compare with, nothing that a channel reads.',
    );
  const kind = channelKind(sensor.kind);
  const same = channel.kind === sensor.kind;
  const own = commonOf(channel);
  let settings: Record<string, unknown> = same ? channel.settings : { ...kind.defaults, rateHz: own.rateHz };
  // The sheet counts in the sensor's unit; the channel keeps the one it is read in where both measure the same.
  const readIn = settings.unit as string;
  const fits = sensor.unit !== '' && quantityOf(sensor.unit) === quantityOf(readIn);
  if (sensor.unit !== '')
    settings = fits
      ? changeSettings(kind, settings, { unit: sensor.unit })
      : checkSettings(kind, {
          ...settings,
          unit: sensor.unit,
          ...(sensor.range && { range: sensor.range }),
          warnBelow: null,
          warnAbove: null,
          alarmBelow: null,
          alarmAbove: null,
        });
  settings = changeSettings(kind, settings, { ...sensor.sheet });
  if (sensor.range && (!same || !fits)) settings = changeSettings(kind, settings, { range: sensor.range });
  if (fits && readIn !== sensor.unit) settings = changeSettings(kind, settings, { unit: readIn });
  return {
    ...channel,
    kind: sensor.kind,
    settings,
    sensorSerial: sensor.serial,
    calibration: channel.sensorSerial === sensor.serial ? channel.calibration : null,
    tare: channel.sensorSerial === sensor.serial ? channel.tare : 0,
  };
}

/** What would change in a channel, value by value. */
function differences(channel: Channel, next: Channel): SheetDifference[] {
  const found: SheetDifference[] = [];
  const say = (key: string, label: string, now: string, then: string) =>
    now !== then && found.push({ key, label, now, next: then });
  say('kind', 'Kind', channel.kind, next.kind);
  say('sensorSerial', 'Sensor', channel.sensorSerial || 'none', next.sensorSerial);
  const before = new Map(
    sentenceFields(channelKind(channel.kind).sentence.schema).map((f) => [
      f.key,
      fieldText(f, channel.settings, NO_NAMES),
    ]),
  );
  for (const field of sentenceFields(channelKind(next.kind).sentence.schema))
    say(
      field.key,
      field.info.label,
      before.get(field.key) ?? 'not set',
      fieldText(field, next.settings, NO_NAMES),
    );
  if (channel.calibration && !next.calibration)
    say(
      'calibration',
      'Calibration',
      channel.calibration.method,
      'by sheet: it was made with another sensor',
    );
  return found;
}

const channelOf = (app: App, id: string) => {
  const found = channelsOf(app).find((c) => c.id === id);
  if (!found) throw notFound('channel', id);
  return found;
};

/** What taking over a sensor's sheet would change. @throws `not_found`, `bad_input` */
export function compareSheet(app: App, channelId: string, serial: string): SheetDifference[] {
  const sensor = find(app, serial);
  if (!sensor) throw notFound('sensor', serial);
  const channel = channelOf(app, channelId);
  return differences(channel, withSheet(channel, sensor));
}

/** Takes over a sensor's sheet into a channel. @throws as compareSheet, `conflict` while a take runs */
export async function takeSheet(app: App, channelId: string, serial: string, by: string): Promise<void> {
  const sensor = find(app, serial);
  if (!sensor) throw notFound('sensor', serial);
  const channel = channelOf(app, channelId);
  await replaceChannel(
    app,
    withSheet(channel, sensor),
    `${channel.name} took over the sheet of sensor ${serial}.`,
    by,
  );
}

/** Reads the chips of all smart sensors of a unit, and what each would change in the channel it is on. */
export async function scanChips(app: App, serial: string): Promise<ReadChip[]> {
  const chips = (await app.engine.command({ do: 'chips', unit: serial })) as {
    terminal: string;
    memory: Uint8Array;
  }[];
  const channels = channelsOf(app).filter((c) => c.wire?.unit === serial);
  return chips.map(({ terminal, memory }) => {
    const channel = channels.find((c) => c.wire!.terminal === terminal) ?? null;
    const read: ReadChip = {
      terminal,
      channelId: channel?.id ?? null,
      channel: channel?.name ?? null,
      sensor: null,
      title: 'chip',
      sheet: [],
      differences: [],
      fault: null,
    };
    try {
      const teds = decodeTeds(Uint8Array.from(memory));
      Object.assign(read, {
        sheet: chipSheet(teds),
        title: teds.template?.title ?? 'sensor without a template',
        sensor: sensorOfChip(teds),
      });
      if (channel && read.sensor) read.differences = differences(channel, withSheet(channel, read.sensor));
    } catch (error) {
      read.fault = asFarrierError(error, terminal).message;
    }
    return read;
  });
}

/** Name and kind of a channel that a chip makes. */
function newOn(app: App, sensor: Sensor, terminal: string) {
  const taken = new Set(channelsOf(app).map((c) => c.name));
  const name = `${sensor.kind[0].toUpperCase()}${sensor.kind.slice(1)} ${terminal}`;
  return { name: taken.has(name) ? `${name}, ${sensor.serial}` : name, kind: sensor.kind };
}

/** Takes over what chips say: each sensor goes into the drawer, its values into its channel; a free terminal gets a channel. @throws `conflict` while a take runs */
export async function takeChips(app: App, serial: string, terminals: string[], by: string): Promise<number> {
  idle(app);
  const read = (await scanChips(app, serial)).filter((c) => terminals.includes(c.terminal) && c.sensor);
  for (const { sensor, channelId, terminal } of read) {
    putSensor(app, find(app, sensor!.serial) ? sensor!.serial : null, sensor!, by);
    const on =
      channelId ??
      (await addChannel(app, { ...newOn(app, sensor!, terminal), wire: { unit: serial, terminal } }, by)).id;
    await takeSheet(app, on, sensor!.serial, by);
    await proveByChip(app, on, sensor!, by);
  }
  return read.length;
}

/** A chip is the sensor's own paper: it proves a channel that no calibration proves better. */
async function proveByChip(app: App, channelId: string, sensor: Sensor, by: string): Promise<void> {
  const channel = channelOf(app, channelId);
  if (channel.calibration || !needsProof(channel) || !sensor.calibratedOn) return;
  const calibration = recordOf(
    channel,
    {
      method: 'by chip',
      ...presentLine(channel),
      applies: false,
      due: sensor.calibratedUntil,
      note: `Read from the chip of ${sensor.serial}, calibrated on ${sensor.calibratedOn}.`,
    },
    by,
  );
  await keep(
    app,
    [{ channel, calibration }],
    `${channel.name} is proven by the chip of ${sensor.serial}.`,
    by,
  );
}
