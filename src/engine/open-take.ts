import { hz, sampleTimeNs, samplesBefore } from '$core/time/rate';
import type { TakeHead, TakeState, UnitTiming } from '$contract/take';
import type { Plan } from '$contract/plan';
import { TakeWriter, type TakeSignalSetup } from '$store/take/writer';
import type { ProofReading } from './shunt-run';
import type { Group, Signal } from './signals';
import { ThinnedLog } from './thinned-log';
import type { Windows } from './windows';

/** A unit may be this late without being lost, s. */
const LAG_S = 0.5;

/** One take file while it is written: from the memory of the chosen signals into it, up to any instant. */
export class OpenTake {
  private readonly writer: TakeWriter;
  /** Index of each group's first sample in the file. */
  private readonly starts = new Map<Group, number>();
  /** Index after the last sample that was looked at. */
  private readonly done = new Map<Group, number>();
  private readonly groups: Group[];
  private readonly log: ThinnedLog | null;

  /** @param windows when the full rates are kept; null for all the time @throws `unavailable` when the file cannot be made */
  constructor(
    readonly head: TakeHead,
    path: string,
    by: string,
    plan: Plan,
    private readonly chosen: Signal[],
    readonly zeroNs: bigint,
    private readonly windows: Windows | null,
  ) {
    this.groups = [...new Set(chosen.map((s) => s.group))];
    const groups = this.groups.map((g) => {
      const first = samplesBefore(g.rate, zeroNs - g.startNs);
      this.starts.set(g, first);
      this.done.set(g, first);
      return { offsetNs: Number(sampleTimeNs(g.startNs, g.rate, first) - zeroNs), rate: g.rate };
    });
    const signals: TakeSignalSetup[] = chosen.map((s) => ({
      channelId: s.channel?.id ?? null,
      name: s.name,
      rawUnit: s.rawUnit,
      unit: s.unit,
      group: this.groups.indexOf(s.group),
      junction: s.junction ? chosen.indexOf(s.junction) : null,
      conversion: s.conversion,
      snapshot: s.about ? { ...s.channel, receiver: s.about() } : s.channel,
      width: s.width,
    }));
    this.log = windows ? new ThinnedLog(plan.logEvery, chosen, zeroNs, signals.length) : null;
    this.writer = new TakeWriter(path, {
      head,
      by,
      groups: this.log ? [...groups, this.log.group] : groups,
      signals: this.log ? [...signals, ...this.log.signals(signals, groups.length)] : signals,
    });
  }

  get bytes(): number {
    return this.writer.bytes;
  }

  /** Writes what is in memory up to an instant, or all of it. */
  write(endNs: bigint | null): void {
    const { windows } = this;
    for (const group of this.groups) {
      const start = this.starts.get(group)!;
      const end = endNs === null ? Infinity : samplesBefore(group.rate, endNs - group.startNs);
      const index = (ns: bigint) => samplesBefore(group.rate, ns - group.startNs);
      const looked = this.done.get(group)!;
      const from = windows?.fromNs == null ? Infinity : Math.max(this.kept(group), index(windows.fromNs));
      const until = windows?.untilNs == null ? end : Math.min(end, index(windows.untilNs));
      let last = looked;
      this.chosen.forEach((s, id) => {
        if (s.group !== group) return;
        const ring = s.ring!;
        last = Math.max(last, Math.min(end, ring.end));
        if (!windows) {
          ring.each(looked, end, (first, piece) => this.writer.append(id, first - start, piece));
          return;
        }
        ring.each(looked, end, (first, piece) => this.log!.push(id, first, piece, this.writer));
        if (from < until)
          ring.each(from, until, (first, piece) => this.writer.append(id, first - start, piece));
      });
      if (windows && from < Math.min(until, last)) this.keep(group, from, Math.min(until, last));
      this.done.set(group, last);
    }
  }

  private readonly keptTo = new Map<Group, number>();
  private kept = (group: Group) => this.keptTo.get(group) ?? this.starts.get(group)!;
  /** Samples [from, to) of a group are in the file; what lies before them and after the window before is said to be left out. */
  private keep(group: Group, from: number, to: number): void {
    const kept = this.kept(group);
    if (from > kept) this.leaveOut(group, kept, from - kept);
    this.keptTo.set(group, to);
  }
  private leaveOut(group: Group, first: number, count: number): void {
    this.writer.gap(
      this.groups.indexOf(group),
      first - this.starts.get(group)!,
      count,
      'outside the windows',
    );
  }

  /** Instant of a sample of the file's fastest group. @param samples from the begin of the take on */
  afterSamples(samples: number, startedNs: bigint): bigint {
    const fastest = this.groups.reduce((a, b) => (b.rate.num * a.rate.den > a.rate.num * b.rate.den ? b : a));
    const first = samplesBefore(fastest.rate, startedNs - fastest.startNs);
    return sampleTimeNs(fastest.startNs, fastest.rate, first + samples);
  }

  /** Says why samples of a group are missing; what lies before the file is none of its. @param first index in the group */
  gap(group: Group, first: number, count: number, reason: string): void {
    const start = this.starts.get(group);
    if (start === undefined) return;
    const from = Math.max(first, start, this.gapped.get(group) ?? 0);
    if (first + count <= from) return;
    this.gapped.set(group, first + count);
    this.writer.gap(this.groups.indexOf(group), from - start, first + count - from, reason);
  }
  /** Index up to which missing samples of a group are accounted for. */
  private readonly gapped = new Map<Group, number>();

  /** The take lasts until an instant, whoever was there: what a unit did not deliver up to then is a gap. A unit that only lags a little
   *  behind is none. */
  private until(endNs: bigint, lost: (group: Group) => string | null): void {
    for (const group of this.groups) {
      const end = samplesBefore(group.rate, endNs - group.startNs);
      const done = this.done.get(group)!;
      const missingS = (end - done) / hz(group.rate);
      const why = lost(group);
      if (end <= done || (why === null && missingS < LAG_S)) continue;
      this.gap(group, done, end - done, why ?? 'nothing arrived any more');
      this.writer.lasts(this.groups.indexOf(group), end - this.starts.get(group)!);
    }
  }

  note(atNs: bigint, kind: string, says: string, by: string): void {
    this.writer.note(Math.max(0, Number(atNs - this.zeroNs)), kind, says, by);
  }

  proof(moment: 'before' | 'after', readings: ProofReading[]): void {
    for (const r of readings)
      this.writer.proof(
        this.chosen.indexOf(r.signal),
        moment,
        r.step,
        Number(r.atNs - this.zeroNs),
        r.rate,
        r.values,
      );
  }

  commit = () => this.writer.commit();
  /** Lets go of a file that takes no more, at its last commit. */
  abandon = () => this.writer.abandon();

  /** Closes and seals the file. @param lost why a group's unit does not deliver now, null while it does @returns its head as it is now, and the seal's hash */
  close(
    state: Exclude<TakeState, 'recording'>,
    endNs: bigint,
    timing: UnitTiming[],
    lost: (group: Group) => string | null = () => null,
  ): { head: TakeHead; hash: string } {
    if (this.windows)
      for (const group of this.groups) {
        const end = Math.min(this.done.get(group)!, samplesBefore(group.rate, endNs - group.startNs));
        if (end > this.kept(group)) this.leaveOut(group, this.kept(group), end - this.kept(group));
      }
    this.until(endNs, lost);
    const lengthNs = Number(endNs - this.zeroNs);
    const hash = this.writer.close(state, lengthNs, timing);
    return { head: { ...this.head, state, lengthNs }, hash };
  }
}
