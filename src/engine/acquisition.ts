import { asFarrierError, conflict, notFound } from '$core/errors';
import { magnitudes } from '$core/signal/magnitude';
import { hz, sampleTimeNs } from '$core/time/rate';
import type { EngineSetup, NumberedRule, Reading } from '$contract/engine';
import type { EngineStatus } from '$contract/engine-status';
import { commonOf, roleOf, type Channel } from '$contract/channel';
import { carryOut, type DeedWorld } from './deeds';
import type { Arming } from './recorder';
import { RuleWatch, type RuleCall } from './rules';
import type { AcquisitionEvents } from './events';
import { LiveFrames, readingsAt, wavesOf } from './live-frames';
import { OnDemand } from './on-demand';
import { Outputs, restText, type RestReport } from './outputs';
import { compute, judge, type Group, type Signal } from './signals';
import { takeOver } from './take-over';
import { TakeKeeper, type KeeperWorld } from './take-keeper';
import { UnitClock } from './unit-clock';
import { loseSlot, resumeSlot, type UnitSlot } from './slots';

const RETRY_NS = 500_000_000n;
/** A pipeline that has stood still this long has not looked after its outputs. */
const STALL_NS = 2_000_000_000n;
const ms = (ns: bigint) => Number(ns / 1_000_000n);

/** The block pipeline: unit → raw → conversion → computed → limits and rules → memory and recorder, and the live feed.
 *  Time is what step() is given, so the same code runs live, in tests and faster than real time. */
export class Acquisition {
  private signals: Signal[] = [];
  private shown: (Signal | null)[] = [];
  private rules: RuleWatch[] = [];
  /** All rules of the set-up, those that cannot be watched now included. */
  private numbered: NumberedRule[] = [];
  private byChannel = new Map<string, Signal>();
  private clocks = new Map<string, UnitClock>();
  private retriedNs = 0n;
  private nowNs = 0n;
  private steppedNs: bigint | null = null;
  private channels: Channel[] = [];
  /** What is wrong with channels, by their ids. */
  private faults = new Map<string, string>();
  private readonly frames: LiveFrames;
  private readonly outputs: Outputs;
  private readonly keeper: TakeKeeper;
  private readonly world: KeeperWorld & DeedWorld;
  private wanted: OnDemand[] = [];
  private waves: string[] = [];

  constructor(
    readonly slots: UnitSlot[],
    private readonly events: AcquisitionEvents,
  ) {
    this.outputs = new Outputs(
      slots,
      (id) => this.byChannel.get(id),
      (says) => {
        this.note('trouble', says, 'Farrier');
        events.changed();
      },
    );
    this.world = {
      slots,
      events,
      signals: () => this.signals,
      signalOf: (id) => this.byChannel.get(id),
      timing: () => [...this.clocks.values()].flatMap((c) => c.timing ?? []),
      setOutput: (id, value, withinS) => this.setOutput(id, value, withinS),
      toRest: () => void this.toRest(),
      rest: (id, says) => this.restOne(id, says),
      start: (says) => this.keeper.start(says),
      end: () => this.keeper.end(),
      setDetail: (full) => this.keeper.recorder?.setDetail(full, this.nowNs) ?? false,
      note: (kind, says, by, atNs) => this.keeper.note(kind, says, by, atNs),
      call: (address, body, atNs) =>
        events.call(address, { ...body, readings: readingsAt(atNs, this.channels, this.world.signalOf) }),
    };
    this.keeper = new TakeKeeper(this.world);
    this.frames = new LiveFrames((says) => this.note('limit', says, 'Farrier'));
  }

  /** Takes over a set-up. Only what it changes is begun anew: a unit of which the same is asked acquires on, formulas, limits and rules that
   *  stay the same remember what they knew. What cannot be measured (unit lost, wrong formula, a law that does not fit the unit) is left
   *  out and said, the rest goes on.
   *  @throws `conflict` while a take is armed or recorded */
  configure(setup: EngineSetup, nowNs: bigint): void {
    this.keeper.free();
    this.nowNs = nowNs;
    this.channels = setup.channels;
    const { signals, anew, faults } = takeOver(setup.channels, {
      slots: this.slots,
      clocks: this.clocks,
      former: this.byChannel,
      nowNs,
      lost: (slot, error) => this.lost(slot, error),
    });
    this.tellFaults(faults, setup.channels);
    this.signals = signals;
    this.byChannel = new Map(signals.flatMap((s) => (s.channel ? [[s.channel.id, s] as const] : [])));
    this.shown = setup.channels.map((c) => this.byChannel.get(c.id) ?? null);
    this.frames.follow(setup.channels.map((c) => c.id));
    this.followRules(setup.rules);
    this.wanted = this.wanted.filter((w) => !w.withoutOneOf(signals));
    if (anew.length) this.events.anew?.(anew);
    this.events.changed();
  }

  /** Says what is wrong with channels, once for each fault. */
  private tellFaults(faults: Map<string, string>, channels: Channel[]): void {
    for (const [id, says] of faults)
      if (this.faults.get(id) !== says)
        this.note(
          'trouble',
          `${channels.find((c) => c.id === id)!.name} is not measured. ${says}`,
          'Farrier',
        );
    this.faults = faults;
  }

  /** Takes over rules: those that stay the same go on holding and counting, those that go give back what they hold. */
  private followRules(rules: NumberedRule[]): void {
    const former = new Map(this.rules.map((r) => [r.numbered.id, r]));
    const calls: { call: RuleCall; of: NumberedRule }[] = [];
    this.numbered = rules;
    this.rules = rules.flatMap((numbered) => {
      const old = former.get(numbered.id);
      try {
        const watch = new RuleWatch(numbered, this.world.signalOf);
        if (old && watch.follow(old)) {
          former.delete(numbered.id);
          for (const call of watch.heldOtherwise(old, this.nowNs)) calls.push({ call, of: numbered });
        }
        return [watch];
      } catch {
        return []; // the page and the pre-flight say that a channel of it is missing
      }
    });
    for (const gone of former.values())
      for (const call of gone.letGo(this.nowNs)) calls.push({ call, of: gone.numbered });
    for (const { call, of } of calls) carryOut(call, of, this.world);
  }

  /** Before a set-up is taken over: outputs that it takes away or wires elsewhere, and those of units that go, are brought to rest first.
   *  Resolves once they are there, or cannot be brought there. */
  async letGo(setup: EngineSetup): Promise<void> {
    const next = new Map(setup.channels.map((c) => [c.id, c]));
    const going = this.signals.filter((s) => {
      if (!s.channel || roleOf(s.channel) !== 'driven') return false;
      const later = next.get(s.channel.id);
      const unit = setup.units.find((u) => u.serial === s.channel!.wire!.unit);
      return (
        !later ||
        later.kind !== s.channel.kind ||
        JSON.stringify(later.wire) !== JSON.stringify(s.channel.wire) ||
        !unit
      );
    });
    if (going.length === 0) return;
    const report = await this.outputs.toRest(going);
    this.tellRest(report);
    for (const { channel } of going) this.outputs.forget(channel!.id);
  }

  private lost(slot: UnitSlot, error: unknown): void {
    const news = loseSlot(slot, error);
    if (news) this.note('unit', news, 'Farrier');
    this.events.changed();
  }

  /** Nobody looked after the outputs meanwhile. */
  private stalled(seconds: number): void {
    void this.toRest();
    this.note(
      'trouble',
      `The engine stood still for ${seconds.toFixed(1)} s; outputs are brought to rest.`,
      'Farrier',
    );
  }

  /** A lost unit is tried again. */
  private retry(slot: UnitSlot): void {
    const { known } = slot;
    try {
      if (slot.groups.length > 0) resumeSlot(slot, this.channels, this.nowNs);
      else if (!this.keeper.recorder) {
        slot.unit.start([], this.nowNs); // does it answer at all?
        this.configure({ units: [], channels: this.channels, rules: this.numbered }, this.nowNs);
        if (!slot.answering) return;
      } else return;
      void this.rest(this.signals.filter((s) => s.group.unit === slot.serial));
      this.note('unit', `${slot.name} ${known ? 'was found again' : 'answers'}.`, 'Farrier');
      this.events.changed();
    } catch (error) {
      slot.answering = false;
      const { message } = asFarrierError(error, slot.name);
      if (message !== slot.says) this.events.changed();
      slot.says = message;
    }
  }

  /** Moves everything on to nowNs. */
  step(nowNs: bigint): void {
    const stoodNs = this.steppedNs === null ? 0n : nowNs - this.steppedNs;
    this.steppedNs = this.nowNs = nowNs;
    if (stoodNs > STALL_NS) this.stalled(Number(stoodNs) / 1e9);
    this.acquire();
    for (const signal of this.signals) {
      if (signal.computed) compute(signal);
      else if (signal.group.count > 0) {
        const n = signal.group.count;
        if (signal.value.length < n) signal.value = new Float32Array(n * 2);
        const read = signal.width === 2 ? magnitudes(signal.raw.subarray(0, 2 * n), 2) : signal.raw;
        signal.convert(read, signal.value, n, signal.junction?.raw);
      }
      judge(signal);
    }
    this.applyRules();
    this.outputs.step(this.nowNs);
    this.keeper.step(this.nowNs);
    this.wanted = this.wanted.filter((w) => !w.step());
    this.events.frame(this.frames.next(ms(this.nowNs), this.shown, this.channels));
    this.tellWaves();
  }

  /** The next samples of some channels, once. @throws `conflict` when one is not measured now */
  read(channelIds: string[], samples: number, raw = false): Promise<Reading[]> {
    const signals = channelIds.map((id) => {
      const signal = this.byChannel.get(id);
      if (!signal || signal.trouble === 'lost')
        throw conflict('channel', 'It is not measured now.', 'See on the rig why it is missing.');
      return signal;
    });
    return new Promise((resolve, reject) => {
      try {
        this.wanted.push(new OnDemand(signals, samples, resolve, raw, reject));
      } catch (error) {
        reject(error as Error);
      }
    });
  }

  private acquire(): void {
    const retry = this.nowNs - this.retriedNs > RETRY_NS;
    if (retry) this.retriedNs = this.nowNs;
    for (const slot of this.slots) {
      for (const group of slot.groups) group.count = 0;
      if (!slot.answering && retry) this.retry(slot);
      if (!slot.answering) continue;
      try {
        for (const block of slot.unit.poll(this.nowNs)) {
          const group = slot.groups[block.group];
          group.first = group.base + block.firstIndex;
          group.count = block.count;
          if (group.first > group.next && group.next > 0)
            this.keeper.gap(group, group.next, group.first - group.next, `${slot.name} was lost`);
          group.next = group.first + block.count;
          if (block.group === 0) this.compareClocks(slot, group);
          slot.columns[block.group].forEach((signal, c) => {
            signal.raw = block.columns[c];
            signal.trouble = block.trouble[c];
          });
        }
      } catch (error) {
        this.lost(slot, error);
      }
    }
  }

  /** Every sample of these channels is told from now on. */
  showWaves = (channelIds: string[]) => void (this.waves = channelIds);

  private tellWaves(): void {
    if (this.waves.length === 0) return;
    const waves = wavesOf(this.waves, this.world.signalOf);
    if (waves.length) this.events.waves(waves);
  }

  private compareClocks(slot: UnitSlot, group: Group): void {
    const lastNs = sampleTimeNs(group.startNs, group.rate, group.next - 1);
    const late = Number(this.nowNs - lastNs) / 1e9;
    this.clocks.get(slot.serial)?.push(Number(lastNs - group.startNs) / 1e9, late);
  }

  private applyRules(): void {
    const takeStartNs = this.keeper.recording ? this.keeper.recorder!.startedNs : null;
    for (const rule of this.rules) {
      const inForce = rule.numbered.rule.active === 'always' || takeStartNs !== null;
      if (this.byShunt(rule)) continue;
      for (const call of rule.step(inForce, this.nowNs, takeStartNs)) {
        carryOut(call, rule.numbered, this.world);
        this.events.changed();
      }
    }
  }
  /** A step that the shunt makes is nothing that happens to the rig. */
  private byShunt = (rule: RuleWatch) => this.signals.some((s) => this.keeper.proves(s) && rule.reads(s));

  arm(arming: Arming): void {
    this.keeper.arm(arming, this.nowNs);
  }
  /** Starts the armed take by hand. @throws `conflict` when none is armed */
  start = () => this.keeper.start('Started by hand');
  /** @throws `conflict` when nothing is recorded */
  end = () => this.keeper.end();
  /** @throws `conflict` when a take is being recorded */
  disarm = () => this.keeper.disarm();
  /** A note at this moment: in the take that runs, and in the logbook. */
  note = (kind: string, says: string, by: string) => this.keeper.note(kind, says, by, this.nowNs);

  /** @param value in the channel's unit @throws `bad_input` outside the channel's range, `not_found` */
  setOutput(channelId: string, value: number, withinS?: number): void {
    this.outputs.set(channelId, value, withinS);
    this.events.changed();
  }

  /** Brings every output to its rest value, as far as its unit answers. Resolves once each is there, or cannot be brought there, which is noted. */
  toRest = (): Promise<void> => this.rest(this.signals);

  private rest(signals: Signal[], tell = (report: RestReport) => this.tellRest(report)): Promise<void> {
    const report = this.outputs.toRest(signals);
    this.events.changed();
    if (!(report instanceof Promise)) return Promise.resolve(tell(report));
    return report.then((late) => {
      tell(late);
      this.events.changed();
    });
  }
  private tellRest(report: RestReport): void {
    const says = restText(report);
    if (says) this.note(report.failed.length ? 'trouble' : 'output', says, 'Farrier');
  }

  /** A rule brings one output to rest. */
  private restOne(channelId: string, rule: string): void {
    const signal = this.byChannel.get(channelId);
    if (!signal?.channel) throw notFound('driven channel', channelId);
    const { rest } = signal.channel.settings as { rest: number };
    void this.rest([signal], (report) =>
      report.failed.length
        ? this.tellRest(report)
        : this.note('rule', `${signal.name} returned to rest, ${rest} ${signal.unit}: ${rule}`, 'Farrier'),
    );
  }

  /** Ends what runs: the open take as interrupted, outputs to rest. Resolves once they are there, or cannot be brought there. */
  async shutDown(why = 'Farrier was stopped'): Promise<void> {
    this.keeper.drop(why);
    await this.toRest();
    for (const slot of this.slots) slot.unit.close();
  }

  get status(): EngineStatus {
    return {
      ...this.keeper.status,
      units: this.slots.map((s) => ({
        description: s.unit.describe(),
        answering: s.answering,
        says: s.says,
      })),
      rules: this.rules.map((r) => ({ id: r.numbered.id, holds: r.holds, fired: r.fired, lastMs: r.lastMs })),
      outputs: { ...this.outputs.values },
      actualRates: Object.fromEntries(
        this.signals.flatMap((s) => {
          if (!s.channel || s.computed) return [];
          const actual = hz(s.group.rate);
          return Math.abs(actual / commonOf(s.channel).rateHz - 1) > 1e-6 ? [[s.channel.id, actual]] : [];
        }),
      ),
    };
  }

  get channelIds(): string[] {
    return this.channels.map((c) => c.id);
  }
}
