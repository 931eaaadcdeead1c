import { FarrierError } from '$core/errors';
import { CORE_VERSION } from '$core/version';
import { planText } from '$contract/plan';
import type { Rehearsal } from '$contract/rehearsal';
import { ruleText } from '$contract/rule';
import { listRules } from '$store/entities';
import { getTake } from '$store/takes';
import { jobOf, takePath, type App } from './app';
import { channelsOf } from './setup/change';
import { namesOf } from './setup/patch';
import { planOf } from './setup/plan';

/** Lets a plan and the job's rules run over a recorded take, faster than real time, and tells what would have happened.
 *  @throws `not_found`, `bad_input` when the take holds none of the channels */
export async function rehearseTake(app: App, takeId: string, planId: string): Promise<Rehearsal> {
  getTake(app.db, takeId);
  const { plan, name } = planOf(app, planId);
  const channels = channelsOf(app);
  const names = namesOf(channels);
  const job = jobOf(app);
  const outcome = await app.workers.do('rehearse', {
    path: takePath(app, takeId),
    channels,
    plan,
    rules: listRules(app.db, job.id).map(({ id, rule }) => ({ id, rule, says: ruleText(rule, names) })),
    head: {
      id: 'rehearsal',
      jobId: job.id,
      job: job.name,
      number: 1,
      name: 'The take',
      state: 'recording',
      startNs: '0',
      lengthNs: null,
      facts: {},
      plan,
      planText: planText(plan, names),
      coreVersion: CORE_VERSION,
      planName: name,
      folder: '',
      part: null,
    },
  });
  if ('fault' in outcome) throw new FarrierError('bad_input', outcome.fault);
  return outcome.result;
}
