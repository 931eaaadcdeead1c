import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { EMPTY_PLAN } from '$contract/plan';
import type { EngineCommand } from '$contract/engine';
import { openDatabase, type Db } from '$store/database';
import { currentJob, insertJob, jobPlan, listChannels, putPlan, putTake, type Job } from '$store/entities';
import { insertLog } from '$store/logbook';
import { recoverTake, takeFiles } from '$store/take/recover';
import { asFarrierError } from '$core/errors';
import { AlarmKeeper } from './alarms';
import { LiveHub } from './live-hub';
import { Controls } from './people';

/** Whatever carries out commands of the engine: the engine process, or nothing while a job is only prepared. */
export interface EnginePort {
  command(command: EngineCommand): Promise<unknown>;
}
export const NO_ENGINE: EnginePort = { command: () => Promise.resolve() };

/** Everything a service needs. */
export interface App {
  db: Db;
  folder: string;
  engine: EnginePort;
  live: LiveHub;
  alarms: AlarmKeeper;
  controls: Controls;
}

/** Opens the data folder: database with migrations applied, takes found, those left open by a crash closed. */
export function openApp(folder: string, firstJob = { name: 'First job', place: 'Bench' }): App {
  mkdirSync(join(folder, 'takes'), { recursive: true });
  const db = openDatabase(join(folder, 'farrier.db'));
  const live = new LiveHub();
  const controls: Controls = new Controls(() => live.setPeople(controls.state));
  live.onPerson = (viewer, watches) => controls.enter(viewer, watches);
  if (!currentJob(db)) startJob({ db }, firstJob.name, firstJob.place);
  const alarms = new AlarmKeeper({
    db,
    jobId: () => currentJob(db)!.id,
    channels: () => listChannels(db, currentJob(db)!.id),
    log: (says, by) => log(app, 'alarm', says, { by }),
    tell: (news) => live.setAlarms(news),
  });
  const app: App = { db, folder, engine: NO_ENGINE, live, alarms, controls };
  for (const path of takeFiles(join(folder, 'takes'))) {
    try {
      const head = recoverTake(path);
      const before = db.$client.prepare('SELECT state FROM takes WHERE id = ?').get(head.id) as
        { state: string } | undefined;
      const listed = currentJob(db)!;
      putTake(
        db,
        { ...head, jobId: jobPlan(db, head.jobId) ? head.jobId : listed.id },
        (head.lengthNs ?? 0) / 1e6,
      );
      if (head.state === 'interrupted' && before?.state === 'recording')
        log(app, 'ended', `${head.name} was interrupted; all up to its last moment is kept.`, {
          takeId: head.id,
        });
    } catch (error) {
      log(app, 'trouble', asFarrierError(error, path).message);
    }
  }
  return app;
}

/** Makes a job with an empty plan and goes on with it. */
export function startJob(app: Pick<App, 'db'>, name: string, place: string): Job {
  const job: Job = { id: randomUUID(), name, place, createdAt: Date.now(), current: false };
  insertJob(app.db, job);
  putPlan(app.db, job.id, { id: randomUUID(), name: 'Plan', plan: EMPTY_PLAN });
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
  insertLog(app.db, { at: Math.round(atMs), jobId: jobOf(app).id, takeId, kind, says, by, picture });
  app.live.note({ kind, says, atMs, by });
}
