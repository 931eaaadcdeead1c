/** Levels over frequency, one row after the other, thinned as they grow old: rows of the newest part stand as they came, and where there is room for no more,
 *  neighbours become one row that keeps the higher level of each line, so that no event is lost. Rows of 1/100 dB. */
export class Waterfall {
  private rows: { fromS: number; toS: number; levels: Int16Array }[] = [];

  /** @param lines of a row @param most rows that are kept; half of them fine */
  constructor(
    readonly lines: number,
    private readonly most = 1200,
  ) {}

  /** @param levels dBm, shape [lines] @param fromS, toS of what it is about, each after the row before; a clock that leaps back begins anew */
  push(levels: ArrayLike<number>, fromS: number, toS: number): void {
    const newest = this.rows.at(-1);
    if (newest && fromS < newest.fromS) this.rows = [];
    const row = new Int16Array(this.lines);
    for (let l = 0; l < row.length; l++) row[l] = hundredths(levels[l]);
    this.rows.push({ fromS, toS, levels: row });
    if (this.rows.length > this.most) this.thin();
  }

  /** The older half becomes a quarter: of two neighbours that stand for least time one is made. */
  private thin(): void {
    const half = this.rows.length >> 1;
    const old = this.rows.slice(0, half);
    const next: typeof old = [];
    for (let i = 0; i < old.length; i += 2) {
      const [a, b] = [old[i], old[i + 1]];
      if (b) {
        for (let l = 0; l < a.levels.length; l++) if (b.levels[l] > a.levels[l]) a.levels[l] = b.levels[l];
        a.toS = b.toS;
      }
      next.push(a);
    }
    this.rows = [...next, ...this.rows.slice(half)];
  }

  get length(): number {
    return this.rows.length;
  }
  /** From the begin of the oldest row to the end of the newest, s; null without rows. */
  get span(): { fromS: number; toS: number } | null {
    return this.rows.length ? { fromS: this.rows[0].fromS, toS: this.rows.at(-1)!.toS } : null;
  }
  /** The row at or before an instant, the oldest where there is none. @returns its place; −1 without rows */
  at(timeS: number): number {
    let [low, high] = [0, this.rows.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.rows[middle].fromS <= timeS) low = middle;
      else high = middle - 1;
    }
    return high;
  }
  /** @returns levels in 1/100 dB, and the time that the row is about */
  row(place: number): { fromS: number; toS: number; levels: Int16Array } {
    return this.rows[place];
  }
}

const hundredths = (level: number) =>
  level === level ? Math.max(-32768, Math.min(32767, Math.round(level * 100))) : -32768;
