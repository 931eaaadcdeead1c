import { numberOfKind, NUMBER_STANDS_S } from '$contract/kinds/radio';
import {
  captureRequest,
  MODULATION_DEFAULTS,
  modulationWish,
  waysOf,
  type Modulation,
} from '$contract/radio-modulation';
import type { ReceiverState } from '$contract/radio';
import type { Trouble } from '$contract/unit';
import { BandReadings, type BandReading } from '$core/radio/readings';
import { rateFromHz, type Rate } from '$core/time/rate';
import type { AcquireRequest, RawBlock } from '../units/driver';
import { ListenerPort } from './listener-port';
import type { NumbersTold } from './number-reads';
import type { IqBlock } from './source';

/** Terminals of the readings that channels can be made of, and how often a second they can be read. */
export const READINGS = 16;
export const READING_RATES = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
/** Readings of a modulation within a second at the most: each is a capture of its own. */
const READ_A_SECOND = 10;

/** Terminal of the supply that some receivers have for a noise source. */
export const SUPPLY = 'S/28 V';

const READS: Record<string, BandReading['reads']> = {
  'power in a band': 'power',
  'peak level': 'peak level',
  'peak frequency': 'peak frequency',
};

/** What a group of channels is made of. */
type Makes = 'samples' | 'readings' | 'numbers' | 'supply';
const makesOf = ({ terminal, kind }: AcquireRequest): Makes => {
  if (terminal === 'R/iq') return 'samples';
  if (terminal === SUPPLY) return 'supply';
  return numberOfKind(kind) ? 'numbers' : 'readings';
};

/** Channels that are read together. */
interface Group {
  makes: Makes;
  requests: AcquireRequest[];
  rate: Rate;
  /** Samples of a reading; 1 for the samples themselves. */
  each: number;
  reader: BandReadings | null;
  /** Tuned frequency that the reader was made for. */
  readerHz: number;
}

/** All that channels are made of what a receiver hears: its samples, readings of its band, numbers of a modulation, and the supply read back. */
export class Feeds {
  readonly groups: readonly Group[];
  /** Sample at which index 0 of all groups lies. */
  private readonly base: number;
  /** Captures are read in a thread of their own. */
  private port: ListenerPort | null = null;
  private readonly numbers = new Map<string, NumbersTold>();
  /** How each channel of a number is read; made once. */
  private readonly keys = new Map<AcquireRequest, string>();
  private endsAt: number;

  /** @param paceHz samples that come in a second @param rates that readings can have @param supplied whether the supply is on */
  constructor(
    requests: AcquireRequest[],
    private readonly paceHz: number,
    next: number,
    rates: readonly number[],
    private readonly supplied: () => boolean,
  ) {
    this.base = this.endsAt = next;
    const by = new Map<string, { hz: number; list: AcquireRequest[] }>();
    for (const request of requests) {
      const makes = makesOf(request);
      const wanted = makes === 'samples' ? paceHz : (rates.find((r) => r >= request.rateHz * (1 - 1e-9)) ?? rates.at(-1)!); // prettier-ignore
      const key = `${wanted} ${makes}`;
      by.set(key, { hz: wanted, list: [...(by.get(key)?.list ?? []), request] });
    }
    this.groups = [...by.values()].map(({ hz, list }): Group => ({
      makes: makesOf(list[0]),
      requests: list,
      rate: rateFromHz(hz),
      each: Math.round(paceHz / hz),
      reader: null,
      readerHz: NaN,
    }));
    this.read();
  }

  /** Whether any channel needs the receiver where it is tuned. */
  get hears(): boolean {
    return this.groups.some((g) => g.makes !== 'supply');
  }

  /** Begins to read modulation for those channels that want its numbers. */
  private read(): void {
    const wanted = this.groups.filter((g) => g.makes === 'numbers').flatMap((g) => g.requests);
    if (wanted.length === 0) return;
    this.port = new ListenerPort(
      () => undefined,
      (read) => void this.numbers.set(read.key, read),
    );
    const ways = new Map<string, number>();
    for (const request of wanted) {
      const key = keyOf(request.settings);
      this.keys.set(request, key);
      ways.set(key, Math.min(READ_A_SECOND, Math.max(ways.get(key) ?? 0, request.rateHz)));
    }
    this.port.want({
      ...{ band: null, catching: null },
      numbers: [...ways].map(([key, rateHz]) => {
        const way = JSON.parse(key) as Modulation;
        return { key, capture: captureRequest(way), wish: modulationWish(way, null), everyS: 1 / rateHz };
      }),
    });
  }

  /** What a block gives all groups. @param seen the receiver as it was tuned then */
  push(block: IqBlock, seen: ReceiverState, timeMs: number): RawBlock[] {
    this.endsAt = block.first + block.iq.length / 2;
    this.port?.push(block, seen, timeMs);
    return this.groups.flatMap((group, k) => {
      const trouble: Trouble = block.overload && group.makes !== 'supply' ? 'over range' : 'none';
      const made = this.columns(group, block, seen);
      return made && made.count > 0 ? [{ group: k, ...made, trouble: group.requests.map(() => trouble) }] : []; // prettier-ignore
    });
  }

  private columns(
    group: Group,
    block: IqBlock,
    seen: ReceiverState,
  ): Pick<RawBlock, 'firstIndex' | 'count' | 'columns'> | null {
    const first = block.first - this.base;
    const { requests, each } = group;
    if (group.makes === 'samples')
      return { firstIndex: first, count: block.iq.length / 2, columns: requests.map(() => block.iq) };
    if (group.makes === 'readings') return this.readings(group, block, seen);
    const firstIndex = Math.ceil(first / each);
    const count = Math.max(0, Math.ceil((first + block.iq.length / 2) / each) - firstIndex);
    const value = (r: AcquireRequest) => (group.makes === 'supply' ? Number(this.supplied()) : this.number(r, seen)); // prettier-ignore
    return { firstIndex, count, columns: requests.map((r) => new Float32Array(count).fill(value(r))) };
  }

  private readings(
    group: Group,
    block: IqBlock,
    seen: ReceiverState,
  ): Pick<RawBlock, 'firstIndex' | 'count' | 'columns'> | null {
    if (!group.reader || group.readerHz !== seen.centreHz) {
      group.reader = new BandReadings(group.requests.map(readingOf), seen, group.each);
      group.readerHz = seen.centreHz;
    }
    const rows: { index: number; values: number[] }[] = [];
    group.reader.push(block.iq, block.first - this.base, (index, values) => void rows.push({ index, values })); // prettier-ignore
    if (rows.length === 0) return null;
    const columns = group.requests.map((_, c) => Float32Array.from(rows, (r) => r.values[c]));
    return { firstIndex: rows[0].index, count: rows.length, columns };
  }

  /** The last reading, as long as it stands. */
  private number(request: AcquireRequest, { sampleRateHz }: ReceiverState): number {
    const { kind, rateHz } = request;
    const last = this.numbers.get(this.keys.get(request)!);
    const stands = Math.max(NUMBER_STANDS_S, 2 / rateHz) * Math.min(this.paceHz, sampleRateHz);
    return last && this.endsAt - last.endsAt <= stands ? last.numbers[numberOfKind(kind)!] : NaN;
  }

  close(): void {
    this.port?.close();
    this.port = null;
  }
}

function readingOf({ kind, settings }: AcquireRequest): BandReading {
  const { from, to } = settings as { from: number; to: number };
  return { reads: READS[kind] ?? 'power', fromHz: from * 1e6, toHz: to * 1e6 };
}

/** Channels that read alike share their captures. */
const keyOf = (settings: Record<string, unknown>): string =>
  JSON.stringify(waysOf({ ...MODULATION_DEFAULTS, ...settings }));

/** One block of each group: pieces that follow one another are joined, as the pipeline takes one a step. */
export function joined(blocks: RawBlock[]): RawBlock[] {
  const by = new Map<number, RawBlock[]>();
  for (const b of blocks) by.set(b.group, [...(by.get(b.group) ?? []), b]);
  return [...by.values()].map((list) => {
    if (list.length === 1) return list[0];
    const last = list.at(-1)!;
    const first = list[0].firstIndex;
    const count = last.firstIndex + last.count - first;
    const columns = last.columns.map((column, c) => {
      const width = column.length / last.count;
      const out = new Float32Array(count * width).fill(NaN);
      for (const b of list) out.set(b.columns[c], (b.firstIndex - first) * width);
      return out;
    });
    const worst = last.trouble.map(
      (t, c) => list.map((b) => b.trouble[c]).find((own) => own !== 'none') ?? t,
    );
    return { group: last.group, firstIndex: first, count, columns, trouble: worst };
  });
}
