import { asFarrierError, type ErrorText } from '$core/errors';
import { advised, type Advice } from '$core/modal/advice';
import {
  fitted,
  overBlocks,
  prepared,
  solved,
  type Basis,
  type FitResult,
  type FitSettings,
  type PickedPole,
} from '$core/modal/analysis';
import { leftAtEnd, windowDecay, windowed, type Correlating, type CorrelationBlock, type Correlations, type LinePowers } from '$core/modal/correlations'; // prettier-ignore
import { RINGS_BEFORE, isDriven, type Driving } from '$core/modal/driving';
import { driven } from '$core/modal/forced';
import { gathered, type Gathered, type ModalRecord } from '$core/modal/gather';
import { harmonicOf } from '$core/modal/harmonics';
import type { Spread } from '$core/modal/scatter';
import type {
  Correlate,
  CorrelationFacts,
  HitView,
  ModesView,
  PickedMode,
  Suggestion,
} from '$contract/modal';
import { ResultStore } from '$store/results';
import { TakeReader } from '$store/take/reader';
import type { Watched } from '../watched';

type Told<T> = T | { fault: ErrorText; cancelled: boolean };
/** Faults come back as values, so that they keep their four sentences. */
function told<T>(where: string, work: () => T): Told<T> {
  try {
    return work();
  } catch (error) {
    const { code, text } = asFarrierError(error, where);
    return { fault: text, cancelled: code === 'cancelled' };
  }
}

/** A part of a take: its responses by their number in the file. */
export interface RecordTask {
  path: string;
  name: string;
  signals: number[];
  fromS: number;
  toS: number | null;
}
function reading<T>(records: RecordTask[], work: (records: ModalRecord[]) => T): T {
  const readers: TakeReader[] = [];
  try {
    return work(
      records.map(({ path, name, signals, fromS, toS }) => {
        const reader = new TakeReader(path);
        readers.push(reader);
        return { name, responses: signals.map((id) => ({ ...reader.sampled(id) })), fromS, toS };
      }),
    );
  } finally {
    for (const reader of readers) reader.close();
  }
}

/** Share of its beginning that the tail of a correlation may have at its end. */
const DIED_OUT = 0.1;
/** Coherence of each pair, the mean over the lines that its force reaches. */
function meanCoherence({ coherence, reachHz, set: { lags, references, dtS } }: Driving): number[] {
  const lines = lags / 2 + 1;
  return Array.from({ length: coherence.length / lines }, (_, pair) => {
    const last = Math.max(1, Math.min(lines - 1, Math.round(reachHz[pair % references] * lags * dtS)));
    const own = coherence.subarray(pair * lines + 1, pair * lines + last + 1);
    return own.reduce((sum, v) => sum + v, 0) / own.length;
  });
}
const hitOf = ({
  key,
  record,
  force,
  atS,
  peak,
  widthS,
  faults,
  counts,
}: Driving['hits'][number]): HitView => ({
  ...{ key, record, force, atS, peak, widthS, faults, counts },
});
/** Advice where too many pairs are cut off before they have died out. */
function diedOut(under: Float64Array): string[] {
  const worst = [...under].sort((a, b) => a - b)[Math.floor(under.length * 0.75)];
  return worst > DIED_OUT
    ? [`A quarter of the pairs still have ${Math.round(100 * worst)} % of their beginning or more at the last lag: take more lags, or a window that leaves less.`] // prettier-ignore
    : [];
}

/** What the file of correlations holds; blocks lie in one of their own. */
export interface CorrelationFile {
  set: Correlations;
  references: number[];
  powers: LinePowers;
  /** Of what is struck or shaken: coherence of each pair over the lines, and the force of each hit over its frame, which lies so many samples ahead of it. */
  driving: { coherence: Float32Array; courses: Float32Array[]; ahead: number } | null;
}
export interface BlockFile {
  blocks: { values: Float32Array; pieces: number }[];
}

export interface CorrelateTask {
  records: RecordTask[];
  /** Responses, with the forces behind them. */
  names: { id: string; name: string }[];
  references: number[];
  correlate: Correlate;
}
export type CorrelateOutcome = Told<{ file: Uint8Array; blocks: Uint8Array; facts: CorrelationFacts }>;
export const correlateTakes = (task: CorrelateTask, { progress, signal }: Watched): CorrelateOutcome =>
  told(task.records[0].name, () =>
    reading(task.records, (records) => {
      const { correlate, references, names } = task;
      const { method, left, level, turned, ...options } = correlate;
      const driving: Driving | null = isDriven(method)
        ? driven(records, { ...options, method, forces: references.length, left: left / 100, level: level / 100, turned: new Set(turned) }, progress, signal) // prettier-ignore
        : null;
      const got: Gathered = driving ?? gathered(records, { ...options, method: method as Correlating, references }, progress, signal); // prettier-ignore
      const { set, powers, rateHz, pieces, skipped, samples, says, notes, units } = got;
      const [bare, under] = [set, windowed(set, windowDecay(left / 100, set.lags, set.dtS))].map((s) => leftAtEnd(s, driving ? RINGS_BEFORE : 0)); // prettier-ignore
      const kept = driving && { coherence: driving.coherence, courses: driving.hits.map((h) => h.course), ahead: driving.ahead }; // prettier-ignore
      return {
        file: ResultStore.bytes({ set, references, powers, driving: kept } satisfies CorrelationFile),
        blocks: ResultStore.bytes({
          blocks: got.blocks.map((b) => ({ values: Float32Array.from(b.values), pieces: b.pieces })),
        } satisfies BlockFile),
        facts: {
          rateHz,
          lags: set.lags,
          responses: names.slice(0, set.responses).map((n) => ({ ...n, unit: units[0] })),
          forces: names.slice(set.responses).map((n) => ({ ...n, unit: units[set.responses] })),
          references: [...references],
          hits: driving?.hits.map(hitOf) ?? [],
          reachHz: driving?.reachHz ?? [],
          coherence: driving ? meanCoherence(driving) : [],
          pieces,
          skipped,
          samples,
          left: [...bare],
          leftUnder: [...under],
          says: [...says, ...diedOut(under)],
          notes,
        },
      };
    }),
  );

export const adviseReferences = (
  { record, factor }: { record: RecordTask; factor: number },
  { progress, signal }: Watched,
): Told<Advice> =>
  told(record.name, () => reading([record], ([one]) => advised(one, factor, progress, signal)));

const basisOf = (path: string, left: number): Basis => {
  const { set, references, powers } = ResultStore.from<CorrelationFile>(path);
  return { set, references, powers, left };
};

export interface FitTask {
  correlations: string;
  left: number;
  speedHz: number | null;
  settings: FitSettings;
}
export type FitOutcome = Told<{ file: Uint8Array; says: string[]; suggested: Suggestion[] }>;
export const fitSet = (task: FitTask, { progress, signal }: Watched): FitOutcome =>
  told('the fit', () => {
    const basis = basisOf(task.correlations, task.left);
    const fit = fitted(prepared(basis), basis.references, task.settings, progress, signal);
    return {
      file: ResultStore.bytes(fit satisfies FitResult),
      says: fit.says,
      suggested: fit.clusters.map(({ best, members }) => {
        const pole = fit.orders.find((o) => o.order === best.order)!.poles[best.index];
        return {
          ...best,
          hz: pole.hz,
          damping: pole.damping,
          members: members.length,
          harmonic: plainHarmonic(harmonicOf(pole, basis.powers, task.speedHz)),
        };
      }),
    };
  });
const plainHarmonic = ({ kurtosis, multiple, is }: ReturnType<typeof harmonicOf>) => ({
  kurtosis: Number.isFinite(kurtosis) ? kurtosis : null,
  multiple,
  is,
});

export interface SolveTask extends FitTask {
  poles: string;
  picks: PickedMode[];
  spread: (Spread | null)[];
}
export const solveSet = (task: SolveTask): Told<ModesView> =>
  told('shapes', () => {
    const basis = basisOf(task.correlations, task.left);
    const fit = ResultStore.from<FitResult>(task.poles);
    const { modes, model, tones, met, metAll } = solved(basis, prepared(basis), fit, task.settings, task.picks, task.speedHz, task.spread); // prettier-ignore
    const plain = (x: { re: Float64Array; im: Float64Array }) => ({ re: [...x.re], im: [...x.im] });
    const finite = (x: number) => (Number.isFinite(x) ? x : null);
    return {
      modes: modes.map((m, k) => ({
        ...task.picks[k],
        hz: m.pole.hz,
        damping: finite(m.pole.damping) ?? 0,
        expanded: { hz: finite(m.expanded.hz), damping: finite(m.expanded.damping) },
        shape: plain(m.shape),
        participation: plain(m.participation),
        realness: m.realness,
        meanPhase: m.meanPhase,
        phaseDeviation: m.phaseDeviation,
        harmonic: plainHarmonic(m.harmonic),
      })),
      tones: tones.map(({ hz, damping, kurtosis, multiple }) => ({ hz, damping, kurtosis: finite(kurtosis), multiple })), // prettier-ignore
      met: [...met],
      metAll,
      residuals: model.residuals.map((r) => [...r]),
      parts: model.modes.map((m) => ({ hz: m.hz, damping: m.damping, shape: plain(m.shape), participation: plain(m.participation) })), // prettier-ignore
      rankLoss: model.rankLoss,
      overBlocks: task.spread.some((s) => s !== null),
    };
  });

export interface ScatterTask extends FitTask {
  poles: string;
  blocks: string;
  picks: PickedPole[];
  /** null: each block left out in turn; else so many draws. */
  times: number | null;
}
export const scatterSet = (
  task: ScatterTask,
  { progress, signal }: Watched,
): Told<{ spread: (Spread | null)[] }> =>
  // prettier-ignore
  told('the spread', () => {
    const basis = basisOf(task.correlations, task.left);
    const blocks = ResultStore.from<BlockFile>(task.blocks).blocks.map((b): CorrelationBlock => ({ values: Float64Array.from(b.values), pieces: b.pieces })); // prettier-ignore
    const fit = ResultStore.from<FitResult>(task.poles);
    return { spread: overBlocks(basis, blocks, fit, task.settings, task.picks, task.times, progress, signal) }; // prettier-ignore
  });
