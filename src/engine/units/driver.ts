import type { Rate } from '$core/time/rate';
import type { KnownUnit } from '$contract/engine';
import type { HeardBand, HeardFault, RadioWish } from '$contract/radio';
import type { CaughtTold } from '$contract/radio-catching';
import type { GatherTold, GatherWish } from '$contract/radio-gathering';
import type {
  Fault,
  Heard,
  Probe,
  SelfTest,
  Trouble,
  TryOut,
  UnitDescription,
  UnitModule,
} from '$contract/unit';

/** A terminal to acquire, how fast, and how its input is conditioned. */
export interface AcquireRequest {
  terminal: string;
  rateHz: number;
  /** The channel it is for; null for what the engine itself needs, such as a junction's temperature. */
  channelId: string | null;
  /** Kind of that channel and its settings: excitation, coupling, range, leads. */
  kind: string;
  settings: Record<string, unknown>;
}

/** Requests sampled together. Sample i lies at startNs + i / rate. */
export interface AcquiredGroup {
  rate: Rate;
  startNs: bigint;
  /** In the order of the columns. */
  requests: AcquireRequest[];
}

/** Samples of one group. The columns belong to the driver and hold until its next poll. */
export interface RawBlock {
  group: number;
  firstIndex: number;
  count: number;
  /** One for each request of the group, raw, `count` samples each: I and Q in turn where they are complex. */
  columns: Float32Array[];
  trouble: Trouble[];
}

/** Told what a receiver hears or gathered, or what cannot be heard. */
export type ListenSink = (
  heard:
    Omit<HeardBand, 'unit'> | Omit<CaughtTold, 'unit'> | Omit<HeardFault, 'unit'> | { gathering: GatherTold },
) => void;

/** An opened unit. Stand-ins and real hardware are the same to the engine. */
export interface OpenUnit {
  describe(): UnitDescription;
  /** Begins to acquire; a second call replaces the first. Rates are those the hardware really does.
   *  @throws FarrierError `unavailable` when the unit does not answer */
  start(requests: AcquireRequest[], nowNs: bigint): AcquiredGroup[];
  /** Everything acquired before nowNs that was not handed over yet.
   *  @throws FarrierError `unavailable` when the unit is gone */
  poll(nowNs: bigint): RawBlock[];
  /** @param value raw: V, or the number that is sent
   *  @returns where the hardware has to answer first: settled once it has, rejected when it refused or is silent
   *  @throws FarrierError for a value or terminal that cannot be meant, `unavailable` while there is no connection */
  setOutput(terminal: string, value: number): void | Promise<void>;
  /** One look at a terminal, without disturbing what is acquired. @param as how a channel there reads it */
  probe(terminal: string, as: { kind: string; settings: Record<string, unknown> } | null): Probe;
  close(): void;
  /** Sets an output, line or shunt by hand, outside a recording. */
  tryOut?(terminal: string, act: TryOut): void | Promise<void>;
  /** Lays the shunt of a bridge's module across its arm, or lets it go. @throws `not_allowed` where there is none */
  shunt?(terminal: string, on: boolean): void;
  selfTest?(): SelfTest;
  /** Starts the unit anew: outputs to rest, lines to inputs, counts to 0. */
  reset?(): void;
  /** What came last, oldest first. */
  heard?(): Heard[];
  /** Sends a line or frame as it is written. @throws `bad_input` when it is none */
  send?(text: string): void;
  /** The last frames as a log in plain text. */
  recentLog?(): string;
  /** Memories of the sensors' chips. */
  chips?(): { terminal: string; memory: Uint8Array }[];
  /** Receivers only: hears around another frequency. @throws `bad_input` for one that it cannot reach */
  tune?(centreHz: number): void;
  /** Receivers only: pictures of the band and over time are told from now on, by a wish for each. */
  listen?(wish: RadioWish, told: ListenSink): void;
  /** Receivers only: gathers step by step from now on, or no more. @throws `conflict` while channels need it where it is tuned */
  gather?(wish: GatherWish | null, told: ListenSink): void;
  /** Takes over settings without beginning anew. @returns whether it could */
  adjust?(unit: KnownUnit): boolean;
  /** Stand-ins only: a hand at the rig. */
  setControl?(id: string, value: number): void;
  setFault?(terminal: string, fault: Fault): void;
}

/** UTC in ns, never jumping: the one clock of the engine. */
export type Clock = () => bigint;

/** The socket for hardware: one a kind of unit. */
export interface UnitDriver {
  kind: string;
  /** Returns at once; what takes time goes on behind, and start() fails until it is there.
   *  @throws FarrierError `bad_input` for settings that cannot be meant, `unavailable` when it does not answer */
  open(unit: KnownUnit, clock: Clock): OpenUnit;
}

/** A description with the usual values of what a kind has no use for. */
export const described = (
  unit: Pick<KnownUnit, 'serial' | 'kind' | 'name'>,
  own: Partial<UnitDescription> & { modules: UnitModule[] },
): UnitDescription => ({
  serial: unit.serial,
  kind: unit.kind,
  name: unit.name,
  firmware: '',
  calibratedUntil: '',
  temperature: null,
  controls: [],
  faults: {},
  standIn: false,
  abilities: [],
  counts: [],
  ...own,
});

/** The lowest rate that a module can do and that is not below the one asked for; its highest where none is. */
const nearestRate = (ratesHz: number[], wanted: number) =>
  ratesHz.find((r) => r >= wanted * (1 - 1e-9)) ?? ratesHz[ratesHz.length - 1] ?? wanted;

/** Requests by the rate at which their module can do them, as most hardware groups them. */
export function groupByRate(
  requests: AcquireRequest[],
  modules: UnitModule[],
): Map<number, AcquireRequest[]> {
  const groups = new Map<number, AcquireRequest[]>();
  for (const request of requests) {
    const rates = modules.find((m) => request.terminal.startsWith(`${m.id}/`))?.ratesHz ?? [];
    const rate = nearestRate(rates, request.rateHz);
    groups.set(rate, [...(groups.get(rate) ?? []), request]);
  }
  return groups;
}
