import type { Conversion } from '$core/conversion/conversion';
import { FarrierError, badInput } from '$core/errors';
import { magnitudes } from '$core/signal/magnitude';
import type { SampledHead } from '$core/samples/sampled';
import type { Rate } from '$core/time/rate';
import type { TakeHead, TakeState, UnitTiming } from '$contract/take';
import type Sqlite from 'better-sqlite3';
import { EnvelopeLevel } from './envelope-levels';
import { createTakeFile, type Width } from './schema';
import { freeParts, markLate, packEnvelope, settleLate } from './late';
import { SampleHashes, seal } from './seal';

/** A row of samples is final once it has this many; a shorter one at the end is written anew at each commit. */
export const ROW_SAMPLES = 4096;
const BUFFER_SAMPLES = 65536;
/** A number, and its share of the envelope's levels: 4 (1 + 2/16 + 2/256 + …). */
const BYTES_A_NUMBER = 4.54;

/** A signal as a take is begun with it; its samples are real where it does not say so. */
export interface TakeSignalSetup
  extends Pick<SampledHead, 'name' | 'unit'>, Partial<Pick<SampledHead, 'width'>> {
  channelId: string | null;
  rawUnit: string;
  group: number;
  /** Position of the signal with the reference junction's temperature. */
  junction: number | null;
  conversion: Conversion;
  /** The channel as it was, with calibration and sensor. */
  snapshot: unknown;
}
export interface TakeGroupSetup {
  /** Instant of its sample 0 after the take's start, ns. */
  offsetNs: number;
  rate: Rate;
}
export interface TakeSetup {
  head: TakeHead;
  groups: TakeGroupSetup[];
  signals: TakeSignalSetup[];
  by: string;
}

interface Pending {
  readonly width: Width;
  buffer: Float32Array;
  first: number;
  count: number;
  /** Samples that a short row on disk already holds. */
  stored: number;
  levels: EnvelopeLevel;
  /** Index after the last sample fed to the levels. */
  fed: number;
}

const NO_VALUES = new Float32Array(8192).fill(NaN);

/** Complex samples have a phase that only a factor leaves alone. @throws `bad_input` for any other conversion of them */
export function checkComplex({
  name,
  width = 1,
  conversion,
  junction,
}: Pick<TakeSignalSetup, 'name' | 'width' | 'conversion' | 'junction'>): void {
  const { law, correction, unit } = conversion;
  const plain = correction.offset === 0 && unit.offset === 0 && junction === null;
  const factor = law.kind === 'linear' && law.offset === 0 ? law.slope * correction.slope * unit.factor : 0;
  if (width === 2 && !(plain && factor > 0))
    throw badInput(
      name,
      'a conversion with an offset or a curve',
      'Complex samples take a factor above 0 and nothing else.',
    );
}

/** Writes one take. Appending only copies; commit() makes durable what came since, in one transaction. */
export class TakeWriter {
  private readonly db: Sqlite.Database;
  private readonly pending: Pending[];
  private readonly upsertBlock: Sqlite.Statement;
  private readonly insertNote: Sqlite.Statement;
  private readonly insertGap: Sqlite.Statement;
  private readonly growGroup: Sqlite.Statement;
  private readonly lengths: number[];
  private readonly hashes: SampleHashes;
  private open = false;
  /** Signals that got samples out of their order. */
  private readonly late = new Set<number>();
  private numbersWritten = 0;

  /** @throws `unavailable` when the file cannot be made */
  constructor(
    path: string,
    private readonly setup: TakeSetup,
  ) {
    try {
      this.db = createTakeFile(path);
    } catch (error) {
      throw new FarrierError('unavailable', {
        what: 'The take file cannot be made.',
        where: path,
        why: (error as Error).message,
        next: 'Check the disk’s free space and rights, then start again.',
      });
    }
    const { head, groups, signals, by } = setup;
    signals.forEach(checkComplex);
    const { db } = this;
    db.transaction(() => {
      const put = db.prepare('INSERT INTO take VALUES (?, ?)');
      for (const [key, value] of Object.entries(head))
        if (value !== undefined) put.run(key, JSON.stringify(value));
      groups.forEach((g, id) =>
        db
          .prepare('INSERT INTO rate_group VALUES (?, ?, ?, ?, 0)')
          .run(id, g.offsetNs, g.rate.num, g.rate.den),
      );
      const addSignal = db.prepare(
        'INSERT INTO signal (id, channel_id, name, raw_unit, group_id, junction, snapshot, width) VALUES (?, ?, ?, ?, ?, ?, ?, ?)',
      );
      const addConversion = db.prepare(
        'INSERT INTO conversion (signal, revision, at, by, reason, unit, body) VALUES (?, 1, ?, ?, ?, ?, ?)',
      );
      // A junction has to stand before the signals that name it.
      const order = signals
        .map((s, id) => ({ s, id }))
        .sort((a, b) => Number(a.s.junction !== null) - Number(b.s.junction !== null));
      for (const { s, id } of order) {
        addSignal.run(
          id,
          s.channelId,
          s.name,
          s.rawUnit,
          s.group,
          s.junction,
          JSON.stringify(s.snapshot ?? null),
          s.width ?? 1,
        );
        addConversion.run(id, Date.now(), by, 'as recorded', s.unit, JSON.stringify(s.conversion));
      }
    })();
    this.upsertBlock = db.prepare(
      'INSERT INTO block VALUES (?, ?, ?, ?) ON CONFLICT DO UPDATE SET count = excluded.count, data = excluded.data',
    );
    const insertEnvelope = db.prepare('INSERT INTO envelope VALUES (?, ?, ?, ?, ?)');
    this.insertNote = db.prepare('INSERT INTO note (offset_ns, kind, says, by) VALUES (?, ?, ?, ?)');
    this.insertGap = db.prepare('INSERT INTO gap VALUES (?, ?, ?, ?)');
    this.growGroup = db.prepare('UPDATE rate_group SET length = ? WHERE id = ?');
    this.hashes = new SampleHashes(signals.map((s) => s.width ?? 1));
    this.lengths = groups.map(() => 0);
    this.pending = signals.map(({ width = 1 }, id) => ({
      width,
      buffer: new Float32Array(ROW_SAMPLES * width),
      first: 0,
      count: 0,
      stored: 0,
      fed: 0,
      levels: new EnvelopeLevel(1, (level, first, min, max) => {
        this.begin();
        insertEnvelope.run(id, level, first, min.length, packEnvelope(min, max));
      }),
    }));
  }

  private begin(): void {
    if (!this.open) this.db.exec('BEGIN');
    this.open = true;
  }

  /** Adds raw samples of one signal, `width` numbers each. @param first index of the first one in its rate group; a jump leaves a gap, which later samples may fill: of what
   *  comes twice the first counts */
  append(signal: number, first: number, data: Float32Array): void {
    const p = this.pending[signal];
    const { width } = p;
    if (first < p.fed) {
      const late = Math.min(data.length / width, p.fed - first);
      this.fill(signal, first, data.subarray(0, late * width));
      if (late * width === data.length) return;
      data = data.subarray(late * width);
      first += late;
    }
    if (p.count > 0 && p.first + p.count !== first) this.flushRow(signal, p, true);
    if (p.count === 0) p.first = first;
    for (let skip = first - p.fed; skip > 0; skip -= NO_VALUES.length)
      p.levels.push(NO_VALUES, NO_VALUES, Math.min(skip, NO_VALUES.length));
    this.hashes.update(signal, first, new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    const shown = magnitudes(data, width);
    p.levels.push(shown, shown, shown.length);
    p.fed = first + shown.length;
    let read = 0;
    while (read < data.length) {
      if (p.count * width === p.buffer.length) {
        if (p.count < BUFFER_SAMPLES) {
          const larger = new Float32Array(p.buffer.length * 4);
          larger.set(p.buffer);
          p.buffer = larger;
        } else this.flushRow(signal, p, true);
      }
      const at = p.count * width;
      const take = Math.min(p.buffer.length - at, data.length - read);
      p.buffer.set(read === 0 && take === data.length ? data : data.subarray(read, read + take), at);
      p.count += take / width;
      read += take;
    }
    const { group } = this.setup.signals[signal];
    this.lengths[group] = Math.max(this.lengths[group], p.fed);
    this.numbersWritten += data.length;
  }

  /** Puts samples that come after later ones where nothing is stored yet. */
  private fill(signal: number, first: number, data: Float32Array): void {
    const p = this.pending[signal];
    const { width } = p;
    this.flushRow(signal, p, true);
    for (const { from, to } of freeParts(this.db, signal, first, first + data.length / width)) {
      this.begin();
      for (let at = from; at < to; at += BUFFER_SAMPLES) {
        const part = data.subarray((at - first) * width, (Math.min(to, at + BUFFER_SAMPLES) - first) * width);
        const bytes = Buffer.from(part.buffer, part.byteOffset, part.byteLength);
        this.upsertBlock.run(signal, at, part.length / width, bytes);
        this.numbersWritten += part.length;
      }
      if (!this.late.has(signal)) markLate(this.db, this.late.add(signal));
    }
  }

  private flushRow(signal: number, p: Pending, final: boolean): void {
    if (p.count > p.stored) {
      this.begin();
      this.upsertBlock.run(signal, p.first, p.count, Buffer.from(p.buffer.buffer, 0, p.count * 4 * p.width));
      p.stored = p.count;
    }
    if (final) {
      p.first += p.count;
      p.count = 0;
      p.stored = 0;
    }
  }

  /** Says why samples are missing. */
  gap(group: number, first: number, count: number, reason: string): void {
    this.begin();
    this.insertGap.run(group, first, count, reason);
  }

  /** A rate group lasts as long as the take, whether its samples came or not. @param length in samples; a shorter one than there is changes nothing */
  lasts(group: number, length: number): void {
    this.lengths[group] = Math.max(this.lengths[group], length);
    this.begin();
  }

  /** What a bridge read at rest or under its shunt, beside the samples: raw values of one rate. */
  proof(
    signal: number,
    moment: 'before' | 'after',
    step: 'zero' | 'shunt',
    offsetNs: number,
    rate: Rate,
    values: Float32Array,
  ): void {
    this.begin();
    this.db
      .prepare('INSERT INTO proof VALUES (?, ?, ?, ?, ?, ?, ?, ?)')
      .run(
        signal,
        moment,
        step,
        offsetNs,
        rate.num,
        rate.den,
        values.length,
        Buffer.from(values.buffer, values.byteOffset, values.byteLength),
      );
  }

  /** A mark or event on the time axis. */
  note(offsetNs: number, kind: string, says: string, by: string): void {
    this.begin();
    this.insertNote.run(offsetNs, kind, says, by);
  }

  /** Makes all that was appended durable. To be called at most 250 ms apart.
   *  @throws `unavailable` when the disk does not take it; what was committed before stays */
  commit(): void {
    try {
      this.pending.forEach((p, signal) => this.flushRow(signal, p, p.count >= ROW_SAMPLES));
      if (!this.open) return;
      this.lengths.forEach((length, id) => this.growGroup.run(length, id));
      this.db.exec('COMMIT');
      this.open = false;
    } catch (error) {
      throw new FarrierError('unavailable', {
        what: 'The disk does not take the recording.',
        why: (error as Error).message,
        next: 'Free some space; what was written before is kept.',
      });
    }
  }

  /** Lets go of a file that takes no more: what was committed before stays, to be closed by `recoverTake`. */
  abandon(): void {
    if (this.db.inTransaction) this.db.exec('ROLLBACK');
    this.db.close();
  }

  /** Bytes that the samples and their overview take. */
  get bytes(): number {
    return this.numbersWritten * BYTES_A_NUMBER;
  }

  /** Ends the take, seals it and closes the file. @param timing of the units' clocks @returns the seal's hash */
  close(state: Exclude<TakeState, 'recording'>, lengthNs: number, timing: UnitTiming[] = []): string {
    for (const p of this.pending) p.levels.finish();
    this.begin();
    const addTiming = this.db.prepare('INSERT OR REPLACE INTO timing VALUES (?, ?, ?, ?, ?, ?)');
    for (const t of timing)
      addTiming.run(t.unit, t.name, t.offsetMs, t.driftPpm, t.driftUncertaintyPpm, t.blocks);
    const set = this.db.prepare('UPDATE take SET value = ? WHERE key = ?');
    set.run(JSON.stringify(state), 'state');
    set.run(JSON.stringify(lengthNs), 'lengthNs');
    this.commit();
    const samples = this.hashes.digests();
    if (this.late.size) this.db.transaction(() => settleLate(this.db).forEach((own, signal) => (samples[signal] = own)))(); // prettier-ignore
    const hash = seal(this.db, this.setup.by, samples);
    this.db.pragma('wal_checkpoint(TRUNCATE)');
    this.db.close();
    return hash;
  }
}
