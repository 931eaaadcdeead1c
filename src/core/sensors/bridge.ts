/** Strain carried by the four arms of a bridge as multiples of the strain to be measured, in ring order R1…R4
 *  (R1 and R3 raise the output under tension, R2 and R4 lower it). ν is the Poisson ratio. */
export const BRIDGE_ARRANGEMENTS = {
  quarter: () => [1, 0, 0, 0],
  'half, bending': () => [1, -1, 0, 0],
  'half, axial with transverse gauge': (nu: number) => [1, -nu, 0, 0],
  'half, opposite arms': () => [1, 0, 1, 0],
  'full, bending': () => [1, -1, 1, -1],
  'full, bending with transverse gauges': (nu: number) => [1, -nu, nu, -1],
  'full, axial with transverse gauges': (nu: number) => [1, -nu, 1, -nu],
  'full, torsion': () => [1, -1, 1, -1],
} as const satisfies Record<string, (nu: number) => readonly number[]>;
export type BridgeArrangement = keyof typeof BRIDGE_ARRANGEMENTS;

/** Bridge factor N = k1 - k2 + k3 - k4: 1 for a quarter, 4 for a full bending bridge. */
export function bridgeFactor(arrangement: BridgeArrangement, poisson: number): number {
  const k = BRIDGE_ARRANGEMENTS[arrangement](poisson);
  return k[0] - k[1] + k[2] - k[3];
}

/** Output of a bridge for a strain, from the circuit: Vo/Ve = R3/(R3+R4) - R2/(R1+R2), each Ri = R(1 + GF·ki·ε).
 *  @param strain in m/m, tension positive @returns mV/V */
export function bridgeOutput(
  arrangement: BridgeArrangement,
  gaugeFactor: number,
  poisson: number,
  strain: number,
): number {
  const [a, b, c, d] = BRIDGE_ARRANGEMENTS[arrangement](poisson).map((k) => 1 + gaugeFactor * k * strain);
  return 1000 * (c / (c + d) - b / (a + b));
}

/** Strain from the output of a bridge, the exact inverse of bridgeOutput. With v = Vo/Ve and q = GF·ε the circuit gives
 *  (k1k3 - k2k4)q² + (k1+k3-k2-k4)q = v·(2 + (k3+k4)q)(2 + (k1+k2)q), a quadratic in q; its root that is 0 for v = 0 is taken.
 *  @returns strain in m/m, NaN where no strain gives this output */
export function bridgeStrain(
  arrangement: BridgeArrangement,
  gaugeFactor: number,
  poisson: number,
  millivoltPerVolt: number,
): number {
  const [k1, k2, k3, k4] = BRIDGE_ARRANGEMENTS[arrangement](poisson);
  const v = millivoltPerVolt / 1000;
  const a = k1 * k3 - k2 * k4 - v * (k1 + k2) * (k3 + k4);
  const b = k1 - k2 + k3 - k4 - 2 * v * (k1 + k2 + k3 + k4);
  const c = -4 * v;
  // The form 2c / (-b - sqrt) keeps all digits where a is small or zero.
  return (2 * c) / (-b - Math.sign(b) * Math.sqrt(b * b - 4 * a * c)) / gaugeFactor;
}

/** Output of a bridge whose arm R1 (of `gaugeOhm`) has a shunt resistor across it: -Rg/(4Rs + 2Rg). @returns mV/V */
export const shuntOutput = (gaugeOhm: number, shuntOhm: number) =>
  (-1000 * gaugeOhm) / (4 * shuntOhm + 2 * gaugeOhm);
