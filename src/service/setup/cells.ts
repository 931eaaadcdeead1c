import type { CellsWritten } from '$contract/api/setup';
import type { Comma } from '$contract/columns';
import type { App } from '../app';
import { change } from './change';
import { followsOf, readCells, worldOf, type Cell } from './channels';
import { makeRows, type NewRow } from './new-rows';

/** Writes cells into channels, the whole block at once; rows below the last channel become new ones. Cells that stand as they are, are left
 *  out. With `apply` what was understood is made, as one change: what is shown before and what is written come from the same function.
 *  @returns what becomes of each cell and row, and why not, and what follows */
export async function writeCells(
  app: App,
  cells: Cell[],
  comma: Comma | null,
  apply: boolean,
  by: string,
  rows: NewRow[] = [],
): Promise<CellsWritten> {
  const world = worldOf(app);
  const { channels, results, edited } = readCells(world, cells, comma);
  const { made, results: rowResults } = makeRows(app, { ...world, channels }, rows, comma);
  const follows = followsOf(app, world.channels, channels, edited);
  const good = results.filter((r) => r.fault === null);
  const touched = channels.filter((c, k) => c !== world.channels[k]);
  if (apply && touched.length + made.length) {
    const single = good.length === 1 && made.length === 0 ? good[0] : null;
    const columns = [...new Set(good.map((r) => r.column))];
    const wrote = `Wrote ${good.length} cells of ${new Set(good.map((r) => r.id)).size} channels: ${columns.slice(0, 5).join(', ')}`;
    const added = `Added ${made.length} channels: ${made
      .slice(0, 4)
      .map((c) => c.name)
      .join(', ')}${made.length > 4 ? ' …' : ''}`;
    const says = single
      ? `${single.channel}: ${single.column} ${single.after}`
      : [good.length && wrote, made.length && added].filter(Boolean).join('. ');
    await change(app, { channels: [...touched, ...made] }, 'channel', single?.id ?? '', `${says}.`, by);
  }
  return { cells: results, rows: rowResults, follows };
}
