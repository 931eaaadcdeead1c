import { randomUUID } from 'node:crypto';
import { FarrierError } from '$core/errors';
import { sentenceText } from '$core/sentence/sentence';
import { CORE_VERSION } from '$core/version';
import { planSentence, takeName } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { jobPlan, listChannels, listTakes, nextTakeNumber } from '$store/entities';
import { jobOf, takePath, type App } from './app';
import { calibrationsDue } from './calibrate/overview';
import { BENCH, namesOf } from './setup/change';

/** Arms a take by the job's plan. Every fact the plan asks for has to be given.
 *  @throws `bad_input` for a missing fact, `conflict` when one is armed already or its channels are not measured */
export async function armTake(app: App, facts: Record<string, string>, by = BENCH): Promise<TakeHead> {
  const job = jobOf(app);
  const { plan } = jobPlan(app.db, job.id)!;
  const given: Record<string, string> = {};
  for (const fact of plan.facts) {
    const value = facts[fact]?.trim();
    if (!value)
      throw new FarrierError('bad_input', {
        what: `“${fact}” is not given.`,
        where: fact,
        next: 'The plan asks for it, so that the data keep their context.',
      });
    given[fact] = value.slice(0, 200);
  }
  const number = nextTakeNumber(app.db, job.id);
  const id = randomUUID();
  const head: TakeHead = {
    id,
    jobId: job.id,
    job: job.name,
    number,
    name: takeName(plan.naming, given, number) || `Take ${number}`,
    state: 'recording',
    startNs: '0',
    lengthNs: null,
    facts: given,
    plan,
    planText: sentenceText(planSentence, plan, namesOf(listChannels(app.db, job.id))),
    coreVersion: CORE_VERSION,
  };
  await app.engine.command({ do: 'arm', head, plan, path: takePath(app, id), by });
  const due = calibrationsDue(app, plan);
  if (due.length)
    await app.engine.command({
      do: 'mark',
      says: `Armed with ${due.length} channel${due.length === 1 ? '' : 's'} not proven: ${due
        .slice(0, 8)
        .map((d) => `${d.name} ${d.verdict}`)
        .join(', ')}${due.length > 8 ? ' …' : ''}`.slice(0, 500),
      by,
    });
  return head;
}

export const startTake = (app: App) => app.engine.command({ do: 'start' });
export const endTake = (app: App) => app.engine.command({ do: 'end' });
export const disarm = (app: App) => app.engine.command({ do: 'disarm' });
export const mark = (app: App, says: string, by = BENCH) =>
  app.engine.command({ do: 'mark', says: says.trim() || 'Mark', by });
/** @param value in the channel's unit @throws `bad_input` outside its range */
export const setOutput = (app: App, channelId: string, value: number) =>
  app.engine.command({ do: 'output', channelId, value });
export const allToRest = (app: App) => app.engine.command({ do: 'rest' });

/** The facts given last, to be offered again. */
export function lastFacts(app: App, read: (id: string) => Record<string, string>): Record<string, string> {
  const [last] = listTakes(app.db, jobOf(app).id);
  return last ? read(last.id) : {};
}
