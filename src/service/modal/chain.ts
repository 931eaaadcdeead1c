import { randomUUID } from 'node:crypto';
import { FarrierError, asFarrierError, cancelled, type ErrorText } from '$core/errors';
import { foundAgain, type FitResult, type FitSettings } from '$core/modal/analysis';
import { isDriven } from '$core/modal/driving';
import { halfSpectra } from '$core/modal/half-spectra';
import { evenSumOf, suggestedBands } from '$core/modal/indicators';
import { windowDecay, windowed } from '$core/modal/correlations';
import type { ModesView, PickedMode, SetBody } from '$contract/modal';
import { getAnalysis, putAnalysis } from '$store/modal';
import { log, type App } from '../app';
import { inputsOf } from './inputs';
import type { ModalRun } from './port';
import type { CorrelationFile, ScatterTask } from './tasks';
import { blocksOf } from './tidy';

/** The set as it is kept now. @throws `not_found` */
export function setOf(app: App, analysis: string, id: string): SetBody {
  const set = getAnalysis(app.db, analysis).body.sets.find((s) => s.id === id);
  if (!set) throw new FarrierError('not_found', { what: 'There is no such set any more.', where: 'set', next: 'Open the analysis again.' }); // prettier-ignore
  return set;
}
/** Writes what has become of a set over it; nothing where it was removed meanwhile. */
export function keepSet(app: App, analysis: string, id: string, change: Partial<SetBody>): void {
  const row = getAnalysis(app.db, analysis);
  const sets = row.body.sets.map((s) => (s.id === id ? { ...s, ...change } : s));
  putAnalysis(app.db, { ...row, body: { ...row.body, sets } });
}

/** A fit’s settings as the core takes them. */
export const settingsOf = ({ fit }: Pick<SetBody, 'fit'>): FitSettings => ({
  band: { fromHz: fit.from, toHz: fit.to },
  order: fit.order,
  method: fit.method,
  residuals: fit.residuals,
  tolerances: { frequency: fit.frequency / 100, damping: fit.damping / 100, shape: fit.shape },
  normalised: fit.normalised,
});
/** What a fit depends on, besides the correlations: their window, the band and the settings. How shapes are normalised is none of it. */
const fitPrint = ({ fit, correlate, correlations }: SetBody): string => {
  return JSON.stringify([correlations?.id, correlate.left, correlate.speedHz, { ...fit, normalised: null }]);
};

/** Turns a second that harmonics are told by: what is struck or shaken stands still. */
const speedOf = ({ correlate }: Pick<SetBody, 'correlate'>): number | null =>
  isDriven(correlate.method) ? null : correlate.speedHz;

/** Work whose outcome may be a fault. */
type Told<T> = T | { fault: ErrorText; cancelled: boolean };
function taken<T extends object>(outcome: Told<T>): T {
  if ('fault' in outcome)
    throw outcome.cancelled ? cancelled('the analysis') : new FarrierError('bad_input', outcome.fault);
  return outcome;
}

/** Brings all that follows of a set up to date: correlations where what they are made from has changed, then the fit, then the picks and
 *  their shapes. A run that is going on is replaced. @returns once it is done or has failed; faults stand in the set */
export async function follow(app: App, analysis: string, id: string, by: string): Promise<void> {
  app.modal.runs.get(id)?.stop.abort();
  const run: ModalRun = { doing: 'correlating', progress: 0, stop: new AbortController() };
  app.modal.runs.set(id, run);
  const watch = { progress: (share: number) => void (run.progress = share), signal: run.stop.signal };
  const mine = () => app.modal.runs.get(id) === run;
  const put = (change: Partial<SetBody>) => {
    if (!mine()) throw cancelled('the analysis');
    keepSet(app, analysis, id, change);
  };
  try {
    await correlations(app, analysis, id, watch, put);
    run.doing = 'fitting';
    run.progress = 0;
    await poles(app, analysis, id, watch, put);
    const set = setOf(app, analysis, id);
    put({ modes: set.picks.length ? await shapesOf(app, set) : null, ended: 'done', fault: null });
    log(app, 'study', `${getAnalysis(app.db, analysis).name}: a set was brought up to date.`, { by });
  } catch (error) {
    if (!mine()) return;
    const { code, text } = asFarrierError(error, 'the analysis');
    keepSet(app, analysis, id, code === 'cancelled' ? { ended: 'cancelled', fault: null } : { ended: 'failed', fault: text }); // prettier-ignore
  } finally {
    if (mine()) app.modal.runs.delete(id);
  }
  const set = setsIn(app, analysis).find((s) => s.id === id);
  if (set?.ended === 'done' && set.picks.length) await scatter(app, analysis, id, null);
}
function setsIn(app: App, analysis: string): SetBody[] {
  try {
    return getAnalysis(app.db, analysis).body.sets;
  } catch {
    return []; // removed meanwhile
  }
}

/** Responses that advice compares at the most. */
const ADVISED_OF = 40;

interface Watch {
  progress: (share: number) => void;
  signal: AbortSignal;
}
async function correlations(
  app: App,
  analysis: string,
  id: string,
  watch: Watch,
  put: (change: Partial<SetBody>) => void,
): Promise<void> {
  let set = setOf(app, analysis, id);
  let inputs = inputsOf(app, set);
  if (set.correlate.references.length === 0) {
    // Of very many responses some stand for the others: each is compared with each.
    const every = Math.ceil(inputs.names.length / ADVISED_OF);
    const candidates = inputs.names.filter((_, k) => k % every === 0);
    const [front] = inputs.records;
    const record = { ...front, signals: front.signals.filter((_, k) => k % every === 0) };
    const { coherence, advised } = taken(
      await app.workers.do('adviseReferences', { record, factor: set.correlate.factor }, watch),
    );
    put({
      advice: { names: candidates.map((n) => n.name), coherence, advised },
      correlate: { ...set.correlate, references: advised.map((i) => candidates[i].id) },
      // Each order has as many poles as there are references: sixteen orders show what comes to rest.
      ...(set.facts === null && { fit: { ...set.fit, order: Math.max(set.fit.order, 16 * advised.length) } }),
    });
    set = setOf(app, analysis, id);
    inputs = inputsOf(app, set);
  }
  if (set.correlations?.madeFrom === inputs.fingerprint && app.modal.results.has(set.correlations.id)) return; // prettier-ignore
  const { references, names, records } = inputs;
  const outcome = taken(
    await app.workers.do('correlateTakes', { records, names, references, correlate: set.correlate }, watch),
  );
  // Each order has as many poles as there are forces, and noise needs some: forty orders show what comes to rest.
  const order = set.facts === null && isDriven(set.correlate.method) ? Math.max(set.fit.order, 40 * references.length) : set.fit.order; // prettier-ignore
  const name = randomUUID();
  app.modal.results.put(name, outcome.file);
  app.modal.results.put(blocksOf(name), outcome.blocks);
  const former = set.correlations;
  put({
    correlations: { id: name, madeFrom: inputs.fingerprint },
    facts: outcome.facts,
    poles: null,
    fit: { ...set.fit, order: Math.min(200, order), ...(set.fit.to === 0 && usualBand(app, name, set.correlate.left / 100, outcome.facts.reachHz)) }, // prettier-ignore
  });
  if (former) for (const old of [former.id, blocksOf(former.id)]) app.modal.results.remove(old);
}

/** The band that a set begins with: from the first to the last of those that are suggested, as far as all forces reach. */
function usualBand(
  app: App,
  correlations: string,
  left: number,
  reachHz: readonly number[],
): { from: number; to: number } {
  const { set } = app.modal.results.get<CorrelationFile>(correlations);
  const lines = halfSpectra(windowed(set, windowDecay(left, set.lags, set.dtS)));
  const bands = suggestedBands(lines.hz, evenSumOf(lines));
  const end = 0.95 * lines.hz[lines.hz.length - 1];
  const top = Math.min(end, ...reachHz);
  const round = (hz: number) => Number(hz.toPrecision(5));
  const [from, to] = [
    bands[0]?.fromHz ?? lines.hz[2],
    bands.findLast((b) => b.fromHz < top)?.toHz ?? 0.8 * top,
  ];
  return { from: round(from), to: round(Math.min(to, top)) };
}

async function poles(
  app: App,
  analysis: string,
  id: string,
  watch: Watch,
  put: (change: Partial<SetBody>) => void,
): Promise<void> {
  const set = setOf(app, analysis, id);
  const madeFrom = fitPrint(set);
  if (set.poles?.madeFrom === madeFrom && app.modal.results.has(set.poles.id)) return;
  const { left } = set.correlate;
  const speedHz = speedOf(set);
  const settings = settingsOf(set);
  const outcome = taken(
    await app.workers.do(
      'fitSet',
      { correlations: app.modal.results.fileOf(set.correlations!.id), left: left / 100, speedHz, settings },
      watch,
    ),
  );
  const name = randomUUID();
  app.modal.results.put(name, outcome.file);
  const fit = app.modal.results.get<FitResult>(name);
  const again = set.picks.map((pick) => ({
    pick,
    place: foundAgain(fit, { ...pick, shape: formerShape(set, pick) }, settings.tolerances),
  }));
  const found = again.flatMap(({ pick, place }): PickedMode[] => {
    if (!place) return [];
    const { hz, damping } = fit.orders.find((o) => o.order === place.order)!.poles[place.index];
    return [{ ...pick, ...place, hz, damping: Number.isFinite(damping) ? damping : 0 }];
  });
  // Two that have become one are one.
  const picks = found.filter((p, k) => found.findIndex((o) => o.order === p.order && o.index === p.index) === k); // prettier-ignore
  put({
    poles: { id: name, madeFrom },
    says: outcome.says,
    suggested: outcome.suggested,
    picks,
    lost: again.filter(({ place }) => !place).map(({ pick }) => pick),
  });
  if (set.poles) app.modal.results.remove(set.poles.id);
}

/** The shape that a pick had, where it goes over the same responses. */
function formerShape(set: SetBody, pick: PickedMode): { re: number[]; im: number[] } {
  const mode = set.modes?.modes.find((m) => m.order === pick.order && m.index === pick.index);
  return mode && mode.shape.re.length === set.facts?.responses.length ? mode.shape : { re: [], im: [] };
}

/** The modes of a set’s picks. @param spread over blocks, where it is known @throws what the fit says */
export async function shapesOf(
  app: App,
  set: SetBody,
  spread: ({ hz: number; damping: number } | null)[] = [],
): Promise<ModesView> {
  return taken(
    await app.workers.do('solveSet', {
      correlations: app.modal.results.fileOf(set.correlations!.id),
      poles: app.modal.results.fileOf(set.poles!.id),
      left: set.correlate.left / 100,
      speedHz: speedOf(set),
      settings: settingsOf(set),
      picks: set.picks,
      spread,
    }),
  );
}

/** Finds ± over blocks of the span for the picks of a set, and writes it into its modes where they are still the same.
 *  @param times null: each block left out in turn; else so many draws with replacement @param run where it is watched and can be stopped */
export async function scatter(
  app: App,
  analysis: string,
  id: string,
  times: number | null,
  run: ModalRun | null = null,
): Promise<void> {
  const set = setOf(app, analysis, id);
  if (!set.correlations || !set.poles || set.picks.length === 0) return;
  const task: ScatterTask = {
    correlations: app.modal.results.fileOf(set.correlations.id),
    poles: app.modal.results.fileOf(set.poles.id),
    blocks: app.modal.results.fileOf(blocksOf(set.correlations.id)),
    left: set.correlate.left / 100,
    speedHz: speedOf(set),
    settings: settingsOf(set),
    picks: set.picks,
    times,
  };
  try {
    const watch = run
      ? { progress: (share: number) => void (run.progress = share), signal: run.stop.signal }
      : {};
    const { spread } = taken(await app.workers.do('scatterSet', task, watch));
    const now = setsIn(app, analysis).find((s) => s.id === id);
    const same = now && now.poles?.id === set.poles.id && JSON.stringify(now.picks) === JSON.stringify(set.picks); // prettier-ignore
    if (!same || (app.modal.runs.get(id) ?? run) !== run) return;
    keepSet(app, analysis, id, { modes: await shapesOf(app, now, spread) });
  } catch (error) {
    // The modes stand without it; what went wrong is said in the logbook, unless somebody stopped it.
    if (asFarrierError(error, 'the spread').code === 'cancelled') return;
    log(app, 'trouble', `± of modes over blocks: ${asFarrierError(error, 'the spread').message}`);
  }
}
