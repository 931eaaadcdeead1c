import { IDENTITY } from '$core/conversion/conversion';
import { conflict, notFound } from '$core/errors';
import type { Making } from '$core/making/registry';
import type { SampledHead } from '$core/samples/sampled';
import type Sqlite from 'better-sqlite3';
import { EnvelopeLevel } from './envelope-levels';
import { packEnvelope } from './late';
import { addToTake } from './schema';
import { ROW_SAMPLES } from './writer';

/** How a signal was made, and from what. */
export interface StoredMaking {
  making: Making;
  /** Which of the signals that it makes. */
  part: number;
  /** In words, as its sources were called then. */
  says: string;
  /** Its sources, and the meaning of each that was read. */
  from: { signal: number; revision: number }[];
  at: number;
  by: string;
}

type Samples = Iterable<{ first: number; values: Float32Array }>;

/** A signal to be put beside those that a take has. */
export interface NewSignal extends Pick<SampledHead, 'name' | 'unit' | 'rate' | 'startNs' | 'length'> {
  channelId: string;
  made: StoredMaking;
  samples: Samples;
}

/** Puts signals into a finished take: what was recorded is never touched. All are put, or none.
 *  @throws `unavailable` when the file cannot be written, what the samples throw */
export function addSignals(path: string, signals: readonly NewSignal[]): void {
  addToTake(path, 'The signal cannot be put into the take.', (db) => {
    for (const { channelId, name, unit, made, samples, ...placed } of signals) {
      const { id } = db.prepare('SELECT max(id) + 1 AS id FROM signal').get() as { id: number };
      db.prepare(
        'INSERT INTO signal (id, channel_id, name, raw_unit, group_id, width, made) VALUES (?, ?, ?, ?, ?, 1, ?)',
      ).run(id, channelId, name, unit, groupFor(db, placed), JSON.stringify(made));
      db.prepare(
        'INSERT INTO conversion (signal, revision, at, by, reason, unit, body) VALUES (?, 1, ?, ?, ?, ?, ?)',
      ).run(id, made.at, made.by, 'made from others', unit, JSON.stringify(IDENTITY));
      storeSamples(db, id, samples);
    }
  });
}

/** The rate group of a rate, start and length; a new one where there is none. */
function groupFor(
  db: Sqlite.Database,
  { rate, startNs, length }: Pick<SampledHead, 'rate' | 'startNs' | 'length'>,
): number {
  const known = db
    .prepare('SELECT id FROM rate_group WHERE offset_ns = ? AND rate_num = ? AND rate_den = ? AND length = ?')
    .get(startNs, rate.num, rate.den, length) as { id: number } | undefined;
  if (known) return known.id;
  const { id } = db.prepare('SELECT max(id) + 1 AS id FROM rate_group').get() as { id: number };
  db.prepare('INSERT INTO rate_group VALUES (?, ?, ?, ?, ?)').run(id, startNs, rate.num, rate.den, length);
  return id;
}

/** Samples in their order, with their envelopes. */
export function storeSamples(db: Sqlite.Database, id: number, samples: Samples): void {
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
}

/** Samples of a made signal anew, from what its sources mean now. Those that it had are given up: they were never measured.
 *  @throws `unavailable`, what the samples throw */
export function makeAnew(path: string, signal: number, made: StoredMaking, samples: Samples): void {
  addToTake(path, 'The signal cannot be made anew.', (db) => {
    db.prepare('DELETE FROM block WHERE signal = ?').run(signal);
    db.prepare('DELETE FROM envelope WHERE signal = ?').run(signal);
    storeSamples(db, signal, samples);
    db.prepare('UPDATE signal SET made = ? WHERE id = ?').run(JSON.stringify(made), signal);
    db.prepare(
      `INSERT INTO conversion (signal, revision, at, by, reason, unit, body, source, snapshot, name, plain, mends)
       SELECT signal, revision + 1, ?, ?, 'made anew', unit, body, source, snapshot, name, plain, mends FROM conversion
       WHERE signal = ? ORDER BY revision DESC LIMIT 1`,
    ).run(made.at, made.by, signal);
  });
}

/** Takes a made signal out again. @throws `not_found`, `conflict` for one that was recorded or that others are made from */
export function removeSignal(path: string, signal: number): void {
  addToTake(path, 'The signal cannot be taken out.', (db) => {
    const rows = db.prepare('SELECT id, name, made FROM signal').all() as {
      id: number;
      name: string;
      made: string | null;
    }[];
    const own = rows.find((r) => r.id === signal);
    if (!own) throw notFound('signal of the take', String(signal));
    if (!own.made)
      throw conflict(
        own.name,
        'It was recorded.',
        'What was recorded stays. Only what is made from it can be taken out.',
      );
    const user = rows.find(
      (r) => r.made && (JSON.parse(r.made) as StoredMaking).from.some((f) => f.signal === signal),
    );
    if (user) throw conflict(own.name, `${user.name} is made from it.`, `Take ${user.name} out first.`);
    for (const table of ['block', 'envelope', 'conversion'])
      db.prepare(`DELETE FROM ${table} WHERE signal = ?`).run(signal);
    db.prepare('DELETE FROM signal WHERE id = ?').run(signal);
  });
}
