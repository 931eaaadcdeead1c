import { expect } from 'vitest';
import { sampledOf, type Sampled } from '$core/samples/sampled';
import { studyKind } from '$core/studies/registry';
import { resultTables, type StudyResult, type TakeInputs } from '$core/studies/study';
import { rowsOf } from '$core/figures/table';

/** A signal of numbers. @param hz whole */
export const signalOf = (
  name: string,
  values: ArrayLike<number>,
  { unit = 'kN', hz = 100, startNs = 0 } = {},
): Sampled =>
  sampledOf(
    { id: name, name, quantity: '', unit, rate: { num: hz, den: 1 }, startNs, width: 1 },
    Float32Array.from(values),
  );

/** Samples of a function of time, s. */
export const timed = (hz: number, seconds: number, of: (t: number) => number): Float32Array =>
  Float32Array.from({ length: Math.round(hz * seconds) }, (_, i) => of(i / hz));

export const takeOf = (signals: Record<string, Sampled[]>, name = 'T-1'): TakeInputs => ({
  id: name,
  name,
  facts: {},
  durationS: 1,
  signals,
});

/** Runs a kind with its usual settings and some of one's own. */
export function studied(
  kind: string,
  takes: TakeInputs | TakeInputs[],
  settings: Record<string, unknown> = {},
  signal = { aborted: false },
): StudyResult & { finding: (label: string) => number; table: (title: string) => Record<string, unknown>[] } {
  const found = studyKind(kind);
  const told: number[] = [];
  const parsed = found.sentence.schema.parse({ ...found.defaults, ...settings });
  const result = found.run([takes].flat(), parsed, (share) => told.push(share), signal);
  // Progress never goes back, and stays within its ends.
  told.forEach((share, i) => {
    expect(share).toBeGreaterThanOrEqual((told[i - 1] ?? 0) - 1e-9);
    expect(share).toBeLessThanOrEqual(1 + 1e-9);
  });
  return {
    ...result,
    finding: (label) => {
      const one = result.findings.find((f) => f.label === label);
      expect(one, `finding “${label}” of ${result.findings.map((f) => f.label).join(', ')}`).toBeDefined();
      return one!.value;
    },
    table: (title) => {
      const one = resultTables(result).find((t) => t.title === title)!;
      expect(one, `table “${title}”`).toBeDefined();
      return rowsOf(one).map((row) => Object.fromEntries(row.map((cell, k) => [one.columns[k].label, cell])));
    },
  };
}
