import { randomUUID } from 'node:crypto';
import { FarrierError, asFarrierError, badInput, conflict } from '$core/errors';
import { sentenceText, type Names } from '$core/sentence/sentence';
import { signalsByRole, usualInputs } from '$core/studies/inputs';
import { STUDY_KINDS, studyKind } from '$core/studies/registry';
import { CORE_VERSION } from '$core/version';
import type { StudyBody, StudyView } from '$contract/study';
import { deleteStudy, getStudy, listSensors, listStudies, putStudy, type StudyRow } from '$store/entities';
import { getTake, listTakes } from '$store/takes';
import { insertRevision } from '$store/revisions';
import type { StoredSignal } from '$store/take/signals';
import { jobOf, log, takePath, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import type { StudyTask } from './run';
import { readBody } from './earlier';

export const studyKinds = () =>
  STUDY_KINDS.map(({ kind, title, purpose, takes }) => ({ kind, title, purpose, takes: takes ?? null }));

export const bodyOf = (row: Pick<StudyRow, 'body'>) => row.body as StudyBody;
/** What a change of a study leaves in the history: nothing of its result. */
type StudyChange = Pick<StudyBody, 'settings' | 'takes'>;
const changeable = ({ settings, takes }: StudyBody): StudyChange => ({ settings, takes });

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
    takeName: held.takes.map((id) => takeNameOf(app, id)).join(', '),
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
      says: sentenceText(kind.sentence, held.settings, namesIn(app, held.takes)),
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

/** The name a take is listed under, even where its file cannot be read. */
function takeNameOf(app: App, takeId: string): string {
  try {
    return getTake(app.db, takeId).name;
  } catch {
    return 'a take that is gone';
  }
}

/** Signals of each take of a study, by their role. @throws `bad_input`, `not_found`, `damaged` */
export function inputsOf(app: App, row: StudyRow): Record<string, StoredSignal[]>[] {
  const kind = studyKind(row.kind);
  const { settings, takes } = bodyOf(row);
  const { least, most } = kind.takes ?? { least: 1, most: 1 };
  if (takes.length < least || takes.length > most)
    throw badInput(
      'takes',
      takes.length,
      least === most ? `It looks at ${least}.` : `It looks at ${least} to ${most} takes.`,
    );
  return takes.map((id) => {
    const reader = openTake(app, id);
    const offered = reader.signals
      .filter((s) => s.channelId)
      .map((signal) => ({
        id: signal.channelId!,
        name: signal.name,
        unit: signal.unit,
        width: signal.width,
        signal,
      }));
    const roles = signalsByRole(kind, settings, offered, reader.head.name);
    return Object.fromEntries(Object.entries(roles).map(([key, of]) => [key, of.map((o) => o.signal)]));
  });
}

/** What a result depends on: settings, and the conversion of each channel it reads. */
function fingerprint(app: App, row: StudyRow): string {
  const { settings, takes } = bodyOf(row);
  const meanings = inputsOf(app, row).flatMap((roles) => Object.values(roles).flat().map(meaningOf));
  return JSON.stringify(takes.length === 1 ? [settings, meanings] : [settings, meanings, takes]);
}
/** A signal that was computed anew keeps its conversion, so its revision counts, too. */
const meaningOf = ({ conversion, revision }: StoredSignal) =>
  revision > 1 ? [conversion, revision] : conversion;

function isUpToDate(app: App, row: StudyRow): boolean {
  const { madeFrom, resultId } = bodyOf(row);
  return (
    resultId !== null &&
    app.results.has(resultId) &&
    madeFrom?.coreVersion === CORE_VERSION &&
    madeFrom.settings === fingerprint(app, row)
  );
}

/** Whether its settings are being computed, or have their result. */
const stands = (app: App, row: StudyRow): boolean =>
  app.studies.has(row.id) || (bodyOf(row).state === 'done' && isUpToDate(app, row));

export const viewStudy = (app: App, id: string): StudyView => view(app, getStudy(app.db, id));
export const viewStudies = (app: App): StudyView[] =>
  listStudies(app.db, jobOf(app).id).map((row) => view(app, row));

/** The file of a study's result, as it is sent. @throws `not_found` where there is none */
export const resultFile = (app: App, id: string): Uint8Array =>
  app.results.read(bodyOf(getStudy(app.db, id)).resultId ?? 'none');

/** What begins a study: the kind, its takes, what is looked at there (`shown`, ids of channels) and settings of one’s own. */
export interface NewStudy {
  kind: string;
  takeId: string;
  takes?: string[];
  shown?: string[];
  settings?: Record<string, unknown>;
  name?: string;
}

/** Begins a study with its kind's usual settings and some chosen ones. It runs on by itself; its view tells the progress.
 *  @throws `bad_input` for settings against the schema, `not_found` */
export function startStudy(app: App, input: NewStudy, by: string): { view: StudyView; done: Promise<void> } {
  const kind = studyKind(input.kind);
  const takes = input.takes ?? usualTakes(app, input.takeId, kind.takes?.least ?? 1);
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
): { view: StudyView; done: Promise<void> } {
  const row = getStudy(app.db, id);
  const held = bodyOf(row);
  for (const take of takes ?? []) getTake(app.db, take);
  const next: StudyRow = {
    ...row,
    takeId: takes?.[0] ?? row.takeId,
    body: {
      ...held,
      takes: takes ?? held.takes,
      settings: check(studyKind(row.kind).sentence.schema, { ...held.settings, ...settings }),
    } satisfies StudyBody,
  };
  const [before, after] = [changeable(held), changeable(bodyOf(next))];
  const differs = JSON.stringify(before) !== JSON.stringify(after);
  const asked = takes !== undefined || Object.keys(settings).length > 0;
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
  finish({ state: 'running', findings: [], resultId: null, madeFrom: null, fault: null });
  if (former) app.results.remove(former);
  try {
    const inputs = inputsOf(app, row);
    const task: StudyTask = {
      kind: row.kind,
      settings: held.settings,
      takes: held.takes.map((id, k) => ({
        path: takePath(app, id),
        name: getTake(app.db, id).name,
        roles: Object.fromEntries(Object.entries(inputs[k]).map(([key, of]) => [key, of.map((s) => s.id)])),
      })),
      sensors: listSensors(app.db),
    };
    const made = fingerprint(app, row);
    const outcome = await app.workers.do('runStudy', task, {
      progress: (share) => (job.progress = share),
      signal: job.stop.signal,
    });
    if (replaced()) return;
    if ('fault' in outcome)
      throw new FarrierError(outcome.cancelled ? 'cancelled' : 'bad_input', outcome.fault);
    const resultId = randomUUID();
    app.results.put(resultId, outcome.file);
    finish({
      state: 'done',
      findings: outcome.findings,
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
  const { settings, takes } = content as StudyChange;
  const row = getStudy(app.db, id);
  putStudy(app.db, { ...row, takeId: takes[0], body: { ...bodyOf(row), settings, takes } });
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
