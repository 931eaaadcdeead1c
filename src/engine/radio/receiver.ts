import { badInput, conflict } from '$core/errors';
import { BandReadings, type BandReading } from '$core/radio/readings';
import { MW_PER_V2, dbm } from '$core/radio/levels';
import { rateFromHz, type Rate } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import type { RadioWish, ReceiverState } from '$contract/radio';
import type { Trouble, UnitDescription } from '$contract/unit';
import {
  described,
  type AcquireRequest,
  type ListenSink,
  type OpenUnit,
  type RawBlock,
} from '../units/driver';
import { isWide, planSteps } from '$core/radio/stepping';
import type { GatherTold, GatherWish } from '$contract/radio-gathering';
import { GatherRun } from './gather-run';
import { Stepper } from './stepper';
import { ListenerPort } from './listener-port';
import type { IqBlock, IqSource } from './source';

/** Terminals of the readings that channels can be made of, and how often a second they can be read. */
const READINGS = 16;
const READING_RATES = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];

const READS: Record<string, BandReading['reads']> = {
  'power in a band': 'power',
  'peak level': 'peak level',
  'peak frequency': 'peak frequency',
};

/** Terminal of the supply that some receivers have for a noise source. */
const SUPPLY = 'S/28 V';

/** Channels that are read together: the samples themselves, or readings at one rate. */
interface Group {
  requests: AcquireRequest[];
  rate: Rate;
  /** Samples of a reading; 1 for the samples themselves. */
  each: number;
  readings: BandReading[] | null;
  reader: BandReadings | null;
  /** Tuned frequency that the reader was made for. */
  readerHz: number;
  /** Sample at which its index 0 lies. */
  base: number;
  /** Whether it is the supply of a noise source that is read back. */
  supply: boolean;
}

/** A unit made of a source of complex samples: they are recorded, read as powers and peaks of bands, and listened to. */
export function openReceiver(
  unit: KnownUnit,
  source: IqSource,
  own: Partial<UnitDescription> = {},
  /** Switches the supply of a noise source, where the receiver has one. */
  supply: ((on: boolean) => void) | null = null,
): OpenUnit {
  let supplied = 0;
  let groups: Group[] = [];
  let port: ListenerPort | null = null;
  let latest: IqBlock | null = null;
  let stepper: Stepper | null = null;
  let run: GatherRun | null = null;
  let wished: RadioWish = { band: null, catching: null };
  /** Samples that come in a second: a recording may be played slower than it was taken. */
  const pace = () => source.paceHz ?? source.state().sampleRateHz;

  const modulesNow = () => {
    const rate = pace();
    return [
      {
        id: 'R',
        title: 'band',
        terminals: [{ id: 'R/iq', kind: 'radio samples' as const, label: 'I and Q' }],
        ratesHz: [rate],
        bandwidthShare: 0.8,
      },
      {
        id: 'P',
        title: 'readings of the band',
        terminals: Array.from({ length: READINGS }, (_, k) => ({
          id: `P/${k + 1}`,
          kind: 'radio reading' as const,
        })),
        ratesHz: READING_RATES.filter((r) => rate / r >= 64 && Number.isInteger(rate / r)),
        bandwidthShare: 0.5,
      },
      ...(supply
        ? [
            {
              id: 'S',
              title: 'supply of a noise source',
              terminals: [{ id: SUPPLY, kind: 'relay' as const, label: '28 V' }],
              ratesHz: READING_RATES.filter((r) => rate % r === 0),
              bandwidthShare: 0.5,
            },
          ]
        : []),
    ];
  };

  function groupOf(requests: AcquireRequest[]): Group[] {
    const by = new Map<string, { hz: number; list: AcquireRequest[] }>();
    const rate = pace();
    const rates = modulesNow()[1].ratesHz;
    for (const request of requests) {
      const samples = request.terminal === 'R/iq';
      const wanted = samples ? rate : (rates.find((r) => r >= request.rateHz * (1 - 1e-9)) ?? rates.at(-1)!);
      const key = `${wanted}${request.terminal === SUPPLY ? ' supply' : ''}`;
      by.set(key, { hz: wanted, list: [...(by.get(key)?.list ?? []), request] });
    }
    return [...by.values()].map(({ hz, list }): Group => ({
      requests: list,
      rate: rateFromHz(hz),
      each: Math.round(rate / hz),
      readings: hz === rate || list[0].terminal === SUPPLY ? null : list.map(readingOf),
      reader: null,
      readerHz: NaN,
      base: source.next,
      supply: list[0].terminal === SUPPLY,
    }));
  }

  function readingOf({ kind, settings }: AcquireRequest): BandReading {
    const { from, to } = settings as { from: number; to: number };
    return { reads: READS[kind] ?? 'power', fromHz: from * 1e6, toHz: to * 1e6 };
  }

  /** What a block gives one group. */
  function feed(group: Group, k: number, block: IqBlock, state: ReceiverState): RawBlock[] {
    const trouble: Trouble = block.overload ? 'over range' : 'none';
    if (group.supply) {
      const from = Math.ceil((block.first - group.base) / group.each);
      const count = Math.ceil((block.first + block.iq.length / 2 - group.base) / group.each) - from;
      const column = new Float32Array(Math.max(0, count)).fill(supplied);
      return count > 0
        ? [
            {
              group: k,
              firstIndex: from,
              count,
              columns: group.requests.map(() => column),
              trouble: group.requests.map(() => 'none'),
            },
          ]
        : [];
    }
    if (!group.readings) {
      const columns = group.requests.map(() => block.iq);
      return [
        {
          group: k,
          firstIndex: block.first - group.base,
          count: block.iq.length / 2,
          columns,
          trouble: columns.map(() => trouble),
        },
      ];
    }
    if (!group.reader || group.readerHz !== state.centreHz) {
      group.reader = new BandReadings(group.readings, state, group.each);
      group.readerHz = state.centreHz;
    }
    const rows: { index: number; values: number[] }[] = [];
    group.reader.push(
      block.iq,
      block.first - group.base,
      (index, values) => void rows.push({ index, values }),
    );
    if (rows.length === 0) return [];
    return [
      {
        group: k,
        firstIndex: rows[0].index,
        count: rows.length,
        columns: group.requests.map((_, c) => Float32Array.from(rows, (r) => r.values[c])),
        trouble: group.requests.map(() => trouble),
      },
    ];
  }

  /** Back to where it was tuned before it went from step to step. */
  function stay(): void {
    if (stepper) source.tune?.(stepper.homeHz);
    stepper = null;
  }
  /** A band that is wider than what is received is gone through in steps, as long as no channel needs the receiver where it is. @returns what can be heard of the wish */
  function step(wish: RadioWish, told: ListenSink): RadioWish {
    const state = source.state();
    if (!wish.band || !source.tune || !isWide(wish.band.request, state)) {
      stay();
      return wish;
    }
    if (groups.some((g) => !g.supply)) {
      stay();
      told({
        says: 'Channels are measured of the band that is received: it cannot be left for a wider one.',
        next: 'Take the channels off the receiver, or narrow the band.',
      });
      return { ...wish, band: null };
    }
    const homeHz = stepper?.homeHz ?? state.centreHz;
    try {
      stepper = new Stepper(planSteps(wish.band.request, { ...state, tunes: state.tunes! }), homeHz, (hz) =>
        source.tune!(hz),
      );
    } catch {
      stay(); // what listens says why
    }
    return wish;
  }

  /** Everything that hears the samples, made once somebody wants something of it. */
  function hearing(told: ListenSink): ListenerPort {
    port ??= new ListenerPort(told);
    port.told = (heard) => {
      told(heard);
      if ('gathering' in heard) gathered(heard.gathering);
    };
    return port;
  }
  function gathered(said: GatherTold): void {
    if (run?.told(said)) rest();
  }
  /** Nothing is gathered any more: back to where it was tuned. */
  function rest(): void {
    if (!run) return;
    source.tune?.(run.homeHz);
    source.gain?.(undefined);
    run = null;
    port?.gather(null);
    if (!asks(wished)) silence();
  }
  function silence(): void {
    if (run) return;
    port?.close();
    port = null;
  }
  /** What is gathered is tuned to; what cannot be tuned is gathered where it is. */
  function gather(wish: GatherWish | null, told: ListenSink): void {
    rest();
    if (!wish) return;
    const state = source.state();
    const home = stepper?.homeHz ?? state.centreHz;
    stay();
    const elsewhere = wish.steps.some((s) => Math.abs(s.centreHz - home) > 1);
    if (elsewhere && !source.tune)
      throw badInput('frequency', 'elsewhere', 'What was recorded cannot be tuned: stay within its band.');
    if (elsewhere && groups.some((g) => !g.supply))
      throw conflict(
        unit.name,
        'Channels are measured of the band that is received: it cannot be left.',
        'Take the channels off the receiver first.',
      );
    const own = hearing(told);
    run = new GatherRun(
      wish,
      home,
      ({ centreHz, gainDb }) => {
        source.tune?.(centreHz);
        source.gain?.(gainDb);
      },
      (step, { id, step: index }) => own.gather({ id, index, step }),
    );
  }

  return {
    describe: (): UnitDescription =>
      described(unit, {
        ...own,
        modules: modulesNow(),
        receiver: { ...source.state(), ...((stepper ?? run) && { centreHz: (stepper ?? run)!.homeHz }) },
      }),
    start(requests, nowNs) {
      if (requests.some((r) => r.terminal !== SUPPLY)) {
        stay();
        if (run)
          port?.told({
            gathering: {
              id: run.id,
              fault: 'Channels are measured of the band that is received now.',
              next: 'Take the channels off the receiver, and begin again.',
            },
          });
      }
      // What was received before belongs to nobody.
      source.read(nowNs);
      groups = groupOf(requests);
      return groups.map(({ rate, requests: list }) => ({ rate, startNs: nowNs, requests: list }));
    },
    poll(nowNs) {
      if (groups.length === 0 && !port) return [];
      const state = source.state();
      const out: RawBlock[] = [];
      const blocks = source.read(nowNs);
      latest = blocks.at(-1) ?? latest;
      for (const [at, block] of blocks.entries()) {
        const seen = block.centreHz === undefined ? state : { ...state, centreHz: block.centreHz };
        groups.forEach((group, k) => out.push(...feed(group, k, block, seen)));
        const later = blocks.slice(at + 1).reduce((n, b) => n + b.iq.length / 2, 0);
        port?.push(block, seen, Number(nowNs) / 1e6 - (later / state.sampleRateHz) * 1000);
        stepper?.heard(block.iq.length / 2, seen.centreHz);
      }
      return joined(out);
    },
    setOutput: (terminal, value) => {
      if (supply && terminal === SUPPLY) {
        supplied = value > 0.5 ? 1 : 0;
        return supply(supplied === 1);
      }
      throw badInput('output', unit.name, 'A receiver has no outputs.');
    },
    probe(terminal) {
      const block = latest;
      const mean = block ? block.iq.reduce((a, v) => a + v * v, 0) / (block.iq.length / 2) : NaN;
      return {
        unit: terminal === 'R/iq' ? 'V' : 'dBm',
        mean: terminal === 'R/iq' ? Math.sqrt(mean) : dbm(mean * MW_PER_V2),
        noise: 0,
        samples: block ? block.iq.length / 2 : 0,
        trouble: 'none',
        remark: 'What is heard is drawn on the page Radio.',
      };
    },
    ...(source.tune && {
      tune: (hz: number) => {
        rest();
        stay();
        source.tune!(hz);
      },
    }),
    listen(wish: RadioWish, told: ListenSink) {
      wished = wish;
      if (!asks(wish)) {
        stay();
        port?.want(wish);
        return silence();
      }
      // A wide band is not stepped through while something is gathered.
      hearing(told).want(
        run && wish.band && isWide(wish.band.request, source.state())
          ? { ...wish, band: null }
          : step(wish, told),
      );
    },
    gather,
    close() {
      port?.close();
      source.close();
    },
  };
}

/** Whether anything is wanted. */
const asks = ({ band, catching, reading }: RadioWish): boolean => !!(band ?? catching ?? reading);

/** One block of each group: pieces that follow one another are joined, as the pipeline takes one a step. */
function joined(blocks: RawBlock[]): RawBlock[] {
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
