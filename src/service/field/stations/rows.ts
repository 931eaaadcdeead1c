import { FarrierError, damaged } from '$core/errors';
import { readRows, type RowsPiece, type TableState } from '$core/field/station/state';
import type { FieldLink } from '../link';
import { fetchPieces } from '../pieces';

/** On a line that spoils much, answers are made shorter down to this, bytes. */
const LEAST = 512;
const TRIES = 2;

/** Fetches rows of a table from where one has them, piece by piece in their order; a cut loses nothing of what was handed on. An answer that does not come through is
 *  asked for in shorter ones. @throws InstrumentRefusal (`changed` where another programme runs, `gone` for rows that are overwritten), `unavailable` */
export async function fetchRows(
  link: FieldLink,
  { name, end, columns }: Pick<TableState, 'name' | 'end' | 'columns'>,
  run: number,
  from: number,
  took: (piece: RowsPiece) => void | Promise<void>,
  signal?: { readonly aborted: boolean },
): Promise<void> {
  let most = link.bulk;
  const ask = async (at: number, count: number): Promise<RowsPiece> => {
    for (;;) {
      const now = most;
      try {
        const piece = readRows(await link.ask('rows', { table: name, run, from: at, count, most: now }, now > LEAST ? TRIES : undefined)); // prettier-ignore
        // An answer to an earlier question of the same number is not what was asked for.
        if (piece.run === run && piece.from === at && piece.width !== columns.length)
          throw damaged(
            name,
            `Its rows have ${piece.width} columns, not ${columns.length}.`,
            'Look at its programme.',
          );
        if (piece.run === run && piece.from === at) return piece;
      } catch (error) {
        if (!(error instanceof FarrierError) || error.code !== 'unavailable' || link.ended || now <= LEAST)
          throw error;
        // Others that were on their way have found that out, too.
        if (most === now) most = Math.max(LEAST, Math.floor(now / 4));
      }
    }
  };
  await fetchPieces(ask, ({ times }) => times.length, from, end, took, signal);
}

/** Pieces that follow one another as one. */
export function joinedRows(pieces: readonly RowsPiece[]): RowsPiece {
  const [{ run, from, width }] = pieces;
  const count = pieces.reduce((sum, p) => sum + p.times.length, 0);
  const all: RowsPiece = { run, from, width, times: new Float64Array(count), torn: new Uint8Array(count), values: new Float32Array(count * width) }; // prettier-ignore
  let at = 0;
  for (const piece of pieces) {
    all.times.set(piece.times, at);
    all.torn.set(piece.torn, at);
    all.values.set(piece.values, at * width);
    at += piece.times.length;
  }
  return all;
}
