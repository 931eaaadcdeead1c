import { conflict } from '$core/errors';
import { makeJobCurrent, type Job } from '$store/entities';
import { jobOf, log, startJob, type App } from './app';
import { pushSetup } from './setup/change';

const idle = (app: App) => {
  if (app.live.status.state !== 'Watching')
    throw conflict('job', 'A take is armed or being recorded.', 'End it first, then change the job.');
};

/** Makes a job and goes on with it. @throws `conflict` while a take runs */
export async function newJob(app: App, name: string, place: string, by: string): Promise<Job> {
  idle(app);
  const job = startJob(app, name, place);
  log(app, 'job', `Job “${name}” was made.`, { by });
  app.alarms.otherJob();
  await pushSetup(app);
  return job;
}

/** Switches to another job. @throws `not_found`, `conflict` while a take runs */
export async function goOnWith(app: App, id: string, by: string): Promise<void> {
  idle(app);
  makeJobCurrent(app.db, id);
  log(app, 'job', `Went on with the job “${jobOf(app).name}”.`, { by });
  app.alarms.otherJob();
  await pushSetup(app);
}
