import { higher, lower } from '$core/signal/extremes';
import { RESOLUTIONS, parseStripKey } from '$contract/live';

/** Means of raw readings kept for “steady” questions: one minute. */
export const RAW_COUNT = 1200;
const [FINE] = RESOLUTIONS;

interface Level {
  min: Float32Array;
  max: Float32Array;
}

/** What one channel read, in buckets of several widths; rings, so that memory does not grow. */
export class Track {
  readonly raw = new Float32Array(RAW_COUNT).fill(NaN);
  private readonly levels: Level[] = RESOLUTIONS.map(({ count }) => ({
    min: new Float32Array(count).fill(NaN),
    max: new Float32Array(count).fill(NaN),
  }));
  /** Made when it is first asked for. */
  private rms: Float32Array | null = null;
  private readonly low = RESOLUTIONS.map(() => NaN);
  private readonly high = RESOLUTIONS.map(() => NaN);

  /** @param at count of the fine bucket */
  push(at: number, min: number, max: number, raw: number, square: number): void {
    this.raw[at % RAW_COUNT] = raw;
    if (this.rms) this.rms[at % FINE.count] = Math.sqrt(square);
    RESOLUTIONS.forEach(({ ms, count }, k) => {
      this.low[k] = lower(this.low[k], min);
      this.high[k] = higher(this.high[k], max);
      const each = ms / FINE.ms;
      if ((at + 1) % each !== 0) return;
      const slot = Math.floor(at / each) % count;
      this.levels[k].min[slot] = this.low[k];
      this.levels[k].max[slot] = this.high[k];
      this.low[k] = this.high[k] = NaN;
    });
  }

  /** @returns a reader of bucket b's extremes */
  reader(key: { ms: number; rms: boolean }): (b: number) => [number, number] {
    if (key.rms) {
      const rms = (this.rms ??= new Float32Array(FINE.count).fill(NaN));
      return (b) => [rms[b % FINE.count], rms[b % FINE.count]];
    }
    const k = RESOLUTIONS.findIndex((r) => r.ms === key.ms);
    const { min, max } = this.levels[k];
    return (b) => [min[b % min.length], max[b % max.length]];
  }

  /** Means of the raw readings over the last buckets before `at`, oldest first. */
  rawMeans = (at: number, buckets: number): Float32Array =>
    Float32Array.from(
      { length: Math.min(buckets, RAW_COUNT, at) },
      (_, i, n = Math.min(buckets, RAW_COUNT, at)) => this.raw[(at - n + i) % RAW_COUNT],
    );
}

/** Buckets of one width that are complete after so many fine ones. */
export const bucketsOf = (ms: number, fine: number) => Math.floor(fine / (ms / FINE.ms));
export const capacityOf = (ms: number) => RESOLUTIONS.find((r) => r.ms === ms)!.count;

export type StripKey = ReturnType<typeof parseStripKey>;
/** The strips a page asked for, by the width of their buckets. */
export function byWidth(strips: string[]): Map<number, StripKey[]> {
  const groups = new Map<number, StripKey[]>();
  for (const key of strips) {
    const parsed = parseStripKey(key);
    groups.set(parsed.ms, [...(groups.get(parsed.ms) ?? []), parsed]);
  }
  return groups;
}
