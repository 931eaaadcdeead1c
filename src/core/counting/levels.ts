import { classOf, countOf, type Classes } from './classes';

/** How much of a signal lies in each class: samples, or what each of them weighs. Missing samples are counted apart. */
export class TimeAtLevel {
  readonly inside: Float64Array;
  below = 0;
  above = 0;
  missing = 0;
  /** Of everything that was measured. */
  total = 0;

  constructor(private readonly classes: Classes) {
    this.inside = new Float64Array(countOf(classes));
  }
  /** @param weights what each sample counts; 1 where none are given */
  push(block: ArrayLike<number>, weights?: ArrayLike<number>): void {
    if (weights) this.weighed(block, weights);
    else this.plain(block);
  }
  private put(k: number, count: number): void {
    if (Number.isNaN(k)) return void this.missing++;
    this.total += count;
    if (k < 0) this.below += count;
    else if (k >= this.inside.length) this.above += count;
    else this.inside[k] += count;
  }
  private weighed(block: ArrayLike<number>, weights: ArrayLike<number>): void {
    for (let i = 0; i < block.length; i++)
      if (Number.isNaN(weights[i])) this.missing++;
      else this.put(classOf(this.classes, block[i]), weights[i]);
  }
  /** As classOf, written out: this loop sees every sample there is. */
  private plain(block: ArrayLike<number>): void {
    const { edges, width } = this.classes;
    const counts = new Int32Array(this.inside.length);
    for (const i of tally(block, edges[0], 1 / width, counts)) this.put(classOf(this.classes, block[i]), 1);
    for (let k = 0; k < counts.length; k++) {
      this.inside[k] += counts[k];
      this.total += counts[k];
    }
  }
}

/** Counts what lies well inside a class. @returns indices of what has to be looked at closer: next to an edge, where the quotient may miss it by its last
 *  digits, beyond the ends, missing */
function tally(block: ArrayLike<number>, low: number, scale: number, counts: Int32Array): number[] {
  const last = counts.length;
  const closer: number[] = [];
  for (let i = 0; i < block.length; i++) {
    const guess = (block[i] - low) * scale;
    const k = guess | 0;
    const past = guess - k;
    if (past > 1e-9 && past < 1 - 1e-9 && k < last) counts[k]++;
    else closer.push(i);
  }
  return closer;
}

/** Share of everything at or above each edge, 0 to 1: one more than there are classes. */
export function atOrAbove({ inside, below, total }: TimeAtLevel): Float64Array {
  const out = new Float64Array(inside.length + 1);
  let under = below;
  for (let k = 0; k < out.length; k++) {
    out[k] = total > 0 ? (total - under) / total : NaN;
    under += inside[k] ?? 0;
  }
  return out;
}

/** How often a signal passes levels that rise, upwards (x[i − 1] < L ≤ x[i]) and downwards; by ASTM E1049-85 (2017), 5.1 those at or above the reference
 *  count upwards, those below downwards. Given turning points, what is smaller than their hysteresis passes nothing. */
export class LevelCrossings {
  readonly up: Float64Array;
  readonly down: Float64Array;
  private last = -1;

  constructor(private readonly levels: ArrayLike<number>) {
    this.up = new Float64Array(levels.length);
    this.down = new Float64Array(levels.length);
  }
  push(value: number): void {
    if (Number.isNaN(value)) return;
    const now = this.levelsUpTo(value);
    if (this.last >= 0) {
      for (let k = this.last; k < now; k++) this.up[k]++;
      for (let k = now; k < this.last; k++) this.down[k]++;
    }
    this.last = now;
  }
  /** @param reference in the unit of the levels */
  counted(reference: number): Float64Array {
    return this.up.map((n, k) => (this.levels[k] >= reference ? n : this.down[k]));
  }
  private levelsUpTo(value: number): number {
    let low = 0;
    let high = this.levels.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.levels[middle] <= value) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

/** Counts over two kinds of classes: cell (i, k) is cells[k · columns + i]. What no class holds is counted apart. */
export class Matrix {
  readonly cells: Float64Array;
  readonly columns: number;
  outside = 0;
  constructor(
    private readonly across: Classes,
    private readonly up: Classes,
  ) {
    this.columns = countOf(across);
    this.cells = new Float64Array(this.columns * countOf(up));
  }
  add(x: number, y: number, count = 1): void {
    const i = classOf(this.across, x);
    const k = classOf(this.up, y);
    if (i >= 0 && i < this.columns && k >= 0 && k < countOf(this.up))
      this.cells[k * this.columns + i] += count;
    else this.outside += count;
  }
  /** Sums of the columns, and of the rows. */
  get margins(): { columns: Float64Array; rows: Float64Array } {
    const columns = new Float64Array(this.columns);
    const rows = new Float64Array(countOf(this.up));
    this.cells.forEach((n, at) => {
      columns[at % this.columns] += n;
      rows[Math.floor(at / this.columns)] += n;
    });
    return { columns, rows };
  }
}
