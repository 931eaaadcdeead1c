import { asFarrierError, conflict } from '$core/errors';
import { hz, sampleTimeNs } from '$core/time/rate';
import {
  type EngineSetup,
  type EngineStatus,
  type LiveFrame,
  type NumberedRule,
  type Reading,
} from '$contract/engine';
import { commonOf, type Channel } from '$contract/channel';
import type { Wave } from '$contract/live';
import type { TakeHead } from '$contract/take';
import { carryOut, type DeedWorld } from './deeds';
import type { Arming } from './recorder';
import { RuleWatch } from './rules';
import { LiveFrames } from './live-frames';
import { OnDemand } from './on-demand';
import { Outputs } from './outputs';
import { compute, computedSignals, judge, type Group, type Signal } from './signals';
import { TakeKeeper, type KeeperWorld } from './take-keeper';
import { UnitClock } from './unit-clock';
import { loseSlot, resumeSlot, startSlot, type UnitSlot } from './slots';

/** Where the pipeline's results go. */
export interface AcquisitionEvents {
  frame(frame: LiveFrame): void;
  waves(waves: Wave[]): void;
  note(kind: string, says: string, takeId: string | null, atNs: bigint, by: string): void;
  /** A file was begun or closed; the hash once it is sealed. */
  take(head: TakeHead, hash: string | null): void;
  /** A rule calls an address. */
  call(address: string, body: unknown): void;
  changed(): void;
}

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
  private byChannel = new Map<string, Signal>();
  private clocks = new Map<string, UnitClock>();
  private retriedNs = 0n;
  private nowNs = 0n;
  private steppedNs: bigint | null = null;
  private channels: Channel[] = [];
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
    this.outputs = new Outputs(slots, (id) => this.byChannel.get(id));
    this.world = {
      slots,
      events,
      signals: () => this.signals,
      signalOf: (id) => this.byChannel.get(id),
      timing: () => [...this.clocks.values()].flatMap((c) => c.timing ?? []),
      setOutput: (id, value, withinS) => this.setOutput(id, value, withinS),
      toRest: () => this.toRest(),
      start: (says) => this.keeper.start(says),
      end: () => this.keeper.end(),
      setDetail: (full) => this.keeper.recorder?.setDetail(full, this.nowNs) ?? false,
      note: (kind, says, by) => this.note(kind, says, by),
      call: (address, body) => events.call(address, body),
    };
    this.keeper = new TakeKeeper(this.world);
    this.frames = new LiveFrames((says) => this.note('limit', says, 'Farrier'));
  }

  /** Takes over a set-up. What cannot be measured (unit lost, wrong formula) is left out and said, the rest goes on.
   *  @throws `conflict` while a take is armed or recorded */
  configure(setup: EngineSetup, nowNs: bigint): void {
    this.keeper.free();
    this.nowNs = nowNs;
    this.channels = setup.channels;
    const signals: Signal[] = [];
    for (const slot of this.slots) {
      try {
        signals.push(...startSlot(slot, setup.channels, nowNs));
      } catch (error) {
        this.lost(slot, error);
      }
    }
    const computed = computedSignals(setup.channels, signals, (channel, fault) =>
      this.events.note('trouble', asFarrierError(fault, channel.name).message, null, nowNs, 'Farrier'),
    );
    signals.push(...computed);
    this.signals = signals;
    this.byChannel = new Map(signals.flatMap((s) => (s.channel ? [[s.channel.id, s] as const] : [])));
    this.shown = setup.channels.map((c) => this.byChannel.get(c.id) ?? null);
    this.frames.restart(setup.channels.length);
    const former = new Map(this.rules.map((r) => [r.numbered.id, r]));
    this.rules = setup.rules.flatMap((numbered) => {
      try {
        const watch = new RuleWatch(numbered, this.world.signalOf);
        const old = former.get(numbered.id);
        if (old && sameRule(old.numbered, numbered)) watch.follow(old);
        return [watch];
      } catch {
        return []; // the page says that its channel is not measured
      }
    });
    this.clocks = new Map(this.slots.map((s) => [s.serial, new UnitClock(s.serial, s.name)]));
    this.events.changed();
  }

  private lost(slot: UnitSlot, error: unknown): void {
    const news = loseSlot(slot, error);
    if (news) this.note('unit', news, 'Farrier');
    this.events.changed();
  }

  /** Nobody looked after the outputs meanwhile. */
  private stalled(seconds: number): void {
    this.toRest();
    this.note(
      'trouble',
      `The engine stood still for ${seconds.toFixed(1)} s; outputs went to rest.`,
      'Farrier',
    );
  }

  /** A lost unit is tried again. */
  private retry(slot: UnitSlot): void {
    const { known } = slot;
    try {
      if (slot.groups.length > 0) resumeSlot(slot, this.channels, this.nowNs);
      else if (!this.keeper.recorder) {
        slot.unit.start([], this.nowNs);
        slot.answering = slot.known = true;
        slot.says = '';
        this.configure(
          { units: [], channels: this.channels, rules: this.rules.map((r) => r.numbered) },
          this.nowNs,
        );
        if (!slot.answering) return;
      } else return;
      this.outputs.toRest(this.signals.filter((s) => s.group.unit === slot.serial));
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
        signal.convert(signal.raw, signal.value, n, signal.junction?.raw);
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
        this.wanted.push(new OnDemand(signals, samples, resolve, raw));
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
            this.keeper.recorder?.gap(group, group.next, group.first - group.next, `${slot.name} was lost`);
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
    const waves = this.waves.flatMap((channelId) => {
      const s = this.byChannel.get(channelId);
      if (!s || s.group.count === 0) return [];
      const { group } = s;
      return {
        channelId,
        rateHz: hz(group.rate),
        firstMs: Number(sampleTimeNs(group.startNs, group.rate, group.first)) / 1e6,
        values: s.value.slice(0, group.count),
      };
    });
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
  note = (kind: string, says: string, by: string) => this.keeper.note(kind, says, by);

  /** @param value in the channel's unit @throws `bad_input` outside the channel's range, `not_found` */
  setOutput(channelId: string, value: number, withinS?: number): void {
    this.outputs.set(channelId, value, withinS);
    this.events.changed();
  }

  /** Brings every output to its rest value, as far as its unit answers. */
  toRest = () => {
    this.outputs.toRest(this.signals);
    this.events.changed();
  };

  /** Ends what runs: the open take as interrupted, outputs to rest. */
  shutDown(): void {
    this.keeper.drop();
    this.toRest();
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

const sameRule = (a: NumberedRule, b: NumberedRule) => JSON.stringify(a.rule) === JSON.stringify(b.rule);
