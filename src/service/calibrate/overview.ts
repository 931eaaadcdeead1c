import { VERDICTS, hearsTones, isTodo, needsProof, proofOf, waysOf, type Proof } from '$contract/proof';
import { canCalibrate, channelKind, commonOf, type Calibration, type Channel } from '$contract/channel';
import type { Plan } from '$contract/plan';
import { Uncertainties, budgetOf, type Uncertain } from '$contract/uncertainty';
import { uncertaintyAt } from '$core/uncertainty/budget';
import {
  jobPlan,
  getChannel,
  latestCalibrations,
  listCalibrations,
  listChannels,
  listSensors,
  undoneCalibrations,
} from '$store/entities';
import { jobOf, type App } from '../app';
import { presentLine } from './bridges';
import { draftOf } from './points';

const today = () => new Date().toISOString().slice(0, 10);

/** Channels of the job with the sensors that they carry. @param channels the job's, where they are at hand */
function uncertain(app: App, channels = listChannels(app.db, jobOf(app).id)): Uncertain[] {
  const sensors = new Map(listSensors(app.db).map((s) => [s.serial, s]));
  return channels.map((channel) => ({ channel, sensor: sensors.get(channel.sensorSerial) }));
}

/** How every channel of the job is proven; what needs doing first, then in the order of the channels. @param channels as for uncertain */
export function proofs(app: App): Proof[] {
  const latest = latestCalibrations(app.db);
  const day = today();
  return uncertain(app)
    .map(({ channel, sensor }) =>
      proofOf(
        channel,
        sensor,
        latest.get(channel.id),
        day,
        needsProof(channel) ? expandedAtEnd(channel, budgetOf(channel, sensor)) : null,
      ),
    )
    .sort((a, b) => VERDICTS.indexOf(a.verdict) - VERDICTS.indexOf(b.verdict));
}

function expandedAtEnd(channel: Channel, budget: ReturnType<typeof budgetOf>): number | null {
  if (!budget) return null;
  const { min, max } = commonOf(channel).range;
  return uncertaintyAt(budget, Math.max(Math.abs(min), Math.abs(max))).expanded;
}

/** What has to be dealt with before a take of a plan. @param channels as for uncertain */
export function calibrationsDue(
  app: App,
  plan: Pick<Plan, 'channels'>,
  channels = listChannels(app.db, jobOf(app).id),
): (Proof & { name: string })[] {
  const latest = latestCalibrations(app.db);
  const day = today();
  return uncertain(app, channels).flatMap(({ channel, sensor }) => {
    if (plan.channels.length > 0 && !plan.channels.includes(channel.id)) return [];
    const proof = proofOf(channel, sensor, latest.get(channel.id), day, null);
    return isTodo(proof.verdict) ? [{ ...proof, name: channel.name }] : [];
  });
}

/** The same for the plan that is armed next. */
export const dueOfPlan = (app: App) => calibrationsDue(app, jobPlan(app.db, jobOf(app).id)!.plan);

/** The last shunt check of a bridge that measured something. */
export const lastShuntCheck = (app: App, channelId: string): Calibration | undefined =>
  listCalibrations(app.db, channelId).find((c) => c.method === 'by shunt' && c.measured.length > 0);

/** Expanded uncertainty of channels at what they read now; those without a budget are left out. */
export function uncertaintiesNow(app: App, channelIds: string[]): Record<string, number> {
  const all = uncertain(app);
  const of = new Uncertainties(all);
  const idOf = new Map(all.map(({ channel }) => [channel.name, channel.id]));
  const wanted = new Set(channelIds);
  return Object.fromEntries(
    all.flatMap(({ channel }) => {
      if (!wanted.has(channel.id)) return [];
      const combined = of.at(channel.name, (name) => app.live.value(idOf.get(name) ?? ''));
      return combined ? [[channel.id, combined.expanded]] : [];
    }),
  );
}

/** Channels that can be calibrated one by one, those that need it first. */
const calibratable = (app: App): Channel[] =>
  listChannels(app.db, jobOf(app).id).filter((c) => needsProof(c) && canCalibrate(channelKind(c.kind)));

/** All that the page of one channel shows. @throws `not_found` */
export function calibrationPage(app: App, channelId: string) {
  const channel = getChannel(app.db, channelId);
  const history: Calibration[] = listCalibrations(app.db, channelId);
  const undone = undoneCalibrations(
    app.db,
    history.map((c) => c.id),
  );
  const { unit } = commonOf(channel);
  const sensor = listSensors(app.db).find((s) => s.serial === channel.sensorSerial);
  const budget = budgetOf(channel, sensor);
  const linear = channelKind(channel.kind).linear;
  return {
    channel,
    channels: calibratable(app),
    history,
    undone: [...undone],
    proof: proofOf(
      channel,
      sensor,
      history.find((c) => !undone.has(c.id)),
      today(),
      expandedAtEnd(channel, budget),
    ),
    budget,
    present: presentLine(channel),
    linear,
    ways: waysOf(channel),
    tones: hearsTones(channel),
    draft: draftOf(app, channelId),
    references: references(app, unit),
  };
}

/** Things of the drawer that a channel in this unit can be compared with, references first. */
function references(app: App, unit: string) {
  return listSensors(app.db)
    .filter((s) => s.kind === 'reference' || (s.unit === unit && s.calibratedOn !== ''))
    .sort((a, b) => Number(b.kind === 'reference') - Number(a.kind === 'reference'))
    .map(({ serial, model, kind, unit: own, goodTo, goodToShare, calibratedUntil }) => ({
      serial,
      name: model || kind,
      unit: own,
      goodTo,
      goodToShare,
      due: calibratedUntil,
    }));
}
