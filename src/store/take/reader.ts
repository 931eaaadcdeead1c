import {
  compileConversion,
  convertEnvelope,
  needsJunction,
  type Conversion,
} from '$core/conversion/conversion';
import { FarrierError, damaged, notFound } from '$core/errors';
import { ENVELOPE_FACTOR, minMaxBuckets } from '$core/signal/envelope';
import { magnitudes } from '$core/signal/magnitude';
import { endS, sampleS, samplesWithin, type Sampled } from '$core/samples/sampled';
import { hz } from '$core/time/rate';
import {
  TakeHead,
  type Judgement,
  type SealState,
  type TakeGap,
  type TakeNote,
  type UnitTiming,
} from '$contract/take';
import Sqlite from 'better-sqlite3';
import { existsSync } from 'node:fs';
import { REACHED, TAKE_APPLICATION_ID, TAKE_VERSION } from './schema';
import { checkSeal } from './seal';
import type { PlainMeaning } from './correct';
import { readSignals, type Meaning, type StoredSignal } from './signals';

/** Zero or shunt of one bridge, as it is kept beside the samples. */
export interface StoredProof {
  signal: number;
  moment: 'before' | 'after';
  step: 'zero' | 'shunt';
  atS: number;
  rateHz: number;
  raw: Float32Array;
}

/** Reads a take file. Any window costs a number of rows that depends on the buckets asked for, not on the take's length. */
export class TakeReader {
  private readonly db: Sqlite.Database;
  readonly head: TakeHead;
  readonly signals: StoredSignal[];
  /** Whether samples may still come to it, as to one that is fetched bit by bit. */
  readonly grows: boolean;
  private readonly version: number;
  private readonly blocksFrom: Sqlite.Statement;
  private readonly rowsFrom: Sqlite.Statement;

  /** @param meaning the first conversions instead of those in force
   *  @throws `not_found`, or `damaged` for a file that is no take or comes from a newer version */
  constructor(path: string, meaning: Meaning = 'as corrected') {
    if (!existsSync(path)) throw notFound('take file', path);
    let db: Sqlite.Database | null = null;
    try {
      this.db = db = new Sqlite(path, { readonly: true, fileMustExist: true });
      this.db.pragma('busy_timeout = 5000');
      this.db.pragma('mmap_size = 1073741824');
      if (this.db.pragma('application_id', { simple: true }) !== TAKE_APPLICATION_ID)
        throw damaged(path, 'This file is no take.', 'Choose a .take file.');
      const version = this.db.pragma('user_version', { simple: true }) as number;
      if (version > TAKE_VERSION)
        throw damaged(
          path,
          `The take has version ${version}, this program reads up to ${TAKE_VERSION}.`,
          'Open it with a newer version.',
        );
      const pairs = this.db.prepare('SELECT key, value FROM take').all() as { key: string; value: string }[];
      this.head = TakeHead.parse(Object.fromEntries(pairs.map((p) => [p.key, JSON.parse(p.value)])));
      this.grows = pairs.some((p) => p.key === REACHED);
      this.version = Math.max(1, version);
      this.signals = readSignals(this.db, this.version, meaning);
      this.blocksFrom = this.db.prepare(
        `SELECT first, count, data FROM block WHERE signal = @signal AND first < @end
       AND first >= coalesce((SELECT max(first) FROM block WHERE signal = @signal AND first <= @from), 0) ORDER BY first`,
      );
      this.rowsFrom = this.db.prepare(
        `SELECT first, count, data FROM envelope WHERE signal = @signal AND level = @level AND first < @end
       AND first >= coalesce((SELECT max(first) FROM envelope WHERE signal = @signal AND level = @level AND first <= @from), 0) ORDER BY first`,
      );
    } catch (error) {
      db?.close();
      if (error instanceof FarrierError) throw error;
      throw damaged(
        path,
        'The take cannot be read.',
        `Restore it from a copy. (${(error as Error).message.slice(0, 200)})`,
      );
    }
  }

  /** @throws `not_found` */
  signal(id: number): StoredSignal {
    const found = this.signals.find((s) => s.id === id);
    if (!found) throw notFound('signal of the take', String(id));
    return found;
  }

  /** A series that was computed anew stands under a number of its own, which is no signal. */
  private sourceOf = (id: number) => this.signals.find((s) => s.id === id)?.source ?? id;

  get durationS(): number {
    return this.head.lengthNs !== null ? this.head.lengthNs / 1e9 : Math.max(0, ...this.signals.map(endS));
  }

  /** A signal as studies and formats see it. */
  sampled(id: number): Sampled {
    const { name, quantity, unit, colour, rate, startNs, width, length, channelId } = this.signal(id);
    const head = { id: channelId ?? String(id), name, quantity, unit, colour, rate, startNs, width, length };
    return { ...head, read: (first, count) => this.values(id, first, count) };
  }

  /** A signal as it is read by some conversion from the samples of a signal: what mendings are made on. */
  plain(id: number, { conversion, source, unit }: PlainMeaning): Sampled {
    const { junction } = this.signal(id);
    const beside = needsJunction(conversion) ? junction : null;
    return {
      ...this.sampled(id),
      unit,
      read: (first, count) => this.converted(conversion, this.rawFrom(source, first, count), beside, first),
    };
  }

  /** Raw samples [first, first + count), `width` numbers each, NaN where there is none. */
  raw = (signal: number, first: number, count: number): Float32Array =>
    this.rawFrom(this.sourceOf(signal), first, count, this.signals.find((s) => s.id === signal)?.width);

  private rawFrom(source: number, first: number, count: number, width: 1 | 2 = 1): Float32Array {
    const out = new Float32Array(count * width).fill(NaN);
    const end = first + count;
    for (const row of this.blocksFrom.iterate({ signal: source, from: first, end }) as IterableIterator<Row>)
      copyOverlap(floats(row.data), row.first * width, out, first * width);
    return out;
  }

  /** Samples in the channel's unit, `width` numbers each. */
  values(signal: number, first: number, count: number): Float32Array {
    const { conversion, junction } = this.signal(signal);
    const beside = needsJunction(conversion) ? junction : null;
    return this.converted(conversion, this.raw(signal, first, count), beside, first);
  }

  private converted(
    conversion: Conversion,
    out: Float32Array,
    junction: number | null,
    first: number,
  ): Float32Array {
    const beside = junction === null ? undefined : this.raw(junction, first, out.length);
    compileConversion(conversion)(out, out, out.length, beside);
    return out;
  }

  /** Extremes of a window in the channel's unit, of complex samples those of the magnitude. @param first and end in samples @param buckets how many, such as pixels */
  window(
    signal: number,
    first: number,
    end: number,
    buckets: number,
  ): { min: Float32Array; max: Float32Array } {
    const { conversion, junction, width } = this.signal(signal);
    const own = this.rawWindow(signal, first, end, buckets, width);
    return convertEnvelope(
      conversion,
      own.min,
      own.max,
      junction === null || !needsJunction(conversion)
        ? undefined
        : this.rawWindow(junction, first, end, buckets),
    );
  }

  private rawWindow(
    signal: number,
    first: number,
    end: number,
    buckets: number,
    width: 1 | 2 = 1,
  ): { min: Float32Array; max: Float32Array } {
    const own = signal;
    signal = this.sourceOf(signal);
    const perBucket = (end - first) / buckets;
    const wanted = Math.floor(Math.log(perBucket) / Math.log(ENVELOPE_FACTOR) + 1e-9);
    for (let level = wanted; level >= 1; level--) {
      const size = ENVELOPE_FACTOR ** level;
      const from = Math.floor(first / size);
      const to = Math.ceil(end / size);
      const min = new Float32Array(to - from).fill(NaN);
      const max = new Float32Array(to - from).fill(NaN);
      let found = false;
      for (const row of this.rowsFrom.iterate({ signal, level, from, end: to }) as IterableIterator<Row>) {
        const both = floats(row.data);
        copyOverlap(both.subarray(0, row.count), row.first, min, from);
        copyOverlap(both.subarray(row.count), row.first, max, from);
        found = true;
      }
      // A short take has no coarse levels, the next finer one is small then.
      if (found) return minMaxBuckets(min, max, Math.min(buckets, to - from));
    }
    const samples = magnitudes(this.raw(own, first, Math.max(0, end - first)), width);
    return minMaxBuckets(samples, samples, Math.min(buckets, samples.length));
  }

  /** Marks, events and notes on the time axis: each as it was written last. What was taken back is left out. */
  notes(): TakeNote[] {
    const later =
      this.version < 5 ? 'NULL untilNs, NULL written, NULL replaces' : 'until_ns untilNs, written, replaces';
    const rows = this.db
      .prepare(`SELECT id, offset_ns offsetNs, kind, says, by, ${later} FROM note ORDER BY offset_ns, id`)
      .all() as (Omit<TakeNote, 'atS' | 'untilS'> & {
      offsetNs: number;
      untilNs: number | null;
      replaces: number | null;
    })[];
    const former = new Set(rows.map((r) => r.replaces));
    return rows
      .filter((r) => !former.has(r.id) && (r.replaces === null || r.says !== ''))
      .map(({ offsetNs, untilNs, id, kind, says, by, written }) => ({
        id,
        atS: offsetNs / 1e9,
        untilS: untilNs === null ? null : untilNs / 1e9,
        kind,
        says,
        by,
        written,
      }));
  }

  /** Every verdict that was given, the first one first: the last counts. */
  judgements(): Judgement[] {
    if (this.version < 5) return [];
    return this.db.prepare('SELECT at, by, verdict, reason FROM judgement ORDER BY id').all() as Judgement[];
  }

  /** What bridges read at rest and under their shunts before and after the take. */
  proofs(): StoredProof[] {
    if (this.version < 2) return [];
    const rows = this.db
      .prepare(
        'SELECT signal, moment, step, offset_ns offsetNs, rate_num num, rate_den den, data FROM proof ORDER BY rowid',
      )
      .all() as (Pick<StoredProof, 'signal' | 'moment' | 'step'> & {
      offsetNs: number;
      num: number;
      den: number;
      data: Buffer;
    })[];
    return rows.map(({ offsetNs, num, den, data, ...rest }) => ({
      ...rest,
      atS: offsetNs / 1e9,
      rateHz: hz({ num, den }),
      raw: floats(data),
    }));
  }

  /** How the units' clocks ran. */
  timing(): UnitTiming[] {
    if (this.version < 3) return [];
    return this.db
      .prepare(
        'SELECT unit, name, offset_ms offsetMs, drift_ppm driftPpm, drift_u_ppm driftUncertaintyPpm, blocks FROM timing ORDER BY name',
      )
      .all() as UnitTiming[];
  }

  /** Whether the file is still what it was closed with. Reads all of it. */
  sealState = (): SealState => checkSeal(this.db);

  /** What is missing, with its reason: of a rate group's channels, or of one whose span is called missing. */
  gaps(): TakeGap[] {
    const rows = this.db
      .prepare(
        'SELECT first, count, reason, g.id groupId, offset_ns startNs, rate_num num, rate_den den FROM gap JOIN rate_group g ON g.id = group_id ORDER BY first',
      )
      .all() as { first: number; count: number; reason: string; groupId: number; startNs: number; num: number; den: number }[]; // prettier-ignore
    const recorded = rows.map(({ first, count, reason, groupId, startNs, num, den }) => {
      const group = { rate: { num, den }, startNs };
      const signals = this.signals.filter((s) => s.groupId === groupId).map((s) => s.id);
      return { fromS: sampleS(group, first), toS: sampleS(group, first + count), reason, signals };
    });
    const called = this.signals.flatMap((s) =>
      s.mends.flatMap(({ mending: { kind, settings }, why }) => {
        if (kind !== 'missing') return [];
        const { first, end } = samplesWithin(s, Number(settings.from), Number(settings.to));
        return [
          {
            fromS: sampleS(s, first),
            toS: sampleS(s, end),
            reason: `called missing: ${why}`,
            signals: [s.id],
          },
        ];
      }),
    );
    return [...recorded, ...called];
  }

  close(): void {
    this.db.close();
  }
}

interface Row {
  first: number;
  count: number;
  data: Buffer;
}

function floats(data: Buffer): Float32Array {
  if (data.byteOffset % 4 === 0) return new Float32Array(data.buffer, data.byteOffset, data.length / 4);
  return new Float32Array(Uint8Array.from(data).buffer);
}

/** Copies the part of `from` (starting at index fromFirst) that lies within `to` (starting at toFirst). */
function copyOverlap(from: Float32Array, fromFirst: number, to: Float32Array, toFirst: number): void {
  const start = Math.max(fromFirst, toFirst);
  const end = Math.min(fromFirst + from.length, toFirst + to.length);
  if (end > start) to.set(from.subarray(start - fromFirst, end - fromFirst), start - toFirst);
}
