import { randomUUID } from 'node:crypto';
import { FarrierError, badInput } from '$core/errors';
import { fixed, rangeDecimals } from '$core/readings';
import { CORE_VERSION } from '$core/version';
import { commonOf } from '$contract/channel';
import { checkFact } from '$contract/fact';
import { planText, startAtFault, takeName } from '$contract/plan';
import { objections, type PreflightCheck } from '$contract/preflight';
import type { TakeHead } from '$contract/take';
import { jobPlan } from '$store/entities';
import { listTakes, nextTakeNumber } from '$store/takes';
import { jobOf, takePath, type App } from './app';
import { keepNoise, preflight } from './preflight';
import { channelsOf } from './setup/change';
import { namesOf } from './setup/patch';
import { planOf } from './setup/plan';

/** The list to look through before the plan that is armed next. */
export const preflightNow = (app: App): PreflightCheck[] => preflight(app, jobPlan(app.db, jobOf(app).id)!);

/** Arms a take by a plan. Every fact the plan asks for has to be given, and a reason where the pre-flight list objects.
 *  @param planId the one that is armed next when left out
 *  @throws `bad_input` for a missing or wrong fact or reason, `conflict` when one is armed already or its channels are not measured */
export async function armTake(
  app: App,
  facts: Record<string, string>,
  { by, reason = '', planId }: { by: string; reason?: string; planId?: string },
): Promise<TakeHead> {
  const job = jobOf(app);
  const named = planId ? planOf(app, planId) : jobPlan(app.db, job.id)!;
  const { plan } = named;
  const channels = channelsOf(app);
  const given: Record<string, string> = {};
  for (const fact of plan.facts) {
    const answer = fact.kind === 'channel' ? readingOf(app, fact.channel) : checkFact(fact, facts[fact.name]);
    if (answer) given[fact.name] = answer;
  }
  const checks = preflight(app, named);
  const against = objections(checks);
  if (against.length && !reason.trim())
    throw new FarrierError('bad_input', {
      what: `${against.length === 1 ? 'Something is' : `${against.length} things are`} wrong or doubtful: ${against
        .slice(0, 3)
        .map((c) => `${c.where} ${c.what}`)
        .join('; ')}${against.length > 3 ? ' …' : ''}.`,
      where: 'reason',
      next: 'Mend it, or say why the take is armed all the same.',
    });
  const wrongTime = plan.start === 'at a time' ? startAtFault(plan.startAt, Date.now()) : null;
  if (wrongTime) throw badInput('time', plan.startAt, wrongTime);
  const number = nextTakeNumber(app.db, job.id);
  const id = randomUUID();
  const at = { plan: named.name, atMs: Date.now() };
  const head: TakeHead = {
    id,
    jobId: job.id,
    job: job.name,
    number,
    name: takeName(plan.naming, given, number, at) || `Take ${number}`,
    state: 'recording',
    startNs: '0',
    lengthNs: null,
    facts: given,
    plan,
    planText: planText(plan, namesOf(channels)),
    coreVersion: CORE_VERSION,
    planName: named.name,
    folder: takeName(plan.folder, given, number, at),
    part: null,
  };
  await app.engine.command({ do: 'arm', head, plan, path: takePath(app, id), by });
  for (const says of notesOf(against, reason))
    await app.engine.command({ do: 'mark', says, by, kind: 'pre-flight' });
  keepNoise(
    app,
    named.id,
    channels.filter((c) => plan.channels.length === 0 || plan.channels.includes(c.id)),
  );
  return head;
}

/** What stands in the take of the list that was passed over, and why. */
function notesOf(against: PreflightCheck[], reason: string): string[] {
  if (against.length === 0) return [];
  const list = against.map((c) => `${c.where} ${c.what}`).join('; ');
  return [`Armed all the same: ${atWord(reason.trim(), 1000)} (${atWord(list, 2500)})`];
}

/** A text that is cut, if at all, between two words, with a sign that it was. */
function atWord(text: string, most: number): string {
  if (text.length <= most) return text;
  const cut = text.slice(0, most);
  return `${cut.slice(0, Math.max(cut.lastIndexOf(' '), most - 40))} …`;
}

/** A channel's reading as a fact of the take. */
function readingOf(app: App, channelId: string | null): string {
  const channel = channelsOf(app).find((c) => c.id === channelId);
  const value = channelId === null ? NaN : app.live.value(channelId);
  if (!channel || !Number.isFinite(value)) return 'not measured';
  const { unit, range } = commonOf(channel);
  if (unit === 'yes/no') return value > 0.5 ? 'yes' : 'no';
  return `${fixed(value, rangeDecimals(range.min, range.max))} ${unit === '1' ? '' : unit}`.trim();
}

export const startTake = (app: App) => app.engine.command({ do: 'start' });
export const endTake = (app: App) => app.engine.command({ do: 'end' });
export const disarm = (app: App) => app.engine.command({ do: 'disarm' });
export const mark = (app: App, says: string, by: string) =>
  app.engine.command({ do: 'mark', says: says.trim() || 'Mark', by, kind: 'mark' });
/** @param value in the channel's unit @throws `bad_input` outside its range */
export const setOutput = (app: App, channelId: string, value: number) =>
  app.engine.command({ do: 'output', channelId, value });
export const allToRest = (app: App) => app.engine.command({ do: 'rest' });

/** The facts given last, to be offered again where the plan says so. */
export function lastFacts(app: App, read: (id: string) => Record<string, string>): Record<string, string> {
  const [last] = listTakes(app.db, jobOf(app).id);
  return last ? read(last.id) : {};
}
