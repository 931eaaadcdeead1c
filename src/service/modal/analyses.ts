import { randomUUID } from 'node:crypto';
import { asFarrierError, badInput, conflict } from '$core/errors';
import { sentenceText, type Names } from '$core/sentence/sentence';
import {
  CORRELATE_SENTENCE,
  FIT_SENTENCE,
  LAGS,
  ModalSpan,
  PickedMode,
  correlate as correlateSchema,
  fit as fitSchema,
  type AnalysisBody,
  type AnalysisLine,
  type AnalysisView,
  type Correlate,
  type Fit,
  type SetBody,
  type SetState,
  type SetView,
} from '$contract/modal';
import { isDriven } from '$core/modal/driving';
import { nameText } from '$contract/name-text';
import { deleteAnalysis, getAnalysis, listAnalyses, putAnalysis, type AnalysisRow } from '$store/modal';
import { getTake } from '$store/takes';
import { getWireframe } from '$store/wireframes';
import { jobOf, log, type App } from '../app';
import { check } from '../check';
import { openTake } from '../takes';
import { follow, keepSet, scatter, setOf, shapesOf } from './chain';
import { driversOf, inputsOf, usualCorrelate } from './inputs';
import type { ModalRun } from './port';
import { blocksOf } from './tidy';

const USUAL_FIT: Fit = {
  from: 0,
  to: 0,
  order: 60,
  method: 'the frequency-domain fit',
  residuals: 'both residuals',
  frequency: 1,
  damping: 20,
  shape: 0.9,
  normalised: 'largest is 1',
};
/** Sets that an analysis holds at the most. */
const SETS_MOST = 40;

/** The sentence of how a set is correlated, with what follows from it: resolution and duration of the lags. */
export function correlateValue({ correlate, facts }: Pick<SetBody, 'correlate' | 'facts'>, rateHz: number) {
  const rate = facts && facts.lags === correlate.lags ? facts.rateHz : rateHz / correlate.factor;
  return { ...correlate, resolution: Number((rate / correlate.lags).toPrecision(6)), seconds: correlate.lags / rate }; // prettier-ignore
}

function namesOf(app: App, set: Pick<SetBody, 'spans'>): Names {
  try {
    const signals = openTake(app, set.spans[0].take).signals;
    return { channel: (id) => signals.find((s) => s.channelId === id) };
  } catch {
    return { channel: () => undefined };
  }
}

/** Facts of the first take, by which runs are told apart. */
function aboutOf(app: App, { spans: [front] }: SetBody): Record<string, string> {
  try {
    return openTake(app, front.take).head.facts;
  } catch {
    return {}; // a take that cannot be read says nothing
  }
}

function viewSet(app: App, set: SetBody): SetView {
  const run = app.modal.runs.get(set.id);
  const { correlations, poles, ended, ...rest } = set;
  const takes = set.spans.map((s) => {
    try {
      return getTake(app.db, s.take).name;
    } catch {
      return 'a take that is gone';
    }
  });
  let outOfDate = false;
  let fault = set.fault;
  let rate = set.facts ? set.facts.rateHz * set.correlate.factor : 1;
  try {
    const inputs = inputsOf(app, set);
    rate = inputs.rateHz;
    outOfDate = ended === 'done' && correlations?.madeFrom !== inputs.fingerprint;
  } catch (error) {
    fault ??= asFarrierError(error, takes[0]).text;
  }
  const names = namesOf(app, set);
  const value = correlateValue(set, rate);
  const state: SetState = run ? run.doing : ended;
  const { references, lags } = set.correlate;
  const called = references.map((id) => names.channel(id)?.name ?? '?');
  return {
    ...rest,
    fault,
    title: `${takes.join(' and ')}, ${called.length > 2 ? `${called.length} references` : called.join(' and ') || 'references to come'}, ${lags} lags, ${set.correlate.left} % left, ${set.fit.method}`,
    sentence: `${sentenceText(CORRELATE_SENTENCE, value, names)} ${sentenceText(FIT_SENTENCE, set.fit)}`,
    state,
    progress: run?.progress ?? (state === 'done' ? 1 : 0),
    correlationsId: correlations?.id ?? null,
    polesId: poles?.id ?? null,
    outOfDate: outOfDate && !run,
    takes,
    about: aboutOf(app, set),
  };
}

const viewOf = (app: App, row: AnalysisRow): AnalysisView => ({
  id: row.id,
  name: row.name,
  createdAt: row.createdAt,
  frame: row.body.frame,
  sets: row.body.sets.map((s) => viewSet(app, s)),
});
/** @throws `not_found` */
export const viewAnalysis = (app: App, id: string): AnalysisView => viewOf(app, getAnalysis(app.db, id));

export const viewAnalyses = (app: App): AnalysisLine[] =>
  listAnalyses(app.db, jobOf(app).id).map((row) => {
    const view = viewOf(app, row);
    return {
      id: row.id,
      name: row.name,
      createdAt: row.createdAt,
      takes: [...new Set(view.sets.flatMap((s) => s.takes))],
      sets: view.sets.length,
      modes: Math.max(0, ...view.sets.map((s) => s.picks.length)),
      state: view.sets.find((s) => s.state === 'correlating' || s.state === 'fitting')?.state ?? view.sets.at(-1)?.state ?? 'new', // prettier-ignore
    };
  });

const newSet = (spans: SetBody['spans'], correlate: Correlate, fit: Fit): SetBody => ({
  id: randomUUID(),
  spans,
  correlate,
  fit,
  fault: null,
  ended: 'new',
  facts: null,
  correlations: null,
  poles: null,
  says: [],
  suggested: [],
  advice: null,
  picks: [],
  modes: null,
  lost: [],
});

/** Begins an analysis of one or several takes. It correlates and fits by itself. @throws `bad_input`, `not_found` */
export function addAnalysis(
  app: App,
  input: { takes: string[]; name?: string; frame?: string | null },
  by: string,
): { view: AnalysisView; done: Promise<void> } {
  const [front] = input.takes;
  if (!front) throw badInput('takes', 'none', 'Choose one.');
  const names = input.takes.map((take) => getTake(app.db, take).name);
  if (input.frame) getWireframe(app.db, input.frame);
  const set = newSet(input.takes.map((take) => ({ take, from: 0, to: null })), usualCorrelate(app, front), USUAL_FIT); // prettier-ignore
  inputsOf(app, set);
  const row: AnalysisRow = {
    id: randomUUID(),
    jobId: jobOf(app).id,
    name: check(nameText(80), input.name ?? `Modes of ${names.join(', ')}`.slice(0, 80)),
    createdAt: Date.now(),
    body: { frame: input.frame ?? null, sets: [set] },
  };
  putAnalysis(app.db, row);
  log(app, 'study', `Began the modal analysis “${row.name}”.`, { takeId: front, by });
  const done = follow(app, row.id, set.id, by);
  return { view: viewAnalysis(app, row.id), done };
}

/** Calls it otherwise, or shows it on another wireframe. @throws `bad_input`, `not_found` */
export function changeAnalysis(
  app: App,
  id: string,
  { name, frame }: { name?: string; frame?: string | null },
): AnalysisView {
  const row = getAnalysis(app.db, id);
  if (frame) getWireframe(app.db, frame);
  const body: AnalysisBody = { ...row.body, ...(frame !== undefined && { frame }) };
  putAnalysis(app.db, { ...row, name: name === undefined ? row.name : check(nameText(80), name), body });
  return viewAnalysis(app, id);
}

/** @throws `not_found` */
export function removeAnalysis(app: App, id: string, by: string): void {
  const row = getAnalysis(app.db, id);
  for (const set of row.body.sets) forget(app, set);
  deleteAnalysis(app.db, id);
  log(app, 'study', `Removed the modal analysis “${row.name}”.`, { by });
}
function forget(app: App, { id, correlations, poles }: SetBody): void {
  app.modal.runs.get(id)?.stop.abort();
  app.modal.runs.delete(id);
  const files = [correlations?.id, correlations && blocksOf(correlations.id), poles?.id];
  for (const file of files) if (file) app.modal.results.remove(file);
}

/** What is changed of a set. */
export interface SetChange {
  spans?: SetBody['spans'];
  correlate?: Partial<Correlate> & { resolution?: number };
  fit?: Partial<Fit>;
}

/** Adds a set like another, changed. Both stay and are compared. @throws `bad_input`, `not_found` */
export function addSet(
  app: App,
  id: string,
  from: string,
  change: SetChange,
  by: string,
): { view: AnalysisView; set: string; done: Promise<void> } {
  const row = getAnalysis(app.db, id);
  if (row.body.sets.length >= SETS_MOST)
    throw conflict('sets', `There are ${SETS_MOST} already.`, 'Take one away first.');
  const like = setOf(app, id, from);
  const made = changed(app, { ...newSet(like.spans, like.correlate, like.fit), picks: like.picks, modes: like.modes, facts: like.facts }, change); // prettier-ignore
  putAnalysis(app.db, { ...row, body: { ...row.body, sets: [...row.body.sets, { ...made, facts: null }] } });
  const done = follow(app, id, made.id, by);
  return { view: viewAnalysis(app, id), set: made.id, done };
}

/** The same for other takes, a set each, its modes found again by their shapes: one after the other, so that the page stays quick.
 *  @throws `bad_input`, `not_found`, `conflict` where there would be too many sets */
export function addRuns(
  app: App,
  id: string,
  like: string,
  takes: readonly string[],
  by: string,
): { view: AnalysisView; done: Promise<void> } {
  const row = getAnalysis(app.db, id);
  const from = setOf(app, id, like);
  const fresh = takes.filter((take) => !row.body.sets.some((s) => s.spans.length === 1 && s.spans[0].take === take)); // prettier-ignore
  if (row.body.sets.length + fresh.length > SETS_MOST)
    throw conflict('sets', `There would be ${row.body.sets.length + fresh.length}.`, `At most ${SETS_MOST}: choose fewer takes.`); // prettier-ignore
  const sets = fresh.map((take) => {
    const set = newSet([{ take, from: 0, to: null }], from.correlate, from.fit);
    // How fast it turned, and which hits count, is another run’s.
    const correlate = { ...from.correlate, speedHz: null, turned: [] };
    return changed(app, { ...set, correlate, picks: from.picks, modes: from.modes, facts: from.facts }, {});
  });
  putAnalysis(app.db, { ...row, body: { ...row.body, sets: [...row.body.sets, ...sets.map((s) => ({ ...s, facts: null }))] } }); // prettier-ignore
  const done = sets.reduce((before, s) => before.then(() => follow(app, id, s.id, by)), Promise.resolve());
  return { view: viewAnalysis(app, id), done };
}

/** A set with other settings, all of them checked together. @throws `bad_input` */
function changed(app: App, set: SetBody, { spans, correlate, fit }: SetChange): SetBody {
  const { resolution, ...settings } = correlate ?? {};
  const next: SetBody = {
    ...set,
    spans: spans ? check(ModalSpan.array().min(1, 'Choose a take.').max(50), spans) : set.spans,
    correlate: check(correlateSchema, { ...set.correlate, ...settings }),
    fit: check(fitSchema, { ...set.fit, ...fit }),
  };
  for (const { take } of next.spans) getTake(app.db, take);
  const driven = isDriven(next.correlate.method);
  if (driven !== isDriven(set.correlate.method) && !correlate?.references) {
    // Forces are no responses, and responses no forces.
    next.correlate.references = driven ? driversOf(app, next.spans[0].take, inputsOf(app, set).rateHz).ids : []; // prettier-ignore
    if (driven && next.correlate.references.length === 0)
      throw badInput('Looked at', next.correlate.method, `${getTake(app.db, next.spans[0].take).name} holds no channel of force at the rate of the responses: choose another way, or a take with one.`); // prettier-ignore
  }
  // Which hits count is told of the recordings that there were.
  if (spans) next.correlate.turned = [];
  const { responses, references } = next.correlate;
  // A reference is a response, too; a force is none.
  if (!driven) next.correlate.responses = [...responses, ...(responses.length ? references.filter((r) => !responses.includes(r)) : [])]; // prettier-ignore
  const { rateHz } = inputsOf(app, next);
  if (resolution !== undefined) {
    const wanted = rateHz / next.correlate.factor / resolution;
    next.correlate.lags = LAGS.reduce((a, b) => (Math.abs(Math.log(b / wanted)) < Math.abs(Math.log(a / wanted)) ? b : a)); // prettier-ignore
  }
  const { from, to } = next.fit;
  if (fit && to > 0 && to <= from)
    throw badInput('Band to', to, 'The band’s end has to lie above its beginning.');
  const half = rateHz / next.correlate.factor / 2;
  if (to > half) {
    if (fit?.to !== undefined) throw badInput('Band to', to, `The rate is ${2 * half} samples a second: at most ${half} Hz.`); // prettier-ignore
    next.fit = { ...next.fit, from: 0, to: 0 };
  }
  return next;
}

/** Changes a link of a set’s chain; all that follows is made anew. @throws `bad_input`, `not_found` */
export function changeSet(
  app: App,
  id: string,
  setId: string,
  change: SetChange,
  by: string,
): { view: AnalysisView; done: Promise<void> } {
  const next = changed(app, setOf(app, id, setId), change);
  keepSet(app, id, setId, { spans: next.spans, correlate: next.correlate, fit: next.fit });
  const done = follow(app, id, setId, by);
  return { view: viewAnalysis(app, id), done };
}

/** @throws `not_found`, `conflict` for the last one */
export function removeSet(app: App, id: string, setId: string): AnalysisView {
  const row = getAnalysis(app.db, id);
  const set = setOf(app, id, setId);
  if (row.body.sets.length === 1)
    throw conflict('sets', 'It is the only set.', 'Remove the analysis, or make another set first.');
  forget(app, set);
  putAnalysis(app.db, { ...row, body: { ...row.body, sets: row.body.sets.filter((s) => s.id !== setId) } });
  return viewAnalysis(app, id);
}

/** @throws `conflict` when nothing of it runs */
export function cancelSet(app: App, setId: string): void {
  const run = app.modal.runs.get(setId);
  if (!run) throw conflict('set', 'Nothing of it is being computed.', 'It stands as it is.');
  run.stop.abort();
}

/** Takes poles for modes: their places in the diagram, with names; those that were before and are not named are let go. Shapes are there when it
 *  returns, ± over blocks follows by itself (`done`). @throws `bad_input` for a pole that is not there, `conflict` while it is being computed */
export async function pickModes(
  app: App,
  id: string,
  setId: string,
  picks: PickedMode[],
): Promise<{ view: AnalysisView; done: Promise<void> }> {
  const set = setOf(app, id, setId);
  if (app.modal.runs.has(setId) || !set.poles)
    throw conflict('set', 'Its poles are being computed.', 'Pick once they are there.');
  const checked = check(PickedMode.array().max(100, 'At most 100 modes.'), picks);
  const once = checked.filter((p, k) => checked.findIndex((o) => o.order === p.order && o.index === p.index) === k); // prettier-ignore
  once.sort((a, b) => a.hz - b.hz);
  const next = { ...set, picks: once };
  // ± over blocks stays with the poles that stay.
  const modes = once.length ? await shapesOf(app, next) : null;
  const held = modes && {
    ...modes,
    modes: modes.modes.map((m) => {
      const before = set.modes?.modes.find((o) => o.order === m.order && o.index === m.index);
      return before ? { ...m, expanded: before.expanded } : m;
    }),
  };
  const now = setOf(app, id, setId);
  if (now.poles?.id !== set.poles.id)
    throw conflict('set', 'Its poles have been computed anew meanwhile.', 'Pick again.');
  keepSet(app, id, setId, { picks: modes ? modes.modes.map(({ order, index, hz, damping, name, out }) => ({ order, index, hz, damping, name, out })) : [], modes: held, lost: [] }); // prettier-ignore
  const fresh = once.some((p) => !set.picks.some((o) => o.order === p.order && o.index === p.index));
  const done = fresh ? scatter(app, id, setId, null) : Promise.resolve();
  return { view: viewAnalysis(app, id), done };
}

/** ± from so many draws of blocks with replacement; it goes on by itself, and can be stopped. @throws `conflict` without modes, or while the set is
 *  being computed */
export function bootstrap(
  app: App,
  id: string,
  setId: string,
  times: number,
): { view: AnalysisView; done: Promise<void> } {
  if (setOf(app, id, setId).picks.length === 0)
    throw conflict('modes', 'There are none yet.', 'Pick poles first.');
  if (app.modal.runs.has(setId))
    throw conflict('set', 'It is being computed.', 'Ask again once it is done, or stop it.');
  const run: ModalRun = { doing: 'fitting', progress: 0, stop: new AbortController() };
  app.modal.runs.set(setId, run);
  const done = scatter(app, id, setId, times, run).finally(() => {
    if (app.modal.runs.get(setId) === run) app.modal.runs.delete(setId);
  });
  return { view: viewAnalysis(app, id), done };
}

/** Brings a set up to date with what it depends on. @throws `not_found` */
export function refreshSet(
  app: App,
  id: string,
  setId: string,
  by: string,
): { view: AnalysisView; done: Promise<void> } {
  setOf(app, id, setId);
  const done = follow(app, id, setId, by);
  return { view: viewAnalysis(app, id), done };
}

/** The file of a set’s correlations or poles, as it lies there. @throws `not_found` */
export function setFile(app: App, id: string, setId: string, which: 'correlations' | 'poles'): Uint8Array {
  return app.modal.results.read(setOf(app, id, setId)[which]?.id ?? 'none');
}
