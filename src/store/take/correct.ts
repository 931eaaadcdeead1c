import type { Conversion } from '$core/conversion/conversion';
import { FarrierError } from '$core/errors';
import Sqlite from 'better-sqlite3';
import { EnvelopeLevel } from './envelope-levels';
import { TAKE_VERSION, TO_VERSION_2, TO_VERSION_3, TO_VERSION_4, widthsOf } from './schema';
import { packEnvelope } from './late';
import { ROW_SAMPLES, checkComplex } from './writer';

/** Another meaning for the samples of one signal. */
export interface Correction {
  signal: number;
  unit: string;
  conversion: Conversion;
  /** The channel as it should have been. */
  snapshot: unknown;
  /** A computed channel's samples, computed anew block by block; what was stored stays where it is. */
  samples?: Iterable<{ first: number; values: Float32Array }>;
}

/** Adds conversions to a finished take: samples and former conversions are never touched. All corrections are made, or none.
 *  @throws `unavailable` when the file cannot be written */
export function correctTake(path: string, corrections: Correction[], reason: string, by: string): void {
  let db: Sqlite.Database;
  try {
    db = new Sqlite(path, { fileMustExist: true });
  } catch (error) {
    throw unwritable(path, error);
  }
  try {
    db.transaction(() => {
      const version = db.pragma('user_version', { simple: true }) as number;
      if (version < 2) db.exec(TO_VERSION_2);
      if (version < 3) db.exec(TO_VERSION_3);
      if (version < 4) db.exec(TO_VERSION_4);
      db.pragma(`user_version = ${TAKE_VERSION}`);
      const revise = db.prepare(
        `INSERT INTO conversion SELECT signal, max(revision) + 1, ?, ?, ?, ?, ?, ?, ? FROM conversion WHERE signal = ?`,
      );
      const widths = widthsOf(db);
      for (const { signal, unit, conversion, snapshot, samples } of corrections) {
        checkComplex({ name: 'its samples', width: widths.get(signal), conversion, junction: null });
        const source = samples ? storeAnew(db, signal, samples) : null;
        revise.run(
          Date.now(),
          by,
          reason,
          unit,
          JSON.stringify(conversion),
          source,
          JSON.stringify(snapshot),
          signal,
        );
      }
    })();
    db.pragma('wal_checkpoint(TRUNCATE)');
  } catch (error) {
    throw error instanceof FarrierError ? error : unwritable(path, error);
  } finally {
    db.close();
  }
}

const unwritable = (path: string, error: unknown) =>
  new FarrierError('unavailable', {
    what: 'The take cannot be given another meaning.',
    where: path,
    why: (error as Error).message,
    next: 'Check the rights of the file and the free space; nothing was changed.',
  });

/** Stores samples under a number of their own, with envelopes. @returns the number */
function storeAnew(
  db: Sqlite.Database,
  signal: number,
  samples: Iterable<{ first: number; values: Float32Array }>,
): number {
  const { id } = db.prepare('SELECT max(id) + 1 AS id FROM signal').get() as { id: number };
  db.prepare(
    `INSERT INTO signal (id, name, raw_unit, group_id) SELECT ?, name || ', computed anew', raw_unit, group_id FROM signal WHERE id = ?`,
  ).run(id, signal);
  const block = db.prepare('INSERT INTO block VALUES (?, ?, ?, ?)');
  const envelope = db.prepare('INSERT INTO envelope VALUES (?, ?, ?, ?, ?)');
  const levels = new EnvelopeLevel(1, (level, first, min, max) =>
    envelope.run(id, level, first, min.length, packEnvelope(min, max)),
  );
  for (const { first, values } of samples) {
    levels.push(values, values, values.length);
    for (let at = 0; at < values.length; at += ROW_SAMPLES) {
      const part = values.slice(at, at + ROW_SAMPLES);
      block.run(id, first + at, part.length, Buffer.from(part.buffer));
    }
  }
  levels.finish();
  return id;
}
