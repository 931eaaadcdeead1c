import { join } from 'node:path';
import { conflict, notFound } from '$core/errors';
import { readChannel } from '$contract/channel';
import type { KnownUnit } from '$contract/engine';
import { Plan } from '$contract/plan';
import { Rule, ruleText } from '$contract/rule';
import { boardChange, withChange } from '$contract/board';
import { deleteBoard, listBoards, putBoard } from '$store/boards';
import * as store from '$store/entities';
import { deleteWireframe, listWireframes, putWireframe } from '$store/wireframes';
import { getTake } from '$store/takes';
import {
  firstUndone,
  insertRevision,
  lastDone,
  listRevisions,
  markUndone,
  type Revision,
} from '$store/revisions';
import { jobOf, log, takePath, type App } from '../app';
import { followStudy, restoreStudy } from '../study/studies';
import { checkMeaning } from './edits';
import { followUnits } from './follow-units';
import { namesOf, reachesEngine, readPatch, unchanged, type SetupPatch } from './patch';

export const channelsOf = (app: App) => store.listChannels(app.db, jobOf(app).id);

/** Hands the present set-up to the engine. @throws `conflict` while a take is armed or recorded */
export async function pushSetup(app: App): Promise<void> {
  const job = jobOf(app);
  const channels = store.listChannels(app.db, job.id);
  const names = namesOf(channels);
  await app.engine.command({
    do: 'configure',
    setup: {
      units: store
        .listUnits(app.db)
        .map((unit) => app.leftOut.mark({ ...unit, path: recordingPath(app, unit) })),
      channels,
      rules: store
        .listRules(app.db, job.id)
        .filter(({ rule }) => !rule.off)
        .map(({ id, rule }) => ({ id, rule, says: ruleText(rule, names) })),
    },
  });
}

/** File of uploaded recordings, by the name that the program gave it. */
export const uploadPath = (app: App, name: string) => join(app.folder, 'files', name.replace(/[^\w.-]/g, ''));

/** The file that a unit plays, if it plays one: “take:ID” or “file:NAME”. */
export function recordingPath(app: App, unit: KnownUnit): string | undefined {
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
  const rulesNow = store.listRules(app.db, jobId);
  const units = side(store.listUnits(app.db), (u) => u.serial, patch.units, patch.drop?.units);
  const scales = side(store.listScales(app.db, jobId), (s) => s.id, patch.scales, patch.drop?.scales);
  const channels = side(channelsNow, (c) => c.id, patch.channels, patch.drop?.channels);
  const rules = side(rulesNow, (r) => r.id, patch.rules, patch.drop?.rules);
  const plans = side(store.listPlans(app.db, jobId), (p) => p.id, patch.plans, patch.drop?.plans);
  const boards = side(listBoards(app.db, jobId), (b) => b.id, patch.boards, patch.drop?.boards);
  const wireframes = side(listWireframes(app.db, jobId), (f) => f.id, patch.wireframes, patch.drop?.wireframes); // prettier-ignore
  const rulesReorder = patch.ruleOrder !== undefined || (patch.drop?.rules?.length ?? 0) > 0;
  const reorders = patch.order !== undefined || (patch.drop?.channels?.length ?? 0) > 0;
  return {
    units: units.put,
    scales: scales.put,
    channels: channels.put,
    rules: rules.put,
    plans: plans.put,
    boards: boards.put,
    wireframes: wireframes.put,
    ...(reorders && { order: channelsNow.map((c) => c.id) }),
    ...(rulesReorder && { ruleOrder: rulesNow.map((r) => r.id) }),
    drop: {
      units: units.drop,
      scales: scales.drop,
      channels: channels.drop,
      rules: rules.drop,
      plans: plans.drop,
      boards: boards.drop,
      wireframes: wireframes.drop,
    },
  };
}

/** Puts a patch into the database. @throws `conflict` when two channels would have one name, `bad_input` for one whose scale or
 *  calibration measures something else than its unit */
function put(app: App, patch: SetupPatch): void {
  const jobId = jobOf(app).id;
  const { drop = {} } = patch;
  patch.channels?.forEach((c) => checkMeaning(readChannel(c)));
  drop.boards?.forEach((id) => deleteBoard(app.db, id));
  drop.wireframes?.forEach((id) => deleteWireframe(app.db, id));
  drop.channels?.forEach((id) => store.deleteChannel(app.db, id));
  drop.rules?.forEach((id) => store.deleteRule(app.db, id));
  drop.plans?.forEach((id) => store.deletePlan(app.db, id));
  drop.scales?.forEach((id) => store.deleteScale(app.db, id));
  drop.units?.forEach((serial) => store.deleteUnit(app.db, serial));
  patch.units?.forEach((unit) => store.putUnit(app.db, unit));
  patch.scales?.forEach((scale) => store.putScale(app.db, jobId, scale));
  store.putChannels(app.db, jobId, patch.channels?.map(readChannel) ?? []);
  patch.rules?.forEach(({ id, rule }) => store.putRule(app.db, jobId, id, Rule.parse(rule)));
  patch.plans?.forEach((named) => store.putPlan(app.db, jobId, { ...named, plan: Plan.parse(named.plan) }));
  patch.boards?.forEach((board) => putBoard(app.db, jobId, board));
  patch.wireframes?.forEach((frame) => putWireframe(app.db, jobId, frame));
  if (patch.order) store.orderChannels(app.db, patch.order);
  if (patch.ruleOrder) store.orderRules(app.db, patch.ruleOrder);
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
  by: string,
): Promise<void> {
  const whole = withFollowers(app, patch);
  const before = opposite(app, whole);
  if (unchanged(before, whole)) return;
  const besides = isBesides(app, whole);
  if (!besides) idle(app);
  app.db.transaction(() => {
    put(app, whole);
    insertRevision(app.db, {
      at: Date.now(),
      by,
      jobId: jobOf(app).id,
      kind: 'setup',
      subject,
      says,
      before,
      after: whole,
    });
  });
  log(app, kind, says, { by });
  if (!besides && reachesEngine(whole)) await pushSetup(app);
}

/** What is written elsewhere in channels' units, as it stands. */
export const writtenElsewhere = (app: App) => {
  const jobId = jobOf(app).id;
  return {
    rules: store.listRules(app.db, jobId),
    plans: store.listPlans(app.db, jobId),
    boards: listBoards(app.db, jobId),
  };
};

/** A patch with what follows from it: whoever gives a channel another unit (by hand, from a sheet, a chip or a file), rules, plans and
 *  boards are converted along. What the patch itself puts was written for the new unit. */
function withFollowers(app: App, patch: SetupPatch): SetupPatch {
  if (!patch.channels?.length) return patch;
  const now = channelsOf(app);
  const put = new Map(patch.channels.map((c) => [c.id, c]));
  const elsewhere = writtenElsewhere(app);
  const left = <T extends { id: string }>(all: T[], own: T[] = [], drop: string[] = []) =>
    all.filter((t) => !own.some((o) => o.id === t.id) && !drop.includes(t.id));
  const { patch: more } = followUnits(
    now,
    now.map((c) => put.get(c.id) ?? c),
    {
      rules: left(elsewhere.rules, patch.rules, patch.drop?.rules),
      plans: left(elsewhere.plans, patch.plans, patch.drop?.plans),
      boards: left(elsewhere.boards, patch.boards, patch.drop?.boards),
    },
  );
  const both = <T>(a: T[] = [], b: T[] = []) => [...a, ...b];
  return {
    ...patch,
    rules: both(patch.rules, more.rules),
    plans: both(patch.plans, more.plans),
    boards: both(patch.boards, more.boards),
  };
}

/** What can be changed while a take runs: boards, wireframes, plans (a take has its own copy of the one it was armed by), and rules that are switched
 *  off before and after. */
function isBesides(app: App, patch: SetupPatch): boolean {
  const { boards, wireframes, plans, rules, drop = {}, ...rest } = patch;
  void boards;
  void wireframes;
  void plans;
  if (Object.values(rest).some((part) => (part as unknown[] | undefined)?.length)) return false;
  if ([drop.units, drop.scales, drop.channels].some((part) => part?.length)) return false;
  const now = new Map(store.listRules(app.db, jobOf(app).id).map((r) => [r.id, r.rule]));
  const off = (id: string) => now.get(id)?.off ?? true;
  return (rules ?? []).every((r) => r.rule.off && off(r.id)) && (drop.rules ?? []).every(off);
}

/** Takes the last change back. @throws `not_found` when there is none */
export async function undo(app: App, by: string): Promise<string> {
  const last = lastDone(app.db, jobOf(app).id);
  if (!last) throw notFound('change to undo', 'in this job');
  return again(app, [last], true, by);
}

/** Makes the change again that was undone last. @throws `not_found` when there is none */
export async function redo(app: App, by: string): Promise<string> {
  const first = firstUndone(app.db, jobOf(app).id);
  if (!first) throw notFound('change to redo', 'in this job');
  return again(app, [first], false, by);
}

/** Takes back all changes after a revision; redo makes them again, one by one. @throws `not_found` */
export async function goBackTo(app: App, revision: number, by: string): Promise<string> {
  const later = listRevisions(app.db, jobOf(app).id, 100_000).filter((r) => r.id > revision);
  if (later.length === 0) throw notFound('later change', String(revision));
  return again(app, later, true, by);
}

async function again(app: App, revisions: Revision[], undone: boolean, by: string): Promise<string> {
  // Whatever does not concern what is measured is taken back while a take runs, too, and does not reach the engine.
  const patches = revisions.map((r) => patchOf(r, undone));
  const measured = patches.some((patch) => patch === null || !isBesides(app, patch));
  if (measured) idle(app);
  app.db.transaction(() => {
    for (const revision of revisions) {
      const [to, from] = undone ? [revision.before, revision.after] : [revision.after, revision.before];
      restore(app, revision, to, from);
      markUndone(app.db, revision.id, undone);
    }
  });
  const [{ says: last }] = revisions;
  const says = `${undone ? 'Undone' : 'Done again'}: ${revisions.length > 1 ? `${revisions.length} changes, the first: ${revisions[revisions.length - 1].says}` : last}`;
  log(app, 'setup', says, { by });
  for (const { kind, subject } of revisions) if (kind === 'study') void followStudy(app, subject, by);
  if (measured && patches.some((patch) => patch === null || reachesEngine(patch))) await pushSetup(app);
  return says;
}

/** What undoing a revision, or doing it again, puts into the set-up: nothing for a study; null for revisions of earlier versions, which may be
 *  anything. */
function patchOf({ kind, before, after }: Revision, undone: boolean): SetupPatch | null {
  if (kind === 'study') return {};
  if (kind !== 'setup') return null;
  return readPatch((undone ? before : after) as SetupPatch);
}

/** A board is arranged without revisions: of one that a revision changed, only what that changed goes to and fro. */
function boardsBetween(app: App, to: SetupPatch, from: SetupPatch): SetupPatch {
  const now = new Map(listBoards(app.db, jobOf(app).id).map((b) => [b.id, b]));
  const boards = to.boards?.map((board) => {
    const [present, former] = [now.get(board.id), from.boards?.find((b) => b.id === board.id)];
    if (!present || !former) return board;
    return {
      ...present,
      views: withChange(present.views, boardChange(former.views, board.views) ?? {}),
    };
  });
  return { ...to, boards };
}

/** Puts what a revision is about into a state: its content, or null for “not there”. */
function restore(app: App, { kind, subject }: Revision, content: unknown, from: unknown): void {
  const jobId = jobOf(app).id;
  switch (kind) {
    case 'setup':
      return put(app, readPatch(boardsBetween(app, content as SetupPatch, from as SetupPatch)));
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
      return restoreStudy(app, subject, content);
  }
}

/** Changes of the set-up that stand, newest first. @param sinceTake only those made after this take began @throws `not_found` */
export function history(app: App, sinceTake?: string) {
  const since = sinceTake ? getTake(app.db, sinceTake).startedAt : 0;
  return listRevisions(app.db, jobOf(app).id, 500, since).map(({ id, at, by, subject, says }) => ({
    id,
    at,
    by,
    subject,
    says,
  }));
}
