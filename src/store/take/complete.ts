import { ENVELOPE_FACTOR } from '$core/signal/envelope';
import { magnitudes } from '$core/signal/magnitude';
import type Sqlite from 'better-sqlite3';
import { EnvelopeLevel } from './envelope-levels';
import { packEnvelope } from './late';
import type { Width } from './schema';

/** Samples of a signal as they stand in the file, from `first` on, `width` numbers each; NaN where there is none. */
function samplesFrom(db: Sqlite.Database, signal: number, first: number, count: number, width: Width): Float32Array {
  const out = new Float32Array(count * width).fill(NaN);
  const rows = db.prepare('SELECT first, count, data FROM block WHERE signal = ? AND first < ? AND first + count > ? ORDER BY first'); // prettier-ignore
  for (const row of rows.iterate(signal, first + count, first) as IterableIterator<{ first: number; count: number; data: Buffer }>) {
    const values = new Float32Array(Uint8Array.from(row.data).buffer);
    const skip = Math.max(0, first - row.first);
    const from = row.first + skip - first;
    out.set(values.subarray(skip * width, (skip + Math.min(row.count - skip, count - from)) * width), from * width);
  }
  return out;
} // prettier-ignore

/** Rows of a level are written when full, so each level lacks less than one row (and what is above it): that part is rebuilt from
 *  the level below, the first from samples. */
export function completeEnvelopes(
  db: Sqlite.Database,
  { id: signal, length, width }: { id: number; length: number; width: Width },
): void {
  const insert = db.prepare('INSERT OR REPLACE INTO envelope VALUES (?, ?, ?, ?, ?)');
  const stored = db.prepare(
    'SELECT coalesce(max(first + count), 0) AS ended, count(*) AS rows FROM envelope WHERE signal = ? AND level = ?',
  );
  const rows = db.prepare(
    'SELECT count, data FROM envelope WHERE signal = ? AND level = ? AND first >= ? ORDER BY first',
  );
  const levels = db
    .prepare('SELECT coalesce(max(level), 1) AS top FROM envelope WHERE signal = ?')
    .get(signal) as { top: number };
  for (let level = 1; level <= levels.top + 1; level++) {
    // Above a level of one row there is none.
    if (level > 1 && (stored.get(signal, level - 1) as { rows: number }).rows <= 1) break;
    const from = (stored.get(signal, level) as { ended: number }).ended;
    // Only this level's rows are taken from the builder; the next round does the one above.
    const builder = new EnvelopeLevel(
      level,
      (at, first, min, max) => {
        if (at === level) insert.run(signal, level, first, min.length, packEnvelope(min, max));
      },
      from,
    );
    const start = from * ENVELOPE_FACTOR;
    if (level === 1) {
      if (length > start) {
        const shown = magnitudes(samplesFrom(db, signal, start, length - start, width), width);
        builder.push(shown, shown, shown.length);
      }
    } else {
      for (const row of rows.all(signal, level - 1, start) as { count: number; data: Buffer }[]) {
        const both = new Float32Array(Uint8Array.from(row.data).buffer);
        builder.push(both.subarray(0, row.count), both.subarray(row.count), row.count);
      }
    }
    builder.finish();
  }
}
