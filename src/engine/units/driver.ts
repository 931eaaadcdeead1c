import type { Rate } from '$core/time/rate';
import type { Fault, Trouble, UnitDescription } from '$contract/unit';

/** A terminal to acquire and how fast. */
export interface AcquireRequest {
  terminal: string;
  rateHz: number;
  /** Supply of a bridge or loop in V, for drivers that switch it. */
  excitationV?: number;
  /** Whether the sensor is read as a resistance, where a terminal can do both. */
  resistance?: boolean;
}

/** Terminals sampled together. Sample i lies at startNs + i / rate. */
export interface AcquiredGroup {
  rate: Rate;
  startNs: bigint;
  terminals: string[];
}

/** Samples of one group. The columns belong to the driver and hold until its next poll. */
export interface RawBlock {
  group: number;
  firstIndex: number;
  count: number;
  /** One for each terminal of the group, raw, `count` values each. */
  columns: Float32Array[];
  trouble: Trouble[];
}

/** One look at an input, free or in use, without disturbing what is acquired. */
export interface Probe {
  unit: string;
  mean: number;
  noise: number;
  samples: number;
  trouble: Trouble;
  /** Said where the numbers mean nothing, such as at a floating input. */
  remark: string | null;
}

/** An opened unit. Stand-ins and real hardware are the same to the engine. */
export interface OpenUnit {
  describe(): UnitDescription;
  /** Begins to acquire; a second call replaces the first. Rates are those the hardware really does. */
  start(requests: AcquireRequest[], nowNs: bigint): AcquiredGroup[];
  /** Everything acquired before nowNs that was not handed over yet.
   *  @throws FarrierError `unavailable` when the unit is gone */
  poll(nowNs: bigint): RawBlock[];
  /** @param value raw, V */
  setOutput(terminal: string, value: number): void;
  probe(terminal: string): Probe;
  close(): void;
  /** Stand-ins only: a hand at the rig. */
  setControl?(id: string, value: number): void;
  setFault?(terminal: string, fault: Fault): void;
}

/** The socket for hardware: one a kind of unit. */
export interface UnitDriver {
  kind: string;
  title: string;
  /** Units that answer now. @param known stand-ins that the job has added, by serial */
  discover(known: { serial: string; kind: string; name: string }[]): { serial: string; name: string }[];
  /** @throws FarrierError `unavailable` when it does not answer */
  open(serial: string, name: string, nowNs: bigint): OpenUnit;
}

/** A group's terminals by rate, as most hardware does it. */
export function groupByRate(requests: AcquireRequest[]): Map<number, AcquireRequest[]> {
  const groups = new Map<number, AcquireRequest[]>();
  for (const request of requests)
    groups.set(request.rateHz, [...(groups.get(request.rateHz) ?? []), request]);
  return groups;
}
