import type { Frame } from '$core/field/frames';
import { KINDS, packed, unpacked } from '$core/field/messages';
import { recorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import { Random } from '$core/random';
import { Cradle } from './cradle';
import { PocketRecorder, Refused } from './recorder';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/** A world whose time can run faster than ours. */
export class World {
  private began = Date.now();
  private turned = 0;
  constructor(
    private times = 1,
    private fromMs = Date.now(),
  ) {}
  get speed(): number {
    return this.times;
  }
  now = (): number => this.fromMs + this.turned + (Date.now() - this.began) * this.times;
  /** Lets so much of its time pass at once. */
  pass(ms: number): void {
    this.turned += ms;
  }
  /** From now on its time runs so many times as fast as ours. */
  run(times: number): void {
    this.fromMs = this.now() - this.turned;
    this.began = Date.now();
    this.times = Math.min(10_000, Math.max(1, times));
  }
}

/** A curve that wanders, the same for the same seed: nothing of it is kept. @returns about −1 to 1 */
function wander(seed: number, ms: number, hours: number): number {
  const at = ms / (hours * HOUR);
  const node = (k: number) =>
    new Random(Math.imul(seed * 7919 + Math.floor(k), 2654435761) >>> 0).gauss() * 0.5;
  const [k, share] = [Math.floor(at), at - Math.floor(at)];
  const smooth = share * share * (3 - 2 * share);
  return node(k) * (1 - smooth) + node(k + 1) * smooth;
}
const daily = (ms: number, peakHour: number) =>
  Math.cos(((((ms / HOUR) % 24) - peakHour) / 24) * 2 * Math.PI);

/** A freezer for epoxy: it cycles, is opened by day, and now and then a door stays ajar. @param ajar hours before now, and for how long */
const crate = (seed: number, level: number, ajar?: { fromMs: number; hours: number }) => (ms: number) => {
  const open = ajar && ms > ajar.fromMs ? Math.min(1, (ms - ajar.fromMs) / (ajar.hours * HOUR)) : 0;
  const closed = ajar && ms > ajar.fromMs + ajar.hours * HOUR ? Math.exp(-(ms - ajar.fromMs - ajar.hours * HOUR) / (2 * HOUR)) : 1;
  return [level + 0.8 * Math.sin(ms / 1.9e6) + 0.6 * daily(ms, 15) + 0.5 * wander(seed, ms, 3) + 14 * open * closed];
}; // prettier-ignore
const hall = (seed: number) => (ms: number) => {
  const warm = 20.6 + 1.6 * daily(ms, 15) + 0.8 * wander(seed, ms, 6);
  return [warm, 48 - 3.5 * (warm - 20.6) + 5 * wander(seed + 1, ms, 10)];
};

const EPOXY: RecorderSetup = { name: '', start: 'by its button', startMs: null, measuresWaiting: true, settleS: 1800, intervalS: 600, readings: 4032, then: 'keep the newest', high: { at: 6, after: 'in a row', count: 3 }, low: { at: -12, after: 'at once', count: 1 }, clearable: true, lamps: 'blink each minute, quick in alarm' }; // prettier-ignore

/** Recorders of Harrow Quay: two crates of epoxy, the workshop, and those that are blank. @param blanks how many of these */
export function quayRecorders(world: World, blanks = 1): PocketRecorder[] {
  const now = world.now();
  // Three of them were set up some days ago, and have worked since.
  world.pass(-15 * DAY);
  const parts = (serial: string, model: string, sense: (ms: number) => number[], driftPpm: number, used = 0.05) => new PocketRecorder({ model: recorderModel(model)!, serial, now: world.now, sense, driftPpm, used }); // prettier-ignore
  const seven = parts('PR2-0113', 'PR-2', crate(11, -4.2), 31);
  const eleven = parts('PR2-0107', 'PR-2', crate(23, -3.6, { fromMs: now - 9 * HOUR, hours: 3 }), -38, 0.2);
  const workshop = parts('PR4-0042', 'PR-4', hall(5), 12, 0.4);
  for (const [recorder, name] of [
    [seven, 'Crate 7, epoxy'],
    [eleven, 'Crate 11, epoxy'],
  ] as const) {
    // prettier-ignore
    recorder.setClock(world.now());
    recorder.setUp({ ...EPOXY, name });
  }
  workshop.setClock(world.now());
  workshop.setUp({ ...EPOXY, name: 'Workshop', start: 'at once', measuresWaiting: false, settleS: 0, high: { at: 28, after: 'in a row', count: 3 }, low: { at: 12, after: 'in a row', count: 3 }, readings: 16_000 }); // prettier-ignore
  world.pass(0.4 * HOUR);
  seven.press();
  eleven.press();
  world.pass(14.6 * DAY);
  seven.press();
  world.pass(15 * DAY - 14.6 * DAY - 0.4 * HOUR);
  const spares = Array.from({ length: blanks }, (_, k) =>
    parts(`PR2-0${131 + k}`, 'PR-2', () => [19.2], 8 * (k % 5) - 12, 0),
  );
  return [seven, eleven, workshop, ...spares];
}

/** A cradle into which recorders are put by a message instead of by hand. */
export class PlayedCradle extends Cradle {
  constructor(
    private readonly recorders: readonly PocketRecorder[],
    private readonly world: World,
  ) {
    super();
  }
  protected override done(frame: Frame): Uint8Array {
    if (frame.kind === KINDS.state) {
      const state = unpacked<object>(super.done(frame));
      return packed({ ...state, worldMs: this.world.now() });
    }
    if (frame.kind !== KINDS.play) return super.done(frame);
    const {
      do: act,
      serial,
      times = 1,
    } = unpacked<{ do: string; serial: string; times?: number }>(frame.carried);
    if (act === 'speed') {
      this.world.run(times);
      return packed({});
    }
    if (act === 'list')
      return packed(this.recorders.map((r) => ({ serial: r.serial, name: r.state().name })));
    const found = this.recorders.find((r) => r.serial === serial);
    if (!found) throw new Refused({ why: 'unknown', says: `There is no recorder ${serial} to play.` });
    if (act === 'put') this.put(found);
    else if (act === 'out') this.takeOut();
    else if (act === 'press') found.press();
    else if (act === 'battery') found.changeBattery(1800);
    return packed({});
  }
}
