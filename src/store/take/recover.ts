import { rateHz, startS } from '$core/samples/sampled';
import { ENVELOPE_FACTOR } from '$core/signal/envelope';
import { magnitudes } from '$core/signal/magnitude';
import type { TakeHead } from '$contract/take';
import Sqlite from 'better-sqlite3';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { EnvelopeLevel } from './envelope-levels';
import { TakeReader } from './reader';
import type { StoredSignal } from './signals';
import { seal } from './seal';
import { packEnvelope, settleLate } from './late';

/** Paths of all takes in a folder. */
export const takeFiles = (folder: string) =>
  readdirSync(folder)
    .filter((name) => name.endsWith('.take'))
    .map((name) => join(folder, name));

/** Closes a take that a crash or power cut left open: completes its envelopes, marks it interrupted, says so on its time axis.
 *  A take that was closed properly is left alone. The cost does not depend on the take's length.
 *  @param why it was left open, in words @returns its head, as it is now */
export function recoverTake(path: string, why = 'all up to this moment was kept'): TakeHead {
  const reader = new TakeReader(path);
  if (reader.head.state !== 'recording') {
    reader.close();
    return reader.head;
  }
  const db = new Sqlite(path);
  const insert = db.prepare('INSERT OR REPLACE INTO envelope VALUES (?, ?, ?, ?, ?)');
  const lengthNs = Math.round(reader.durationS * 1e9);
  const recover = db.transaction(() => {
    for (const signal of reader.signals) completeEnvelopes(db, insert, reader, signal);
    settleLate(db);
    lengthenGroups(db, reader);
    db.prepare('INSERT INTO note (offset_ns, kind, says, by) VALUES (?, ?, ?, ?)').run(
      lengthNs,
      'interrupted',
      `Recording was interrupted here: ${why}.`,
      'Farrier',
    );
    const set = db.prepare('UPDATE take SET value = ? WHERE key = ?');
    set.run('"interrupted"', 'state');
    set.run(String(lengthNs), 'lengthNs');
    if ((db.pragma('user_version', { simple: true }) as number) >= 3) seal(db, 'Farrier, when it was found');
  });
  recover();
  db.close();
  reader.close();
  return { ...reader.head, state: 'interrupted', lengthNs };
}

/** A take lasts as long as its longest signal: what a lost unit did not deliver up to then is a gap. One that only lagged behind is none. */
function lengthenGroups(db: Sqlite.Database, reader: TakeReader): void {
  const groups = new Map(reader.signals.map((s) => [s.groupId, s]));
  for (const signal of groups.values()) {
    const { groupId, length } = signal;
    const whole = Math.floor((reader.durationS - startS(signal)) * rateHz(signal));
    if (whole - length < LAG_S * rateHz(signal)) continue;
    db.prepare('INSERT INTO gap VALUES (?, ?, ?, ?)').run(
      groupId,
      length,
      whole - length,
      'nothing arrived any more',
    );
    db.prepare('UPDATE rate_group SET length = ? WHERE id = ?').run(whole, groupId);
  }
}
const LAG_S = 0.5;

/** Rows of a level are written when full, so each level lacks less than one row (and what is above it): that part is rebuilt from
 *  the level below, the first from samples. */
function completeEnvelopes(
  db: Sqlite.Database,
  insert: Sqlite.Statement,
  reader: TakeReader,
  { id: signal, length, width }: StoredSignal,
): void {
  const stored = db.prepare(
    'SELECT coalesce(max(first + count), 0) AS ended FROM envelope WHERE signal = ? AND level = ?',
  );
  const rows = db.prepare(
    'SELECT count, data FROM envelope WHERE signal = ? AND level = ? AND first >= ? ORDER BY first',
  );
  const levels = db
    .prepare('SELECT coalesce(max(level), 1) AS top FROM envelope WHERE signal = ?')
    .get(signal) as { top: number };
  for (let level = 1; level <= levels.top + 1; level++) {
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
        const shown = magnitudes(reader.raw(signal, start, length - start), width);
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
