import { existsSync } from 'node:fs';
import Sqlite from 'better-sqlite3';
import { conflict } from '$core/errors';
import { completeEnvelopes } from './complete';
import { REACHED, addToTake, widthsOf } from './schema';
import { checkSeal, seal, sealedSignals } from './seal';
import { ROW_SAMPLES } from './writer';

/** Samples that follow one another, of each signal that was recorded in the order of its number. */
export interface Run {
  first: number;
  signals: readonly Float32Array[];
}
/** What comes to a take that was closed already. */
export interface Growth {
  runs: readonly Run[];
  gaps: readonly { first: number; count: number; reason: string }[];
  notes: readonly { offsetNs: number; kind: string; says: string }[];
  /** Facts that have changed, and how far what it is fetched from is read: of whoever grows it. */
  facts: Record<string, string>;
  reached: number;
}

/** How far what a take grows from has been read, as it was written down with its last samples; null for one that never grew, or is gone. */
export function reachedIn(path: string): number | null {
  if (!existsSync(path)) return null;
  const db = new Sqlite(path, { readonly: true, fileMustExist: true });
  try {
    const kept = db.prepare('SELECT value FROM take WHERE key = ?').pluck().get(REACHED) as
      string | undefined;
    return kept === undefined ? null : (JSON.parse(kept) as number);
  } finally {
    db.close();
  }
}

/** Lets a closed take of one rate grow: samples behind those that it has, their overview and a new seal, in one transaction.
 *  @returns the seal’s hash and the length, ns @throws `unavailable` when the file cannot be written, `conflict` for one that was changed since it was sealed; nothing was changed then */
export function growTake(path: string, by: string, { runs, gaps, notes, facts, reached }: Growth): { hash: string; lengthNs: number } {
  return addToTake(path, 'The take cannot grow.', (db) => {
    const { state, changed } = checkSeal(db);
    if (state === 'changed') throw conflict('take', `It was changed since it was sealed: ${changed.join(', ')}.`, 'What comes now belongs into another take.');
    const { num, den, length: before } = db.prepare('SELECT rate_num AS num, rate_den AS den, length FROM rate_group WHERE id = 0').get() as { num: number; den: number; length: number };
    const length = Math.max(before, ...runs.map((r) => r.first + r.signals[0].length));
    const lengthNs = Math.round((length * den * 1e9) / num);
    const widths = widthsOf(db);
    const count = sealedSignals(db) ?? widths.size;
    for (let signal = 0; signal < count; signal++) {
      for (const run of runs) putBehind(db, signal, run.first, run.signals[signal]);
      // The last row of each level ended with the samples that there were.
      db.prepare('DELETE FROM envelope WHERE signal = ? AND (level, first) IN (SELECT level, max(first) FROM envelope WHERE signal = ? GROUP BY level)').run(signal, signal);
      completeEnvelopes(db, { id: signal, length, width: widths.get(signal) ?? 1 });
    }
    db.prepare('UPDATE rate_group SET length = ? WHERE id = 0').run(length);
    const gap = db.prepare('INSERT INTO gap VALUES (0, ?, ?, ?)');
    for (const g of gaps) gap.run(g.first, g.count, g.reason);
    const note = db.prepare('INSERT INTO note (offset_ns, kind, says, by) VALUES (?, ?, ?, ?)');
    for (const n of notes) note.run(n.offsetNs, n.kind, n.says, by);
    const put = db.prepare('INSERT INTO take VALUES (?, ?) ON CONFLICT DO UPDATE SET value = excluded.value');
    const known = JSON.parse(db.prepare("SELECT value FROM take WHERE key = 'facts'").pluck().get() as string) as object;
    put.run('facts', JSON.stringify({ ...known, ...facts }));
    put.run('lengthNs', JSON.stringify(lengthNs));
    put.run(REACHED, JSON.stringify(reached));
    return { hash: seal(db, by, undefined, count), lengthNs };
  });
} // prettier-ignore

/** @throws RangeError for samples that would lie over others */
function putBehind(db: Sqlite.Database, signal: number, first: number, values: Float32Array): void {
  const last = db.prepare('SELECT first, count, data FROM block WHERE signal = ? ORDER BY first DESC LIMIT 1').get(signal) as { first: number; count: number; data: Buffer } | undefined;
  const end = last ? last.first + last.count : 0;
  if (first < end) throw new RangeError(`Sample ${first} is there already.`);
  const put = db.prepare('INSERT INTO block VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET count = excluded.count, data = excluded.data');
  let at = 0;
  if (last && end === first && last.count < ROW_SAMPLES) {
    at = Math.min(values.length, ROW_SAMPLES - last.count);
    const part = values.subarray(0, at);
    put.run(signal, last.first, last.count + at, Buffer.concat([last.data, Buffer.from(part.buffer, part.byteOffset, part.byteLength)]));
  }
  for (; at < values.length; at += ROW_SAMPLES) {
    const part = values.subarray(at, at + ROW_SAMPLES);
    put.run(signal, first + at, part.length, Buffer.from(part.buffer, part.byteOffset, part.byteLength));
  }
} // prettier-ignore
