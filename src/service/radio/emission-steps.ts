import { BAND_CONSTANTS, bandAt } from '$core/emissions/bands';
import type { ScanRange } from '$core/emissions/scan';
import type { GatherStep } from '$core/radio/gathering';
import { shapeWidths } from '$core/radio/response';
import type { ReceiverState } from '$contract/radio';
import type { EmissionSettings } from '$contract/radio-emissions';

/** Lines for a bandwidth while the highest place is sought around a suspect. */
const FINE = 4;
/** How far beside what is left of its DC a receiver is tuned for one frequency, share of its rate. */
const BESIDE = 0.12;
const SHAPE = 'Blackman-Harris';

export const scanOf = (r: EmissionSettings['ranges'][number]): ScanRange => ({
  fromHz: r.from * 1e6,
  toHz: r.to * 1e6,
  bandwidth6Hz: r.resolving * 1e3,
  dwellS: r.dwell / 1e3,
  gainDb: r.gain,
});

/** Tuned above a frequency where the receiver reaches, else below; with the gain of its range. */
function standing(hz: number, { ranges }: EmissionSettings, { sampleRateHz, tunes }: ReceiverState) {
  const above = Math.max(hz + BESIDE * sampleRateHz, tunes!.fromHz);
  const gain = ranges.find((r) => hz >= r.from * 1e6 && hz <= r.to * 1e6)?.gain ?? null;
  return {
    centreHz: above <= tunes!.toHz ? above : hz - BESIDE * sampleRateHz,
    ...(gain !== null && { gainDb: gain }),
  };
}

/** Hears around a suspect, finer than its bandwidth; null where it is not to be sought. */
export function seekStep(hz: number, s: EmissionSettings, receiver: ReceiverState): GatherStep | null {
  if (s.around === 0) return null;
  const width = BAND_CONSTANTS[bandAt(hz)].bandwidth6Hz;
  const { at3, at6 } = shapeWidths(SHAPE);
  const request = {
    centreHz: hz,
    spanHz: 2 * s.around * width,
    resolutionHz: ((width / FINE) * at3) / at6,
    smoothingHz: null,
    shape: SHAPE,
  } as const;
  return {
    ...standing(hz, s, receiver),
    task: { does: 'band', request, sweepS: s.seeking, sweeps: 1 },
  };
}

/** Weighs one frequency in the band that it lies in. */
export const weighStep = (hz: number, s: EmissionSettings, receiver: ReceiverState): GatherStep => ({
  ...standing(hz, s, receiver),
  task: { does: 'weigh', hz: [hz], band: bandAt(hz), seconds: s.seconds },
});
