import { badInput } from '../../errors';
import { hz, rateFromHz, type Rate } from '../../time/rate';
import { JITTER, rateOf } from '../grid';
import type { CellWriting, Piece, Pieces } from './pieces';
import { TextRows } from './rows';
import { clockOf, type Clock, type Column, type TimeColumn } from './times';

/** Samples of one signal, gaps among them. */
const SAMPLES_MOST = 200_000_000;
/** Rows by which a file is understood: its separator, its columns, the step of its times. */
const FIRST_ROWS = 20_000;

interface Grid {
  rate: Rate;
  length: number;
  /** Time of the first sample, s. */
  first: number;
}

/** A piece of the file with what has to be known to read it again. */
interface Stretch extends Piece {
  /** Its first row of numbers, and the state of the clock there. */
  row: number;
  clock: ReturnType<Clock['state']> | null;
  /** Time of that row, s; and the index of its sample. */
  time: number;
  index: number;
}

/** Samples of a piece: places on the grid, and what each column holds there. */
interface Parsed {
  index: Float64Array;
  columns: Float32Array[];
}
/** Cells that are kept at a time. */
const CELLS_MOST = 8 << 20;

interface Table {
  clock: Clock | null;
  grid: Grid;
  /** Of each column among the first rows: cells with something in them, and those that are numbers. */
  cells: { there: number; read: number }[];
  read(column: number, first: number, count: number): Float32Array;
}

/** Goes through the file once: where its rows are, and on which grid of times. Samples are read piece by piece when they are asked for.
 *  @throws `bad_input` naming the row whose time cannot be read or lies on no step */
export function scan(
  pieces: Pieces,
  writing: CellWriting,
  from: number,
  columns: readonly Column[],
  time: TimeColumn,
  rateHz: number | null,
): Table {
  const { separator, number } = writing;
  const cells = columns.map(() => ({ there: 0, read: 0 }));
  const stretches: Stretch[] = [];
  const times: number[] = [];
  let clock: Clock | null = null;
  let row = -from;
  let [firstS, lastS] = [NaN, NaN];
  const steps = { step: NaN, sum: 0, n: 0 };
  const single = (own: number) => {
    if (Math.abs(own - steps.step) > JITTER * steps.step) return;
    steps.sum += own;
    steps.n++;
  };
  /** The step of the first rows; what came until then is added to the mean of all. */
  const settle = () => {
    const apart = Float64Array.from({ length: times.length - 1 }, (_, i) => times[i + 1] - times[i]);
    steps.step = Float64Array.from(apart).sort()[(apart.length - 1) >> 1];
    apart.forEach(single);
  };
  for (const piece of pieces.all()) {
    stretches.push({ ...piece, row, clock: clock && (clock as Clock).state(), time: NaN, index: 0 });
    const stretch = stretches[stretches.length - 1];
    const early = row < FIRST_ROWS ? new TextRows(pieces.text(piece), separator, number) : null;
    const rows = early ?? pieces.rows(piece, writing);
    while (rows.next()) {
      if (row++ < 0) continue;
      if (row === 1) clock = clockOf(columns[time.at], time, rows.text(time.at), rows.value(time.at));
      if (early && row <= FIRST_ROWS)
        cells.forEach((cell, k) => {
          const text = early.cells[k]?.trim() ?? '';
          if (text === '') return;
          cell.there++;
          if (!Number.isNaN(number(text))) cell.read++;
        });
      if (!clock) continue;
      const s = clock.next(rows);
      if (Number.isNaN(stretch.time)) stretch.time = s;
      if (row === 1) firstS = s;
      else if (steps.step > 0) single(s - lastS);
      if (row <= FIRST_ROWS) times.push(s);
      if (row === FIRST_ROWS) settle();
      lastS = s;
    }
  }
  const count = row;
  if (Number.isNaN(steps.step) && times.length > 1) settle();
  const grid = gridOf({ clock, early: times, steps, firstS, lastS, rows: count, from, rateHz });
  const perSecond = hz(grid.rate);
  const evenly = rateHz !== null || !clock;
  const indexOf = (s: number) => Math.round((s - firstS) * perSecond);
  const wrong = (r: number, s: number) => offStep(from + r, s, steps.step);

  /** The last pieces that were parsed: all columns of one are read together. */
  const parsed = new Map<number, Parsed>();
  let held = 0;
  function parse(k: number): Parsed {
    const known = parsed.get(k);
    if (known) return known;
    const { row: firstRow, clock: state } = stretches[k];
    if (clock) clock.go(state ?? { days: 0, last: -Infinity, row: 0 });
    const rows = pieces.rows(stretches[k], writing);
    const room = Math.max(0, (stretches[k + 1]?.row ?? count) - Math.max(0, firstRow));
    const index = new Float64Array(room);
    const values = columns.map(() => new Float32Array(room));
    const own = new Float64Array(columns.length);
    let r = firstRow;
    let n = 0;
    let before = -Infinity;
    while (rows.next()) {
      if (r++ < 0) continue;
      const s = clock ? clock.next(rows) : 0;
      const place = evenly ? r - 1 : indexOf(s);
      if (!evenly && (Math.abs((s - firstS) * perSecond - place) > JITTER || place <= before))
        throw wrong(r, s);
      before = index[n] = place;
      rows.values(own);
      for (let c = 0; c < own.length; c++) values[c][n] = own[c];
      n++;
    }
    const made = { index, columns: values };
    held += room * columns.length;
    parsed.set(k, made);
    for (const [other, { index }] of parsed) {
      if (held <= CELLS_MOST || other === k) break;
      parsed.delete(other);
      held -= index.length * columns.length;
    }
    return made;
  }
  for (const stretch of stretches)
    stretch.index = evenly ? Math.max(0, stretch.row) : indexOf(stretch.time) || 0;
  // The first rows are checked at once, the others as they are read.
  if (!evenly)
    times.forEach((s, r) => {
      if (Math.abs((s - firstS) * perSecond - indexOf(s)) > JITTER || (r > 0 && indexOf(s) <= indexOf(times[r - 1]))) throw wrong(r + 1, s); // prettier-ignore
    });
  return {
    clock,
    grid,
    cells,
    read(column, first, count) {
      const out = new Float32Array(count).fill(NaN);
      let k = stretches.findLastIndex((s) => s.index <= first);
      for (k = Math.max(0, k); k < stretches.length && stretches[k].index < first + count; k++) {
        const { index, columns: all } = parse(k);
        for (let i = 0; i < index.length; i++)
          if (index[i] >= first && index[i] < first + count) out[index[i] - first] = all[column][i];
      }
      return out;
    },
  };
}

const NEXT = 'Give the sample rate, or write the times with more digits.';
const offStep = (row: number, s: number, step: number) =>
  badInput(
    'times',
    `row ${row} at ${s} s`,
    `It is no step of ${Number(step.toPrecision(6))} s after the row before. ${NEXT}`,
  );

/** The grid that the times of all rows lie on. @throws `bad_input` where they lie on none */
function gridOf(of: {
  clock: Clock | null;
  early: readonly number[];
  steps: { step: number; sum: number; n: number };
  firstS: number;
  lastS: number;
  rows: number;
  from: number;
  rateHz: number | null;
}): Grid {
  const { clock, early, steps, firstS, lastS, rows, from, rateHz } = of;
  const first = clock ? firstS : 0;
  if (rateHz !== null) return { rate: rateFromHz(rateHz), length: rows, first };
  if (!clock) throw badInput('times', 'none in the first column', NEXT);
  if (rows < 2) throw badInput('times', 'one row', NEXT);
  if (!(steps.step > 0)) throw offStep(from + 2, early[1], steps.step);
  const rate = rateOf(steps.sum / steps.n);
  const length = Math.round((lastS - firstS) * hz(rate)) + 1;
  if (length > SAMPLES_MOST)
    throw badInput('times', `${length} samples with their gaps`, 'Split the file where it pauses.');
  return { rate, length, first };
}
