import { createHash, type Hash } from 'node:crypto';
import type { SealState } from '$contract/take';
import type Sqlite from 'better-sqlite3';
import { addToTake, widthsOf, type Width } from './schema';

/** Hashes each signal's samples in their order while they are written, so that sealing costs nothing at the end. */
export class SampleHashes {
  private readonly hashes: Hash[];
  private readonly next: number[];

  /** @param widths of the signals, in their order */
  constructor(private readonly widths: readonly Width[]) {
    this.hashes = widths.map(() => createHash('sha256'));
    this.next = widths.map(() => -1);
  }

  /** @param first index of data[0] in its rate group; a jump is hashed, too */
  update(signal: number, first: number, data: Uint8Array): void {
    const hash = this.hashes[signal];
    if (first !== this.next[signal]) hash.update(`@${first}:`);
    hash.update(data);
    this.next[signal] = first + data.byteLength / 4 / this.widths[signal];
  }

  digests = (): string[] => this.hashes.map((h) => h.digest('hex'));
}

type Sections = Record<string, string>;
interface Seal {
  at: number;
  by: string;
  signals: number;
  notes: number;
  sections: Sections;
  hash: string;
}

/** What each section of a take's content is read from. Later conversions and notes are added behind it and break no seal. */
const SECTIONS: [name: string, sql: string][] = [
  ['facts and plan', 'SELECT key, value FROM take ORDER BY key'],
  // A signal that is made later may bring a rate of its own.
  [
    'rates',
    'SELECT * FROM rate_group WHERE id <= (SELECT max(group_id) FROM signal WHERE id < @signals) ORDER BY id',
  ],
  [
    'channels',
    'SELECT id, channel_id, name, raw_unit, group_id, junction, snapshot FROM signal WHERE id < @signals ORDER BY id',
  ],
  [
    'conversions',
    'SELECT signal, at, by, reason, unit, body FROM conversion WHERE revision = 1 AND signal < @signals ORDER BY signal',
  ],
  [
    'overview of the samples',
    'SELECT signal, level, first, count, data FROM envelope WHERE signal < @signals ORDER BY signal, level, first',
  ],
  ['gaps', 'SELECT * FROM gap ORDER BY rowid'],
  ['shunts', 'SELECT * FROM proof ORDER BY rowid'],
  ['clocks', 'SELECT * FROM timing ORDER BY unit'],
  ['marks and events', 'SELECT id, offset_ns, kind, says, by FROM note WHERE id <= @notes ORDER BY id'],
];

function rowsHash(db: Sqlite.Database, sql: string, bounds: { signals: number; notes: number }): string {
  const hash = createHash('sha256');
  const statement = db.prepare<[Record<string, number>]>(sql).raw();
  const named: Record<string, number> = Object.fromEntries(
    Object.entries(bounds).filter(([key]) => sql.includes(`@${key}`)),
  );
  for (const row of statement.iterate(named as never) as IterableIterator<unknown[]>)
    for (const value of row) {
      if (Buffer.isBuffer(value)) hash.update(value);
      else hash.update(`${typeof value}:${String(value)};`);
    }
  return hash.digest('hex');
}

/** Samples as they are stored, hashed as they were while they were written. */
function storedHashes(db: Sqlite.Database, signals: number): string[] {
  const widths = widthsOf(db);
  const hashes = new SampleHashes(Array.from({ length: signals }, (_, id) => widths.get(id) ?? 1));
  const rows = db.prepare('SELECT first, data FROM block WHERE signal = ? ORDER BY first');
  for (let signal = 0; signal < signals; signal++)
    for (const { first, data } of rows.iterate(signal) as IterableIterator<{ first: number; data: Buffer }>)
      hashes.update(signal, first, data);
  return hashes.digests();
}

function sectionsOf(
  db: Sqlite.Database,
  bounds: { signals: number; notes: number },
  samples: string[],
): Sections {
  const names = db.prepare('SELECT name FROM signal WHERE id < ? ORDER BY id').pluck().all(bounds.signals);
  const widths = widthsOf(db);
  const complex = (id: number) => (widths.get(id) === 2 ? ', complex' : '');
  return {
    ...Object.fromEntries(SECTIONS.map(([name, sql]) => [name, rowsHash(db, sql, bounds)])),
    ...Object.fromEntries(
      samples.map((hash, k) => [`samples of ${String(names[k])} (${k})${complex(k)}`, hash]),
    ),
  };
}
const hashOf = (sections: Sections) => createHash('sha256').update(JSON.stringify(sections)).digest('hex');

/** How many signals a file was sealed with; null where it is not. */
export function sealedSignals(db: Sqlite.Database): number | null {
  const body = db.prepare('SELECT body FROM seal').pluck().get() as string | undefined;
  return body === undefined ? null : (JSON.parse(body) as Seal).signals;
}

/** Seals an open file with the hash of all it holds (SHA-256), in place of the seal that it had. @param samples hashes made while writing; read back when left
 *  out @param signals that it covers, all where it is left out @returns the hash, hex */
export function seal(
  db: Sqlite.Database,
  by: string,
  samples?: string[],
  signals = db.prepare('SELECT coalesce(max(id) + 1, 0) FROM signal').pluck().get() as number,
): string {
  const notes = db.prepare('SELECT coalesce(max(id), 0) FROM note').pluck().get() as number;
  const bounds = { signals, notes };
  const sections = sectionsOf(db, bounds, samples ?? storedHashes(db, signals));
  const body: Seal = { at: Date.now(), by, ...bounds, sections, hash: hashOf(sections) };
  db.prepare('DELETE FROM seal').run();
  db.prepare('INSERT INTO seal (body) VALUES (?)').run(JSON.stringify(body));
  return body.hash;
}

/** Whether a file still holds what it was sealed with; the cost is that of reading it once. */
export function checkSeal(db: Sqlite.Database): SealState {
  const there = db.prepare("SELECT 1 FROM sqlite_master WHERE name = 'seal'").get();
  const text = there && (db.prepare('SELECT body FROM seal').pluck().get() as string | null | undefined);
  if (typeof text !== 'string') return { state: 'not sealed', hash: null, at: null, changed: [] };
  const sealed = JSON.parse(text) as Seal;
  const now = sectionsOf(db, sealed, storedHashes(db, sealed.signals));
  const keys = new Set([...Object.keys(now), ...Object.keys(sealed.sections)]);
  const changed = [...keys].filter((key) => now[key] !== sealed.sections[key]);
  if (changed.length === 0 && hashOf(sealed.sections) !== sealed.hash) changed.push('the seal itself');
  return {
    state: changed.length ? 'changed' : 'sealed',
    hash: sealed.hash,
    at: sealed.at,
    changed: changed.map((c) => c.replace(/ \(\d+\)(, complex)?$/, '')),
  };
}

/** Seals a closed take that was not. @returns what it is sealed with */
export function sealNow(path: string, by: string): SealState {
  return addToTake(path, 'The take cannot be sealed.', (db) => {
    seal(db, by);
    return checkSeal(db);
  });
}
