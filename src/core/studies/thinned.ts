import { thinFigure } from '../figures/thin';
import type { StudyResult } from './study';

/** Values of a curve and rows of a table that are drawn and listed of a result that is too large to be sent whole. */
const MOST = 20_000;

/** A result as it is drawn where it is very large. Findings stay as they are. */
export function thinned(result: StudyResult, most = MOST): StudyResult {
  return {
    ...result,
    figures: result.figures.map((figure) => thinFigure(figure, most)),
    tables: result.tables.map((table) => ({ ...table, rows: table.rows.slice(0, most) })),
    thinned: true,
  };
}
