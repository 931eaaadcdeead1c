import { randomUUID } from 'node:crypto';
import { FarrierError, badInput, conflict } from '$core/errors';
import { sentenceText, type Names } from '$core/sentence/sentence';
import { STUDY_KINDS, studyKind } from '$core/studies/registry';
import { CORE_VERSION } from '$core/version';
import type { StudyBody, StudyView, TrailStep } from '$contract/study';
import {
  deleteStudy,
  getStudy,
  getTake,
  insertRevision,
  listSensors,
  listStudies,
  putStudy,
  type StudyRow,
} from '$store/entities';
import { jobOf, log, takePath, type App } from './app';
import { BENCH, check } from './setup/change';
import { inWorker, wasCancelled } from './pool';
import type { StudyOutcome, StudyTask } from './run-study';
import type { StoredSignal } from '$store/take/reader';
import { channelThen, describeSignal, openTake } from './takes';

const running = new Map<string, { progress: number; cancel: () => void }>();
export const studyKinds = () => STUDY_KINDS.map(({ kind, title, purpose }) => ({ kind, title, purpose }));

const body = (row: StudyRow) => row.body as StudyBody;

function namesIn(app: App, takeId: string): Names {
  const byId = new Map(openTake(app, takeId).signals.map((s) => [s.channelId, s]));
  return { channel: (id) => byId.get(id) };
}

function view(app: App, row: StudyRow): StudyView {
  const kind = studyKind(row.kind);
  const held = body(row);
  const take = getTake(app.db, row.takeId);
  return {
    ...held,
    id: row.id,
    kind: row.kind,
    title: kind.title,
    takeId: row.takeId,
    takeName: take.name,
    createdAt: row.createdAt,
    progress: running.get(row.id)?.progress ?? (held.state === 'done' ? 1 : 0),
    // A study that was running when the server stopped is not running any more.
    state: held.state === 'running' && !running.has(row.id) ? 'cancelled' : held.state,
    outOfDate:
      held.state === 'done' &&
      (held.madeFrom?.coreVersion !== CORE_VERSION || held.madeFrom.settings !== fingerprint(app, row)),
    says: sentenceText(kind.sentence, held.settings, namesIn(app, row.takeId)),
  };
}

/** What a result depends on: settings, and the conversion of each channel it reads. */
function fingerprint(app: App, row: StudyRow): string {
  const reader = openTake(app, row.takeId);
  return JSON.stringify([body(row).settings, inputsOf(app, row).map((id) => meaningOf(reader.signal(id)))]);
}

/** A signal that was computed anew keeps its conversion, so its revision counts, too. */
const meaningOf = ({ conversion, revision }: StoredSignal) =>
  revision > 1 ? [conversion, revision] : conversion;

/** Brings all studies of the job up to date that are not. @returns how many were begun */
export function refreshStudies(app: App, by = BENCH): { begun: number; done: Promise<unknown> } {
  const stale = viewStudies(app).filter((s) => s.outOfDate);
  const runs = stale.map((s) => changeStudy(app, s.id, {}, by).done);
  return { begun: stale.length, done: Promise.all(runs) };
}

export const viewStudy = (app: App, id: string): StudyView => view(app, getStudy(app.db, id));
export const viewStudies = (app: App): StudyView[] =>
  listStudies(app.db, jobOf(app).id).map((row) => view(app, row));

/** Begins a study with its kind's usual settings and some chosen ones. It runs on by itself; its view tells the progress.
 *  @throws `bad_input` for settings against the schema, `not_found` */
export function startStudy(
  app: App,
  input: { kind: string; takeId: string; settings?: Record<string, unknown>; name?: string },
  by = BENCH,
): { view: StudyView; done: Promise<void> } {
  const kind = studyKind(input.kind);
  getTake(app.db, input.takeId);
  const row: StudyRow = {
    id: randomUUID(),
    jobId: jobOf(app).id,
    takeId: input.takeId,
    position: Date.now(),
    kind: kind.kind,
    createdAt: Date.now(),
    body: {
      name: input.name ?? kind.title,
      settings: check(kind.sentence.schema, { ...kind.defaults, ...input.settings }),
      state: 'running',
      result: null,
      fault: null,
      madeFrom: null,
    } satisfies StudyBody,
  };
  const done = run(app, row, by);
  return { view: view(app, row), done };
}

/** Changes settings and computes anew. @throws `bad_input` */
export function changeStudy(
  app: App,
  id: string,
  settings: Record<string, unknown>,
  by = BENCH,
): { view: StudyView; done: Promise<void> } {
  const row = getStudy(app.db, id);
  const held = body(row);
  const next: StudyRow = {
    ...row,
    body: {
      ...held,
      settings: check(studyKind(row.kind).sentence.schema, { ...held.settings, ...settings }),
    },
  };
  running.get(id)?.cancel();
  const done = run(app, next, by);
  insertRevision(app.db, {
    at: Date.now(),
    by,
    jobId: row.jobId,
    kind: 'study',
    subject: id,
    says: `${held.name} changed`,
    before: row,
    after: next,
  });
  return { view: view(app, next), done };
}

function inputsOf(app: App, row: StudyRow): number[] {
  const reader = openTake(app, row.takeId);
  const chosen = body(row).settings.channels as string[];
  const signals = reader.signals.filter(
    (s) => s.channelId && (chosen.length === 0 || chosen.includes(s.channelId)),
  );
  if (signals.length === 0)
    throw badInput('channels', chosen.length, 'None of them is in this take: choose others.');
  return signals.map((s) => s.id);
}

async function run(app: App, row: StudyRow, by: string): Promise<void> {
  const held = body(row);
  const finish = (change: Partial<StudyBody>) => putStudy(app.db, { ...row, body: { ...held, ...change } });
  finish({ state: 'running', result: null, fault: null });
  const job = { progress: 0, cancel: () => undefined as void };
  running.set(row.id, job);
  try {
    const task: StudyTask = {
      path: takePath(app, row.takeId),
      kind: row.kind,
      settings: held.settings,
      signals: inputsOf(app, row),
      sensors: listSensors(app.db),
    };
    const made = fingerprint(app, row);
    const outcome = await execute(task, job);
    if (running.get(row.id) !== job) return; // replaced by newer settings
    if ('fault' in outcome) throw new FarrierError('bad_input', outcome.fault);
    finish({
      state: 'done',
      result: outcome.result,
      fault: null,
      madeFrom: { coreVersion: CORE_VERSION, settings: made },
    });
    log(app, 'study', `${held.name}: ${view(app, { ...row, body: held }).says}`, { takeId: row.takeId, by });
  } catch (error) {
    if (running.get(row.id) !== job) return;
    if (wasCancelled(error)) finish({ state: 'cancelled' });
    else
      finish({
        state: 'failed',
        fault: error instanceof FarrierError ? error.text : { what: (error as Error).message },
      });
  } finally {
    if (running.get(row.id) === job) running.delete(row.id);
  }
}

async function execute(
  task: StudyTask,
  job: { progress: number; cancel: () => void },
): Promise<StudyOutcome> {
  return inWorker('runStudy', task, {
    progress: (share) => (job.progress = share),
    cancellable: (cancel) => (job.cancel = cancel),
  });
}

/** @throws `conflict` when it is not running */
export function cancelStudy(app: App, id: string): void {
  const job = running.get(id);
  if (!job)
    throw conflict(
      'study',
      `${body(getStudy(app.db, id)).name} is not running.`,
      'Its result is there already.',
    );
  job.cancel();
}

/** Takes a study away; undo brings it back with its result. */
export function removeStudy(app: App, id: string, by = BENCH): void {
  const row = getStudy(app.db, id);
  running.get(id)?.cancel();
  running.delete(id);
  deleteStudy(app.db, id);
  insertRevision(app.db, {
    at: Date.now(),
    by,
    jobId: row.jobId,
    kind: 'study',
    subject: id,
    says: `Removed the study ${body(row).name}.`,
    before: row,
    after: null,
  });
  log(app, 'study', `Removed the study ${body(row).name}.`, { by });
}

/** The trail of a result: study → take → each channel as it was → calibration → sensor. */
export function trailOf(app: App, id: string): TrailStep[] {
  const row = getStudy(app.db, id);
  const reader = openTake(app, row.takeId);
  const { head } = reader;
  const channels = inputsOf(app, row).flatMap((signalId): TrailStep[] => {
    const signal = reader.signal(signalId);
    const channel = channelThen(signal);
    const described = describeSignal(signal);
    return [
      { what: `Channel ${signal.name}`, says: described.sentence },
      {
        what: 'Calibration',
        says: `${described.calibration}${described.corrected ? `; ${described.corrected}` : ''}`,
      },
      {
        what: 'Sensor',
        says: channel?.wire
          ? `${channel.sensorSerial ? `serial ${channel.sensorSerial}, ` : ''}wired to ${channel.wire.terminal} of unit ${channel.wire.unit}`
          : 'none: computed',
      },
    ];
  });
  const facts = Object.entries(head.facts)
    .map(([name, value]) => `${name}: ${value}`)
    .join(', ');
  return [
    {
      what: `Study ${body(row).name}`,
      says: `${view(app, row).says} Computed with core version ${body(row).madeFrom?.coreVersion ?? CORE_VERSION}.`,
    },
    {
      what: `Take ${head.name}`,
      says: `${new Date(Number(BigInt(head.startNs) / 1_000_000n)).toISOString()}, ${reader.durationS.toFixed(1)} s. ${facts}. ${head.planText}`,
    },
    ...channels,
  ];
}
