/** How well a receiver’s levels and frequencies are known. */
export interface ReceiverAccuracy {
  /** Limits within which a level is right at the reference frequency, and within which the response changes over the band, dB. */
  levelDb: number;
  flatnessDb: number;
  /** Relative limit of the frequency reference. */
  clock: number;
}

const RECTANGULAR = Math.sqrt(3);

/** ± of a level at 95 %, dB: level accuracy and flatness as limits (rectangular), and the scatter of what was averaged. A steady tone scatters by the noise
 *  beside it, noise by the number of independent transforms: half-overlapping windows count as three quarters (Welch 1967).
 *  Source: JCGM 100:2008, 4.3.7 and 5.1. @param aboveNoiseDb of the tone over the noise in the resolution bandwidth; 0 for noise itself */
export function levelUncertainty(
  accuracy: ReceiverAccuracy,
  aboveNoiseDb: number,
  transforms: number,
): number {
  const independent = Math.max(1, 0.75 * transforms);
  const perDb = 10 / Math.LN10;
  const noise = 10 ** (-aboveNoiseDb / 10);
  // Power of a tone in noise: variance 2·S·N + N², relative to (S + N)².
  const relative = aboveNoiseDb <= 0 ? 1 : Math.sqrt(2 * noise + noise * noise) / (1 + noise);
  const scatter = (perDb * relative) / Math.sqrt(independent);
  return 2 * Math.hypot(accuracy.levelDb / RECTANGULAR, accuracy.flatnessDb / RECTANGULAR, scatter);
}

/** ± of a frequency read at a peak, 95 %, Hz: the reference, and how well the top of the response is found in noise: at best the bound of Cramér and Rao for
 *  one window (Rife and Boorstyn, IEEE Trans. IT-20, 1974), and never better than a hundredth of a line for the parabola’s own error. */
export function frequencyUncertainty(
  clock: number,
  hz: number,
  {
    resolutionHz,
    stepHz,
    aboveNoiseDb,
    transforms,
  }: { resolutionHz: number; stepHz: number; aboveNoiseDb: number; transforms: number },
): number {
  const ratio = 10 ** (Math.max(0, aboveNoiseDb) / 10);
  const found =
    (resolutionHz * Math.sqrt(3 / (2 * Math.PI ** 2 * ratio))) / Math.sqrt(Math.max(1, 0.75 * transforms));
  return 2 * Math.hypot((clock * hz) / RECTANGULAR, found, stepHz / 100);
}
