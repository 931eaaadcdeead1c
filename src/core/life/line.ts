/** A line of stress or strain over cycles to failure: N = knee cycles · (amplitude / knee amplitude)^−slope. */
export interface EnduranceLine {
  /** Amplitude at the knee, in the unit of what was counted. */
  amplitude: number;
  cycles: number;
  /** Above the knee. */
  slope: number;
  /** Below the knee; Infinity where smaller amplitudes do no damage. */
  slopeBelow: number;
}

/** What happens below the knee: the slope 2k − 1 (Haibach), the same slope (elementary), no damage at all (original). */
export const BELOW_KNEE = ['the slope 2k − 1', 'the same slope', 'no damage'] as const;
export type BelowKnee = (typeof BELOW_KNEE)[number];
export const slopeBelow = (slope: number, how: BelowKnee): number =>
  how === 'no damage' ? Infinity : how === 'the same slope' ? slope : 2 * slope - 1;

/** Cycles to failure at an amplitude. @returns Infinity where it does no damage */
export function cyclesToFailure(line: EnduranceLine, amplitude: number): number {
  if (!(amplitude > 0)) return Infinity;
  const k = amplitude >= line.amplitude ? line.slope : line.slopeBelow;
  return k === Infinity ? Infinity : line.cycles * (amplitude / line.amplitude) ** -k;
}

/** A line for another probability of survival: the scatter T = N(10 %) / N(90 %) of a normal distribution of log N moves it along the cycles.
 *  @param survival 0.5 for the line itself @param scatter 1 for none */
export function shifted(line: EnduranceLine, survival: number, scatter: number): EnduranceLine {
  const s = Math.log10(scatter) / (2 * 1.2815515655446004);
  return { ...line, cycles: line.cycles * 10 ** (-normalQuantile(survival) * s) };
}

/** Quantile of the standard normal distribution, by Newton steps on its series (Abramowitz and Stegun 26.2.10). @param p above 0, below 1 */
export function normalQuantile(p: number): number {
  let x = 0;
  for (let k = 0; k < 60; k++) {
    const step = (p - normalShare(x)) / (Math.exp((-x * x) / 2) / Math.sqrt(2 * Math.PI));
    x += Math.max(-1, Math.min(1, step));
    if (Math.abs(step) < 1e-12) break;
  }
  return x;
}
function normalShare(x: number): number {
  let term = x;
  let sum = x;
  for (let k = 1; Math.abs(term) > 1e-17 && k < 400; k++) {
    term *= (-x * x) / (2 * k);
    sum += term / (2 * k + 1);
  }
  return 0.5 + sum / Math.sqrt(2 * Math.PI);
}

export const MEAN_CORRECTIONS = ['none', 'Goodman', 'Gerber', 'mean sensitivity'] as const;
export type MeanCorrection = (typeof MEAN_CORRECTIONS)[number];

/** Amplitude at zero mean that does the same damage: Goodman a / (1 − m/R), Gerber a / (1 − (m/R)²), mean sensitivity a + M m.
 *  @param strength R, in the unit of the amplitude @param sensitivity M
 *  @returns Infinity where the mean reaches the strength; 0 or more (compression helps no further than to none) */
export function atZeroMean(
  how: MeanCorrection,
  amplitude: number,
  mean: number,
  { strength, sensitivity }: { strength: number; sensitivity: number },
): number {
  const share = mean / strength;
  switch (how) {
    case 'none':
      return amplitude;
    case 'Goodman':
      return share >= 1 ? Infinity : amplitude / (1 - share);
    case 'Gerber':
      return Math.abs(share) >= 1 ? Infinity : amplitude / (1 - share * share);
    case 'mean sensitivity':
      return Math.max(0, amplitude + sensitivity * mean);
  }
}

/** Constant amplitude that does a damage in a number of cycles: the amplitude whose cycles to failure are cycles / damage. */
export function amplitudeOf(line: EnduranceLine, damage: number, cycles: number): number {
  if (!(damage > 0)) return 0;
  const toFailure = cycles / damage;
  const at = (slope: number) => line.amplitude * (line.cycles / toFailure) ** (1 / slope);
  if (toFailure <= line.cycles) return at(line.slope);
  return line.slopeBelow === Infinity ? line.amplitude : at(line.slopeBelow);
}
