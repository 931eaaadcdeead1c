import { createHash } from 'node:crypto';
import { badInput } from '$core/errors';
import { columnOf } from '$contract/columns';
import { ALL_PARTS, type Overview, type Part, type Parts, type Versions } from '$contract/overview';
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
} from '$store/entities';
import { wantsVisit } from '$contract/field';
import { listRecorders } from '$store/recorders';
import { listTakes, nextTakeNumber } from '$store/takes';
import { jobOf, type App } from './app';
import { boardsOf } from './boards';
import { dueOfPlan } from './calibrate/overview';
import { lastFacts } from './record';
import { listHosts } from './hosts';
import { isDue } from './sensors';
import { viewStudies } from './study/studies';
import { takeFacts } from './takes';
import { shownUnit } from './units';

/** Takes that every page knows: more are asked for. */
const NEWEST = 100;

/** How each part is read; no part reads another. */
const READ: { [P in Part]: (app: App) => Overview[P] } = {
  job: (app) => jobOf(app),
  jobs: (app) => listJobs(app.db),
  channels: (app) => listChannels(app.db, jobOf(app).id),
  plan: (app) => jobPlan(app.db, jobOf(app).id)!,
  plans: (app) => listPlans(app.db, jobOf(app).id),
  boards: (app) => boardsOf(app).map(({ id, name }) => ({ id, name })),
  hosts: (app) => listHosts(app),
  rules: (app) => listRules(app.db, jobOf(app).id),
  takes: (app) =>
    listTakes(app.db, jobOf(app).id)
      .slice(0, NEWEST)
      .map(({ id, number, name, folder, state, startedAt, durationMs }) => ({
        id,
        number,
        name,
        folder,
        state,
        startedAt,
        durationMs,
      })),
  taken: (app) => {
    const job = jobOf(app).id;
    return { count: listTakes(app.db, job).length, next: nextTakeNumber(app.db, job) };
  },
  studies: (app) => {
    const studies = viewStudies(app);
    return {
      count: studies.length,
      outOfDate: studies.filter((s) => s.outOfDate).length,
      running: studies.filter((s) => s.state === 'running').length,
    };
  },
  lastFacts: (app) => safely(() => lastFacts(app, takeFacts(app))),
  units: (app) => listUnits(app.db).map(shownUnit),
  scales: (app) => listScales(app.db, jobOf(app).id),
  columns: (app) => getLayout(app.db, jobOf(app).id, 'channels') as string[] | null,
  unproven: (app) => dueOfPlan(app).length,
  field: (app) => {
    const recorders = listRecorders(app.db);
    const stations = app.stations?.list().stations ?? [];
    const attention = recorders.filter(wantsVisit).length + stations.filter((s) => s.concerns.length).length;
    return { stations: stations.length, recorders: recorders.length, attention };
  },
  sensors: (app) => {
    const sensors = listSensors(app.db);
    return {
      count: sensors.length,
      due: sensors.filter(isDue).length,
      serials: sensors.map((s) => s.serial),
    };
  },
};

/** Some parts of what every page shows. @param known versions that the page has: parts that are still those are left out */
export function overviewParts(app: App, wanted: readonly Part[], known: Versions = {}): Parts {
  const parts: Partial<Record<Part, unknown>> = {};
  const versions: Versions = {};
  for (const part of wanted) {
    const value = READ[part](app);
    const version = createHash('sha1')
      .update(JSON.stringify(value) ?? '')
      .digest('base64url');
    if (version === known[part]) continue;
    parts[part] = value;
    versions[part] = version;
  }
  return { parts: parts as Partial<Overview>, versions };
}

/** All of what every page shows. */
export const overview = (app: App): Overview => overviewParts(app, ALL_PARTS).parts as Overview;

/** The facts of the last take are only an offer: a take that cannot be read must not keep the pages from opening. */
function safely(read: () => Record<string, string>): Record<string, string> {
  try {
    return read();
  } catch {
    return {};
  }
}

/** Chooses the columns of the grid of channels. @throws `bad_input` for a column that there is not */
export function setColumns(app: App, columns: string[]): void {
  for (const key of columns)
    if (!columnOf(key)) throw badInput('column', key, 'Choose columns from the list.');
  putLayout(app.db, jobOf(app).id, 'channels', columns);
}
