import { badInput, conflict } from '$core/errors';
import { MW_PER_V2, dbm } from '$core/radio/levels';
import type { KnownUnit } from '$contract/engine';
import type { RadioWish } from '$contract/radio';
import type { UnitDescription } from '$contract/unit';
import { described, type ListenSink, type OpenUnit, type RawBlock } from '../units/driver';
import { isWide, planSteps } from '$core/radio/stepping';
import type { GatherTold, GatherWish } from '$contract/radio-gathering';
import { GatherRun } from './gather-run';
import { Feeds, joined, READINGS, READING_RATES, SUPPLY } from './feeds';
import { Stepper } from './stepper';
import { ListenerPort } from './listener-port';
import type { IqBlock, IqSource } from './source';

/** A unit made of a source of complex samples: they are recorded, read as powers and peaks of bands, and listened to. */
export function openReceiver(
  unit: KnownUnit,
  source: IqSource,
  own: Partial<UnitDescription> = {},
  /** Switches the supply of a noise source, where the receiver has one. */
  supply: ((on: boolean) => void) | null = null,
): OpenUnit {
  let feeds: Feeds | null = null;
  let supplied = 0;
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
    if (feeds?.hears) {
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
    if (elsewhere && feeds?.hears)
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
      feeds?.close();
      feeds = requests.length
        ? new Feeds(requests, pace(), source.next, modulesNow()[1].ratesHz, () => supplied === 1)
        : null;
      return (feeds?.groups ?? []).map(({ rate, requests: list }) => ({
        rate,
        startNs: nowNs,
        requests: list,
      }));
    },
    poll(nowNs) {
      if (!feeds && !port) return [];
      const state = source.state();
      const out: RawBlock[] = [];
      const blocks = source.read(nowNs);
      latest = blocks.at(-1) ?? latest;
      for (const [at, block] of blocks.entries()) {
        const seen = block.centreHz === undefined ? state : { ...state, centreHz: block.centreHz };
        const later = blocks.slice(at + 1).reduce((n, b) => n + b.iq.length / 2, 0);
        const timeMs = Number(nowNs) / 1e6 - (later / state.sampleRateHz) * 1000;
        out.push(...(feeds?.push(block, seen, timeMs) ?? []));
        port?.push(block, seen, timeMs);
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
      feeds?.close();
      port?.close();
      source.close();
    },
  };
}

/** Whether anything is wanted. */
const asks = ({ band, catching, reading }: RadioWish): boolean => !!(band ?? catching ?? reading);
