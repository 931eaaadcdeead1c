import { randomUUID } from 'node:crypto';
import { createReadStream, rmSync, type ReadStream } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import { FarrierError, asFarrierError, badInput, conflict } from '$core/errors';
import { sentenceText, type Names } from '$core/sentence/sentence';
import { usualInputs } from '$core/studies/inputs';
import { STUDY_KINDS, studyKind } from '$core/studies/registry';
import type { StudyKind } from '$core/studies/study';
import { CORE_VERSION } from '$core/version';
import type { StudyBody, StudyView } from '$contract/study';
import { filterText, type TakeFilter } from '$contract/take-list';
import { deleteStudy, getStudy, listSensors, listStudies, putStudy, type StudyRow } from '$store/entities';
import { getTake, listTakes } from '$store/takes';
import { insertRevision } from '$store/revisions';
import { jobOf, log, takePath, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import { compute } from './lanes';
import type { StudyTask } from './run';
import { bodyOf, fingerprint, inputsOf, isUpToDate, takesOf } from './inputs';
import { readBody } from './earlier';

export const studyKinds = () =>
  STUDY_KINDS.map(({ kind, title, purpose, takes }) => ({ kind, title, purpose, takes: takes ?? null }));

/** What a change of a study leaves in the history: nothing of its result. */
type StudyChange = Pick<StudyBody, 'settings' | 'takes' | 'filter'>;
const changeable = ({ settings, takes, filter }: StudyBody): StudyChange => ({
  settings,
  // Those that a filter means come and go by themselves: that is no change of the study.
  takes: filter ? [] : takes,
  ...(filter && { filter }),
});

function namesIn(app: App, takes: string[]): Names {
  const byId = new Map(
    takes.flatMap((id) => openTake(app, id).signals.map((s) => [s.channelId, s] as const)),
  );
  return { channel: (id) => byId.get(id) };
}

function view(app: App, row: StudyRow): StudyView {
  const kind = STUDY_KINDS.find((k) => k.kind === row.kind);
  const held = bodyOf(row);
  const run = app.studies.get(row.id);
  const plain = {
    ...held,
    id: row.id,
    kind: row.kind,
    title: kind?.title ?? row.kind,
    takeId: row.takeId,
    createdAt: row.createdAt,
    progress: run?.progress ?? (held.state === 'done' ? 1 : 0),
    // A study that was running when the server stopped is not running any more.
    state: held.state === 'running' && !run ? ('interrupted' as const) : held.state,
    takeName:
      held.takes.length > 3
        ? `${takeNameOf(app, held.takes[0])} and ${held.takes.length - 1} more`
        : held.takes.map((id) => takeNameOf(app, id)).join(', '),
    filterSays: held.filter ? filterText(held.filter) : null,
  };
  if (!kind)
    return {
      ...plain,
      outOfDate: false,
      says: 'A kind of study that this version does not know.',
      fault: {
        what: `“${row.kind}” is not known here.`,
        where: held.name,
        next: 'Open it with a newer version.',
      },
    };
  try {
    return {
      ...plain,
      outOfDate: held.state === 'done' && !isUpToDate(app, row),
      settings: whole(kind, held.settings),
      says: sentenceText(
        kind.sentence,
        whole(kind, held.settings),
        namesIn(app, kind.takes ? held.takes : held.takes.slice(0, 4)),
      ),
    };
  } catch (error) {
    // Its take cannot be read: that is said where the study stands, and hurts nowhere else. What it found is kept.
    const { text } = asFarrierError(error, held.name);
    return {
      ...plain,
      outOfDate: false,
      says: `${kind.title}; its take cannot be read now.`,
      fault: { ...text, where: `the take of ${held.name}` },
    };
  }
}

/** Settings with what later versions added to their kind as it is usual. */
const whole = ({ defaults }: StudyKind, settings: Record<string, unknown>) => ({ ...defaults, ...settings });

/** The name a take is listed under, even where its file cannot be read. */
function takeNameOf(app: App, takeId: string): string {
  try {
    return getTake(app.db, takeId).name;
  } catch {
    return 'a take that is gone';
  }
}

/** Whether its settings are being computed, or have their result. */
const stands = (app: App, row: StudyRow): boolean =>
  app.studies.has(row.id) || (bodyOf(row).state === 'done' && isUpToDate(app, row));

export const viewStudy = (app: App, id: string): StudyView => view(app, getStudy(app.db, id));
export const viewStudies = (app: App): StudyView[] =>
  listStudies(app.db, jobOf(app).id).map((row) => view(app, row));

/** A study with all that try it in another way, in the order in which they were made. @throws `not_found` */
export function variantsOf(app: App, id: string): StudyView[] {
  const rootOf = (row: StudyRow) => bodyOf(row).variantOf ?? row.id;
  const root = rootOf(getStudy(app.db, id));
  return listStudies(app.db, jobOf(app).id)
    .filter((row) => rootOf(row) === root)
    .map((row) => view(app, row))
    .sort((a, b) => a.createdAt - b.createdAt);
}

const resultIdOf = (app: App, id: string): string => bodyOf(getStudy(app.db, id)).resultId ?? 'none';

/** The file of a study's result, as it is drawn. @throws `not_found` where there is none */
export const resultFile = (app: App, id: string): Uint8Array =>
  app.results.read(app.results.drawn(resultIdOf(app, id)));

/** One of a result's tables, whole, as a file of commas. @param at its place among all tables of the result @throws `not_found` */
export async function resultTable(
  app: App,
  id: string,
  at: number,
): Promise<{ name: string; open: () => ReadStream }> {
  const to = join(tmpdir(), `farrier-table-${randomUUID()}.csv`);
  const told = await app.workers.do('writeTable', { path: app.results.fileOf(resultIdOf(app, id)), at, to });
  if ('fault' in told) throw new FarrierError('not_found', told.fault);
  const open = () => createReadStream(to).once('close', () => rmSync(to, { force: true }));
  return { name: `${told.result}.csv`, open };
}

/** What begins a study: the kind, its takes, what is looked at there (`shown`, ids of channels) and settings of one’s own. */
export interface NewStudy {
  kind: string;
  takeId: string;
  takes?: string[];
  shown?: string[];
  settings?: Record<string, unknown>;
  name?: string;
  /** Takes by a filter instead of one by one. */
  filter?: TakeFilter | null;
  /** The study that it is a variant of. */
  variantOf?: string | null;
}

/** Begins a study with its kind's usual settings and some chosen ones. It runs on by itself; its view tells the progress.
 *  @throws `bad_input` for settings against the schema, `not_found` */
export function startStudy(app: App, input: NewStudy, by: string): { view: StudyView; done: Promise<void> } {
  const kind = studyKind(input.kind);
  const named = input.takes ?? usualTakes(app, input.takeId, kind.takes?.least ?? 1);
  const takes = input.filter ? takesOf(app, { filter: input.filter, takes: named }) : named;
  if (takes.length === 0)
    throw badInput('takes', filterText(input.filter!), 'None fits now: say it another way.');
  for (const id of takes) getTake(app.db, id);
  const offered = openTake(app, takes[0]).signals.flatMap((s) =>
    s.channelId ? [{ ...s, id: s.channelId }] : [],
  );
  const usual = usualInputs(kind, offered, input.shown ?? []);
  const row: StudyRow = {
    id: randomUUID(),
    jobId: jobOf(app).id,
    takeId: takes[0],
    position: Date.now(),
    kind: kind.kind,
    createdAt: Date.now(),
    body: {
      name: input.name ?? kind.title,
      settings: check(kind.sentence.schema, { ...kind.defaults, ...usual, ...input.settings }),
      takes,
      ...(input.filter && { filter: input.filter }),
      ...(input.variantOf && { variantOf: input.variantOf }),
      state: 'running',
      findings: [],
      resultId: null,
      fault: null,
      madeFrom: null,
    } satisfies StudyBody,
  };
  const done = run(app, row, by);
  return { view: view(app, row), done };
}

/** The take one looks at, and as many before it as are needed. */
function usualTakes(app: App, takeId: string, least: number): string[] {
  const others = listTakes(app.db, jobOf(app).id).filter((t) => t.id !== takeId && t.state !== 'recording');
  return [takeId, ...others.slice(0, least - 1).map((t) => t.id)];
}

/** Changes settings or takes and computes anew; what is written again as it stands leaves the result, or the run, as it is.
 *  Without any, computes anew. @throws `bad_input`, `not_found` */
export function changeStudy(
  app: App,
  id: string,
  settings: Record<string, unknown>,
  by: string,
  takes?: string[],
  filter?: TakeFilter | null,
): { view: StudyView; done: Promise<void> } {
  const row = getStudy(app.db, id);
  const held = bodyOf(row);
  for (const take of takes ?? []) getTake(app.db, take);
  const meant = filter === undefined ? (takes ? null : (held.filter ?? null)) : filter;
  const resolved = meant ? takesOf(app, { filter: meant, takes: held.takes }) : (takes ?? held.takes);
  if (resolved.length === 0)
    throw badInput('takes', filterText(meant!), 'None fits now: say it another way.');
  const next: StudyRow = {
    ...row,
    takeId: resolved[0],
    body: {
      ...held,
      takes: resolved,
      filter: meant,
      settings: check(studyKind(row.kind).sentence.schema, {
        ...whole(studyKind(row.kind), held.settings),
        ...settings,
      }),
    } satisfies StudyBody,
  };
  const former = { ...held, settings: whole(studyKind(row.kind), held.settings) };
  const [before, after] = [changeable(former), changeable(bodyOf(next))];
  const differs = !isDeepStrictEqual(before, after);
  const asked = takes !== undefined || filter !== undefined || Object.keys(settings).length > 0;
  if (asked && !differs && stands(app, row)) return { view: view(app, row), done: Promise.resolve() };
  if (differs)
    insertRevision(app.db, {
      at: Date.now(),
      by,
      jobId: row.jobId,
      kind: 'study',
      subject: id,
      says: `${held.name} changed`,
      before,
      after,
    });
  const done = run(app, next, by);
  return { view: view(app, next), done };
}

/** What is done in a moment is told with its result at once: the page need not ask again. */
const AT_ONCE_MS = 150;
export async function soon(
  app: App,
  { view: { id }, done }: { view: StudyView; done: Promise<void> },
): Promise<StudyView> {
  let timer: NodeJS.Timeout | undefined;
  await Promise.race([done, new Promise((resolve) => (timer = setTimeout(resolve, AT_ONCE_MS)))]);
  clearTimeout(timer);
  return viewStudy(app, id);
}

/** Brings all studies of the job up to date that are not. @returns how many were begun */
export function refreshStudies(app: App, by: string): { begun: number; done: Promise<unknown> } {
  const stale = viewStudies(app).filter((s) => s.outOfDate);
  const runs = stale.map((s) => changeStudy(app, s.id, {}, by).done);
  return { begun: stale.length, done: Promise.all(runs) };
}

async function run(app: App, row: StudyRow, by: string): Promise<void> {
  const held = bodyOf(row);
  app.studies.get(row.id)?.stop.abort();
  const job = { progress: 0, stop: new AbortController() };
  app.studies.set(row.id, job);
  // Newer settings, or the removal of the study, have taken its place.
  const replaced = () => app.studies.get(row.id) !== job;
  const finish = (change: Partial<StudyBody>) => putStudy(app.db, { ...row, body: { ...held, ...change } });
  const former = held.resultId;
  finish({ state: 'running', findings: [], rows: undefined, resultId: null, madeFrom: null, fault: null });
  if (former) app.results.remove(former);
  try {
    const inputs = inputsOf(app, row);
    const task: StudyTask = {
      kind: row.kind,
      settings: whole(studyKind(row.kind), held.settings),
      takes: inputs.map(({ take, name, roles, fault }) => ({
        path: takePath(app, take),
        name,
        fault,
        samples: Object.values(roles)
          .flat()
          .reduce((sum, s) => sum + s.length, 0),
        roles: Object.fromEntries(Object.entries(roles).map(([key, of]) => [key, of.map((s) => s.id)])),
      })),
      sensors: listSensors(app.db),
    };
    const made = fingerprint(app, row);
    const outcome = await compute(app.workers, task, {
      progress: (share) => (job.progress = share),
      signal: job.stop.signal,
    });
    if (replaced()) return;
    if ('fault' in outcome)
      throw new FarrierError(outcome.cancelled ? 'cancelled' : 'bad_input', outcome.fault);
    const resultId = randomUUID();
    if (outcome.drawn) app.results.putBoth(resultId, outcome.file, outcome.drawn);
    else app.results.put(resultId, outcome.file);
    finish({
      state: 'done',
      findings: outcome.findings,
      rows: outcome.rows,
      takes: inputs.map((i) => i.take),
      resultId,
      fault: null,
      madeFrom: { coreVersion: CORE_VERSION, settings: made },
    });
    log(app, 'study', `${held.name}: ${view(app, { ...row, body: held }).says}`, { takeId: row.takeId, by });
  } catch (error) {
    if (replaced()) return;
    const none = { findings: [], resultId: null, madeFrom: null };
    if (error instanceof FarrierError && error.code === 'cancelled') finish({ ...none, state: 'cancelled' });
    else {
      const fault = error instanceof FarrierError ? error.text : { what: (error as Error).message };
      finish({ ...none, state: 'failed', fault });
    }
  } finally {
    if (!replaced()) app.studies.delete(row.id);
  }
}

/** @throws `conflict` when it is not running */
export function cancelStudy(app: App, id: string): void {
  const job = app.studies.get(id);
  if (!job)
    throw conflict(
      'study',
      `${bodyOf(getStudy(app.db, id)).name} is not running.`,
      'Its result is there already.',
    );
  job.stop.abort();
}

/** Takes a study away; undo brings it back with its result. */
export function removeStudy(app: App, id: string, by: string): void {
  const row = getStudy(app.db, id);
  forget(app, id);
  insertRevision(app.db, {
    at: Date.now(),
    by,
    jobId: row.jobId,
    kind: 'study',
    subject: id,
    says: `Removed the study ${bodyOf(row).name}.`,
    before: row,
    after: null,
  });
  log(app, 'study', `Removed the study ${bodyOf(row).name}.`, { by });
}

function forget(app: App, id: string): void {
  app.studies.get(id)?.stop.abort();
  app.studies.delete(id);
  deleteStudy(app.db, id);
}

/** Puts a study into the state that a revision holds: its settings, all of it, or null for “not there”. */
export function restoreStudy(app: App, id: string, content: unknown): void {
  if (content === null) return forget(app, id);
  if ('body' in (content as object)) {
    const row = content as StudyRow;
    return putStudy(app.db, { ...row, body: readBody(app.results, row) });
  }
  const { settings, takes, filter = null } = content as StudyChange;
  const row = getStudy(app.db, id);
  const known = takes.length ? takes : bodyOf(row).takes;
  putStudy(app.db, { ...row, takeId: known[0], body: { ...bodyOf(row), settings, takes: known, filter } });
}

/** Computes a study anew where its result is not the one of its settings any more. What cannot be read is said where the study stands. */
export async function followStudy(app: App, id: string, by: string): Promise<void> {
  const row = listStudies(app.db, jobOf(app).id).find((r) => r.id === id);
  if (!row || bodyOf(row).state === 'failed') return;
  try {
    if (isUpToDate(app, row)) return;
  } catch {
    return; // its take is gone or damaged: its view says so
  }
  await run(app, row, by);
}
