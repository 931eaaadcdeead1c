import { COLUMNS, cellText, readBlock, settingOf } from '$contract/columns';
import { channelKind, type Channel } from '$contract/channel';

export interface Cell {
  id: string;
  key: string;
  text: string;
}
/** A row below the last channel: a new one, like that where it says nothing else. */
export interface NewRow {
  like: string;
  cells: { key: string; text: string }[];
}
/** What a paste would write: into channels that are there, and below them. */
export interface PastedBlock {
  cells: Cell[];
  rows: NewRow[];
}

/** Rows and columns of a block, both ends included. */
export interface Block {
  top: number;
  bottom: number;
  left: number;
  right: number;
}
export interface Place {
  row: number;
  column: number;
}
export const blockOf = (anchor: Place, focus: Place, rows: number): Block => ({
  top: Math.min(anchor.row, focus.row),
  bottom: Math.min(rows - 1, Math.max(anchor.row, focus.row)),
  left: Math.min(anchor.column, focus.column),
  right: Math.max(anchor.column, focus.column),
});
export const isIn = ({ top, bottom, left, right }: Block, row: number, column: number) =>
  row >= top && row <= bottom && column >= left && column <= right;

/** Whether a channel has something to write in a column. */
export function isEditable(channel: Channel, key: string): boolean {
  if (!COLUMNS.find((c) => c.key === key)?.editable) return false;
  if (['name', 'group', 'sensorSerial'].includes(key)) return true;
  if (key === 'wire') return channel.wire !== null;
  if (key === 'scale') return channelKind(channel.kind).linear;
  return settingOf(channel, key) !== undefined;
}

/** One text for all cells of a block that can be written. */
export const writtenInto = (rows: Channel[], keys: string[], b: Block, text: string): Cell[] =>
  rows.slice(b.top, b.bottom + 1).flatMap((c) =>
    keys
      .slice(b.left, b.right + 1)
      .filter((key) => isEditable(c, key))
      .map((key) => ({ id: c.id, key, text })),
  );

/** A text from a spreadsheet: one cell goes into the whole block; a block begins at its top left, and what goes below the last channel is new
 *  ones. */
export function pastedInto(rows: Channel[], keys: string[], b: Block, text: string): PastedBlock {
  const pasted = readBlock(text);
  if (pasted.length === 1 && pasted[0].length === 1)
    return {
      cells: rows
        .slice(b.top, b.bottom + 1)
        .flatMap((c) =>
          keys.slice(b.left, b.right + 1).map((key) => ({ id: c.id, key, text: pasted[0][0] })),
        ),
      rows: [],
    };
  const cellsOf = (texts: string[]) =>
    texts.flatMap((cell, c) => {
      const key = keys[b.left + c];
      return key ? [{ key, text: cell }] : [];
    });
  const there = pasted.slice(0, rows.length - b.top);
  const below = pasted.slice(there.length).filter((texts) => texts.some((t) => t.trim()));
  return {
    cells: there.flatMap((texts, r) => cellsOf(texts).map((c) => ({ id: rows[b.top + r].id, ...c }))),
    rows: below.map((texts) => ({ like: rows[rows.length - 1].id, cells: cellsOf(texts) })),
  };
}

/** The top row of a block for all those below it. */
export const filledDown = (rows: Channel[], keys: string[], b: Block): Cell[] =>
  keys.slice(b.left, b.right + 1).flatMap((key) =>
    rows
      .slice(b.top + 1, b.bottom + 1)
      .filter((c) => isEditable(c, key))
      .map((c) => ({ id: c.id, key, text: cellText(rows[b.top], key) })),
  );

/** The order of all once some stand before another one (null: at the end). */
export function moved(all: Channel[], ids: string[], before: string | null): string[] {
  const rest = all.filter((c) => !ids.includes(c.id)).map((c) => c.id);
  const at = before === null ? rest.length : rest.indexOf(before);
  return [...rest.slice(0, at), ...all.filter((c) => ids.includes(c.id)).map((c) => c.id), ...rest.slice(at)];
}

const PAGE_ROWS = 15;
/** How far a key goes, in rows and columns; undefined for one that goes nowhere. @param far whether it goes to the end */
export function stepOf(
  key: string,
  far: boolean,
  rows: number,
  columns: number,
): [number, number] | undefined {
  const down = far ? rows : 1;
  const steps: Record<string, [number, number]> = {
    ArrowDown: [down, 0],
    ArrowUp: [-down, 0],
    ArrowRight: [0, 1],
    ArrowLeft: [0, -1],
    PageDown: [PAGE_ROWS, 0],
    PageUp: [-PAGE_ROWS, 0],
    Home: [0, -columns],
    End: [0, columns],
  };
  return steps[key];
}
