import { badInput } from '../errors';
import { FITS, type FitName } from './fits';
import type { CancelSignal, Progress } from '../studies/study';
import { windowDecay, windowed, type CorrelationBlock, type Correlations, type LinePowers } from './correlations'; // prettier-ignore
import { halfSpectra, within, type Lines } from './half-spectra';
import { harmonicOf, type Harmonic } from './harmonics';
import { decomposition, onPeak, referenceRank, sumOf } from './indicators';
import { leastSquaresComplexFrequency } from './lscf';
import { met, shapesOf, type ModalModel, type Residuals } from './residues';
import { jackknife, leftOut, drawn, deviation, spreadOf, type Spread } from './scatter';
import { meanPhase, normalised, phaseDeviation, realness, type Normalisation, type Pole } from './shape';
import {
  clustersOf,
  judged,
  sameMode,
  type Cluster,
  type JudgedOrder,
  type JudgedPole,
  type Tolerances,
} from './stability';
import { stochasticSubspace } from './subspace';

/** How poles and shapes are fitted. */
export interface FitSettings {
  band: { fromHz: number; toHz: number };
  order: number;
  method: FitName;
  residuals: Residuals;
  tolerances: Tolerances;
  normalised: Normalisation;
}

/** What a fit stands on: correlations as they were gathered, and what the window leaves at the end, a share. */
export interface Basis {
  set: Correlations;
  references: readonly number[];
  left: number;
  powers: LinePowers;
}

/** Correlations under their window, and their lines. */
export interface Prepared {
  set: Correlations;
  decay: number;
  lines: Lines;
}

/** The window put on, and the half spectra made. @param values other correlations of the same kind */
export function prepared({ set, left }: Basis, values: Float64Array = set.values): Prepared {
  const decay = windowDecay(left, set.lags, set.dtS);
  const own = windowed({ ...set, values }, decay);
  return { set: own, decay, lines: halfSpectra(own) };
}

/** What a fit finds: all poles of all orders with how far they have come to rest, and what is suggested of them. */
export interface FitResult {
  orders: JudgedOrder[];
  clusters: Cluster[];
  /** What is to be known of it, in sentences. */
  says: string[];
}

/** Fits models of rising order. @param only these orders alone (none stands for all) @throws `bad_input`, `cancelled` */
export function fitted(
  { set, decay, lines }: Prepared,
  references: readonly number[],
  settings: FitSettings,
  progress: Progress = () => undefined,
  signal: CancelSignal = { aborted: false },
  only?: ReadonlySet<number>,
): FitResult {
  const { band, order, method, tolerances, residuals } = settings;
  if (!(band.toHz > band.fromHz))
    throw badInput('band', `${band.fromHz} to ${band.toHz} Hz`, 'Its end has to lie above its beginning.');
  const own = within(lines, band.fromHz, band.toHz);
  const options = { band, order, decay, only };
  if (method === 'a quick look at singular values')
    return { orders: [quickLook(lines, references, band)], clusters: [], says: [] };
  const found =
    method === 'the subspace fit'
      ? stochasticSubspace(set, options, (s) => progress(0.9 * s), signal)
      : leastSquaresComplexFrequency(own, options, (s) => progress(0.6 * s), signal);
  const orders = judged(own, found, tolerances, residuals, decay);
  progress(1);
  return { orders, clusters: clustersOf(orders, tolerances), says: warnings(lines, own, references, band) };
}

/** Peaks of the first singular value as poles without damping, all of one order. */
function quickLook(lines: Lines, references: readonly number[], band: FitSettings['band']): JudgedOrder {
  const modes = decomposition(lines, references).filter((m) => m.hz >= band.fromHz && m.hz <= band.toHz);
  return {
    order: 2 * Math.max(1, modes.length),
    left: { negative: 0, heavy: 0, real: 0, outside: 0 },
    poles: modes.map(({ hz, shape }) => ({
      hz,
      damping: NaN,
      shape,
      participation: {
        re: Float64Array.from(references, (r) => shape.re[r]),
        im: Float64Array.from(references, (r) => shape.im[r]),
      },
      rest: 0,
    })),
  };
}

function warnings(
  all: Lines,
  own: Lines,
  references: readonly number[],
  band: FitSettings['band'],
): string[] {
  const says: string[] = [];
  const sum = sumOf(all);
  const lineOf = (f: number) => Math.round(f / (all.hz[1] - all.hz[0]));
  for (const [edge, f] of [
    ['beginning', band.fromHz],
    ['end', band.toHz],
  ] as const) {
    const line = lineOf(f);
    const peak = line > 0 && line < sum.length - 1 ? onPeak(sum, line) : null;
    if (peak !== null)
      says.push(`The band’s ${edge} stands on a peak at ${all.hz[peak].toPrecision(4)} Hz: move it into a valley, or that mode spoils those inside.`); // prettier-ignore
  }
  const rank = referenceRank(own, references);
  if (rank < references.length)
    says.push(`The ${references.length} references see only ${rank} independent motions in this band: fewer of them would do.`); // prettier-ignore
  return says;
}

/** A pole that was taken for a mode. */
export interface PickedPole {
  order: number;
  index: number;
}

/** A mode with all that is known of it. */
export interface SolvedMode {
  pole: JudgedPole;
  expanded: Spread;
  shape: { re: Float64Array; im: Float64Array };
  participation: { re: Float64Array; im: Float64Array };
  realness: number;
  meanPhase: number;
  phaseDeviation: number;
  harmonic: Harmonic;
}
export interface Solved {
  modes: SolvedMode[];
  /** Harmonics that were not picked: they take part in what is put together, so that they do not spoil the shapes beside them. */
  tones: (Pole & Harmonic)[];
  model: ModalModel;
  met: Float64Array;
  metAll: number;
}

/** Shapes of the picked poles, with what is known of them. @param out picks that are left out of what is put together
 *  @param overBlocks standard deviation of each over blocks of the span, where it is known */
export function solved(
  basis: Basis,
  { lines, decay }: Prepared,
  fit: FitResult,
  settings: FitSettings,
  picks: readonly (PickedPole & { out?: boolean })[],
  speedHz: number | null,
  overBlocks: readonly (Spread | null)[] = [],
): Solved {
  const own = within(lines, settings.band.fromHz, settings.band.toHz);
  const poles = picks.map((p) => poleAt(fit.orders, p));
  const taking = poles.filter((_, k) => !picks[k].out);
  // A peak of singular values has no damping: half a line’s width stands for it.
  const tones = tonesOf(basis, fit, settings, poles, speedHz);
  const usable = [...taking, ...tones.map((t) => t.pole)].map((p) => (p.damping === p.damping ? p : { ...p, damping: 0.005 })); // prettier-ignore
  const model = shapesOf(own, usable, settings.residuals, decay);
  const modes = poles.map((pole, k): SolvedMode => {
    const at = taking.indexOf(pole);
    const raw = at >= 0 ? model.modes[at].shape : pole.shape;
    const shape = normalised(raw, settings.normalised);
    const group = membersOf(fit, settings.tolerances, pole);
    return {
      pole,
      expanded: spreadOf(group, overBlocks[k] ?? null),
      shape,
      participation: pole.participation,
      realness: realness(shape),
      meanPhase: meanPhase(raw),
      phaseDeviation: phaseDeviation(shape),
      harmonic: harmonicOf(pole, basis.powers, speedHz),
    };
  });
  const pairs = met(own, model, decay);
  return {
    modes,
    tones: tones.map(({ pole: { hz, damping }, harmonic }) => ({ hz, damping, ...harmonic })),
    model,
    met: pairs,
    metAll: overall(own, pairs),
  };
}

/** Suggested poles that are harmonics, where nobody picked one. */
function tonesOf(
  basis: Basis,
  fit: FitResult,
  { tolerances }: FitSettings,
  picked: readonly JudgedPole[],
  speedHz: number | null,
): { pole: JudgedPole; harmonic: Harmonic }[] {
  return fit.clusters.flatMap(({ best }) => {
    const pole = poleAt(fit.orders, best);
    const harmonic = harmonicOf(pole, basis.powers, speedHz);
    const taken = picked.some((p) => sameMode(pole, [p], tolerances.frequency) !== null);
    return harmonic.is && !taken ? [{ pole, harmonic }] : [];
  });
}

/** Over all pairs, each by its power. */
function overall({ responses, references, hz, re, im }: Lines, pairs: Float64Array): number {
  let [sum, weights] = [0, 0];
  for (let p = 0; p < responses * references; p++) {
    let power = 0;
    for (let k = p * hz.length; k < (p + 1) * hz.length; k++) power += re[k] ** 2 + im[k] ** 2;
    if (!(power > 0)) continue;
    sum += power * pairs[p];
    weights += power;
  }
  return weights > 0 ? sum / weights : NaN;
}

/** @throws `bad_input` for one that is not there */
function poleAt(orders: readonly JudgedOrder[], { order, index }: PickedPole): JudgedPole {
  const pole = orders.find((o) => o.order === order)?.poles[index];
  if (!pole)
    throw badInput('pole', `${index + 1} of order ${order}`, 'The fit has no such pole: pick another.');
  return pole;
}

/** Poles of all orders that are the same mode at rest. */
function membersOf(fit: FitResult, tolerances: Tolerances, pole: JudgedPole): JudgedPole[] {
  return fit.orders.flatMap(({ poles }) => {
    const at = sameMode(pole, poles, tolerances.frequency, tolerances.shape);
    return at !== null && poles[at].rest >= 2 ? [poles[at]] : [];
  });
}

/** Where picks are found again after a fit has changed: the pole at rest that is nearest in frequency and alike in shape, of the highest order
 *  that does not lie above the former one by more than it has to; null where there is none. */
export function foundAgain(
  fit: FitResult,
  former: { hz: number; order: number; shape: { re: ArrayLike<number>; im: ArrayLike<number> } },
  tolerances: Tolerances,
): PickedPole | null {
  const shape = { re: Float64Array.from(former.shape.re), im: Float64Array.from(former.shape.im) };
  const same = shape.re.length > 0 && fit.orders.some((o) => o.poles.some((p) => p.shape.re.length === shape.re.length)); // prettier-ignore
  let best: (PickedPole & { cost: number }) | null = null;
  for (const { order, poles } of fit.orders)
    poles.forEach((pole, index) => {
      const off = Math.abs(pole.hz / former.hz - 1);
      if (off > 3 * tolerances.frequency) return;
      if (same && sameMode({ hz: former.hz, shape }, [pole], 3 * tolerances.frequency, 0.7) === null) return;
      const cost = off / tolerances.frequency + (3 - pole.rest) + Math.abs(order - former.order) / 200;
      if (!best || cost < best.cost) best = { order, index, cost };
    });
  if (!best) return null;
  const { order, index } = best as PickedPole;
  return { order, index };
}

/** How each picked pole scatters over the blocks of the span: the fit of its order made again without each block (or of blocks drawn with
 *  replacement, so many times). @returns standard deviations; null where a pole was not found often enough */
export function overBlocks(
  basis: Basis,
  blocks: readonly CorrelationBlock[],
  fit: FitResult,
  settings: FitSettings,
  picks: readonly PickedPole[],
  times: number | null,
  progress: Progress,
  signal: CancelSignal,
): (Spread | null)[] {
  if (blocks.length < 3 || settings.method === FITS[2]) return picks.map(() => null);
  const sets = times === null ? leftOut(blocks) : drawn(blocks, times);
  const found = picks.map(() => ({ hz: [] as number[], damping: [] as number[] }));
  const poles = picks.map((p) => poleAt(fit.orders, p));
  // Only the orders that something was picked of.
  const orders = new Set(picks.map((p) => p.order));
  sets.forEach((values, k) => {
    const again = fitted(
      prepared(basis, values),
      basis.references,
      settings,
      (s) => progress((k + s) / sets.length),
      signal,
      orders,
    );
    picks.forEach(({ order }, p) => {
      const among = again.orders.find((o) => o.order === order)?.poles ?? [];
      const at = sameMode(poles[p], among, 5 * settings.tolerances.frequency, 0.6);
      if (at === null) return;
      found[p].hz.push(among[at].hz);
      found[p].damping.push(among[at].damping);
    });
  });
  const spread = times === null ? jackknife : deviation;
  return found.map(({ hz, damping }) =>
    hz.length >= Math.max(3, 0.6 * sets.length) ? { hz: spread(hz), damping: spread(damping) } : null,
  );
}
