import { windOf } from '../wind';
import type { Keep } from './programme';

/** Gathers what a column, or several, keep of a value between two rows. Times are ms; what is no number is left out, and none at all gives none. */
interface Gathered {
  add(value: number, atMs: number, from: number): void;
  /** @param beganMs beginning of the interval @returns numbers in the order of the columns */
  close(beganMs: number): number[];
}
function gathering({ as, when }: Keep): Gathered {
  switch (as) {
    case 'lowest':
    case 'highest': {
      const sign = as === 'lowest' ? 1 : -1;
      let [best, at] = [NaN, NaN];
      return {
        // The first one counts where several are alike.
        add: (value, ms) => {
          if (!Number.isNaN(value) && !(sign * value >= sign * best)) [best, at] = [value, ms];
        },
        close: (beganMs) => (when ? [best, (at - beganMs) / 1000] : [best]),
      };
    }
    case 'sample': {
      let last = NaN;
      return { add: (value) => void (last = value), close: () => [last] };
    }
    case 'total': {
      let [sum, n] = [0, 0];
      return {
        add: (value) => {
          if (!Number.isNaN(value)) [sum, n] = [sum + value, n + 1];
        },
        close: () => [n ? sum : NaN],
      };
    }
    case 'wind': {
      const [speeds, directions]: number[][] = [[], []];
      return {
        add: (value, _ms, from) => void (speeds.push(value), directions.push(from)),
        close: () => {
          const { speed, direction, spread } = windOf(speeds, directions);
          return [speed, direction, spread];
        },
      };
    }
    case 'average':
    case 'deviation': {
      // One value after the other (Welford, Technometrics 4 (1962) 419): a large offset costs no digits.
      let [n, mean, squares] = [0, 0, 0];
      return {
        add: (value) => {
          if (Number.isNaN(value)) return;
          const off = value - mean;
          mean += off / ++n;
          squares += off * (value - mean);
        },
        close: () => [as === 'average' ? (n ? mean : NaN) : n > 1 ? Math.sqrt(squares / (n - 1)) : NaN],
      };
    }
  }
}

/** What a table gathers from one row to the next. */
export class RowGathering {
  private parts: Gathered[];
  private empty = true;

  constructor(
    private readonly keeps: readonly Keep[],
    private beganMs: number,
  ) {
    this.parts = keeps.map(gathering);
  }
  /** Values of one waking. @param values by their names */
  add(values: ReadonlyMap<string, number>, atMs: number): void {
    this.empty = false;
    this.keeps.forEach(({ of, from }, k) => this.parts[k].add(values.get(of) ?? NaN, atMs, values.get(from) ?? NaN)); // prettier-ignore
  }
  /** @returns the row’s numbers, NaN where nothing was measured; null where no waking came at all. The next row begins here */
  close(atMs: number): number[] | null {
    const row = this.empty ? null : this.parts.flatMap((p) => p.close(this.beganMs));
    this.parts = this.keeps.map(gathering);
    this.beganMs = atMs;
    this.empty = true;
    return row;
  }
}
