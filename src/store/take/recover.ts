import { rateHz, startS } from '$core/samples/sampled';
import type { TakeHead } from '$contract/take';
import Sqlite from 'better-sqlite3';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { completeEnvelopes } from './complete';
import { TakeReader } from './reader';
import { seal } from './seal';
import { settleLate } from './late';

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
  const lengthNs = Math.round(reader.durationS * 1e9);
  const recover = db.transaction(() => {
    for (const signal of reader.signals) completeEnvelopes(db, signal);
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
