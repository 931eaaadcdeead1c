import { conditionText } from '$core/condition/condition';
import { asFarrierError } from '$core/errors';
import { hz, sampleTimeNs } from '$core/time/rate';
import { clockStart, type Plan } from '$contract/plan';
import type { TakeHead, UnitTiming } from '$contract/take';
import { recoverTake } from '$store/take/recover';
import { ConditionWatch, type Turn } from './condition-watch';
import { OpenTake } from './open-take';
import { Ring } from './ring';
import { driftText, type ProofReading } from './shunt-run';
import type { Group, Signal } from './signals';
import { Windows } from './windows';

const COMMIT_NS = 200_000_000n; // below the promised 250 ms, so that one slow step does not break it
const MS = 1_000_000n;
const ns = (seconds: number) => BigInt(Math.round(seconds * 1e9));

export interface Arming {
  head: TakeHead;
  plan: Plan;
  path: string;
  by: string;
}

/** What a recorder needs from the pipeline around it. */
export interface RecorderWorld {
  signalOf(channelId: string): Signal | undefined;
  nameOf(channelId: string): { name: string; unit: string } | undefined;
  /** How the units' clocks ran so far. */
  timing(): UnitTiming[];
  /** Head and file of the part that follows one that is full. */
  nextPart(head: TakeHead): { head: TakeHead; path: string };
  /** Why a group's unit does not deliver now; null while it does. */
  lost(group: Group): string | null;
  /** A file was begun or closed; the hash once it is sealed. */
  told(head: TakeHead, hash?: string): void;
}

/** One take from arming to its end: waits for the start, keeps memory from before, writes, rolls over into parts, watches for the stop. */
export class Recorder {
  private take: OpenTake | null = null;
  private readonly start: ConditionWatch | null;
  private readonly stop: ConditionWatch | null;
  private readonly windows: Windows | null;
  private startDueNs: bigint | null;
  private stopDueNs: bigint | null = null;
  private partDueNs: bigint | null = null;
  private lastCommitNs = 0n;
  /** Whether the stop condition has not been looked at since the take began. */
  private looksFirst = true;
  /** Bytes of the parts that are closed. */
  private closedBytes = 0;
  private noted: { atNs: bigint; kind: string; says: string; by: string }[] = [];
  /** Instant of the start; null while it waits. */
  startedNs: bigint | null = null;
  /** Instant of its end, while its proof is still read. */
  endedNs: bigint | null = null;
  /** Whether the shunts after the take were begun. */
  provenAfter = false;
  private readonly proofs: { moment: 'before' | 'after'; readings: ProofReading[] }[] = [];

  /** @param notBeforeNs it does not start earlier, and by itself then where its plan starts by hand; null at the first arming
   *  @throws `conflict` when a channel that the plan waits for is not measured */
  constructor(
    private readonly arming: Arming,
    /** What goes into the take: the plan's channels and the junctions they need. */
    readonly chosen: Signal[],
    private readonly world: RecorderWorld,
    nowNs: bigint,
    private readonly notBeforeNs: bigint | null = null,
  ) {
    const { plan } = arming;
    const watch = (condition: Plan['startWhen']) => new ConditionWatch(condition, world.signalOf);
    this.start = plan.start === 'when' ? watch(plan.startWhen) : null;
    this.stop = plan.stop === 'when' ? watch(plan.stopWhen) : null;
    this.windows =
      plan.detail === 'only in windows'
        ? new Windows(watch(plan.windowWhen), ns(plan.windowBefore), ns(plan.windowAfter))
        : null;
    this.startDueNs = this.dueStart(nowNs);
    const kept = Math.max(plan.before, this.windows ? plan.windowBefore : 0);
    for (const signal of chosen) {
      // A second more than asked for: the step in which the start is found is in the ring, too.
      const capacity = Math.ceil((kept + 1) * hz(signal.group.rate)) + 16;
      if (!signal.ring) signal.ring = new Ring(capacity, signal.width);
      else if (signal.ring.capacity < capacity) signal.ring = signal.ring.resized(capacity);
    }
  }

  private dueStart(nowNs: bigint): bigint | null {
    const { plan } = this.arming;
    switch (plan.start) {
      case 'at a time':
        return BigInt(clockStart(plan.startAt, Number(nowNs / MS))) * MS;
      case 'after a delay':
        return nowNs + ns(plan.startDelay);
      case 'when':
        return null;
      default:
        return this.notBeforeNs;
    }
  }

  get plan(): Plan {
    return this.arming.plan;
  }
  get head(): TakeHead {
    return this.arming.head;
  }
  get recording(): boolean {
    return this.take !== null;
  }
  /** When it starts by itself; null where that depends on something else. */
  get startsNs(): bigint | null {
    return this.recording ? null : this.startDueNs;
  }
  /** Whether full rates are kept now. */
  get detailed(): boolean {
    return this.recording && (!this.windows || this.windows.fromNs !== null);
  }

  /** One step of the pipeline; the rings of what it records hold the step already. @returns the instant at which the take ended, or null while it goes on
   *  @throws `unavailable` when the disk does not take the data */
  step(nowNs: bigint): bigint | null {
    const starts = this.start?.step() ?? [];
    const stops = this.stop?.step() ?? [];
    if (!this.take) {
      const atNs = this.startOf(starts, nowNs);
      if (atNs !== null) this.begin(atNs, nowNs, `Started: ${this.words(this.plan.startWhen)}`);
      else if (this.startDueNs !== null && this.startDueNs <= nowNs)
        this.begin(this.startDueNs, nowNs, `Started by the clock (${this.plan.start})`);
    }
    if (!this.take) {
      // What the windows' condition did before the start only counts as where it stands then.
      this.windows?.step(nowNs);
      return null;
    }
    this.windows?.step(this.take.zeroNs);
    this.watchStop(stops);
    const ended = this.endWithin(nowNs);
    this.rollOver(nowNs, ended);
    this.take.write(ended);
    this.windows?.written(nowNs);
    if (ended !== null) {
      this.finish(ended);
      return ended;
    }
    if (nowNs - this.lastCommitNs >= COMMIT_NS) {
      this.lastCommitNs = nowNs;
      this.take.commit();
    }
    return null;
  }

  /** When the start condition begins the take: as it turns, or, where a time had to pass first, as soon as it has while the condition holds. */
  private startOf(turns: Turn[], nowNs: bigint): bigint | null {
    const { start, notBeforeNs } = this;
    const turn = turns.find((t) => t.on && (notBeforeNs === null || t.atNs >= notBeforeNs));
    if (turn) return turn.atNs;
    const waited = notBeforeNs !== null && notBeforeNs <= nowNs;
    return waited && start?.holds && !start.waitsForChange ? notBeforeNs : null;
  }

  /** What stops the take: the condition as it turns; one that holds already as the take begins stops it at once, unless it waits for a change. */
  private watchStop(turns: Turn[]): void {
    const { stop } = this;
    if (!stop || this.stopDueNs !== null) return;
    const since = turns.filter((t) => t.atNs >= this.startedNs!);
    const turn = since.find((t) => t.on);
    const held = this.looksFirst && !stop.waitsForChange && (since.length ? !since[0].on : stop.holds);
    this.looksFirst = false;
    const atNs = held ? this.startedNs! : turn?.atNs;
    if (atNs !== undefined) this.stopDueNs = atNs + ns(this.plan.stopAfter);
  }

  private words = (condition: Plan['startWhen']) => conditionText(condition, { channel: this.world.nameOf });

  /** Starts at once. */
  startNow(nowNs: bigint, says: string): void {
    if (!this.take) this.begin(nowNs, nowNs, says);
  }

  /** Ends at once. @returns the instant of the end */
  endNow(nowNs: bigint): bigint {
    this.take?.write(nowNs);
    this.finish(nowNs);
    return nowNs;
  }

  /** A rule asks for full rates, or for the log alone, from now on. @returns false where the plan keeps all at full rate anyway */
  setDetail(full: boolean, nowNs: bigint): boolean {
    this.windows?.force(full, nowNs);
    return this.windows !== null;
  }

  /** A mark or event; before the start it is kept for the take. */
  note(atNs: bigint, kind: string, says: string, by: string): void {
    if (this.take) this.take.note(atNs, kind, says, by);
    else this.noted.push({ atNs, kind, says, by });
  }

  /** Keeps what the bridges read at rest and under their shunts. @returns it in words */
  keepProof(moment: 'before' | 'after', readings: ProofReading[]): string {
    this.proofs.push({ moment, readings });
    this.take?.proof(moment, readings);
    const bridges = new Set(readings.map((r) => r.signal)).size;
    const before = this.proofs.find((p) => p.moment === 'before')?.readings;
    const drift = moment === 'after' && before ? driftText(before, readings) : null;
    return `Zero and shunt of ${bridges} bridge${bridges === 1 ? '' : 's'} read ${moment} the take.${drift ? ` ${drift}` : ''}`;
  }

  /** Says why samples of a group are missing. @param first index in the group */
  gap(group: Group, first: number, count: number, reason: string): void {
    this.take?.gap(group, first, count, reason);
  }

  private begin(atNs: bigint, nowNs: bigint, says: string): void {
    const { plan, head, path, by } = this.arming;
    this.startedNs = atNs;
    const wishedNs = atNs - ns(plan.before);
    // Only what is still in memory can be kept: when armed a moment ago the take is shorter before its start.
    const oldest = [...new Set(this.chosen.map((s) => s.group))].map((g) => {
      const ring = this.chosen.find((s) => s.group === g)!.ring!;
      return ring.end === 0 ? atNs : sampleTimeNs(g.startNs, g.rate, ring.start);
    });
    const zeroNs = oldest.reduce((latest, t) => (t > latest && t <= atNs ? t : latest), wishedNs);
    this.open({ ...head, startNs: String(zeroNs) }, path, zeroNs);
    for (const { moment, readings } of this.proofs) this.take!.proof(moment, readings);
    for (const note of this.noted) this.note(note.atNs, note.kind, note.says, note.by);
    this.note(atNs, 'started', says, by);
    this.take!.write(atNs);
    this.take!.commit();
    this.lastCommitNs = nowNs;
  }

  private open(head: TakeHead, path: string, zeroNs: bigint): void {
    const { plan, by } = this.arming;
    this.take = new OpenTake(head, path, by, plan, this.chosen, zeroNs, this.windows);
    Object.assign(this.arming, { head, path });
    this.partDueNs = this.nextPartNs(zeroNs);
    this.world.told(head);
  }

  /** When the file that begins at zeroNs is full by the clock. */
  private nextPartNs(zeroNs: bigint): bigint | null {
    const { parts, partEvery } = this.plan;
    if (parts === 'a new part every') return (this.head.part ? zeroNs : this.startedNs!) + ns(partEvery);
    if (parts !== 'a new part at midnight') return null;
    const midnight = new Date(Number(zeroNs / MS));
    midnight.setHours(24, 0, 0, 0);
    return BigInt(midnight.getTime()) * MS;
  }

  /** Goes on in a new file where the open one is full: it ends where the next one begins. */
  private rollOver(nowNs: bigint, endNs: bigint | null): void {
    const full = this.plan.parts === 'a new part at a size of' && this.take!.bytes >= this.plan.partMb * 1e6;
    for (;;) {
      const dueNs = full && this.partDueNs === null ? nowNs : this.partDueNs;
      if (dueNs === null || dueNs > nowNs || (endNs !== null && dueNs >= endNs)) return;
      this.take!.write(dueNs);
      this.note(dueNs, 'part', 'Goes on in the next part', this.arming.by);
      const former = this.head;
      const { head, path } = this.world.nextPart(former);
      this.closeFile('complete', dueNs);
      this.open({ ...head, startNs: String(dueNs) }, path, dueNs);
      this.note(dueNs, 'part', `Goes on from ${former.name}`, this.arming.by);
      if (this.partDueNs === null) return;
    }
  }

  /** The instant within this step at which the take ends, or null. */
  private endWithin(nowNs: bigint): bigint | null {
    const { plan } = this.arming;
    const due = [
      plan.longest === null ? null : this.startedNs! + ns(plan.longest),
      this.stopDueNs,
      plan.mostSamples === null ? null : this.take!.afterSamples(plan.mostSamples, this.startedNs!),
      plan.mostMb !== null && this.closedBytes + this.take!.bytes >= plan.mostMb * 1e6 ? nowNs : null,
    ].filter((t) => t !== null && t <= nowNs) as bigint[];
    return due.length ? due.reduce((a, b) => (b < a ? b : a)) : null;
  }

  /** Nothing more is recorded; the file stays open for the proof that follows. */
  private finish(endNs: bigint): void {
    if (!this.take) return;
    this.endedNs = endNs;
    this.note(endNs, 'ended', 'Take ended', this.arming.by);
    this.take.commit();
  }

  private closeFile(state: 'complete' | 'interrupted', endNs: bigint): void {
    const { world } = this;
    this.closedBytes += this.take!.bytes;
    const { head, hash } = this.take!.close(state, endNs, world.timing(), (group) => world.lost(group));
    this.take = null;
    this.arming.head = head;
    this.world.told(head, hash);
  }

  /** Closes a take that has ended. */
  close(): void {
    if (this.take && this.endedNs !== null) this.closeFile('complete', this.endedNs);
  }

  /** Ends before its time: the take is closed as interrupted. @param why in words */
  interrupt(nowNs: bigint, why: string): void {
    if (!this.take) return;
    try {
      if (this.endedNs !== null) this.close();
      else {
        this.take.note(nowNs, 'interrupted', `Recording was interrupted here: ${why}.`, 'Farrier');
        this.closeFile('interrupted', nowNs);
      }
    } catch (error) {
      console.error(asFarrierError(error, this.arming.path).message);
      this.breakOff(nowNs, why);
    }
  }

  /** Gives a file up that takes no more. It is closed at its last commit, as one found after a power cut is: what came since may be there
   *  in part. Where that cannot be either, the next start does it; till then the take is listed as what it is. @param why in words */
  breakOff(nowNs: bigint, why: string): void {
    if (!this.take) return;
    const lengthNs = Number((this.endedNs ?? nowNs) - this.take.zeroNs);
    this.take.abandon();
    this.take = null;
    try {
      this.arming.head = recoverTake(
        this.arming.path,
        `${why}; all but the last quarter of a second is kept`,
      );
    } catch (error) {
      console.error(asFarrierError(error, this.arming.path).message);
      this.arming.head = { ...this.arming.head, state: 'interrupted', lengthNs };
    }
    this.world.told(this.arming.head);
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
