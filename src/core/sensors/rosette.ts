export const ROSETTES = ['0/45/90', '0/60/120'] as const;
export type Rosette = (typeof ROSETTES)[number];

/** What three gauges say of a surface under plane stress. Strains are in the unit of the gauges, stresses in that of the modulus times it. */
export interface SurfaceState {
  /** Principal strains, the larger first. */
  strain1: number;
  strain2: number;
  /** From gauge a towards b to the first principal direction, −90° to 90°. */
  angleDeg: number;
  stress1: number;
  stress2: number;
  vonMises: number;
}

/** Strain transformation (Mohr’s circle) and Hooke’s law for plane stress (e.g. Hoffmann, An Introduction to Stress Analysis, ch. 3); no
 *  correction of transverse sensitivity. @param modulus Young’s, in stress for one unit of strain @param poisson below 1 */
export function rosetteState(
  rosette: Rosette,
  a: number,
  b: number,
  c: number,
  modulus: number,
  poisson: number,
): SurfaceState {
  const y = rosette === '0/45/90' ? c : (2 * (b + c) - a) / 3;
  const shear = rosette === '0/45/90' ? 2 * b - a - c : (2 / Math.sqrt(3)) * (b - c);
  const mean = (a + y) / 2;
  const radius = Math.hypot(a - y, shear) / 2;
  const [strain1, strain2] = [mean + radius, mean - radius];
  const stiff = modulus / (1 - poisson * poisson);
  const [stress1, stress2] = [stiff * (strain1 + poisson * strain2), stiff * (strain2 + poisson * strain1)];
  return {
    strain1,
    strain2,
    angleDeg: (Math.atan2(shear, a - y) * 90) / Math.PI,
    stress1,
    stress2,
    vonMises: Math.sqrt(stress1 * stress1 - stress1 * stress2 + stress2 * stress2),
  };
}
