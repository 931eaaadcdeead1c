import { asFarrierError, conflict } from '$core/errors';
import { hz } from '$core/time/rate';
import {
  type EngineSetup,
  type EngineStatus,
  type LiveFrame,
  type NumberedRule,
  type Reading,
} from '$contract/engine';
import { commonOf, type Channel } from '$contract/channel';
import type { TakeHead } from '$contract/take';
import { Recorder, chosenSignals, type Arming } from './recorder';
import { RuleWatch } from './rules';
import { LiveFrames } from './live-frames';
import { OnDemand } from './on-demand';
import { Outputs } from './outputs';
import { ShuntRun, shuntedSignals } from './shunt-run';
import { compute, computedSignals, type Signal } from './signals';
import { loseSlot, resumeSlot, startSlot, type UnitSlot } from './slots';

/** Where the pipeline's results go. */
export interface AcquisitionEvents {
  frame(frame: LiveFrame): void;
  note(kind: string, says: string, takeId: string | null, atNs: bigint, by: string): void;
  take(head: TakeHead): void;
  changed(): void;
}

const RETRY_NS = 500_000_000n;
const ms = (ns: bigint) => Number(ns / 1_000_000n);

/** The block pipeline: unit → raw → conversion → computed → limits and rules → memory and recorder, and the live feed.
 *  Time is what step() is given, so the same code runs live, in tests and faster than real time. */
export class Acquisition {
  private signals: Signal[] = [];
  private shown: (Signal | null)[] = [];
  private rules: RuleWatch[] = [];
  private byChannel = new Map<string, Signal>();
  private recorder: Recorder | null = null;
  private proving: ShuntRun | null = null;
  private retriedNs = 0n;
  private nowNs = 0n;
  private channels: Channel[] = [];
  private readonly frames: LiveFrames;
  private readonly outputs: Outputs;
  private wanted: OnDemand[] = [];

  constructor(
    readonly slots: UnitSlot[],
    private readonly events: AcquisitionEvents,
  ) {
    this.outputs = new Outputs(slots, (id) => this.byChannel.get(id));
    this.frames = new LiveFrames((says) => this.note('limit', says, 'Farrier'));
  }

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

  private lost(slot: UnitSlot, error: unknown): void {
    const news = loseSlot(slot, error);
    if (news) this.note('unit', news, 'Farrier');
    this.events.changed();
  }

  /** A lost unit is tried again. */
  private retry(slot: UnitSlot): void {
    const { known } = slot;
    try {
      if (slot.groups.length > 0) resumeSlot(slot, this.channels, this.nowNs);
      else if (!this.recorder) {
        slot.unit.start([], this.nowNs);
        slot.answering = slot.known = true;
        slot.says = '';
        this.configure(
          { units: [], channels: this.channels, rules: this.rules.map((r) => r.numbered) },
          this.nowNs,
        );
        if (!slot.answering) return;
      } else return;
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
    this.outputs.step(this.nowNs);
    if (this.proving) this.prove();
    else if (this.recorder) this.record();
    this.wanted = this.wanted.filter((w) => !w.step());
    this.events.frame(this.frames.next(ms(this.nowNs), this.shown, this.channels));
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
      // A step that the shunt makes is nothing that happens to the rig.
      if (this.proving?.covers(rule.signal)) continue;
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

  /** The shunts of the plan's bridges, to be read now. @throws `conflict` when none of them has one */
  private shuntRun(moment: 'before' | 'after'): ShuntRun {
    const { plan } = this.recorder!;
    const bridges = shuntedSignals(this.recorder!.chosen, this.slots);
    if (bridges.length === 0)
      throw conflict(
        'shunts',
        'No bridge of the plan has a shunt that can be switched.',
        'Set the plan’s shunts to “never”, or wire the bridges to a module that has one.',
      );
    return new ShuntRun(moment, bridges, plan.shuntSeconds, this.nowNs);
  }

  private prove(): void {
    const { moment, readings } = this.proving!;
    try {
      if (!this.proving!.step(this.nowNs)) return;
      this.note('shunts', this.recorder!.keepProof(moment, readings), 'Farrier');
    } catch (error) {
      this.proving!.cancel();
      this.note('trouble', `Shunts not read. ${asFarrierError(error, 'shunts').message}`, 'Farrier');
    }
    this.proving = null;
    this.events.changed();
    if (moment === 'after') this.ended();
  }

  private ended(): void {
    const { plan } = this.recorder!;
    if (plan.shunts === 'before and after' && !this.recorder!.provenAfter) {
      this.recorder!.provenAfter = true;
      try {
        this.proving = this.shuntRun('after');
        this.events.changed();
        return;
      } catch (error) {
        this.note('trouble', `Shunts not read. ${asFarrierError(error, 'shunts').message}`, 'Farrier');
      }
    }
    this.recorder!.close();
    this.finished(this.recorder!.head);
  }

  private finished(head: TakeHead): void {
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
    try {
      if (plan.shunts !== 'never') this.proving = this.shuntRun('before');
    } catch (error) {
      this.recorder = null;
      throw error;
    }
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
    this.stillProving();
    this.recorder.startNow(this.nowNs, 'Started by hand');
    this.started();
  }

  private stillProving(): void {
    const left = this.proving?.state(this.nowNs);
    if (left)
      throw conflict(
        'shunts',
        `Zero and shunt are being read ${left.moment} the take.`,
        `Wait ${left.leftS} s.`,
      );
  }

  /** @throws `conflict` when nothing is recorded */
  end(): void {
    if (!this.recorder?.recording)
      throw conflict('take', 'No take is being recorded.', 'Arm and start one first.');
    this.stillProving();
    this.recorder.endNow(this.nowNs);
    this.ended();
  }

  /** @throws `conflict` when a take is being recorded */
  disarm(): void {
    if (this.recorder?.recording) throw conflict('take', 'It is being recorded.', 'End the take instead.');
    if (!this.recorder) return;
    this.proving?.cancel();
    this.proving = null;
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
    this.outputs.set(channelId, value);
    this.events.changed();
  }

  /** Brings every output to its rest value, as far as its unit answers. */
  toRest = () => this.outputs.toRest(this.signals);

  /** Ends what runs: the open take as interrupted, outputs to rest. */
  shutDown(): void {
    this.proving?.cancel();
    this.proving = null;
    this.recorder?.interrupt(this.nowNs);
    this.recorder = null;
    this.toRest();
    for (const slot of this.slots) slot.unit.close();
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
      proving: this.proving?.state(this.nowNs) ?? null,
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
