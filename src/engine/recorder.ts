import { asFarrierError } from '$core/errors';
import { HeldLevel } from '$core/signal/held-level';
import { LevelDetector } from '$core/signal/level-detector';
import { hz, sampleTimeNs, samplesBefore } from '$core/time/rate';
import type { Plan } from '$contract/plan';
import type { TakeHead } from '$contract/take';
import { TakeWriter, type TakeSetup } from '$store/take/writer';
import type { Group, Signal } from './signals';
import { Ring } from './ring';
import { driftText, type ProofReading } from './shunt-run';

const COMMIT_NS = 200_000_000n; // below the promised 250 ms, so that one slow step does not break it

export interface Arming {
  head: TakeHead;
  plan: Plan;
  path: string;
  by: string;
}

/** One take from arming to its end: waits for the start, keeps memory from before, writes, watches for the stop. */
export class Recorder {
  private writer: TakeWriter | null = null;
  private readonly groups: Group[];
  private readonly starts = new Map<Group, number>();
  private readonly start: LevelDetector | null;
  private readonly stop: HeldLevel | null;
  private readonly startSignal: Signal | null;
  private readonly stopSignal: Signal | null;
  private zeroNs = 0n;
  private lastCommitNs = 0n;
  private noted: { atNs: bigint; kind: string; says: string; by: string }[] = [];
  /** Instant of the start condition; null while it waits. */
  startedNs: bigint | null = null;
  /** Instant of its end, while its proof is still read. */
  endedNs: bigint | null = null;
  /** Whether the shunts after the take were begun. */
  provenAfter = false;
  private readonly proofs: { moment: 'before' | 'after'; readings: ProofReading[] }[] = [];

  constructor(
    private readonly arming: Arming,
    /** What goes into the take: the plan's channels and the junctions they need. */
    readonly chosen: Signal[],
    reads: (channelId: string | null) => Signal | null,
  ) {
    const { plan } = arming;
    this.startSignal = plan.start === 'when' ? reads(plan.startChannel) : null;
    this.stopSignal = plan.stop === 'when' ? reads(plan.stopChannel) : null;
    this.start = this.startSignal ? new LevelDetector(plan.startDirection, plan.startLevel) : null;
    this.stop = this.stopSignal
      ? new HeldLevel(
          plan.stopDirection,
          plan.stopLevel,
          Math.ceil(plan.stopHold * hz(this.stopSignal.group.rate)),
        )
      : null;
    this.groups = [...new Set(chosen.map((s) => s.group))];
    for (const signal of chosen) {
      const rate = hz(signal.group.rate);
      // A second more than asked for: the step in which the start is found is in the ring, too.
      signal.ring = new Ring(Math.ceil((plan.before + 1) * rate) + 16);
    }
  }

  get plan(): Plan {
    return this.arming.plan;
  }
  get head(): TakeHead {
    return this.arming.head;
  }
  get recording(): boolean {
    return this.writer !== null;
  }
  get samplesWritten(): number {
    return this.writer?.samplesWritten ?? 0;
  }

  /** One step of the pipeline. @returns the instant at which the take ended, or null while it goes on
   *  @throws `unavailable` when the disk does not take the data */
  step(nowNs: bigint): bigint | null {
    if (!this.writer) {
      for (const s of this.chosen)
        if (s.group.count > 0) s.ring!.push(s.group.first, s.raw.subarray(0, s.group.count));
      const at =
        this.start && this.startSignal!.group.count > 0
          ? this.start.find(this.startSignal!.value, 0, this.startSignal!.group.count)
          : -1;
      if (at < 0) return null;
      const { group } = this.startSignal!;
      this.begin(
        sampleTimeNs(group.startNs, group.rate, group.first + at),
        `Started: ${this.startSignal!.name} ${this.arming.plan.startDirection} ${this.arming.plan.startLevel} ${this.startSignal!.unit}`,
      );
      return this.finishIfDue(nowNs);
    }
    const ended = this.endWithin(nowNs);
    for (let id = 0; id < this.chosen.length; id++) {
      const s = this.chosen[id];
      const { group } = s;
      if (group.count === 0) continue;
      const first = this.starts.get(group)!;
      const end =
        ended === null
          ? group.first + group.count
          : Math.min(group.first + group.count, samplesBefore(group.rate, ended - group.startNs));
      const from = Math.max(first, group.first);
      if (end > from)
        this.writer.append(id, from - first, s.raw.subarray(from - group.first, end - group.first));
    }
    if (ended !== null) {
      this.finish(ended);
      return ended;
    }
    if (nowNs - this.lastCommitNs >= COMMIT_NS) {
      this.lastCommitNs = nowNs;
      this.writer.commit();
    }
    return null;
  }

  /** Starts at once. */
  startNow(nowNs: bigint, says: string): void {
    if (!this.writer) this.begin(nowNs, says);
  }

  /** Ends at once. @returns the instant of the end */
  endNow(nowNs: bigint): bigint {
    this.finish(nowNs);
    return nowNs;
  }

  /** A mark or event; before the start it is kept for the take. */
  note(atNs: bigint, kind: string, says: string, by: string): void {
    if (this.writer) this.writer.note(Math.max(0, Number(atNs - this.zeroNs)), kind, says, by);
    else this.noted.push({ atNs, kind, says, by });
  }

  /** Keeps what the bridges read at rest and under their shunts. @returns it in words */
  keepProof(moment: 'before' | 'after', readings: ProofReading[]): string {
    this.proofs.push({ moment, readings });
    if (this.writer) this.writeProof(moment, readings);
    const bridges = new Set(readings.map((r) => r.signal)).size;
    const before = this.proofs.find((p) => p.moment === 'before')?.readings;
    const drift = moment === 'after' && before ? driftText(before, readings) : null;
    return `Zero and shunt of ${bridges} bridge${bridges === 1 ? '' : 's'} read ${moment} the take.${drift ? ` ${drift}` : ''}`;
  }

  private writeProof(moment: 'before' | 'after', readings: ProofReading[]): void {
    for (const r of readings)
      this.writer!.proof(
        this.chosen.indexOf(r.signal),
        moment,
        r.step,
        Number(r.atNs - this.zeroNs),
        r.rate,
        r.values,
      );
  }

  /** Says why samples of a group are missing. @param first index in the group */
  gap(group: Group, first: number, count: number, reason: string): void {
    const start = this.starts.get(group);
    if (this.writer && start !== undefined)
      this.writer.gap(this.groups.indexOf(group), Math.max(0, first - start), count, reason);
  }

  private begin(atNs: bigint, says: string): void {
    const { plan, head, path, by } = this.arming;
    this.startedNs = atNs;
    const wishedNs = atNs - BigInt(Math.round(plan.before * 1e9));
    // Only what is still in memory can be kept: when armed a moment ago the take is shorter before its start.
    const oldest = this.groups.map((g) => {
      const ring = this.chosen.find((s) => s.group === g)!.ring!;
      return ring.end === 0 ? atNs : sampleTimeNs(g.startNs, g.rate, ring.start);
    });
    this.zeroNs = oldest.reduce((latest, t) => (t > latest && t <= atNs ? t : latest), wishedNs);
    const setup: TakeSetup = {
      head: { ...head, startNs: String(this.zeroNs) },
      by,
      groups: this.groups.map((g) => {
        const first = samplesBefore(g.rate, this.zeroNs - g.startNs);
        this.starts.set(g, first);
        return { offsetNs: Number(sampleTimeNs(g.startNs, g.rate, first) - this.zeroNs), rate: g.rate };
      }),
      signals: this.chosen.map((s) => ({
        channelId: s.channel?.id ?? null,
        name: s.name,
        rawUnit: s.rawUnit,
        unit: s.unit,
        group: this.groups.indexOf(s.group),
        junction: s.junction ? this.chosen.indexOf(s.junction) : null,
        conversion: s.conversion,
        snapshot: s.channel,
      })),
    };
    this.arming.head = setup.head;
    const writer = new TakeWriter(path, setup);
    this.writer = writer;
    this.chosen.forEach((s, id) => {
      const first = this.starts.get(s.group)!;
      const from = Math.max(first, s.ring!.start);
      if (s.ring!.end > from) writer.append(id, from - first, s.ring!.from(from));
      s.ring = null;
    });
    for (const { moment, readings } of this.proofs) this.writeProof(moment, readings);
    for (const note of this.noted) this.note(note.atNs, note.kind, note.says, note.by);
    this.note(atNs, 'started', says, by);
    writer.commit();
    this.lastCommitNs = atNs;
  }

  private finishIfDue(nowNs: bigint): bigint | null {
    const { longest } = this.arming.plan;
    if (longest === null || nowNs < this.startedNs! + BigInt(Math.round(longest * 1e9))) return null;
    this.finish(nowNs);
    return nowNs;
  }

  /** The instant within this step at which the take ends, or null. */
  private endWithin(nowNs: bigint): bigint | null {
    const { plan } = this.arming;
    let ended: bigint | null = null;
    if (plan.longest !== null) {
      const due = this.startedNs! + BigInt(Math.round(plan.longest * 1e9));
      if (due <= nowNs) ended = due;
    }
    const signal = this.stopSignal;
    if (signal && this.stop) {
      const { group } = signal;
      const index = this.stop.find(signal.value, group.first, group.count);
      const at = index < 0 ? null : sampleTimeNs(group.startNs, group.rate, index);
      if (at !== null && (ended === null || at < ended)) ended = at;
    }
    return ended;
  }

  /** Nothing more is recorded; the file stays open for the proof that follows. */
  private finish(endNs: bigint): void {
    if (!this.writer) return;
    this.endedNs = endNs;
    this.note(endNs, 'ended', 'Take ended', this.arming.by);
    this.writer.commit();
  }

  /** Closes a take that has ended. */
  close(): void {
    const { writer, endedNs } = this;
    if (!writer || endedNs === null) return;
    const lengthNs = Number(endedNs - this.zeroNs);
    writer.close('complete', lengthNs);
    this.arming.head = { ...this.arming.head, state: 'complete', lengthNs };
    this.writer = null;
  }

  /** Gives up without losing what is written: the take is closed as interrupted. */
  interrupt(nowNs: bigint): void {
    if (this.endedNs !== null) return this.close();
    const { writer } = this;
    this.writer = null;
    for (const s of this.chosen) s.ring = null;
    if (!writer) return;
    const lengthNs = Number(nowNs - this.zeroNs);
    this.arming.head = { ...this.arming.head, state: 'interrupted', lengthNs };
    try {
      writer.close('interrupted', lengthNs);
    } catch (error) {
      // The next start of the engine finds the open take and closes it.
      console.error(asFarrierError(error, this.arming.path).message);
    }
  }
}

/** The plan's channels (all when none is named) and the junction signals they need. */
export function chosenSignals(plan: Plan, signals: Signal[]): Signal[] {
  const named = signals.filter(
    (s) => s.channel && (plan.channels.length === 0 || plan.channels.includes(s.channel.id)),
  );
  const junctions = new Set(named.flatMap((s) => (s.junction ? [s.junction] : [])));
  return [...named, ...junctions];
}
