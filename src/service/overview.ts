import type { Overview } from '$contract/overview';
import { jobPlan, listChannels, listJobs, listRules, listTakes } from '$store/entities';
import { jobOf, type App } from './app';
import { lastFacts } from './record';
import { catalogue } from './server';
import { viewStudies } from './studies';
import { takeFacts } from './takes';

export function overview(app: App): Overview {
  const job = jobOf(app);
  const studies = viewStudies(app);
  return {
    job,
    jobs: listJobs(app.db),
    channels: listChannels(app.db, job.id),
    plan: jobPlan(app.db, job.id)!,
    rules: listRules(app.db, job.id),
    takes: listTakes(app.db, job.id),
    studies: {
      count: studies.length,
      outOfDate: studies.filter((s) => s.outOfDate).length,
      running: studies.filter((s) => s.state === 'running').length,
    },
    lastFacts: safely(() => lastFacts(app, takeFacts(app))),
    catalogue: catalogue(),
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
