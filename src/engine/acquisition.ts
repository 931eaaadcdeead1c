import { FarrierError, asFarrierError, conflict, notFound } from '$core/errors';
import { sampleTimeNs, samplesBefore } from '$core/time/rate';
import {
  CHANNEL_STATES,
  type EngineSetup,
  type EngineStatus,
  type LiveFrame,
  type NumberedRule,
} from '$contract/engine';
import { channelKind, commonOf, roleOf, type Channel } from '$contract/channel';
import type { TakeHead } from '$contract/take';
import { Recorder, chosenSignals, type Arming } from './recorder';
import { RuleWatch } from './rules';
import {
  acquiredSignal,
  compute,
  computedSignals,
  junctionOf,
  requestsFor,
  type Group,
  type Signal,
} from './signals';
import type { OpenUnit } from './units/driver';

/** A unit and whether it answers. */
export interface UnitSlot {
  unit: OpenUnit;
  serial: string;
  name: string;
  answering: boolean;
  says: string;
  groups: Group[];
  /** Terminals of each of the driver's groups, in its order. */
  columns: Signal[][];
}

/** Where the pipeline's results go. */
export interface AcquisitionEvents {
  frame(frame: LiveFrame): void;
  note(kind: string, says: string, takeId: string | null, atNs: bigint, by: string): void;
  take(head: TakeHead): void;
  changed(): void;
}

const STATE = Object.fromEntries(CHANNEL_STATES.map((name, code) => [name, code])) as Record<
  (typeof CHANNEL_STATES)[number],
  number
>;
const RETRY_NS = 500_000_000n;
const QUIET_NS = 10_000_000_000n;
const ms = (ns: bigint) => Number(ns / 1_000_000n);

/** The block pipeline: unit → raw → conversion → computed → limits and rules → memory and recorder, and the live feed.
 *  Time is what step() is given, so the same code runs live, in tests and faster than real time. */
export class Acquisition {
  private signals: Signal[] = [];
  private shown: (Signal | null)[] = [];
  private rules: RuleWatch[] = [];
  private byChannel = new Map<string, Signal>();
  private recorder: Recorder | null = null;
  private sequence = 0;
  private retriedNs = 0n;
  private nowNs = 0n;
  private states: Uint8Array = new Uint8Array(0);
  private channels: Channel[] = [];
  private readonly saidNs = new Map<string, bigint>();
  private readonly outputs: Record<string, number> = {};

  constructor(
    readonly slots: UnitSlot[],
    private readonly events: AcquisitionEvents,
  ) {}

  /** Takes over a set-up. What cannot be measured (unit lost, wrong formula) is left out and said, the rest goes on.
   *  @throws `conflict` while a take is armed or recorded */
  configure(setup: EngineSetup, nowNs: bigint): void {
    if (this.recorder)
      throw conflict(
        'set-up',
        `A take is ${this.recorder.recording ? 'being recorded' : 'armed'}: its channels stay as they are until it ends.`,
        'End the take first, then change the set-up.',
      );
    this.nowNs = nowNs;
    this.channels = setup.channels;
    const signals: Signal[] = [];
    for (const slot of this.slots) {
      slot.groups = [];
      slot.columns = [];
      try {
        this.startSlot(slot, setup.channels, nowNs, signals);
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
    this.states = new Uint8Array(setup.channels.length).fill(255);
    this.sequence = 0;
    const former = new Map(this.rules.map((r) => [r.numbered.id, r]));
    this.rules = setup.rules.flatMap((numbered) => {
      const signal = this.byChannel.get(numbered.rule.channel ?? '');
      if (!signal) return [];
      const watch = new RuleWatch(numbered, signal);
      const old = former.get(numbered.id);
      if (old && sameRule(old.numbered, numbered))
        Object.assign(watch, { fired: old.fired, lastMs: old.lastMs });
      return [watch];
    });
    this.events.changed();
  }

  private startSlot(slot: UnitSlot, channels: Channel[], nowNs: bigint, signals: Signal[]): void {
    const requests = requestsFor(slot.serial, channels);
    const acquired = slot.unit.start(requests, nowNs);
    slot.answering = true;
    slot.says = '';
    slot.groups = acquired.map((g) => ({
      unit: slot.serial,
      rate: g.rate,
      startNs: g.startNs,
      base: 0,
      first: 0,
      count: 0,
      next: 0,
    }));
    slot.columns = acquired.map((g, k) => {
      const group = slot.groups[k];
      const junctions = new Map(
        g.terminals
          .filter((t) => t.endsWith('/junction'))
          .map((t) => [t, acquiredSignal(null, t, group, null)]),
      );
      return g.terminals.map((terminal) => {
        const known = junctions.get(terminal);
        if (known) return known;
        const channel = channels.find((c) => c.wire?.unit === slot.serial && c.wire.terminal === terminal)!;
        return acquiredSignal(
          channel,
          terminal,
          group,
          channel.kind === 'thermocouple' ? (junctions.get(junctionOf(terminal)) ?? null) : null,
        );
      });
    });
    for (const column of slot.columns)
      signals.push(...column.filter((s) => !s.channel), ...column.filter((s) => s.channel));
  }

  private lost(slot: UnitSlot, error: unknown): void {
    const fault = asFarrierError(error, slot.name);
    if (slot.answering) this.note('unit', `${slot.name} was lost. ${fault.text.why ?? ''}`.trim(), 'Farrier');
    slot.answering = false;
    slot.says = fault.message;
    for (const column of slot.columns) for (const s of column) s.trouble = 'lost';
    this.events.changed();
  }

  /** A lost unit is tried again; its samples go on at the index that belongs to the time. */
  private retry(slot: UnitSlot): void {
    try {
      if (slot.groups.length === 0) {
        slot.unit.start([], this.nowNs);
        slot.answering = true;
        if (!this.recorder)
          this.configure(
            { units: [], channels: this.channels, rules: this.rules.map((r) => r.numbered) },
            this.nowNs,
          );
      } else {
        const requests = slot.columns.flatMap((column, k) =>
          column.map((s) => ({
            terminal: s.terminal!,
            rateHz: slot.groups[k].rate.num / slot.groups[k].rate.den,
            resistance: s.channel?.kind === 'platinum sensor',
          })),
        );
        slot.groups.forEach((group) => (group.base = samplesBefore(group.rate, this.nowNs - group.startNs)));
        const first = slot.groups[0];
        slot.unit.start(requests, first ? sampleTimeNs(first.startNs, first.rate, first.base) : this.nowNs);
        for (const column of slot.columns) for (const s of column) s.trouble = 'none';
        slot.answering = true;
      }
      slot.says = '';
      this.note('unit', `${slot.name} was found again.`, 'Farrier');
      this.events.changed();
    } catch {
      slot.answering = false;
    }
  }

  /** Moves everything on to nowNs. */
  step(nowNs: bigint): void {
    this.nowNs = nowNs;
    this.acquire();
    for (const signal of this.signals) {
      if (signal.computed) compute(signal);
      else if (signal.group.count > 0) {
        const n = signal.group.count;
        if (signal.value.length < n) signal.value = new Float32Array(n * 2);
        signal.convert(signal.raw, signal.value, n, signal.junction?.raw);
      }
    }
    this.applyRules();
    if (this.recorder) this.record();
    this.emitFrame();
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
            this.recorder?.gap(group, group.next, group.first - group.next, `${slot.name} was lost`);
          group.next = group.first + block.count;
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

  private applyRules(): void {
    const nowMs = ms(this.nowNs);
    for (const rule of this.rules) {
      const { active, output, value } = rule.numbered.rule;
      const action = rule.step(active === 'always' || (this.recorder?.recording ?? false), nowMs);
      const signal = this.byChannel.get(output ?? '');
      if (!action || !signal) continue;
      const target = action === 'set' ? value : (signal.channel!.settings.rest as number);
      try {
        this.setOutput(output!, target);
        this.note(
          'rule',
          action === 'set'
            ? `Rule fired: ${rule.numbered.says}`
            : `${signal.name} returned to rest, ${target} ${signal.unit}: ${rule.numbered.says}`,
          'Farrier',
        );
      } catch (error) {
        this.note('trouble', asFarrierError(error, signal.name).message, 'Farrier');
      }
      this.events.changed();
    }
  }

  private record(): void {
    const recorder = this.recorder!;
    const waited = !recorder.recording;
    try {
      const ended = recorder.step(this.nowNs);
      if (waited && recorder.startedNs !== null) this.started();
      if (ended !== null) this.ended();
    } catch (error) {
      recorder.interrupt(this.nowNs);
      this.recorder = null;
      this.toRest();
      this.events.note(
        'trouble',
        `${recorder.head.name} stopped. ${asFarrierError(error, recorder.head.name).message}`,
        recorder.head.id,
        this.nowNs,
        'Farrier',
      );
      this.events.take(recorder.head);
      this.events.changed();
    }
  }

  private started(): void {
    const { head, startedNs } = this.recorder!;
    this.events.take(head);
    this.events.note('started', `${head.name} started.`, head.id, startedNs!, 'Farrier');
    this.events.changed();
  }

  private ended(): void {
    const { head } = this.recorder!;
    this.recorder = null;
    for (const s of this.signals) s.ring = null;
    this.events.take(head);
    this.events.note(
      'ended',
      `${head.name} ended after ${((head.lengthNs ?? 0) / 1e9).toFixed(1)} s.`,
      head.id,
      this.nowNs,
      'Farrier',
    );
    this.events.changed();
  }

  /** @throws `conflict` when a take is armed already or its trigger channel is not measured */
  arm(arming: Arming): void {
    if (this.recorder)
      throw conflict(
        'take',
        `${this.recorder.head.name} is ${this.recorder.recording ? 'being recorded' : 'armed'} already.`,
        'End it first.',
      );
    const { plan } = arming;
    const reads = (id: string | null) => {
      const signal = this.byChannel.get(id ?? '');
      if (!signal)
        throw conflict(
          'plan',
          'A channel that the plan waits for is not measured now.',
          'Choose another one, or see on the rig why it is missing.',
        );
      return signal;
    };
    if (plan.start === 'when') reads(plan.startChannel);
    if (plan.stop === 'when') reads(plan.stopChannel);
    const chosen = chosenSignals(plan, this.signals);
    if (chosen.length === 0)
      throw conflict(
        'plan',
        'No channel of the plan is measured now.',
        'Choose channels that are, or plug the unit in.',
      );
    this.recorder = new Recorder(arming, chosen, (id) => this.byChannel.get(id ?? '') ?? null);
    this.note('armed', `${arming.head.name} armed by ${arming.by}.`, arming.by);
    this.events.changed();
  }

  /** Starts the armed take by hand. @throws `conflict` when none is armed */
  start(): void {
    if (!this.recorder || this.recorder.recording)
      throw conflict(
        'take',
        this.recorder ? 'It is being recorded already.' : 'No take is armed.',
        'Arm first.',
      );
    this.recorder.startNow(this.nowNs, 'Started by hand');
    this.started();
  }

  /** @throws `conflict` when nothing is recorded */
  end(): void {
    if (!this.recorder?.recording)
      throw conflict('take', 'No take is being recorded.', 'Arm and start one first.');
    this.recorder.endNow(this.nowNs);
    this.ended();
  }

  /** @throws `conflict` when a take is being recorded */
  disarm(): void {
    if (this.recorder?.recording) throw conflict('take', 'It is being recorded.', 'End the take instead.');
    if (!this.recorder) return;
    const { head } = this.recorder;
    this.recorder.interrupt(this.nowNs);
    this.recorder = null;
    this.events.note('armed', `${head.name} was disarmed.`, null, this.nowNs, 'Farrier');
    this.events.changed();
  }

  /** A note at this moment: in the take that runs, and in the logbook. */
  note(kind: string, says: string, by: string): void {
    this.recorder?.note(this.nowNs, kind, says, by);
    this.events.note(kind, says, this.recorder?.recording ? this.recorder.head.id : null, this.nowNs, by);
  }

  /** @param value in the channel's unit @throws `bad_input` outside the channel's range, `not_found` */
  setOutput(channelId: string, value: number): void {
    const signal = this.byChannel.get(channelId);
    if (!signal?.channel || roleOf(signal.channel) !== 'driven') throw notFound('driven channel', channelId);
    const { range, unit } = commonOf(signal.channel);
    if (!(value >= range.min && value <= range.max))
      throw new FarrierError('bad_input', {
        what: `${value} ${unit} is outside ${range.min} to ${range.max} ${unit}.`,
        where: signal.name,
        next: 'Give a value in the channel’s range.',
      });
    const slot = this.slots.find((s) => s.serial === signal.channel!.wire!.unit)!;
    slot.unit.setOutput(signal.terminal!, value / (signal.channel.settings.slope as number));
    this.outputs[channelId] = value;
    this.events.changed();
  }

  /** Brings every output to its rest value, as far as its unit answers. */
  toRest(): void {
    for (const signal of this.signals) {
      if (!signal.channel || roleOf(signal.channel) !== 'driven') continue;
      try {
        this.setOutput(signal.channel.id, signal.channel.settings.rest as number);
      } catch {
        // Its unit does not answer; hardware goes to rest by itself then.
      }
    }
  }

  /** Ends what runs: the open take as interrupted, outputs to rest. */
  shutDown(): void {
    this.recorder?.interrupt(this.nowNs);
    this.recorder = null;
    this.toRest();
    for (const slot of this.slots) slot.unit.close();
  }

  private emitFrame(): void {
    const n = this.shown.length;
    const frame: LiveFrame = {
      sequence: this.sequence++,
      timeMs: ms(this.nowNs),
      min: new Float32Array(n),
      max: new Float32Array(n),
      last: new Float32Array(n),
      raw: new Float32Array(n),
      state: new Uint8Array(n),
    };
    this.shown.forEach((signal, k) => {
      if (!signal) frame.min[k] = frame.max[k] = frame.last[k] = frame.raw[k] = NaN;
      else this.lookAt(signal, frame, k);
      frame.state[k] = signal ? this.stateOf(signal, frame.min[k], frame.max[k]) : STATE['not measured'];
      if (frame.state[k] !== this.states[k]) this.stateChanged(k, frame.state[k]);
    });
    this.events.frame(frame);
  }

  private lookAt(signal: Signal, frame: LiveFrame, k: number): void {
    const n = signal.group.count;
    const { value, raw } = signal;
    if (signal.trouble === 'lost') signal.last = signal.lastRaw = NaN;
    if (n > 0) {
      let lo = Infinity;
      let hi = -Infinity;
      let sum = 0;
      for (let i = 0; i < n; i++) {
        const v = value[i];
        if (v < lo) lo = v;
        if (v > hi) hi = v;
        sum += raw[i];
      }
      signal.last = value[n - 1];
      signal.lastRaw = sum / n;
      frame.min[k] = lo <= hi ? lo : NaN;
      frame.max[k] = lo <= hi ? hi : NaN;
    } else frame.min[k] = frame.max[k] = signal.last;
    frame.last[k] = signal.last;
    frame.raw[k] = signal.lastRaw;
  }

  private stateOf(signal: Signal, min: number, max: number): number {
    if (signal.trouble !== 'none') return STATE[signal.trouble];
    const { warnAbove, alarmAbove } = commonOf(signal.channel!);
    if (Number.isNaN(max)) return STATE['over range'];
    if (alarmAbove !== null && max > alarmAbove) return STATE.alarm;
    if (warnAbove !== null && max > warnAbove) return STATE.warning;
    const full = FULL_SCALE_RAW[channelKind(signal.channel!.kind).rawUnit];
    return full !== undefined && Math.abs(signal.lastRaw) >= full
      ? STATE['over range']
      : min <= max
        ? STATE.ok
        : STATE['not measured'];
  }

  private stateChanged(k: number, state: number): void {
    const former = this.states[k];
    this.states[k] = state;
    if (former === 255 || !LOUD.has(state)) return;
    const channel = this.channels[k];
    const { unit, warnAbove, alarmAbove } = commonOf(channel);
    const says =
      state === STATE.alarm
        ? `passed its alarm at ${alarmAbove} ${unit}`
        : state === STATE.warning
          ? `passed its warning at ${warnAbove} ${unit}`
          : `reads ${CHANNEL_STATES[state]}`;
    if (state === STATE.warning && former === STATE.alarm) return;
    // A noisy signal at its limit is said once, not twenty times a second.
    if (this.nowNs - (this.saidNs.get(channel.id) ?? -QUIET_NS) < QUIET_NS) return;
    this.saidNs.set(channel.id, this.nowNs);
    this.note('limit', `${channel.name} ${says}.`, 'Farrier');
  }

  get status(): EngineStatus {
    const { recorder } = this;
    return {
      state: recorder ? (recorder.recording ? 'Recording' : 'Armed') : 'Watching',
      take: recorder
        ? {
            id: recorder.head.id,
            name: recorder.head.name,
            number: recorder.head.number,
            startedMs: recorder.startedNs === null ? null : ms(recorder.startedNs),
          }
        : null,
      units: this.slots.map((s) => ({
        description: s.unit.describe(),
        answering: s.answering,
        says: s.says,
      })),
      rules: this.rules.map((r) => ({ id: r.numbered.id, holds: r.holds, fired: r.fired, lastMs: r.lastMs })),
      outputs: { ...this.outputs },
    };
  }

  get channelIds(): string[] {
    return this.channels.map((c) => c.id);
  }
}

const LOUD = new Set([STATE.warning, STATE.alarm, STATE.open, STATE['over range']]);
/** Where a reading of this raw unit has hit the end of what hardware of its kind delivers. */
const FULL_SCALE_RAW: Record<string, number> = { 'mV/V': 24.9, mV: 4990, mA: 24 };

const sameRule = (a: NumberedRule, b: NumberedRule) => JSON.stringify(a.rule) === JSON.stringify(b.rule);
