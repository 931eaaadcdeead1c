import { CHANNEL_STATES, type ChannelState, type LiveFrame } from '$contract/engine';
import { channelKind, commonOf, type Channel } from '$contract/channel';
import type { Signal } from './signals';

const STATE = Object.fromEntries(CHANNEL_STATES.map((name, code) => [name, code])) as Record<
  ChannelState,
  number
>;
const LOUD = new Set([
  STATE.warning,
  STATE.alarm,
  STATE.open,
  STATE.short,
  STATE.silent,
  STATE['over range'],
]);
/** Where a reading of this raw unit has hit the end of what hardware of its kind delivers. */
const FULL_SCALE_RAW: Record<string, number> = { 'mV/V': 24.9, mV: 4990, mA: 24 };
const QUIET_MS = 10_000;
const UNKNOWN = 255;

/** The reading at which a module's input is at its end; a voltage input has the range that its channel sets. */
function fullScaleOf({ kind, settings }: Channel): number | undefined {
  if (kind === 'voltage' && typeof settings.input === 'number') return settings.input * 1.04;
  return FULL_SCALE_RAW[channelKind(kind).rawUnit];
}

/** Makes the steps of the live feed: extremes, last values and states of all channels, and says when a state turns bad. */
export class LiveFrames {
  private sequence = 0;
  private states = new Uint8Array(0);
  private readonly saidMs = new Map<string, number>();

  constructor(private readonly say: (says: string) => void) {}

  /** A new set-up of so many channels. */
  restart(channels: number): void {
    this.sequence = 0;
    this.states = new Uint8Array(channels).fill(UNKNOWN);
  }

  /** @param shown the signal of each channel, null where it is not measured */
  next(timeMs: number, shown: (Signal | null)[], channels: Channel[]): LiveFrame {
    const n = shown.length;
    const frame: LiveFrame = {
      sequence: this.sequence++,
      timeMs,
      min: new Float32Array(n),
      max: new Float32Array(n),
      last: new Float32Array(n),
      raw: new Float32Array(n),
      state: new Uint8Array(n),
    };
    shown.forEach((signal, k) => {
      if (!signal) frame.min[k] = frame.max[k] = frame.last[k] = frame.raw[k] = NaN;
      else lookAt(signal, frame, k);
      frame.state[k] = signal ? stateOf(signal, frame.min[k], frame.max[k]) : STATE['not measured'];
      if (frame.state[k] !== this.states[k]) this.changed(channels[k], k, frame.state[k], timeMs);
    });
    return frame;
  }

  private changed(channel: Channel, k: number, state: number, timeMs: number): void {
    const former = this.states[k];
    this.states[k] = state;
    if (former === UNKNOWN || !LOUD.has(state)) return;
    if (state === STATE.warning && former === STATE.alarm) return;
    // A noisy signal at its limit is said once, not twenty times a second.
    if (timeMs - (this.saidMs.get(channel.id) ?? -QUIET_MS) < QUIET_MS) return;
    this.saidMs.set(channel.id, timeMs);
    this.say(`${channel.name} ${stateText(channel, state)}.`);
  }
}

function stateText(channel: Channel, state: number): string {
  const { unit, warnBelow, warnAbove, alarmBelow, alarmAbove } = commonOf(channel);
  const passed = (below: number | null, above: number | null) =>
    `${[below, above].filter((v) => v !== null).join(' or ')} ${unit}`;
  if (state === STATE.alarm) return `passed its alarm at ${passed(alarmBelow, alarmAbove)}`;
  if (state === STATE.warning) return `passed its warning at ${passed(warnBelow, warnAbove)}`;
  return state === STATE.silent ? 'is silent: nothing arrives any more' : `reads ${CHANNEL_STATES[state]}`;
}

function lookAt(signal: Signal, frame: LiveFrame, k: number): void {
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

function stateOf(signal: Signal, min: number, max: number): number {
  if (signal.trouble !== 'none') return STATE[signal.trouble];
  // No number from a reading that is there: its law does not reach so far. Without a reading there is nothing to say.
  if (Number.isNaN(max))
    return signal.computed || Number.isNaN(signal.lastRaw) ? STATE['not measured'] : STATE['over range'];
  const { count } = signal.group;
  // Both are moved on, whatever the first one says.
  const warning = signal.warning?.step(signal.value, count, min, max);
  const alarm = signal.alarm?.step(signal.value, count, min, max);
  if (alarm) return STATE.alarm;
  if (warning) return STATE.warning;
  const full = fullScaleOf(signal.channel!);
  if (full !== undefined && Math.abs(signal.lastRaw) >= full) return STATE['over range'];
  return min <= max ? STATE.ok : STATE['not measured'];
}
