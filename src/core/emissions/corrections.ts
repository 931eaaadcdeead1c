/** What a table of correction stands for. Values in dB: losses and gains as such, antenna factors in dB/m, a current probe’s transfer impedance in dBΩ. */
export const CORRECTION_KINDS = ['cable loss', 'attenuator', 'amplifier gain', 'antenna factor', 'coupling network', 'current probe'] as const; // prettier-ignore
export type CorrectionKind = (typeof CORRECTION_KINDS)[number];

export interface CorrectionTable {
  name: string;
  kind: CorrectionKind;
  /** ± of its values at 95 %, dB. */
  expanded: number;
  points: { hz: number; db: number }[];
}

/** dBµV over 50 Ω of 0 dBm: 10·log10(50 Ω · 1 mW / 1 µV²). */
export const DBUV_OF_DBM = 10 * Math.log10(50 * 1e-3 * 1e12);

/** By what a table is applied to the level at the receiver: what was lost is added, what was amplified is taken away. */
const SIGN: Record<CorrectionKind, 1 | -1> = {
  'cable loss': 1,
  attenuator: 1,
  'amplifier gain': -1,
  'antenna factor': 1,
  'coupling network': 1,
  'current probe': -1,
};

/** Value of a table, straight over the logarithm of frequency, held beyond its ends. */
export function correctionAt(points: readonly { hz: number; db: number }[], hz: number): number {
  const last = points.length - 1;
  if (hz <= points[0].hz) return points[0].db;
  if (hz >= points[last].hz) return points[last].db;
  const k = points.findIndex((p) => p.hz > hz);
  const [a, b] = [points[k - 1], points[k]];
  return a.db + (Math.log(hz / a.hz) / Math.log(b.hz / a.hz)) * (b.db - a.db);
}

/** dB by which the level at the receiver is corrected. */
export const correctionDb = (tables: readonly CorrectionTable[], hz: number): number =>
  tables.reduce((sum, t) => sum + SIGN[t.kind] * correctionAt(t.points, hz), 0);

/** Unit of a corrected level: an antenna turns voltage to field strength, a current probe to current. @returns a sentence where both are named */
export function correctedUnit(
  tables: readonly CorrectionTable[],
): 'dBµV' | 'dBµV/m' | 'dBµA' | { fault: string } {
  const turns = tables.filter((t) => t.kind === 'antenna factor' || t.kind === 'current probe');
  if (turns.length > 1)
    return { fault: `${turns.map((t) => t.name).join(' and ')} cannot both be in one chain.` };
  if (turns.length === 0) return 'dBµV';
  return turns[0].kind === 'antenna factor' ? 'dBµV/m' : 'dBµA';
}

/** Tables of a chain that do not reach a span, by name. */
export const notCovering = (tables: readonly CorrectionTable[], fromHz: number, toHz: number): string[] =>
  tables
    .filter(
      (t) =>
        t.points.length > 1 &&
        (t.points[0].hz > fromHz * 1.0001 || t.points[t.points.length - 1].hz < toHz * 0.9999),
    )
    .map((t) => t.name);
