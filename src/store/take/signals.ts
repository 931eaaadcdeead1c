import type { Conversion } from '$core/conversion/conversion';
import type { SampledHead } from '$core/samples/sampled';
import { isUnit, quantityOf } from '$core/quantities/quantities';
import type Sqlite from 'better-sqlite3';
import type { PlainMeaning, StoredMend } from './correct';
import type { StoredMaking } from './make';

/** A signal of a take with what its samples mean. */
export interface StoredSignal extends Omit<SampledHead, 'id'> {
  /** In the file. */
  id: number;
  channelId: string | null;
  rawUnit: string;
  groupId: number;
  junction: number | null;
  snapshot: unknown;
  conversion: Conversion;
  /** Counts the meanings that were given to its samples: 1 as recorded. */
  revision: number;
  /** Why the last one was given, by whom and when (ms). */
  reason: string;
  by: string;
  at: number;
  /** Signal that holds its samples: another one where they were made anew, or belong to another terminal. */
  source: number;
  /** What it was called when it was recorded. */
  firstName: string;
  /** What is mended, in its order; and what the channel is without. */
  mends: StoredMend[];
  plain: PlainMeaning;
  /** What it is made from, where it was not recorded. */
  made: StoredMaking | null;
}

/** Which conversions count: those the take was recorded with, or those given to it since. */
export type Meaning = 'as recorded' | 'as corrected';

/** Signals of an open take of any version, each with the conversion that counts. */
export function readSignals(db: Sqlite.Database, version: number, meaning: Meaning): StoredSignal[] {
  const rows = db
    .prepare(
      `SELECT s.id, s.channel_id channelId, s.name firstName, s.raw_unit rawUnit, c.unit, s.group_id groupId, s.junction, ${version < 4 ? '1 width' : 's.width'}, ${version < 6 ? 'NULL madeText' : 's.made madeText'}, c.body,
         c.revision, c.reason, c.by, c.at,
         ${version < 2 ? 's.snapshot snapshotText, s.id source' : 'coalesce(c.snapshot, s.snapshot) snapshotText, coalesce(c.source, s.id) source'},
         ${version < 5 ? 'NULL named, NULL plainText, NULL mendsText' : 'c.name named, c.plain plainText, c.mends mendsText'},
         g.rate_num num, g.rate_den den, g.offset_ns startNs, g.length
       FROM signal s JOIN rate_group g ON g.id = s.group_id
       JOIN conversion c ON c.signal = s.id AND c.revision = (SELECT ${meaning === 'as recorded' ? 'min' : 'max'}(revision) FROM conversion WHERE signal = s.id) ORDER BY s.id`,
    )
    .all() as Row[];
  return rows.map(({ num, den, snapshotText, body, named, plainText, mendsText, madeText, ...rest }) => {
    const snapshot = JSON.parse(snapshotText) as { colour?: number } | null;
    const conversion = JSON.parse(body) as Conversion;
    return {
      ...rest,
      name: named ?? rest.firstName,
      snapshot,
      conversion,
      quantity: isUnit(rest.unit) ? quantityOf(rest.unit) : '',
      colour: snapshot?.colour,
      rate: { num, den },
      made: madeText ? (JSON.parse(madeText) as StoredMaking) : null,
      mends: mendsText ? (JSON.parse(mendsText) as StoredMend[]) : [],
      plain: plainText
        ? (JSON.parse(plainText) as PlainMeaning)
        : { conversion, source: rest.source, unit: rest.unit },
    };
  });
}

type Row = Pick<
  StoredSignal,
  | 'id'
  | 'channelId'
  | 'firstName'
  | 'rawUnit'
  | 'unit'
  | 'groupId'
  | 'junction'
  | 'width'
  | 'revision'
  | 'reason'
  | 'by'
  | 'at'
  | 'source'
  | 'startNs'
  | 'length'
> & {
  snapshotText: string;
  body: string;
  named: string | null;
  plainText: string | null;
  mendsText: string | null;
  madeText: string | null;
  num: number;
  den: number;
};
