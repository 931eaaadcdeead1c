import { hundredths } from '$core/field/messages';
import type { Break } from '$core/field/recorder/state';
import type { RecorderRow } from '$store/recorders';
import type { App } from '../app';
import { canRead, openTake } from '../takes';

export const OVERWRITTEN = 'Overwritten before they were fetched.';

/** What has been fetched of a recording. */
export interface Recording {
  run: number;
  first: number;
  values: Int16Array;
  /** Readings that the recorder had overwritten before they were fetched. */
  holes: Break[];
}

export function joined(a: Int16Array, b: Int16Array): Int16Array {
  const all = new Int16Array(a.length + b.length);
  all.set(a);
  all.set(b, a.length);
  return all;
}

/** What the take of a recording has of it; null where there is none that can be read. */
export function keptOf(app: App, row: RecorderRow | null, run: number): Recording | null {
  if (row?.run !== run || !row.takeId || !canRead(app, row.takeId)) return null;
  const reader = openTake(app, row.takeId);
  const { signals } = reader;
  const count = signals[0].length;
  const values = new Int16Array(count * signals.length);
  signals.forEach((s, k) => reader.values(s.id, 0, count).forEach((v, i) => (values[i * signals.length + k] = hundredths(v)))); // prettier-ignore
  const first = row.fetched - count;
  const step = reader.durationS / count;
  const holes = reader.gaps().filter((g) => g.reason === OVERWRITTEN).map((g) => ({ at: first + Math.round(g.fromS / step), count: Math.round((g.toS - g.fromS) / step), why: OVERWRITTEN })); // prettier-ignore
  return { run, first, values, holes };
}
