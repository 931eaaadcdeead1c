import { unitConversion } from '$core/quantities/quantities';
import { OnGrid } from '$core/samples/on-grid';
import { realParts } from '$core/samples/parts';
import { rateHz, sampleS, startS, type Sampled } from '$core/samples/sampled';
import { Moments } from '$core/statistics/moments';
import { CHUNK } from '$core/studies/study';
import { unitsWanted, type Spreadsheet } from '$contract/spreadsheet';
import { TakeReader } from '$store/take/reader';
import { numbers, words, type Sheet, type SheetCell } from './sheet';

/** A take whose samples are written. */
export interface SheetTake {
  path: string;
  name: string;
  startMs: number;
}
/** Rows that are made between two looks at whether they are still wanted. */
const ROWS = 4096;

/** Reads takes one after the other: signals in the units that are wanted. */
export class TakesToWrite {
  /** What could not be written as it was wanted. */
  readonly says = new Set<string>();
  constructor(
    private readonly takes: readonly SheetTake[],
    private readonly wanted: Spreadsheet,
    private readonly step: (share: number) => void,
  ) {}

  /** Of each channel of each take. */
  *statistics(): Generator<Sheet> {
    const { statistics } = this.wanted;
    const rows: SheetCell[][] = [];
    this.each((take, signals, k) => {
      signals.forEach((signal, c) => {
        const moments = new Moments();
        for (let at = 0; at < signal.length; at += CHUNK) moments.push(signal.read(at, Math.min(CHUNK, signal.length - at))); // prettier-ignore
        const of = { mean: moments.mean, s: moments.standardDeviation, rms: moments.rms, lowest: moments.min, highest: moments.max, span: moments.peakToPeak, missing: moments.missing }; // prettier-ignore
        const known = moments.count > 0;
        rows.push([
          take.name,
          signal.name,
          signal.unit === '1' ? '' : signal.unit,
          ...statistics.map((s) =>
            known || s === 'missing' ? (Number.isFinite(of[s]) ? of[s] : null) : null,
          ),
        ]);
        this.step((k + (c + 1) / signals.length) / this.takes.length / 2);
      });
    });
    const columns = [words('Take'), words('Channel'), words('Unit'), ...statistics.map((s) => numbers(s))];
    yield { title: 'Statistics', columns, rows };
  }

  /** All samples: a sheet for each take, or one for all of them. */
  *samples(): Generator<Sheet> {
    if (this.wanted.layout === 'all takes under each other') return yield* this.under();
    for (const [k, take] of this.takes.entries()) {
      const reader = new TakeReader(take.path);
      try {
        const signals = this.signalsOf(reader, take);
        const columns = [numbers('Time', 's'), ...signals.map((s) => numbers(s.name, s.unit))];
        yield { title: take.name, columns, rows: this.rowsOf(signals, k) };
      } finally {
        reader.close();
      }
    }
  }

  private *under(): Generator<Sheet> {
    // The columns of all takes, by name and unit.
    const columns = new Map<string, { name: string; unit: string }>();
    this.each((_, signals) => {
      for (const { name, unit } of signals) columns.set(`${name} [${unit}]`, { name, unit });
    });
    const keys = [...columns.keys()];
    yield {
      title: 'Samples',
      columns: [words('Take'), numbers('Time', 's'), ...[...columns.values()].map((c) => numbers(c.name, c.unit))], // prettier-ignore
      rows: this.rowsUnder(keys),
    };
  }
  private *rowsUnder(keys: string[]): Generator<SheetCell[]> {
    for (const [k, take] of this.takes.entries()) {
      const reader = new TakeReader(take.path);
      try {
        const signals = this.signalsOf(reader, take);
        const place = signals.map((s) => keys.indexOf(`${s.name} [${s.unit}]`));
        for (const [time, ...values] of this.rowsOf(signals, k)) {
          const row: SheetCell[] = [take.name, time, ...new Array<null>(keys.length).fill(null)];
          values.forEach((v, c) => (row[2 + place[c]] = v));
          yield row;
        }
      } finally {
        reader.close();
      }
    }
  }

  private *rowsOf(signals: Sampled[], k: number): Generator<SheetCell[]> {
    if (signals.length === 0) return;
    const { samples, every, stepS, method } = this.wanted;
    const done = (share: number) => this.step(0.5 + (k + share) / this.takes.length / 2);
    const fastest = signals.reduce((a, b) => (rateHz(b) > rateHz(a) ? b : a));
    if (samples === 'on a fixed step') {
      const end = Math.max(...signals.map((s) => sampleS(s, s.length - 1)));
      const readers = signals.map((s) => new OnGrid(s, method, stepS));
      // A time is made of its place, never added up.
      const rows = Math.floor(end / stepS + 1e-6) + 1;
      const digits = Math.min(9, Math.max(0, Math.ceil(-Math.log10(stepS) + 2)));
      for (let r = 0; r < rows; r++) {
        const t = Number((r * stepS).toFixed(digits));
        yield [t, ...readers.map((reader) => shown(reader.at(t)))];
        if (r % ROWS === 0) done(r / rows);
      }
      return;
    }
    // A sample stands in the row of the fastest channel that is the first at or after it.
    const jump = samples === 'every so many' ? every : 1;
    const readers = signals.map((s) => ({ s, next: 0, block: new Float32Array(0), first: 0 }));
    const rows = Math.ceil(fastest.length / jump);
    for (let r = 0; r < rows; r++) {
      const index = r * jump;
      const t = sampleS(fastest, index);
      yield [
        Number(t.toPrecision(12)),
        ...readers.map((own) => {
          const { s } = own;
          if (s === fastest || (s.rate.num === fastest.rate.num && s.rate.den === fastest.rate.den && s.startNs === fastest.startNs)) return shown(valueAt(own, index)); // prettier-ignore
          const before = Math.min(
            s.length - 1,
            Math.floor((t - startS(s)) * (s.rate.num / s.rate.den) + 1e-6),
          );
          if (before < own.next) return null;
          own.next = before + 1;
          return shown(valueAt(own, before));
        }),
      ];
      if (r % ROWS === 0) done(r / rows);
    }
  }

  private each(use: (take: SheetTake, signals: Sampled[], k: number) => void): void {
    this.takes.forEach((take, k) => {
      const reader = new TakeReader(take.path);
      try {
        use(take, this.signalsOf(reader, take), k);
      } finally {
        reader.close();
      }
    });
  }

  private signalsOf(reader: TakeReader, take: SheetTake): Sampled[] {
    const { channels, units } = this.wanted;
    const pairs = unitsWanted(units);
    const chosen = channels.length ? channels : null;
    const all = reader.signals.filter((s) => s.channelId !== null && s.length > 0 && (!chosen || chosen.includes(s.channelId))); // prettier-ignore
    for (const id of chosen ?? []) {
      if (!reader.signals.some((s) => s.channelId === id)) this.says.add(`${take.name} has not all channels that were chosen.`); // prettier-ignore
    }
    return all
      .flatMap((s) => realParts(reader.sampled(s.id)))
      .map((s) => {
        const pair = Array.isArray(pairs) ? pairs.find((p) => [s.name, s.quantity].some((n) => n.toLowerCase() === p.of.toLowerCase())) : undefined; // prettier-ignore
        return pair ? this.inUnit(s, pair.unit) : s;
      });
  }
  private inUnit(signal: Sampled, unit: string): Sampled {
    if (unit === signal.unit) return signal;
    try {
      const { factor, offset } = unitConversion(signal.unit, unit);
      return {
        ...signal,
        unit,
        read: (first, count) => signal.read(first, count).map((v) => v * factor + offset),
      };
    } catch {
      this.says.add(`${signal.name} stays in ${signal.unit}: it cannot be written in ${unit}.`);
      return signal;
    }
  }
}

interface Held {
  s: Sampled;
  block: Float32Array;
  first: number;
}
function valueAt(held: Held, index: number): number {
  const { s } = held;
  if (index < 0 || index >= s.length) return NaN;
  if (index < held.first || index >= held.first + held.block.length) {
    held.first = index;
    held.block = s.read(index, Math.min(1 << 15, s.length - index)).slice();
  }
  return held.block[index - held.first];
}

/** As many digits as a 32-bit sample holds. */
const shown = (value: number): number | null =>
  Number.isFinite(value) ? Number(value.toPrecision(7)) : null;
