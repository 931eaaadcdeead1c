import type Sqlite from 'better-sqlite3';
import { magnitudes } from '$core/signal/magnitude';
import { EnvelopeLevel } from './envelope-levels';
import { widthsOf, type Width } from './schema';
import { SampleHashes } from './seal';

/** Bytes of a row of buckets: all minima, then all maxima, float32 little-endian. */
export function packEnvelope(min: Float32Array, max: Float32Array): Buffer {
  const both = new Float32Array(min.length * 2);
  both.set(min);
  both.set(max, min.length);
  return Buffer.from(both.buffer);
}

interface BlockRow {
  first: number;
  count: number;
  data: Buffer;
}
const BLOCKS = 'SELECT first, count, data FROM block WHERE signal = ? ORDER BY first';
const NO_VALUES = new Float32Array(8192).fill(NaN);
/** Key of the signals whose overview is to be made anew when the take is closed. */
const LATE = 'late';

/** Parts of [first, end) that are not stored yet, in order. */
export function freeParts(
  db: Sqlite.Database,
  signal: number,
  first: number,
  end: number,
): { from: number; to: number }[] {
  const rows = db
    .prepare(
      'SELECT first, count FROM block WHERE signal = ? AND first < ? AND first + count > ? ORDER BY first',
    )
    .all(signal, end, first) as Pick<BlockRow, 'first' | 'count'>[];
  const parts: { from: number; to: number }[] = [];
  let at = first;
  for (const row of rows) {
    if (row.first > at) parts.push({ from: at, to: row.first });
    at = Math.max(at, row.first + row.count);
  }
  if (at < end) parts.push({ from: at, to: end });
  return parts;
}

/** Says in the file that a signal got samples out of their order: whoever closes it makes its overview anew. */
export function markLate(db: Sqlite.Database, signals: Iterable<number>): void {
  db.prepare('INSERT OR REPLACE INTO take VALUES (?, ?)').run(LATE, JSON.stringify([...signals]));
}

/** Makes good what late samples left behind: overviews, and gaps that are none any more. @returns the hash of each late signal’s samples */
export function settleLate(db: Sqlite.Database): Map<number, string> {
  const text = db.prepare('SELECT value FROM take WHERE key = ?').pluck().get(LATE) as string | undefined;
  if (text === undefined) return new Map();
  const signals = JSON.parse(text) as number[];
  const widths = widthsOf(db);
  const widthOf = (signal: number) => widths.get(signal) ?? 1;
  for (const signal of signals) rebuildEnvelope(db, signal, widthOf(signal));
  const ofGroup = db.prepare('SELECT id FROM signal WHERE group_id = ?').pluck();
  const gaps = db.prepare('SELECT rowid AS id, group_id AS groupId, first, count FROM gap').all() as {
    id: number;
    groupId: number;
    first: number;
    count: number;
  }[];
  for (const { id, groupId, first, count } of gaps)
    if ((ofGroup.all(groupId) as number[]).every((s) => freeParts(db, s, first, first + count).length === 0))
      db.prepare('DELETE FROM gap WHERE rowid = ?').run(id);
  db.prepare('DELETE FROM take WHERE key = ?').run(LATE);
  return new Map(signals.map((signal) => [signal, storedHash(db, signal, widthOf(signal))]));
}

function rebuildEnvelope(db: Sqlite.Database, signal: number, width: Width): void {
  db.prepare('DELETE FROM envelope WHERE signal = ?').run(signal);
  const insert = db.prepare('INSERT INTO envelope VALUES (?, ?, ?, ?, ?)');
  const rows: [level: number, first: number, length: number, packed: Buffer][] = [];
  const levels = new EnvelopeLevel(1, (level, first, min, max) =>
    rows.push([level, first, min.length, packEnvelope(min, max)]),
  );
  let fed = 0;
  for (const { first, data } of db.prepare(BLOCKS).iterate(signal) as IterableIterator<BlockRow>) {
    for (let skip = first - fed; skip > 0; skip -= NO_VALUES.length)
      levels.push(NO_VALUES, NO_VALUES, Math.min(skip, NO_VALUES.length));
    const shown = magnitudes(new Float32Array(Uint8Array.from(data).buffer), width);
    levels.push(shown, shown, shown.length);
    fed = first + shown.length;
  }
  levels.finish();
  // Not while the blocks are read: one statement of a connection at a time.
  for (const row of rows) insert.run(signal, ...row);
}

function storedHash(db: Sqlite.Database, signal: number, width: Width): string {
  const hashes = new SampleHashes([width]);
  for (const { first, data } of db.prepare(BLOCKS).iterate(signal) as IterableIterator<BlockRow>)
    hashes.update(0, first, data);
  return hashes.digests()[0];
}
