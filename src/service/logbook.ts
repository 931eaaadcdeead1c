import { listLog } from '$store/entities';
import { jobOf, log, type App } from './app';
import { BENCH } from './setup/change';

const PAGE = 200;

/** Entries of the job, newest first. @param before id of the oldest one already shown */
export const logPage = (app: App, before?: number) => listLog(app.db, jobOf(app).id, PAGE, before);

/** A person's note; it keeps its time, and its take while one is recorded. */
export function addNote(app: App, says: string, by = BENCH): void {
  log(app, 'note', says, {
    by,
    takeId: app.live.status.state === 'Recording' ? app.live.status.take?.id : null,
  });
}
