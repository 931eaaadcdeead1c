import type { FarrierError } from '$core/errors';
import { pointResult, type PointInputs } from '$core/noise-figure/budget';
import { findings } from '$core/noise-figure/findings';
import { excessAt, tabledAt } from '$core/noise-figure/sources';
import type { GatherStep } from '$core/radio/gathering';
import { planBand, type BandPlan } from '$core/radio/resolution';
import type { ReceiverState } from '$contract/radio';
import {
  noiseFrequencies,
  type NoisePoint,
  type NoiseSettings,
  type NoiseSource,
} from '$contract/radio-noise';
import type { NoiseTable } from './noise-state';

/** ± of a room temperature that was measured, or only stated, K at 95 %. */
const ROOM_KNOWN = { measured: 1, stated: 3 };
/** Share of the rate around the centre in which what is left of the receiver’s own DC lies. */
const DC_SHARE = 0.03;

/** Where a receiver is tuned for a point: beside it, so that its own DC lies outside. */
const besideDc = (s: NoiseSettings, hz: number, sampleRateHz: number): number =>
  hz + (s.each / 2) * 1e6 + DC_SHARE * sampleRateHz;

const requestOf = (s: NoiseSettings, centreHz: number) => ({
  centreHz,
  spanHz: s.each * 1e6,
  resolutionHz: s.resolving * 1e3,
  smoothingHz: null,
  shape: 'Blackman-Harris' as const,
});
const planOf = (s: NoiseSettings, sampleRateHz: number): BandPlan =>
  planBand(requestOf(s, 0), { centreHz: besideDc(s, 0, sampleRateHz), sampleRateHz });

/** Steps that a receiver takes for the points, and how many independent transforms the line of a sweep is the mean of: windows that overlap by half
 *  count as three quarters (Welch 1967). */
export function noiseSteps(
  s: NoiseSettings,
  hz: readonly number[],
  { sampleRateHz }: ReceiverState,
): { steps: GatherStep[]; independent: number } {
  const sweepS = 1 / (s.smoothing * 1e3);
  return {
    steps: hz.map((f) => ({
      centreHz: besideDc(s, f, sampleRateHz),
      task: { does: 'band', request: requestOf(s, f), sweepS, sweeps: s.sweeps },
    })),
    independent: Math.max(1, (0.75 * sweepS * sampleRateHz) / planOf(s, sampleRateHz).step),
  };
}

/** What keeps settings from being measured; '' for nothing. */
export function settingsFault(
  s: NoiseSettings,
  source: NoiseSource | null,
  { tunes, sampleRateHz }: ReceiverState,
): string {
  const hz = noiseFrequencies(s);
  if (!Array.isArray(hz)) return hz.fault;
  if (!s.source) return 'Choose the noise source, or describe it first.';
  if (!source) return `The noise source ${s.source} is not kept any more.`;
  if (!tunes) return 'This receiver cannot be tuned.';
  const odd = hz.find((f) => f < tunes.fromHz || besideDc(s, f, sampleRateHz) > tunes.toHz);
  if (odd !== undefined) return `The receiver does not reach ${odd / 1e6} MHz.`;
  try {
    planOf(s, sampleRateHz);
  } catch (error) {
    const { text } = error as FarrierError;
    return [text.what, text.next].filter(Boolean).join(' ');
  }
  return '';
}

/** Noise figure and gain of every point that was measured in all states.
 *  @param table points of a table of correction by its name */
export function noisePoints(
  { own, settings: s, hz, powers, roomK }: NoiseTable,
  source: NoiseSource | null,
  table: (name: string | null) => readonly { hz: number; db: number }[],
): NoisePoint[] {
  if (!own || !source || own.hz.join() !== hz.join()) return hz.map(nothing);
  const [before, behind] = [table(s.beforeBy), table(s.behindBy)];
  const kelvin = s.lossK ?? roomK;
  return hz.map((f, k) => {
    const on = powers['through on'][k];
    const off = powers['through off'][k];
    if (!on || !off) return nothing(f);
    const { enr, expanded, covered } = excessAt(source.points, f);
    const inputs: PointInputs = {
      own: own.powers[k],
      through: { on, off },
      enr,
      enrExpanded: expanded,
      coldK: roomK,
      coldExpanded: s.roomBy ? ROOM_KNOWN.measured : ROOM_KNOWN.stated,
      before: { db: s.before + tabledAt(before, f), kelvin },
      behind: { db: s.behind + tabledAt(behind, f), kelvin },
      lossExpanded: s.lossKnown,
      vswr: { source: s.vswrSource, input: s.vswrIn, output: s.vswrOut, receiver: s.vswrReceiver },
    };
    const result = pointResult(inputs);
    const found = findings({ own: own.powers[k], through: { on, off } }, inputs, result, covered);
    const left = found.some((x) => x.leaves);
    return {
      hz: f,
      figureDb: left ? null : result.figureDb,
      figureExpanded: result.figureExpanded,
      gainDb: left ? null : result.gainDb,
      gainExpanded: result.gainExpanded,
      y: result.y,
      effectiveK: result.deviceK,
      budget: result.budget,
      findings: found,
    };
  });
}

const nothing = (hz: number): NoisePoint => ({
  hz,
  figureDb: null,
  figureExpanded: NaN,
  gainDb: null,
  gainExpanded: NaN,
  y: NaN,
  effectiveK: NaN,
  budget: [],
  findings: [],
});
