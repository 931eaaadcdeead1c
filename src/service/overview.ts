import { badInput } from '$core/errors';
import { columnOf } from '$contract/columns';
import type { Overview } from '$contract/overview';
import {
  getLayout,
  listSensors,
  putLayout,
  listScales,
  listUnits,
  jobPlan,
  listChannels,
  listJobs,
  listPlans,
  listRules,
  listTakes,
} from '$store/entities';
import { jobOf, type App } from './app';
import { boardsOf } from './boards';
import { calibrationsDue } from './calibrate/overview';
import { lastFacts } from './record';
import { listHosts } from './hosts';
import { isDue } from './sensors';
import { viewStudies } from './study/studies';
import { takeFacts } from './takes';
import { shownUnit } from './units';

export function overview(app: App): Overview {
  const job = jobOf(app);
  const channels = listChannels(app.db, job.id);
  const plan = jobPlan(app.db, job.id)!;
  const studies = viewStudies(app);
  const sensors = listSensors(app.db);
  return {
    job,
    jobs: listJobs(app.db),
    channels,
    plan,
    plans: listPlans(app.db, job.id),
    boards: boardsOf(app).map(({ id, name }) => ({ id, name })),
    hosts: listHosts(app),
    rules: listRules(app.db, job.id),
    takes: listTakes(app.db, job.id),
    studies: {
      count: studies.length,
      outOfDate: studies.filter((s) => s.outOfDate).length,
      running: studies.filter((s) => s.state === 'running').length,
    },
    lastFacts: safely(() => lastFacts(app, takeFacts(app))),
    units: listUnits(app.db).map(shownUnit),
    scales: listScales(app.db, job.id),
    columns: getLayout(app.db, job.id, 'channels') as string[] | null,
    unproven: calibrationsDue(app, plan.plan, channels).length,
    sensors: {
      count: sensors.length,
      due: sensors.filter(isDue).length,
      serials: sensors.map((s) => s.serial),
    },
  };
}

/** The facts of the last take are only an offer: a take that cannot be read must not keep the pages from opening. */
function safely(read: () => Record<string, string>): Record<string, string> {
  try {
    return read();
  } catch {
    return {};
  }
}

/** Chooses the columns of the channel table. @throws `bad_input` for a column that there is not */
export function setColumns(app: App, columns: string[]): void {
  for (const key of columns)
    if (!columnOf(key)) throw badInput('column', key, 'Choose columns from the list.');
  putLayout(app.db, jobOf(app).id, 'channels', columns);
}
