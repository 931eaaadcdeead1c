import { heatColumns, heatRows } from './heat';
import { isNamed, placeAt, type Figure, type FigureAxis, type NamedMark } from './figure';

export interface Column {
  label: string;
  unit?: string;
  numeric: boolean;
}
/** A column’s head in words. */
export const columnTitle = (column: Column): string =>
  column.unit ? `${column.label}, ${column.unit}` : column.label;
export type Cell = string | number | null;
/** A table whose rows are made when they are asked for: what a figure holds is not kept twice. */
export interface Table {
  title: string;
  columns: readonly Column[];
  length: number;
  row(i: number): Cell[];
}

/** Rows in full, from `first` on. */
export const rowsOf = (table: Table, first = 0, count = table.length): Cell[][] =>
  Array.from({ length: Math.max(0, Math.min(count, table.length - first)) }, (_, i) => table.row(first + i));

/** The numbers of a figure: one table for each mark that has a name. */
export const tablesOf = (figure: Figure): Table[] =>
  figure.marks.filter(isNamed).map((mark) => tableOf(figure, mark));

const numeric = ({ label, unit }: FigureAxis, own?: string): Column => ({
  label,
  unit: own ?? (unit === '1' ? undefined : unit),
  numeric: true,
});
const cell = (v: number): Cell => (Number.isFinite(v) ? v : null);

function tableOf({ title, x, y }: Figure, mark: NamedMark): Table {
  const place = (at: number): Cell => (x.scale === 'classes' ? (x.classes?.[Math.round(at)] ?? null) : at);
  const across: Column = { ...numeric(x), numeric: x.scale !== 'classes' };
  const head = `${title}: ${mark.name}`;
  if (mark.mark === 'heat') {
    const nx = heatColumns(mark);
    const middle = (edges: typeof mark.x, i: number) => (placeAt(edges, i) + placeAt(edges, i + 1)) / 2;
    return {
      title: head,
      columns: [across, numeric(y), { label: mark.name, unit: mark.unit, numeric: true }],
      length: nx * heatRows(mark),
      row: (i) => [place(middle(mark.x, i % nx)), middle(mark.y, Math.floor(i / nx)), cell(mark.z[i])],
    };
  }
  if (mark.mark === 'band') {
    const of = (label: string): Column => ({ label, unit: mark.unit ?? y.unit, numeric: true });
    return {
      title: head,
      columns: [across, of('Lowest'), of('Highest')],
      length: mark.x.length,
      row: (i) => [place(placeAt(mark.x, i)), cell(mark.low[i]), cell(mark.high[i])],
    };
  }
  const reach = mark.mark === 'points' ? mark.reach : undefined;
  return {
    title: head,
    columns: [
      across,
      numeric(y, mark.unit),
      ...(reach ? [{ label: '±', unit: mark.unit ?? y.unit, numeric: true }] : []),
    ],
    length: mark.x.length,
    row: (i) => [place(placeAt(mark.x, i)), cell(mark.y[i]), ...(reach ? [cell(reach[i])] : [])],
  };
}
