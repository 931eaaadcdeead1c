import { readingText } from '$core/readings';
import type { Overview } from '$contract/overview';

type Take = Pick<Overview['takes'][number], 'id' | 'name' | 'number' | 'folder' | 'startedAt'>;

/** Number and time of a take, which tell two of one name apart. */
export const takeTag = ({ number, startedAt }: Take): string =>
  `no. ${number}, ${new Date(startedAt).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })}`;

/** Takes under their folders: those of none first, then folder by folder in the order of their newest; newest first in each. */
export function takesByFolder<T extends Take>(takes: readonly T[]): { folder: string; takes: T[] }[] {
  const folders = new Map<string, T[]>([['', []]]);
  for (const take of [...takes].sort((a, b) => b.startedAt - a.startedAt))
    folders.set(take.folder, [...(folders.get(take.folder) ?? []), take]);
  return [...folders].filter(([, held]) => held.length).map(([folder, held]) => ({ folder, takes: held }));
}

/** The least drift that is worth saying, ppm: a hundredth of a second in twelve days. */
const LEAST_PPM = 0.01;
/** How far a unit's clock runs from the server's, in no more digits than are known. */
export function driftText({
  driftPpm,
  driftUncertaintyPpm,
}: {
  driftPpm: number;
  driftUncertaintyPpm: number;
}): string {
  if (!Number.isFinite(driftPpm)) return 'its drift is not known yet';
  const uncertainty = Math.max(LEAST_PPM, driftUncertaintyPpm || 0);
  if (uncertainty < 5 * LEAST_PPM && Math.abs(driftPpm) <= uncertainty) return 'no drift';
  return `drift ${readingText(driftPpm, { uncertainty })} ± ${readingText(uncertainty, { digits: 2 })} ppm`;
}
