import type { Db } from '$store/database';
import { allAnalyses } from '$store/modal';
import type { ResultStore } from '$store/results';

/** What the file of blocks is called, beside that of the correlations. */
export const blocksOf = (id: string) => `${id}-blocks`;

/** Takes away files that no set names any more. */
export function tidyModal(db: Db, results: ResultStore): void {
  const named = new Set<string>();
  for (const { body } of allAnalyses(db))
    for (const { correlations, poles } of body.sets) {
      if (correlations) named.add(correlations.id).add(blocksOf(correlations.id));
      if (poles) named.add(poles.id);
    }
  results.keepOnly(named);
}
