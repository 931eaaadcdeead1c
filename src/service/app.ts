import { randomUUID } from 'node:crypto';
import { mkdirSync, rmSync } from 'node:fs';
import { basename, join } from 'node:path';
import { LRUCache } from 'lru-cache';
import type { ToneReading } from '$contract/api/calibrate';
import type { FieldPort } from './field/field-port';
import type { RadioPort } from './radio/port';
import type { ModalRuns } from './modal/port';
import type { StationPort } from './field/stations/port';
import type { ImportJob } from './inspect/import-job';
import type { Calibration } from '$contract/calibration-record';
import type { Comparison } from '$contract/comparison';
import { EMPTY_PLAN } from '$contract/plan';
import type { EngineCommand } from '$contract/engine';
import type { Viewer } from '$contract/people';
import type { SealState } from '$contract/take';
import { openDatabase, type Db } from '$store/database';
import { currentJob, insertJob, jobPlan, listChannels, putPlan, type Job } from '$store/entities';
import { closedTakes } from '$store/takes';
import { listed } from './inspect/look-into';
import { insertLog } from '$store/logbook';
import { holdReserve, isDiskFull, isScant, releaseReserve } from '$store/reserve';
import { ResultStore } from '$store/results';
import { recoverTake, takeFiles } from '$store/take/recover';
import { asFarrierError } from '$core/errors';
import { AlarmKeeper } from './alarms';
import { LeftOut } from './left-out';
import { LiveHub } from './live-hub';
import type { OutgoingJob } from './outgoing-job';
import { Controls } from './people';
import { Workers } from './pool';
import { tidyModal } from './modal/tidy';
import { tidyStudies } from './study/earlier';
import { TakeLeases } from './take-leases';

/** Whatever carries out commands of the engine: the engine process, or nothing while a job is only prepared. */
export interface EnginePort {
  command(command: EngineCommand): Promise<unknown>;
}
const NO_ENGINE: EnginePort = { command: () => Promise.resolve() };

/** Everything a service needs. */
export interface App {
  db: Db;
  folder: string;
  engine: EnginePort;
  live: LiveHub;
  alarms: AlarmKeeper;
  controls: Controls;
  leftOut: LeftOut;
  /** Readers of takes, lent to whoever reads. */
  takes: TakeLeases;
  /** What was found of the seals of takes, by the state of their files. */
  seals: Map<string, { stamp: string; state: SealState }>;
  workers: Workers;
  /** Studies that run. */
  studies: Map<string, { progress: number; stop: AbortController }>;
  results: ResultStore;
  /** Modal analyses: what runs of them, and the files of what was found. */
  modal: { runs: ModalRuns; results: ResultStore };
  /** Files that are being brought in. */
  imports: Map<string, ImportJob>;
  /** Files that are being made, or wait to be taken. */
  outgoing: Map<string, OutgoingJob>;
  /** Instruments of the field; null where nobody looks after them. */
  field: FieldPort | null;
  stations: StationPort | null;
  radio: RadioPort | null;
  /** What was measured and can be accepted as it was shown: the last tone of each channel, the last comparisons. */
  proving: {
    tones: Map<string, { tone: ToneReading; hz: number }>;
    comparisons: LRUCache<string, { found: Comparison; accepted: Calibration | null }>;
  };
}

/** Opens the data folder: database with migrations applied, takes found, those left open by a crash closed. */
export function openApp(folder: string, firstJob = { name: 'First job', place: 'Bench' }): App {
  mkdirSync(join(folder, 'takes'), { recursive: true });
  const db = openJobs(folder);
  const live = new LiveHub();
  const controls: Controls = new Controls(
    () => live.setPeople(controls.state),
    (says, by) => log(app, 'controls', says, { by }),
  );
  live.onPerson = (viewer, watches) => controls.enter(viewer, watches);
  if (!currentJob(db)) startJob({ db }, firstJob.name, firstJob.place);
  const alarms = new AlarmKeeper({
    db,
    jobId: () => currentJob(db)!.id,
    channels: () => listChannels(db, currentJob(db)!.id),
    log: (says, by) => log(app, 'alarm', says, { by }),
    tell: (news) => live.setAlarms(news),
  });
  const results = new ResultStore(folder);
  const app: App = {
    db,
    folder,
    engine: NO_ENGINE,
    live,
    alarms,
    controls,
    leftOut: new LeftOut(),
    takes: new TakeLeases(),
    seals: new Map(),
    workers: new Workers(),
    studies: new Map(),
    results,
    modal: { runs: new Map(), results: new ResultStore(folder, 'modal') },
    imports: new Map(),
    outgoing: new Map(),
    field: null,
    stations: null,
    radio: null,
    proving: { tones: new Map(), comparisons: new LRUCache({ max: 50 }) },
  };
  live.setAlarms(alarms.current);
  for (const passing of ['incoming', 'outgoing'])
    rmSync(join(folder, passing), { recursive: true, force: true });
  holdReserve(folder);
  const closed = closedTakes(db);
  for (const path of takeFiles(join(folder, 'takes'))) {
    // Files are opened only where they say something new: there may be thousands.
    if (closed.has(basename(path, '.take'))) continue;
    try {
      const head = recoverTake(path, KILLED);
      const before = db.$client.prepare('SELECT state FROM takes WHERE id = ?').get(head.id) as
        { state: string } | undefined;
      const jobId = jobPlan(db, head.jobId) ? head.jobId : currentJob(db)!.id;
      listed(app, { ...head, jobId }, (head.lengthNs ?? 0) / 1e6);
      if (head.state === 'interrupted' && before?.state === 'recording')
        log(app, 'ended', `${head.name} was interrupted: ${KILLED}.`, {
          takeId: head.id,
        });
    } catch (error) {
      log(app, 'trouble', asFarrierError(error, path).message);
    }
  }
  try {
    tidyStudies(db, results);
    tidyModal(db, app.modal.results);
  } catch (error) {
    log(
      app,
      'trouble',
      `Results of studies could not be put in order: ${asFarrierError(error, 'results').message}`,
    );
  }
  return app;
}

/** A browser goes by another name from now on, on all its open pages. */
export function renameViewer({ live, controls }: App, viewer: Viewer): void {
  live.rename(viewer);
  controls.rename(viewer);
}

/** Lets go of all files and threads. */
export async function closeApp(app: App): Promise<void> {
  for (const { stop } of [...app.studies.values(), ...app.imports.values()]) stop.abort();
  await app.workers.close();
  app.takes.closeAll();
}

/** Why a take is found open at a start. */
const KILLED =
  'Farrier was killed or the power failed; all but the last quarter of a second before this moment is kept';

/** The job database; where the disk is full, with the help of the room that is held for that. @throws FarrierError when it is damaged */
function openJobs(folder: string): Db {
  const path = join(folder, 'farrier.db');
  try {
    return openDatabase(path);
  } catch (error) {
    if (!isDiskFull(error) && !isScant(folder)) throw error;
    if (!releaseReserve(folder))
      throw Object.assign(new Error('The disk is full.', { cause: error }), { code: 'ENOSPC' });
    return openDatabase(path);
  }
}

/** Makes a job with an empty plan and goes on with it. */
export function startJob(app: Pick<App, 'db'>, name: string, place: string): Job {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const job: Job = { id: randomUUID(), name, place, zone, createdAt: Date.now(), current: false };
  insertJob(app.db, job);
  putPlan(app.db, job.id, { id: randomUUID(), name: 'By hand', plan: EMPTY_PLAN });
  app.db.$client.prepare('UPDATE jobs SET current = (id = ?)').run(job.id);
  return job;
}

/** The job that is worked on. */
export const jobOf = (app: App): Job => currentJob(app.db)!;
export const takePath = (app: App, id: string) =>
  join(app.folder, 'takes', `${id.replace(/[^\w-]/g, '')}.take`);

/** Writes the logbook and tells the open pages. */
export function log(
  app: App,
  kind: string,
  says: string,
  options: {
    takeId?: string | null;
    by?: string;
    atMs?: number;
    picture?: { type: string; content: Buffer };
  } = {},
): void {
  const { takeId = null, by = 'Farrier', atMs = Date.now(), picture } = options;
  try {
    insertLog(app.db, { at: Math.round(atMs), jobId: jobOf(app).id, takeId, kind, says, by, picture });
    app.live.note({ kind, says, atMs, by });
  } catch (error) {
    // What happened is told to the open pages all the same; that it could not be kept is said, too.
    console.error(`${says.slice(0, 300)} (not kept: ${(error as Error).message})`);
    const why = isDiskFull(error)
      ? ' The disk is full: this is not kept in the logbook. Free at least 50 MB.'
      : '';
    app.live.note({ kind: why ? 'trouble' : kind, says: says + why, atMs, by });
    if (!why) throw error;
  }
}
