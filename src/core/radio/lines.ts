import { dbm, mw } from './levels';
import type { BandPicture, Detector } from './band';

/** What one of the lines over a band shows. */
export type BandLine =
  | { shows: 'now' }
  | { shows: 'highest' }
  | { shows: 'lowest' }
  | { shows: 'average'; of: number; on: 'power' | 'level' }
  | { shows: 'kept'; levels: number[]; atMs: number }
  | { shows: 'difference'; from: number; minus: number };
export const LINES_MOST_OF_ALL = 6;

/** One line that goes on from picture to picture. Its levels are dBm (dB for a difference), NaN where it has none yet. */
export class LineKeeper {
  private power: Float64Array | null = null;
  private count = 0;
  /** Since when it gathers, ms. */
  sinceMs = NaN;
  held = false;

  constructor(readonly line: BandLine) {}

  /** Pictures that are in it. */
  get pictures(): number {
    return this.count;
  }

  clear(): void {
    this.power = null;
    this.count = 0;
    this.sinceMs = NaN;
  }

  /** A picture more. The highest and lowest look at every transform of it, the others at what its detector says. */
  push(picture: BandPicture, detector: Detector, atMs: number): void {
    if (this.held) return;
    const { line } = this;
    const now = picture.powers[detector];
    if (this.power && this.power.length !== now.length) this.clear();
    if (this.count === 0) this.sinceMs = atMs;
    this.count++;
    const own = (this.power ??= start(line, picture, now));
    if (line.shows === 'now') own.set(now);
    else if (line.shows === 'highest') join(own, picture.powers.highest, Math.max);
    else if (line.shows === 'lowest') join(own, picture.powers.lowest, Math.min);
    else if (line.shows === 'average') {
      // The first ones weigh alike, then the newest has its share and the rest fades.
      const share = 1 / Math.min(this.count, line.of);
      if (line.on === 'power') join(own, now, (a, p) => a + share * (p - a));
      else join(own, now, (a, p) => mw(dbm(a) + share * (dbm(p) - dbm(a))));
    }
  }

  /** dBm, shape [lines]; null where nothing came yet, or for a line that is made of others. */
  levels(): Float32Array | null {
    if (this.line.shows === 'kept') return Float32Array.from(this.line.levels);
    return this.power && Float32Array.from(this.power, dbm);
  }
}

const start = (line: BandLine, picture: BandPicture, now: Float64Array) =>
  (line.shows === 'highest'
    ? picture.powers.highest
    : line.shows === 'lowest'
      ? picture.powers.lowest
      : now
  ).slice();

function join(own: Float64Array, other: Float64Array, as: (a: number, b: number) => number): void {
  for (let l = 0; l < own.length; l++) own[l] = as(own[l], other[l]);
}

/** Levels of all lines, those made of two others last. @returns null for a line that shows nothing yet */
export function levelsOf(keepers: readonly LineKeeper[]): (Float32Array | null)[] {
  const own = keepers.map((k) => k.levels());
  return keepers.map(({ line }, k) => {
    if (line.shows !== 'difference') return own[k];
    const [a, b] = [own[line.from], own[line.minus]];
    return a && b && a.length === b.length ? a.map((level, l) => level - b[l]) : null;
  });
}
