import type { Conversion } from '$core/conversion/conversion';
import type { Mending } from '$core/mending/registry';
import type Sqlite from 'better-sqlite3';
import { addToTake, widthsOf } from './schema';
import { storeSamples } from './make';
import { checkComplex } from './writer';

/** A mending of a channel with who did it, when and why. */
export interface StoredMend {
  id: string;
  mending: Mending;
  at: number;
  by: string;
  why: string;
}

/** What a channel is without its mendings. */
export interface PlainMeaning {
  conversion: Conversion;
  /** Signal that holds its samples. */
  source: number;
  unit: string;
}

/** Another meaning for the samples of one signal. */
export interface Correction {
  signal: number;
  /** Another name, where it has one. */
  name?: string;
  unit: string;
  conversion: Conversion;
  /** The channel as it should have been. */
  snapshot: unknown;
  /** Samples made anew block by block; what was stored stays where it is. */
  samples?: Iterable<{ first: number; values: Float32Array }>;
  /** Another signal whose samples are read. */
  source?: number;
  /** What is mended, and what it is without. */
  mends?: { list: StoredMend[]; plain: PlainMeaning };
}

/** Adds conversions to a finished take: samples and former conversions are never touched. All corrections are made, or none.
 *  @throws `unavailable` when the file cannot be written */
export function correctTake(path: string, corrections: Correction[], reason: string, by: string): void {
  addToTake(path, 'The take cannot be given another meaning.', (db) => {
    const revise = db.prepare(
      `INSERT INTO conversion (signal, revision, at, by, reason, unit, body, source, snapshot, name, plain, mends)
       SELECT signal, max(revision) + 1, ?, ?, ?, ?, ?, ?, ?, ?, ?, ? FROM conversion WHERE signal = ?`,
    );
    const widths = widthsOf(db);
    for (const { signal, name, unit, conversion, snapshot, samples, source, mends } of corrections) {
      checkComplex({ name: 'its samples', width: widths.get(signal), conversion, junction: null });
      const held = samples ? storeAnew(db, signal, samples) : (source ?? null);
      const plain = mends?.list.length ? JSON.stringify(mends.plain) : null;
      const list = mends?.list.length ? JSON.stringify(mends.list) : null;
      revise.run(
        Date.now(),
        by,
        reason,
        unit,
        JSON.stringify(conversion),
        held === signal ? null : held,
        JSON.stringify(snapshot),
        name ?? null,
        plain,
        list,
        signal,
      );
    }
  });
}

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
  storeSamples(db, id, samples);
  return id;
}
