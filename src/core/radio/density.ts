/** How often each level occurs at each frequency: every single transform counts, older ones fade. Cells are shares of the transforms. */
export class LevelDensity {
  /** Cell (row r from the top, column c) is counts[r · columns + c]. */
  private readonly counts: Float32Array;
  /** Transforms that count, faded alike. */
  private weight = 0;
  private readonly columnOf: Uint16Array;
  private readonly linesIn: Float32Array;

  /** @param lines of a transform @param columns at most; neighbours share one where there are more lines
   *  @param top level of the upper edge, dBm @param perRow dB of a row */
  constructor(
    readonly lines: number,
    readonly columns: number,
    readonly rows: number,
    private readonly top: number,
    private readonly perRow: number,
  ) {
    this.counts = new Float32Array(rows * columns);
    this.columnOf = Uint16Array.from({ length: lines }, (_, l) => Math.floor((l * columns) / lines));
    this.linesIn = new Float32Array(columns);
    for (const c of this.columnOf) this.linesIn[c]++;
  }

  /** A transform. @param levels dBm, shape [lines]; what is beyond the edges counts at them */
  push(levels: Float32Array): void {
    const { counts, columnOf, columns, rows, top, perRow } = this;
    for (let l = 0; l < levels.length; l++) {
      let row = ((top - levels[l]) / perRow) | 0;
      if (row < 0) row = 0;
      else if (row >= rows) row = rows - 1;
      counts[row * columns + columnOf[l]]++;
    }
    this.weight++;
  }

  /** What was counted fades. @param share of it that stays, 0 to 1 */
  fade(share: number): void {
    if (share === 1) return;
    for (let i = 0; i < this.counts.length; i++) this.counts[i] *= share;
    this.weight *= share;
  }

  clear(): void {
    this.counts.fill(0);
    this.weight = 0;
  }

  /** Transforms it stands for. */
  get transforms(): number {
    return this.weight;
  }

  /** Share of the transforms in each cell, shape [rows · columns], 0 to 1. */
  shares(): Float32Array {
    const { columns, weight, linesIn } = this;
    return this.counts.map((n, i) => (weight > 0 ? n / (weight * linesIn[i % columns]) : 0));
  }
}
