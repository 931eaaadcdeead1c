import type { z } from 'zod';
import type { Sampled } from '../samples/sampled';
import type { CancelSignal, Progress, StudyKind, StudyResult } from './study';

/** Findings of channels beside each other, at the most: all of them stand in the table. */
const MOST_FINDINGS = 12;

/** The parts of a kind that looks at each of several signals by itself: it runs over one after the other here, or some of them elsewhere.
 *  @param one what it finds of one signal */
export const eachApart = <S extends z.ZodObject>(
  role: string,
  one: (input: Sampled, settings: z.infer<S>, progress: Progress, signal: CancelSignal) => StudyResult,
): Pick<StudyKind<S>, 'apart' | 'run'> => ({
  apart: role,
  run: ([take], settings, progress, signal) => {
    const inputs = take.signals[role];
    return joined(
      inputs.map((input, k) => one(input, settings, (share) => progress((k + share) / inputs.length), signal)), // prettier-ignore
    );
  },
});

/** What was found of some signals, as if all had been looked at in one go: curves in one figure, rows in one table. Findings that are not among the
 *  first are left to the table. @param parts at least one, each with the same figures and tables in the same order */
export function joined(parts: readonly StudyResult[]): StudyResult {
  const [first] = parts;
  if (parts.length === 1) return first;
  return {
    findings: parts.flatMap((p) => p.findings).slice(0, MOST_FINDINGS),
    figures: first.figures.map((figure, k) => {
      const all = parts.map((p) => p.figures[k]);
      const units = new Set(all.map((f) => f.y.unit));
      return {
        ...figure,
        y: { ...figure.y, unit: units.size === 1 ? figure.y.unit : 'each in its own unit' },
        marks: all.flatMap((f) => f.marks),
      };
    }),
    tables: first.tables.map((table, k) => ({ ...table, rows: parts.flatMap((p) => p.tables[k].rows) })),
  };
}
