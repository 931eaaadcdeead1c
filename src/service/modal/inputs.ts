import { badInput } from '$core/errors';
import { definition, isUnit } from '$core/quantities/quantities';
import { sameDimension } from '$core/quantities/symbols';
import { rateHz } from '$core/samples/sampled';
import { isDriven } from '$core/modal/driving';
import { findHits } from '$core/modal/hits';
import { CORE_VERSION } from '$core/version';
import { DRIVEN_USUAL, LAGS, type Correlate, type SetBody } from '$contract/modal';
import { getTake } from '$store/takes';
import type { StoredSignal } from '$store/take/signals';
import { takePath, type App } from '../app';
import { openTake } from '../takes';
import type { RecordTask } from './tasks';

/** Units of motion, in the order in which they suit. */
const MOTIONS = ['m/s²', 'm/s', 'm', 'µε'];
const isLike = (unit: string, of: string) =>
  isUnit(unit) && sameDimension(definition(unit).dimension, definition(of).dimension);
/** Whether a unit measures how something moves. */
export const isMotion = (unit: string): boolean => MOTIONS.some((of) => isLike(unit, of));
export const isForce = (unit: string): boolean => isLike(unit, 'N');

const measured = (signals: readonly StoredSignal[]) =>
  signals.filter((s): s is StoredSignal & { channelId: string } => s.channelId !== null && s.width === 1);

/** What of a take moves, as editors offer it. */
export const movingOf = (app: App, take: string): { id: string; name: string; unit: string }[] =>
  measured(openTake(app, take).signals)
    .filter((s) => isMotion(s.unit))
    .map(({ channelId, name, unit }) => ({ id: channelId, name, unit }));

/** What of a take is a force. */
export const forcesOf = (app: App, take: string): { id: string; name: string; unit: string }[] =>
  measured(openTake(app, take).signals)
    .filter((s) => isForce(s.unit))
    .map(({ channelId, name, unit }) => ({ id: channelId, name, unit }));

/** How much of a take is looked through for hits, s, and samples at the most. */
const LOOKED_S = 120;
const LOOKED_MOST = 1 << 20;

/** Forces that can drive the responses of a take: those at their rate. Where one strikes, a load that lasts beside it does not count.
 *  @returns ids, and whether they strike */
export function driversOf(app: App, take: string, rate: number): { ids: string[]; strike: boolean } {
  const reader = openTake(app, take);
  const forces = measured(reader.signals).filter((s) => isForce(s.unit) && Math.abs(rateHz(s) - rate) < 1e-9 * rate); // prettier-ignore
  const striking = forces.filter((s) => {
    const count = Math.min(s.length, LOOKED_MOST, Math.ceil(LOOKED_S * rate));
    const span = { first: [0], count, rate, fromS: 0, record: 0 };
    const options = { level: 0.1, frame: Math.ceil(rate), before: 1 };
    return findHits([reader.sampled(s.id)], span, [1], options, { aborted: false }).length > 0;
  });
  const found = striking.length ? striking : forces;
  return { ids: found.slice(0, 16).map((s) => s.channelId), strike: striking.length > 0 };
}

/** All signals of a take that can be responses together: of one kind of motion and one rate, the most there are.
 *  @throws `bad_input` where fewer than two move */
function responsesOf(app: App, take: string): (StoredSignal & { channelId: string })[] {
  const reader = openTake(app, take);
  for (const unit of MOTIONS) {
    const like = measured(reader.signals).filter((s) => isLike(s.unit, unit) && s.length > 0);
    const rates = [...new Set(like.map(rateHz))];
    const groups = rates.map((r) => like.filter((s) => rateHz(s) === r));
    const most = groups.sort((a, b) => b.length - a.length)[0];
    if (most && most.length >= 2) return most;
  }
  throw badInput('take', getTake(app.db, take).name, 'It holds no two channels of acceleration, velocity, displacement or strain at one rate: choose another.'); // prettier-ignore
}

/** The usual way to look at a take’s responses: lags for about 4 s, no more than a fortieth of what there is. References are left to advice; where a force
 *  strikes, hit by hit of it. */
export function usualCorrelate(app: App, take: string): Correlate {
  const responses = responsesOf(app, take);
  const rate = rateHz(responses[0]);
  const length = Math.min(...responses.map((s) => s.length));
  const { ids, strike } = driversOf(app, take, rate);
  const wanted = Math.min(4 * rate, length / (strike ? 4 : 40));
  const lags = [...LAGS].reverse().find((n) => n <= wanted * 1.4) ?? LAGS[0];
  return {
    responses: responses.map((s) => s.channelId),
    references: strike ? ids : [],
    method: strike ? 'hit by hit' : 'over the whole span',
    ...DRIVEN_USUAL,
    factor: 1,
    detrend: 'its mean',
    lags,
    left: 1,
    speedHz: null,
  };
}

/** A set’s responses in its first take. */
interface Inputs {
  names: { id: string; name: string; unit: string }[];
  rateHz: number;
  records: RecordTask[];
  references: number[];
  /** What the result depends on. */
  fingerprint: string;
}

/** What a set reads. @throws `bad_input` where a channel or a take does not suit, `not_found`, `damaged` */
export function inputsOf(app: App, { spans, correlate }: Pick<SetBody, 'spans' | 'correlate'>): Inputs {
  if (spans.length === 0) throw badInput('takes', 'none', 'Choose one.');
  const [front] = spans;
  const first = measured(openTake(app, front.take).signals);
  const ids = correlate.responses.length
    ? correlate.responses
    : responsesOf(app, front.take).map((s) => s.channelId);
  const driven = isDriven(correlate.method);
  if (driven && correlate.references.length === 0) throw badInput('forces', 'none', 'Choose a force that the structure answers.'); // prettier-ignore
  // Forces come last.
  const all = driven ? [...ids.filter((id) => !correlate.references.includes(id)), ...correlate.references] : [...new Set([...ids, ...correlate.references])]; // prettier-ignore
  const frontName = getTake(app.db, front.take).name;
  const names = all.map((id) => {
    const found = first.find((s) => s.channelId === id);
    if (!found) throw badInput('responses', id, `${frontName} has no such channel any more: choose the responses anew.`); // prettier-ignore
    const wanted = !driven ? null : correlate.references.includes(id) ? isForce(found.unit) : isMotion(found.unit); // prettier-ignore
    if (wanted === false) throw badInput(correlate.references.includes(id) ? 'forces' : 'responses', `${found.name}, in ${found.unit}`, correlate.references.includes(id) ? 'It is no force: choose channels in N.' : 'It is no motion: leave it out.'); // prettier-ignore
    return { id, name: found.name, unit: found.unit };
  });
  if (names.length < 2) throw badInput('responses', names.length, 'A shape needs two at least: choose more.');
  const meanings: unknown[] = [];
  const records = spans.map(({ take, from, to }): RecordTask => {
    const { name } = getTake(app.db, take);
    const signals = measured(openTake(app, take).signals);
    return {
      path: takePath(app, take),
      name,
      fromS: from,
      toS: to,
      signals: names.map((n) => {
        // A take of another set-up has the channel of that name.
        const found = signals.find((s) => s.channelId === n.id) ?? signals.find((s) => s.name === n.name);
        if (!found) throw badInput('takes', name, `It has no channel “${n.name}”: take it out, or leave that response out.`); // prettier-ignore
        meanings.push([take, found.conversion, found.revision]);
        return found.id;
      }),
    };
  });
  return {
    names,
    rateHz: rateHz(first.find((s) => s.channelId === names[0].id)!),
    records,
    references: correlate.references.map((id) => all.indexOf(id)),
    fingerprint: JSON.stringify([CORE_VERSION, printOf(correlate), spans, meanings]),
  };
}

/** What of the sentence correlations depend on. Hits are windowed before they are transformed, correlations afterwards. */
function printOf(correlate: Correlate): object {
  const { keepS, level, turned, left, ...rest } = correlate;
  const always = { ...rest, speedHz: null };
  if (correlate.method === 'hit by hit') return { ...always, keepS, level, turned, left };
  return { ...always, left: null };
}
