import { conflict, notFound } from '$core/errors';
import { LRUCache } from 'lru-cache';
import { Calibration, readChannel, type Channel } from '$contract/channel';
import { KnownUnit } from '$contract/engine';
import { Scale } from '$contract/scale';
import { Sensor } from '$contract/sensor';
import { Plan } from '$contract/plan';
import { Rule } from '$contract/rule';
import { and, asc, desc, eq, max, sql } from 'drizzle-orm';
import type { Db } from './database';
import * as t from './tables';

export type Job = typeof t.jobs.$inferSelect;
export type StudyRow = typeof t.studies.$inferSelect;

// Jobs

export const listJobs = (db: Db): Job[] => db.select().from(t.jobs).orderBy(desc(t.jobs.createdAt)).all();
export const currentJob = (db: Db): Job | undefined =>
  db.select().from(t.jobs).where(eq(t.jobs.current, true)).get();
export const insertJob = (db: Db, job: Job): void => void db.insert(t.jobs).values(job).run();

/** @throws `not_found` */
export function makeJobCurrent(db: Db, id: string): void {
  db.transaction((tx) => {
    tx.update(t.jobs).set({ current: false }).run();
    if (tx.update(t.jobs).set({ current: true }).where(eq(t.jobs.id, id)).run().changes === 0)
      throw notFound('job', id);
  });
}

// Units

/** Units of the bench, in the order in which they were added; what cannot be read of a configuration fails here, at its source. */
export const listUnits = (db: Db): KnownUnit[] =>
  db
    .select()
    .from(t.units)
    .orderBy(sql`rowid`)
    .all()
    .map(({ config, ...unit }) => KnownUnit.parse({ ...unit, ...(config ? { config } : {}) }));
/** Writes a unit, new or known. */
export function putUnit(db: Db, { serial, kind, name, config }: KnownUnit): void {
  const row = { serial, kind, name, config };
  db.insert(t.units).values(row).onConflictDoUpdate({ target: t.units.serial, set: row }).run();
}
export const deleteUnit = (db: Db, serial: string): void =>
  void db.delete(t.units).where(eq(t.units.serial, serial)).run();

// Scales

export const listScales = (db: Db, jobId: string): Scale[] =>
  db
    .select()
    .from(t.scales)
    .where(eq(t.scales.jobId, jobId))
    .orderBy(asc(t.scales.name))
    .all()
    .map((row) => Scale.parse(row.body));
export const putScale = (db: Db, jobId: string, scale: Scale): void =>
  void db
    .insert(t.scales)
    .values({ id: scale.id, jobId, name: scale.name, body: scale })
    .onConflictDoUpdate({ target: t.scales.id, set: { name: scale.name, body: scale } })
    .run();
export const deleteScale = (db: Db, id: string): void =>
  void db.delete(t.scales).where(eq(t.scales.id, id)).run();

// Sensors

export const listSensors = (db: Db): Sensor[] =>
  db
    .select()
    .from(t.sensors)
    .orderBy(asc(t.sensors.serial))
    .all()
    .map((row) => Sensor.parse(row.body));
export const putSensor = (db: Db, sensor: Sensor): void =>
  void db
    .insert(t.sensors)
    .values({ serial: sensor.serial, body: sensor })
    .onConflictDoUpdate({ target: t.sensors.serial, set: { body: sensor } })
    .run();
/** Gives a sensor another serial number; its papers follow. */
export const renameSensor = (db: Db, from: string, to: string): void =>
  void db.update(t.sensors).set({ serial: to }).where(eq(t.sensors.serial, from)).run();
export const deleteSensor = (db: Db, serial: string): void =>
  void db.delete(t.sensors).where(eq(t.sensors.serial, serial)).run();

export const listDocuments = (db: Db) =>
  db
    .select({
      id: t.documents.id,
      sensorSerial: t.documents.sensorSerial,
      name: t.documents.name,
      bytes: sql<number>`length(content)`,
    })
    .from(t.documents)
    .orderBy(asc(t.documents.at))
    .all();
export const insertDocument = (db: Db, sensorSerial: string, name: string, content: Buffer): void =>
  void db.insert(t.documents).values({ sensorSerial, name, content, at: Date.now() }).run();
/** @throws `not_found` */
export function getDocument(db: Db, id: number): { name: string; content: Buffer } {
  const row = db.select().from(t.documents).where(eq(t.documents.id, id)).get();
  if (!row) throw notFound('document', String(id));
  return row;
}
export const deleteDocument = (db: Db, id: number): void =>
  void db.delete(t.documents).where(eq(t.documents.id, id)).run();

// Layouts

export const getLayout = (db: Db, jobId: string, page: string): unknown =>
  db
    .select()
    .from(t.layouts)
    .where(and(eq(t.layouts.jobId, jobId), eq(t.layouts.page, page)))
    .get()?.body ?? null;
export const putLayout = (db: Db, jobId: string, page: string, body: unknown): void =>
  void db
    .insert(t.layouts)
    .values({ jobId, page, body })
    .onConflictDoUpdate({ target: [t.layouts.jobId, t.layouts.page], set: { body } })
    .run();

// Channels

/** Channels by the text of their row: reading hundreds through the model costs more than all else of an edit, and few rows change by it. */
const readTexts = new LRUCache<string, Channel>({ max: 20_000 });

function frozen<T>(value: T): T {
  if (value && typeof value === 'object' && !Object.isFrozen(value)) {
    Object.freeze(value);
    Object.values(value).forEach(frozen);
  }
  return value;
}

/** The job's channels in their order, shared and frozen; a row that breaks the model fails here, at its source. */
export function listChannels(db: Db, jobId: string): Channel[] {
  const rows = db.$client
    .prepare<[string], { body: string }>('SELECT body FROM channels WHERE job_id = ? ORDER BY position')
    .all(jobId);
  return rows.map(({ body }) => {
    const known = readTexts.get(body);
    if (known) return known;
    const channel = frozen(readChannel(JSON.parse(body)));
    readTexts.set(body, channel);
    return channel;
  });
}

/** @throws `not_found` */
export function getChannel(db: Db, id: string): Channel {
  const row = db.select().from(t.channels).where(eq(t.channels.id, id)).get();
  if (!row) throw notFound('channel', id);
  return readChannel(row.body);
}

/** Writes a channel, new or known. @throws `conflict` when another channel of the job has its name */
export function putChannel(db: Db, jobId: string, channel: Channel): void {
  const known = db.select().from(t.channels).where(eq(t.channels.id, channel.id)).get();
  const last = db
    .select({ last: max(t.channels.position) })
    .from(t.channels)
    .where(eq(t.channels.jobId, jobId))
    .get();
  const row = {
    id: channel.id,
    jobId,
    position: known?.position ?? (last?.last ?? 0) + 1,
    name: channel.name,
    body: channel,
  };
  try {
    db.insert(t.channels).values(row).onConflictDoUpdate({ target: t.channels.id, set: row }).run();
  } catch (error) {
    if ((error as { code?: string }).code === 'SQLITE_CONSTRAINT_UNIQUE')
      throw conflict('name', `There is a channel “${channel.name}” already.`, 'Give it another name.');
    throw error;
  }
}

/** Puts channels into an order; those not named keep theirs behind them. */
export function orderChannels(db: Db, ids: string[]): void {
  ids.forEach((id, k) =>
    db
      .update(t.channels)
      .set({ position: k + 1 })
      .where(eq(t.channels.id, id))
      .run(),
  );
}

/** Writes several channels; their names may change places. @throws `conflict` when two would have one name */
export function putChannels(db: Db, jobId: string, channels: Channel[]): void {
  for (const { id } of channels) db.update(t.channels).set({ name: id }).where(eq(t.channels.id, id)).run();
  for (const channel of channels) putChannel(db, jobId, channel);
}

export const deleteChannel = (db: Db, id: string): void =>
  void db.delete(t.channels).where(eq(t.channels.id, id)).run();

export const insertCalibration = (db: Db, calibration: Calibration): void =>
  void db
    .insert(t.calibrations)
    .values({ id: calibration.id, channelId: calibration.channelId, at: calibration.at, body: calibration })
    .run();

export const listCalibrations = (db: Db, channelId: string): Calibration[] =>
  db
    .select()
    .from(t.calibrations)
    .where(eq(t.calibrations.channelId, channelId))
    .orderBy(desc(t.calibrations.at))
    .all()
    .map((row) => Calibration.parse(row.body));

/** Calibrations of these that were taken back: every change of the set-up that holds one of them is undone. */
export function undoneCalibrations(db: Db, ids: string[]): Set<string> {
  const standing = db.$client.prepare(
    'SELECT count(*) AS held, coalesce(sum(undone = 0), 0) AS stands FROM revisions WHERE instr(after, ?) > 0',
  );
  return new Set(
    ids.filter((id) => {
      const { held, stands } = standing.get(`"${id}"`) as { held: number; stands: number };
      return held > 0 && stands === 0;
    }),
  );
}

/** The last calibration or check of every channel. */
export function latestCalibrations(db: Db): Map<string, Calibration> {
  const rows = db
    .select({ body: t.calibrations.body, channelId: t.calibrations.channelId })
    .from(t.calibrations)
    .where(
      sql`${t.calibrations.at} = (SELECT max(c.at) FROM calibrations c WHERE c.channel_id = ${t.calibrations.channelId})`,
    )
    .all();
  return new Map(rows.map((row) => [row.channelId, Calibration.parse(row.body)]));
}

/** @throws `not_found` */
export function getCalibration(db: Db, id: string): Calibration {
  const row = db.select().from(t.calibrations).where(eq(t.calibrations.id, id)).get();
  if (!row) throw notFound('calibration', id);
  return Calibration.parse(row.body);
}

// Plans and rules

export interface NamedPlan {
  id: string;
  name: string;
  plan: Plan;
}
/** Plans of a job in the order in which they were made. */
export const listPlans = (db: Db, jobId: string): NamedPlan[] =>
  db
    .select()
    .from(t.plans)
    .where(eq(t.plans.jobId, jobId))
    .orderBy(sql`rowid`)
    .all()
    .map(({ id, name, body }) => ({ id, name, plan: Plan.parse(body) }));
/** The plan that is armed next. */
export function jobPlan(db: Db, jobId: string): NamedPlan | undefined {
  const row = db
    .select()
    .from(t.plans)
    .where(eq(t.plans.jobId, jobId))
    .orderBy(desc(t.plans.current), sql`rowid`)
    .get();
  return row && { id: row.id, name: row.name, plan: Plan.parse(row.body) };
}
/** @throws `not_found` */
export function makePlanCurrent(db: Db, jobId: string, id: string): void {
  db.transaction((tx) => {
    tx.update(t.plans).set({ current: false }).where(eq(t.plans.jobId, jobId)).run();
    const own = and(eq(t.plans.jobId, jobId), eq(t.plans.id, id));
    if (tx.update(t.plans).set({ current: true }).where(own).run().changes === 0) throw notFound('plan', id);
  });
}
export const deletePlan = (db: Db, id: string): void =>
  void db.delete(t.plans).where(eq(t.plans.id, id)).run();
export const putPlan = (db: Db, jobId: string, { id, name, plan }: NamedPlan): void =>
  void db
    .insert(t.plans)
    .values({ id, jobId, name, body: plan })
    .onConflictDoUpdate({ target: t.plans.id, set: { name, body: plan } })
    .run();

export const listRules = (db: Db, jobId: string): { id: string; rule: Rule }[] =>
  db
    .select()
    .from(t.rules)
    .where(eq(t.rules.jobId, jobId))
    .orderBy(asc(t.rules.position), sql`rowid`)
    .all()
    .map((row) => ({ id: row.id, rule: Rule.parse(row.body) }));
export function putRule(db: Db, jobId: string, id: string, rule: Rule): void {
  const position = Date.now();
  db.insert(t.rules)
    .values({ id, jobId, position, body: rule })
    .onConflictDoUpdate({ target: t.rules.id, set: { body: rule } })
    .run();
}
/** Rules act in their order. */
export function orderRules(db: Db, ids: string[]): void {
  ids.forEach((id, k) =>
    db
      .update(t.rules)
      .set({ position: k + 1 })
      .where(eq(t.rules.id, id))
      .run(),
  );
}
export const deleteRule = (db: Db, id: string): void =>
  void db.delete(t.rules).where(eq(t.rules.id, id)).run();

// Studies

export const listStudies = (db: Db, jobId: string): StudyRow[] =>
  db.select().from(t.studies).where(eq(t.studies.jobId, jobId)).orderBy(asc(t.studies.position)).all();

/** Of all jobs. */
export const allStudies = (db: Db): StudyRow[] => db.select().from(t.studies).all();

/** @throws `not_found` */
export function getStudy(db: Db, id: string): StudyRow {
  const row = db.select().from(t.studies).where(eq(t.studies.id, id)).get();
  if (!row) throw notFound('study', id);
  return row;
}
export const putStudy = (db: Db, row: StudyRow): void =>
  void db.insert(t.studies).values(row).onConflictDoUpdate({ target: t.studies.id, set: row }).run();
export const deleteStudy = (db: Db, id: string): void =>
  void db.delete(t.studies).where(eq(t.studies.id, id)).run();
