import { join } from 'node:path';
import { badInput, conflict, notFound } from '$core/errors';
import type { Names } from '$core/sentence/sentence';
import { commonOf, readChannel, type Channel } from '$contract/channel';
import type { KnownUnit } from '$contract/engine';
import { Plan } from '$contract/plan';
import { Rule, ruleText } from '$contract/rule';
import type { Scale } from '$contract/scale';
import * as store from '$store/entities';
import type { z } from 'zod';
import { jobOf, log, takePath, type App } from '../app';

/** Who works here; accounts are not part of this program yet. */
export const BENCH = 'bench';

/** A change of the set-up: what is put and what is dropped. Its opposite is a patch again, so undo is the same thing. */
export interface SetupPatch {
  units?: KnownUnit[];
  scales?: Scale[];
  channels?: Channel[];
  rules?: { id: string; rule: Rule }[];
  plan?: store.NamedPlan;
  /** Ids of channels in their new order. */
  order?: string[];
  drop?: { units?: string[]; scales?: string[]; channels?: string[]; rules?: string[]; plans?: string[] };
}

export function namesOf(channels: Channel[]): Names {
  const byId = new Map(channels.map((c) => [c.id, { name: c.name, unit: commonOf(c).unit }]));
  return { channel: (id) => byId.get(id) };
}

export const channelsOf = (app: App) => store.listChannels(app.db, jobOf(app).id);

/** Hands the present set-up to the engine. @throws `conflict` while a take is armed or recorded */
export async function pushSetup(app: App): Promise<void> {
  const job = jobOf(app);
  const channels = store.listChannels(app.db, job.id);
  const names = namesOf(channels);
  await app.engine.command({
    do: 'configure',
    setup: {
      units: store.listUnits(app.db).map((unit) => ({ ...unit, path: recordingPath(app, unit) })),
      channels,
      rules: store
        .listRules(app.db, job.id)
        .map(({ id, rule }) => ({ id, rule, says: ruleText(rule, names) })),
    },
  });
}

/** File of uploaded recordings, by the name that the program gave it. */
export const uploadPath = (app: App, name: string) => join(app.folder, 'files', name.replace(/[^\w.-]/g, ''));

/** The file that a unit plays, if it plays one: “take:ID” or “file:NAME”. */
function recordingPath(app: App, unit: KnownUnit): string | undefined {
  const source = String(unit.config.settings.source ?? '');
  if (source.startsWith('take:')) return takePath(app, source.slice(5));
  return source.startsWith('file:') ? uploadPath(app, source.slice(5)) : undefined;
}

/** @throws `conflict` while a take is armed or recorded */
export function idle(app: App): void {
  const { state } = app.live.status;
  if (state !== 'Watching')
    throw conflict(
      'set-up',
      `A take is ${state === 'Armed' ? 'armed' : 'being recorded'}: its set-up stays as it is until it ends.`,
      'End it first, then make the change.',
    );
}

/** What a patch would overwrite, as the patch that brings it back. */
function opposite(app: App, patch: SetupPatch): SetupPatch {
  const jobId = jobOf(app).id;
  const side = <T>(now: T[], idOf: (t: T) => string, put: T[] = [], drop: string[] = []) => {
    const byId = new Map(now.map((t) => [idOf(t), t]));
    const touched = [...put.map(idOf), ...drop];
    return {
      put: touched.flatMap((id) => byId.get(id) ?? []),
      drop: touched.filter((id) => !byId.has(id)),
    };
  };
  const channelsNow = store.listChannels(app.db, jobId);
  const units = side(store.listUnits(app.db), (u) => u.serial, patch.units, patch.drop?.units);
  const scales = side(store.listScales(app.db, jobId), (s) => s.id, patch.scales, patch.drop?.scales);
  const channels = side(channelsNow, (c) => c.id, patch.channels, patch.drop?.channels);
  const rules = side(store.listRules(app.db, jobId), (r) => r.id, patch.rules, patch.drop?.rules);
  const plans = side(
    store.listPlans(app.db, jobId),
    (p) => p.id,
    patch.plan && [patch.plan],
    patch.drop?.plans,
  );
  const reorders = patch.order !== undefined || (patch.drop?.channels?.length ?? 0) > 0;
  return {
    units: units.put,
    scales: scales.put,
    channels: channels.put,
    rules: rules.put,
    ...(plans.put.length > 0 && { plan: plans.put[0] }),
    ...(reorders && { order: channelsNow.map((c) => c.id) }),
    drop: {
      units: units.drop,
      scales: scales.drop,
      channels: channels.drop,
      rules: rules.drop,
      plans: plans.drop,
    },
  };
}

/** Puts a patch into the database. @throws `conflict` when two channels would have one name */
function put(app: App, patch: SetupPatch): void {
  const jobId = jobOf(app).id;
  const { drop = {} } = patch;
  drop.channels?.forEach((id) => store.deleteChannel(app.db, id));
  drop.rules?.forEach((id) => store.deleteRule(app.db, id));
  drop.plans?.forEach((id) => store.deletePlan(app.db, id));
  drop.scales?.forEach((id) => store.deleteScale(app.db, id));
  drop.units?.forEach((serial) => store.deleteUnit(app.db, serial));
  patch.units?.forEach((unit) => store.putUnit(app.db, unit));
  patch.scales?.forEach((scale) => store.putScale(app.db, jobId, scale));
  store.putChannels(app.db, jobId, patch.channels?.map(readChannel) ?? []);
  patch.rules?.forEach(({ id, rule }) => store.putRule(app.db, jobId, id, Rule.parse(rule)));
  if (patch.plan) store.putPlan(app.db, jobId, { ...patch.plan, plan: Plan.parse(patch.plan.plan) });
  if (patch.order) store.orderChannels(app.db, patch.order);
}

/** Makes a change of the set-up whole: database, engine, revision, logbook; or not at all.
 *  @param kind of the logbook's entry @param subject id of what it is about
 *  @throws `conflict` while a take is armed or recorded */
export async function change(
  app: App,
  patch: SetupPatch,
  kind: string,
  subject: string,
  says: string,
  by = BENCH,
): Promise<void> {
  const before = opposite(app, patch);
  if (unchanged(before, patch)) return;
  idle(app);
  app.db.transaction(() => {
    put(app, patch);
    store.insertRevision(app.db, {
      at: Date.now(),
      by,
      jobId: jobOf(app).id,
      kind: 'setup',
      subject,
      says,
      before,
      after: patch,
    });
  });
  log(app, kind, says, { by });
  if (reachesEngine(patch)) await pushSetup(app);
}

/** A plan alone does not touch what is measured: filters and counts go on. */
const reachesEngine = ({ units, scales, channels, rules, order, drop = {} }: SetupPatch) =>
  [units, scales, channels, rules, order, drop.units, drop.channels, drop.rules, drop.scales].some(Boolean);

const filled = (patch: SetupPatch) =>
  JSON.stringify(patch, (_, v: unknown) =>
    (Array.isArray(v) && v.length === 0) ||
    (v && typeof v === 'object' && !Array.isArray(v) && Object.keys(v).length === 0)
      ? undefined
      : v,
  );
const unchanged = (before: SetupPatch, after: SetupPatch) =>
  filled({ ...before, drop: undefined }) === filled({ ...after, drop: undefined }) &&
  filled({ drop: before.drop }) === filled({ drop: after.drop });

/** Takes the last change back. @throws `not_found` when there is none */
export async function undo(app: App): Promise<string> {
  const last = store.lastDone(app.db, jobOf(app).id);
  if (!last) throw notFound('change to undo', 'in this job');
  return again(app, [last], true);
}

/** Makes the change again that was undone last. @throws `not_found` when there is none */
export async function redo(app: App): Promise<string> {
  const first = store.firstUndone(app.db, jobOf(app).id);
  if (!first) throw notFound('change to redo', 'in this job');
  return again(app, [first], false);
}

/** Takes back all changes after a revision; redo makes them again, one by one. @throws `not_found` */
export async function goBackTo(app: App, revision: number): Promise<string> {
  const later = store.listRevisions(app.db, jobOf(app).id, 100_000).filter((r) => r.id > revision);
  if (later.length === 0) throw notFound('later change', String(revision));
  return again(app, later, true);
}

async function again(app: App, revisions: store.Revision[], undone: boolean): Promise<string> {
  idle(app);
  app.db.transaction(() => {
    for (const revision of revisions) {
      restore(app, revision, undone ? revision.before : revision.after);
      store.markUndone(app.db, revision.id, undone);
    }
  });
  const [{ says: last }] = revisions;
  const says = `${undone ? 'Undone' : 'Done again'}: ${revisions.length > 1 ? `${revisions.length} changes, the first: ${revisions[revisions.length - 1].says}` : last}`;
  log(app, 'setup', says, { by: BENCH });
  await pushSetup(app);
  return says;
}

/** Puts what a revision is about into a state: its content, or null for “not there”. */
function restore(app: App, { kind, subject }: store.Revision, content: unknown): void {
  const jobId = jobOf(app).id;
  switch (kind) {
    case 'setup':
      return put(app, content as SetupPatch);
    case 'channel':
      return content
        ? store.putChannel(app.db, jobId, readChannel(content))
        : store.deleteChannel(app.db, subject);
    case 'plan':
      return store.putPlan(app.db, jobId, content as store.NamedPlan);
    case 'rule':
      return content
        ? store.putRule(app.db, jobId, subject, Rule.parse(content))
        : store.deleteRule(app.db, subject);
    case 'study':
      return content ? store.putStudy(app.db, content as store.StudyRow) : store.deleteStudy(app.db, subject);
  }
}

/** Changes of the set-up that stand, newest first. @param sinceTake only those made after this take began @throws `not_found` */
export function history(app: App, sinceTake?: string) {
  const since = sinceTake ? store.getTake(app.db, sinceTake).startedAt : 0;
  return store
    .listRevisions(app.db, jobOf(app).id, 500, since)
    .map(({ id, at, by, subject, says }) => ({ id, at, by, subject, says }));
}

/** A value by its schema. @throws `bad_input` with the field, the value and the rule it breaks */
export function check<S extends z.ZodType>(schema: S, value: unknown): z.infer<S> {
  const parsed = schema.safeParse(value, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(issue.path.join('.') || 'input', issue.input, issue.message);
}
