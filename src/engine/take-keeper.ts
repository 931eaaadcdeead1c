import { randomUUID } from 'node:crypto';
import { dirname, join } from 'node:path';
import { asFarrierError, conflict } from '$core/errors';
import type { EngineStatus } from '$contract/engine-status';
import { takeName } from '$contract/plan';
import type { TakeHead, UnitTiming } from '$contract/take';
import type { AcquisitionEvents } from './events';
import { isDiskFull, releaseReserve } from '$store/reserve';
import { Recorder, chosenSignals, type Arming } from './recorder';
import { ShuntRun, shuntedSignals } from './shunt-run';
import type { Group, Signal } from './signals';
import type { UnitSlot } from './slots';

const ms = (ns: bigint) => Number(ns / 1_000_000n);
const FARRIER = 'Farrier';

/** What the keeper needs from the pipeline. */
export interface KeeperWorld {
  readonly slots: UnitSlot[];
  signals(): Signal[];
  signalOf(channelId: string): Signal | undefined;
  timing(): UnitTiming[];
  toRest(): void;
  readonly events: AcquisitionEvents;
}

/** Takes of the running engine, one after the other: armed, recorded, proven before and after, armed again, followed by the next. */
export class TakeKeeper {
  recorder: Recorder | null = null;
  private proving: ShuntRun | null = null;
  /** The plan that follows when this take ends; it remembers already. */
  private queued: Recorder | null = null;
  /** Takes that follow by themselves. */
  private left = 0;
  private nowNs = 0n;

  constructor(private readonly world: KeeperWorld) {}

  get recording(): boolean {
    return this.recorder?.recording ?? false;
  }
  /** Whether a step of this signal is made by its shunt: nothing that happens to the rig. */
  proves = (signal: Signal) => this.proving?.covers(signal) ?? false;

  /** @throws `conflict` while a take is armed or recorded */
  free(): void {
    if (this.recorder)
      throw conflict(
        'set-up',
        `A take is ${this.recording ? 'being recorded' : 'armed'}: its channels stay as they are until it ends.`,
        'End the take first, then change the set-up.',
      );
  }

  step(nowNs: bigint): void {
    this.nowNs = nowNs;
    this.remember();
    this.queued?.step(nowNs);
    if (this.proving) this.prove();
    else if (this.recorder) this.record();
  }

  /** Each signal's last seconds, once a step, whoever needs them. What shunts make is remembered by none but the take that follows. */
  private remember(): void {
    const own = this.proving ? [] : (this.recorder?.chosen ?? []);
    for (const s of new Set([...own, ...(this.queued?.chosen ?? [])]))
      if (s.group.count > 0) s.ring!.push(s.group.first, s.raw.subarray(0, s.group.count * s.width));
  }

  /** Says why samples of a group are missing in what is recorded. @param first index in the group */
  gap(group: Group, first: number, count: number, reason: string): void {
    this.recorder?.gap(group, first, count, reason);
  }

  private record(): void {
    const recorder = this.recorder!;
    const waited = !recorder.recording;
    try {
      const ended = recorder.step(this.nowNs);
      if (waited && recorder.startedNs !== null) this.started();
      if (ended !== null) this.ended();
    } catch (error) {
      const full = isDiskFull(error);
      if (full) releaseReserve(dirname(this.folder));
      const fault = asFarrierError(error, recorder.head.name);
      recorder.breakOff(this.nowNs, full ? 'the disk is full' : fault.text.what.replace(/\.$/, ''));
      this.recorder = this.queued = null;
      this.left = 0;
      this.world.toRest();
      this.world.events.note(
        'trouble',
        `${recorder.head.name} stopped. ${fault.message}`,
        recorder.head.id,
        this.nowNs,
        FARRIER,
      );
      this.world.events.changed();
    }
  }

  private started(): void {
    const { head, startedNs } = this.recorder!;
    this.world.events.note('started', `${head.name} started.`, head.id, startedNs!, FARRIER);
    this.world.events.changed();
  }

  /** The shunts of the plan's bridges, to be read now. @throws `conflict` when none of them has one */
  private shuntRun(moment: 'before' | 'after'): ShuntRun {
    const { plan } = this.recorder!;
    const bridges = shuntedSignals(this.recorder!.chosen, this.world.slots);
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
      this.note('shunts', this.recorder!.keepProof(moment, readings), FARRIER);
    } catch (error) {
      this.proving!.cancel();
      this.notProven(error);
    }
    this.proving = null;
    this.world.events.changed();
    if (moment === 'after') this.ended();
  }
  private notProven = (error: unknown) =>
    this.note('trouble', `Shunts not read. ${asFarrierError(error, 'shunts').message}`, FARRIER);

  private ended(): void {
    const recorder = this.recorder!;
    if (recorder.plan.shunts === 'before and after' && !recorder.provenAfter) {
      recorder.provenAfter = true;
      try {
        this.proving = this.shuntRun('after');
        this.world.events.changed();
        return;
      } catch (error) {
        this.notProven(error);
      }
    }
    recorder.close();
    this.recorder = null;
    const { head } = recorder;
    this.world.events.note(
      'ended',
      `${head.name} ended after ${((head.lengthNs ?? 0) / 1e9).toFixed(1)} s.`,
      head.id,
      this.nowNs,
      FARRIER,
    );
    this.goOn(recorder);
    this.world.events.changed();
  }

  /** Arms what follows a take: the plan that waited for its end, or its own plan again. */
  private goOn(last: Recorder): void {
    const { head, plan, startedNs, endedNs } = last;
    const { queued } = this;
    this.queued = null;
    try {
      if (queued) {
        this.left = 0;
        this.recorder = queued;
        // While the shunts were read nothing happened that belongs to it.
        queued.startNow(last.provenAfter ? this.nowNs : endedNs!, `Started: ${head.name} ended`);
        return this.started();
      }
      if (this.left <= 0) return;
      this.left--;
      const notBefore = plan.every === null ? null : startedNs! + BigInt(Math.round(plan.every * 1e9));
      this.begin(this.following(head, plan), notBefore);
    } catch (error) {
      this.note('trouble', `The next take is not armed. ${asFarrierError(error, 'plan').message}`, FARRIER);
    }
  }

  private following({ ...head }: TakeHead, plan: Arming['plan']): Arming {
    const number = head.number + 1;
    const at = { plan: head.planName, atMs: ms(this.nowNs) };
    const id = randomUUID();
    const next: TakeHead = {
      ...head,
      id,
      number,
      name: takeName(plan.naming, head.facts, number, at) || `Take ${number}`,
      folder: takeName(plan.folder, head.facts, number, at),
      part: null,
      state: 'recording',
      startNs: '0',
      lengthNs: null,
    };
    return { head: next, plan, path: join(this.folder, `${id}.take`), by: this.by };
  }

  private folder = '';
  private by = '';
  private nextPart = (head: TakeHead) => {
    const part = (head.part ?? 1) + 1;
    const id = randomUUID();
    return {
      head: {
        ...head,
        id,
        part,
        number: head.number + 1,
        name: `${head.name.replace(/, part \d+$/, '')}, part ${part}`,
        state: 'recording' as const,
        lengthNs: null,
      },
      path: join(this.folder, `${id}.take`),
    };
  };

  /** @throws `conflict` when a take is armed already or a channel it waits for is not measured */
  arm(arming: Arming, nowNs: bigint): void {
    this.nowNs = nowNs;
    const follows = arming.plan.start === 'when another take ends';
    if (this.recording && follows && !this.queued) {
      this.queued = this.made(arming, null);
      this.note('armed', `${arming.head.name} follows when this take ends (${arming.by}).`, arming.by);
      return this.world.events.changed();
    }
    if (this.recorder)
      throw conflict(
        'take',
        `${this.recorder.head.name} is ${this.recording ? 'being recorded' : 'armed'} already.`,
        'End it first.',
      );
    if (follows)
      throw conflict(
        'plan',
        'No take is being recorded that this plan could follow.',
        'Start the other take first, or choose another start.',
      );
    const { plan } = arming;
    this.left = { once: 0, 'a number of times': plan.times - 1, 'again and again': Infinity }[plan.again];
    this.folder = dirname(arming.path);
    this.by = arming.by;
    this.begin(arming, null);
  }

  private begin(arming: Arming, notBeforeNs: bigint | null): void {
    this.recorder = this.made(arming, notBeforeNs);
    try {
      if (arming.plan.shunts !== 'never') this.proving = this.shuntRun('before');
    } catch (error) {
      this.recorder = null;
      throw error;
    }
    this.note('armed', `${arming.head.name} armed by ${arming.by}.`, arming.by);
    this.world.events.changed();
  }

  /** @throws `conflict` when no channel of the plan is measured, or one that it waits for is not */
  private made(arming: Arming, notBeforeNs: bigint | null): Recorder {
    const chosen = chosenSignals(arming.plan, this.world.signals());
    if (chosen.length === 0)
      throw conflict(
        'plan',
        'No channel of the plan is measured now.',
        'Choose channels that are, or plug the unit in.',
      );
    const { signalOf, timing, events, slots } = this.world;
    return new Recorder(
      arming,
      chosen,
      {
        signalOf,
        nameOf: (id) => signalOf(id),
        timing,
        nextPart: this.nextPart,
        lost: (group) => {
          const slot = slots.find((s) => s.serial === group.unit);
          return slot?.answering ? null : `${slot?.name ?? group.unit} was lost`;
        },
        told: (head, hash) => events.take(head, hash ?? null),
      },
      this.nowNs,
      notBeforeNs,
    );
  }

  /** Starts the armed take. @throws `conflict` when none is armed */
  start(says: string): void {
    if (!this.recorder || this.recorder.recording)
      throw conflict(
        'take',
        this.recorder ? 'It is being recorded already.' : 'No take is armed.',
        'Arm first.',
      );
    this.stillProving();
    this.recorder.startNow(this.nowNs, says);
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

  /** Lets go of an armed take, and of all that would follow. @throws `conflict` when a take is being recorded and nothing follows it */
  disarm(): void {
    if (this.recording) {
      if (!this.queued && this.left <= 0)
        throw conflict('take', 'It is being recorded.', 'End the take instead.');
      this.queued = null;
      this.left = 0;
      this.note('armed', 'Nothing follows this take any more.', FARRIER);
      return this.world.events.changed();
    }
    if (!this.recorder) return;
    const { head } = this.recorder;
    this.drop();
    this.world.events.note('armed', `${head.name} was disarmed.`, null, this.nowNs, FARRIER);
    this.world.events.changed();
  }

  /** Closes what runs, as interrupted. @param why in words */
  drop(why = 'it was disarmed'): void {
    this.proving?.cancel();
    this.recorder?.interrupt(this.nowNs, why);
    this.proving = this.recorder = this.queued = null;
    this.left = 0;
  }

  /** A note in the take that runs, and in the logbook. @param atNs the moment it belongs to; now when left out */
  note(kind: string, says: string, by: string, atNs = this.nowNs): void {
    this.recorder?.note(atNs, kind, says, by);
    const takeId = this.recording ? this.recorder!.head.id : null;
    this.world.events.note(kind, says, takeId, atNs, by);
  }

  get status(): Pick<EngineStatus, 'state' | 'take' | 'proving'> {
    const { recorder } = this;
    return {
      state: recorder ? (recorder.recording ? 'Recording' : 'Armed') : 'Watching',
      take: recorder && {
        id: recorder.head.id,
        name: recorder.head.name,
        number: recorder.head.number,
        plan: recorder.head.planName,
        startedMs: recorder.startedNs === null ? null : ms(recorder.startedNs),
        startsMs: recorder.startsNs === null ? null : ms(recorder.startsNs),
        left: Number.isFinite(this.left) ? this.left : -1,
        follows: this.queued?.head.name ?? null,
        detailed: recorder.detailed,
      },
      proving: this.proving?.state(this.nowNs) ?? null,
    };
  }
}
