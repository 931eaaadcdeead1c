import {
  compileConversion,
  IDENTITY,
  needsJunction,
  type BlockConversion,
  type Conversion,
} from '$core/conversion/conversion';
import { FarrierError } from '$core/errors';
import type { RunExpression } from '$core/expression/blocks';
import { compileExpression } from '$core/expression/expression';
import { LimitWatch } from '$core/signal/limit-watch';
import { hz, type Rate } from '$core/time/rate';
import { channelKind, commonOf, conversionOf, measuringPart, roleOf, type Channel } from '$contract/channel';
import { convertUnit, quantityOf } from '$core/quantities/quantities';
import { thermocoupleEmf } from '$core/sensors/thermocouple';
import type { Trouble } from '$contract/unit';
import type { Ring } from './ring';
import type { AcquireRequest } from './units/driver';

/** Signals sampled together by one unit. Indices count on over a loss of the unit, so index and time stay tied. */
export interface Group {
  unit: string;
  rate: Rate;
  startNs: bigint;
  /** Index in this group of the driver's index 0. */
  base: number;
  /** The block of this step. */
  first: number;
  count: number;
  /** Index expected next. */
  next: number;
}

/** One measured, computed or auxiliary signal on its way through a step. */
export interface Signal {
  channel: Channel | null;
  name: string;
  rawUnit: string;
  unit: string;
  group: Group;
  terminal: string | null;
  conversion: Conversion;
  convert: BlockConversion;
  junction: Signal | null;
  computed: { run: RunExpression; text: string; inputs: Signal[]; scratch: Float32Array[] } | null;
  /** What its limits say of the present block. */
  limit: 'none' | 'warning' | 'alarm';
  /** Extremes of the present block; NaN without a reading. */
  min: number;
  max: number;
  mean: number;
  square: number;
  warning: LimitWatch | null;
  alarm: LimitWatch | null;
  /** Raw samples of this step; only the first group.count count. */
  raw: Float32Array;
  /** The same in the channel's unit. */
  value: Float32Array;
  trouble: Trouble;
  /** Numbers of a raw sample; `value` has one of each, the magnitude of complex ones. */
  width: 1 | 2;
  /** What its unit says of itself while it is recorded, where that belongs to its samples. */
  about: (() => object | undefined) | null;
  /** Last value, held between blocks. */
  last: number;
  /** Mean of the block's raw readings; of a thermocouple the emf against a junction at 0 °C, so that it alone says the temperature. */
  lastRaw: number;
  ring: Ring | null;
}

/** What one channel asks of its unit, as text: while it stays the same, nothing has to be acquired anew. */
export const askedOf = (request: AcquireRequest): string =>
  JSON.stringify([
    request.terminal,
    request.rateHz,
    request.channelId,
    measuringPart(request.kind, request.settings),
  ]);

/** What has to be acquired from one unit for these channels: junctions along with thermocouples, once a rate. */
export function requestsFor(unit: string, channels: Channel[]): AcquireRequest[] {
  const requests: AcquireRequest[] = [];
  const junctions = new Set<string>();
  for (const channel of channels) {
    if (channel.wire?.unit !== unit) continue;
    const { rateHz } = commonOf(channel);
    const { terminal } = channel.wire;
    requests.push({
      terminal,
      rateHz,
      channelId: channel.id,
      kind: channel.kind,
      settings: channel.settings,
    });
    const junction = `${junctionOf(terminal)}@${rateHz}`;
    if (!needsJunction(conversionOf(channel)) || junctions.has(junction)) continue;
    junctions.add(junction);
    requests.push({
      terminal: junctionOf(terminal),
      rateHz,
      channelId: null,
      kind: 'cold junction',
      settings: {},
    });
  }
  return requests;
}

export const junctionOf = (terminal: string) => `${terminal.split('/')[0]}/junction`;

/** A signal fed by a terminal. */
export function acquiredSignal(
  channel: Channel | null,
  terminal: string,
  group: Group,
  junction: Signal | null,
): Signal {
  const conversion = channel ? conversionOf(channel) : IDENTITY;
  return {
    ...empty(channel, channel?.name ?? `${terminal.replace('/', ' ')}`, group, conversion),
    rawUnit: channel ? channelKind(channel.kind).rawUnit : '°C',
    unit: channel ? commonOf(channel).unit : '°C',
    terminal,
    junction,
    width: channel ? (channelKind(channel.kind).width ?? 1) : 1,
  };
}

/** A signal goes on for a channel that was changed above its hardware: name, unit, conversion, limits. Limits that mean the same keep their state.
 *  @returns whether its readings mean something else now */
export function adopt(signal: Signal, channel: Channel): boolean {
  const former = signal.channel!;
  const { unit } = commonOf(channel);
  const conversion = roleOf(channel) === 'computed' ? IDENTITY : conversionOf(channel);
  const anew = unit !== signal.unit || JSON.stringify(conversion) !== JSON.stringify(signal.conversion);
  signal.channel = channel;
  signal.name = channel.name;
  if (roleOf(channel) === 'computed') signal.rawUnit = unit;
  if (JSON.stringify(limitsOf(former)) !== JSON.stringify(limitsOf(channel))) {
    const next = watches(channel, signal.group);
    if (sameLimits(former, channel)) {
      if (signal.warning) next.warning?.follow(signal.warning);
      if (signal.alarm) next.alarm?.follow(signal.alarm);
    }
    Object.assign(signal, next);
  }
  if (anew) {
    Object.assign(signal, { unit, conversion, convert: compileConversion(conversion), last: NaN });
    signal.min = signal.max = signal.mean = signal.square = NaN;
  }
  return anew;
}

const LIMITS = ['warnBelow', 'warnAbove', 'alarmBelow', 'alarmAbove'] as const;
const limitsOf = (channel: Channel) => {
  const common = commonOf(channel);
  return [...LIMITS.map((key) => common[key]), common.limitHold, common.limitBack, common.unit];
};

/** Whether the limits of a channel stand where they stood, in whatever unit. */
function sameLimits(a: Channel, b: Channel): boolean {
  const [from, to] = [commonOf(a), commonOf(b)];
  if (quantityOf(from.unit) !== quantityOf(to.unit) || from.limitHold !== to.limitHold) return false;
  return LIMITS.every((key) => {
    const [x, y] = [from[key], to[key]];
    if (x === null || y === null) return x === y;
    const moved = convertUnit(x, from.unit, to.unit);
    return Math.abs(moved - y) <= 1e-6 * Math.max(Math.abs(moved), Math.abs(y), 1e-9);
  });
}

/** The limits of a channel, where it has any. */
function watches(channel: Channel | null, group: Group): Pick<Signal, 'warning' | 'alarm'> {
  if (!channel) return { warning: null, alarm: null };
  const { warnBelow, warnAbove, alarmBelow, alarmAbove, limitHold, limitBack } = commonOf(channel);
  const watch = (below: number | null, above: number | null) =>
    below === null && above === null
      ? null
      : new LimitWatch({ below, above }, Math.round(limitHold * hz(group.rate)), limitBack);
  return { warning: watch(warnBelow, warnAbove), alarm: watch(alarmBelow, alarmAbove) };
}

function empty(channel: Channel | null, name: string, group: Group, conversion: Conversion): Signal {
  return {
    channel,
    name,
    group,
    conversion,
    convert: compileConversion(conversion),
    rawUnit: '1',
    unit: '1',
    terminal: null,
    junction: null,
    computed: null,
    limit: 'none',
    min: NaN,
    max: NaN,
    mean: NaN,
    square: NaN,
    ...watches(channel, group),
    raw: new Float32Array(0),
    value: new Float32Array(0),
    trouble: 'none',
    width: 1,
    about: null,
    last: NaN,
    lastRaw: NaN,
    ring: null,
  };
}

/** Adds the computed channels, inputs before what uses them. A computed channel runs at the rate of its fastest input; slower
 *  inputs are held at their last value.
 *  A channel that cannot be computed (a name that no channel has, channels that need each other) is left out and told to onFault.
 *  @param former signals by channel: one that is computed in the same way from the same signals goes on, with what its formula remembers
 *  @returns them in an order in which they can be computed */
export function computedSignals(
  channels: Channel[],
  acquired: Signal[],
  onFault: (channel: Channel, fault: unknown) => void,
  former: ReadonlyMap<string, Signal> = new Map(),
): Signal[] {
  const done = new Map(acquired.filter((s) => s.channel).map((s) => [s.name, s]));
  const waiting = new Map(channels.filter((c) => roleOf(c) === 'computed').map((c) => [c.name, c]));
  const order: Signal[] = [];
  const path: string[] = [];
  const make = (channel: Channel): Signal => {
    if (path.includes(channel.name))
      throw new FarrierError('conflict', {
        what: `These channels need each other: ${[...path, channel.name].join(' → ')}.`,
        where: channel.name,
        next: 'Take one of them out of the formula of another.',
      });
    path.push(channel.name);
    const expression = compileExpression(channel.settings.formula as string);
    const inputs = expression.inputs.map((name) => {
      const known = done.get(name);
      if (known) return known;
      const computed = waiting.get(name);
      if (computed) return make(computed);
      const there = channels.some((c) => c.name === name);
      throw new FarrierError(there ? 'unavailable' : 'bad_input', {
        what: there ? `“${name}” is not measured now.` : `There is no channel “${name}”.`,
        where: channel.name,
        next: there
          ? 'Its unit has to answer first.'
          : 'Write the name as it stands in the table, in quotation marks.',
      });
    });
    path.pop();
    const unitOf = (name: string) => inputs[expression.inputs.indexOf(name)].unit;
    expression.checkUnits(unitOf, commonOf(channel).unit);
    if (inputs.length === 0)
      throw new FarrierError('bad_input', {
        what: 'The formula names no channel.',
        where: channel.name,
        next: 'Name at least one, in quotation marks.',
      });
    const fastest = inputs.reduce((a, b) => (hz(b.group.rate) > hz(a.group.rate) ? b : a));
    // In which units its inputs are read belongs to what it computes.
    const text = JSON.stringify([expression.inputs.map(unitOf), withoutNames(channel, expression.inputs)]);
    const known = former.get(channel.id);
    const goesOn =
      known?.computed?.text === text &&
      known.group === fastest.group &&
      known.computed.inputs.every((input, k) => input === inputs[k]);
    const signal: Signal = goesOn
      ? known
      : {
          ...empty(channel, channel.name, fastest.group, IDENTITY),
          rawUnit: commonOf(channel).unit,
          unit: commonOf(channel).unit,
          computed: {
            run: expression.start(hz(fastest.group.rate)),
            text,
            inputs,
            scratch: inputs.map(() => new Float32Array(0)),
          },
        };
    done.set(channel.name, signal);
    waiting.delete(channel.name);
    order.push(signal);
    return signal;
  };
  for (const channel of [...waiting.values()]) {
    try {
      path.length = 0;
      if (waiting.has(channel.name)) make(channel);
    } catch (fault) {
      onFault(channel, fault);
    }
  }
  return order;
}

/** A formula with its inputs numbered: a new name changes nothing of what is computed. */
const withoutNames = (channel: Channel, inputs: string[]) =>
  String(channel.settings.formula).replace(/"([^"]*)"/g, (all, name: string) => {
    const at = inputs.indexOf(name);
    return at < 0 ? all : `"#${at}"`;
  });

/** Extremes and limits of the present block: what rules, conditions and the live feed look at. */
export function judge(signal: Signal): void {
  const { value, raw, group } = signal;
  const n = group.count;
  if (signal.trouble === 'lost') signal.last = signal.lastRaw = NaN;
  if (n > 0) {
    let lo = Infinity;
    let hi = -Infinity;
    let sum = 0;
    let own = 0;
    let square = 0;
    let counted = 0;
    for (let i = 0; i < n; i++) {
      const v = value[i];
      sum += signal.width === 2 ? v : raw[i];
      if (v !== v) continue;
      if (v < lo) lo = v;
      if (v > hi) hi = v;
      own += v;
      square += v * v;
      counted++;
    }
    signal.mean = own / counted;
    signal.square = square / counted;
    signal.last = value[n - 1];
    signal.lastRaw = sum / n + junctionEmf(signal);
    signal.min = lo <= hi ? lo : NaN;
    signal.max = lo <= hi ? hi : NaN;
  } else {
    signal.min = signal.max = signal.mean = signal.last;
    signal.square = signal.last * signal.last;
  }
  // Both are moved on, whatever the first one says.
  const warning = signal.warning?.step(value, n, signal.min, signal.max);
  const alarm = signal.alarm?.step(value, n, signal.min, signal.max);
  signal.limit = signal.trouble !== 'none' ? 'none' : alarm ? 'alarm' : warning ? 'warning' : 'none';
}

/** What the reference junction of a thermocouple takes off its emf now, mV; 0 for all else. */
function junctionEmf({ junction, conversion, group: { count } }: Signal): number {
  if (!junction || conversion.law.kind !== 'thermocouple') return 0;
  let sum = 0;
  for (let i = 0; i < count; i++) sum += junction.raw[i];
  return thermocoupleEmf(conversion.law.type, sum / count);
}

const NS = 1e9;

/** Computes one step of a computed signal into its value (which is also its raw). */
export function compute(signal: Signal): void {
  const { group } = signal;
  const { run, inputs, scratch } = signal.computed!;
  const n = group.count;
  if (signal.value.length < n) signal.value = new Float32Array(n * 2);
  const values = inputs.map((input, k) => {
    if (input.group === group) return input.value;
    if (scratch[k].length < n) scratch[k] = new Float32Array(n * 2);
    hold(input, group, scratch[k], n);
    return scratch[k];
  });
  run(values, signal.value, n);
  signal.raw = signal.value;
}

/** Spreads a slower signal over the samples of another group: the last value at or before each instant. */
function hold(input: Signal, onto: Group, out: Float32Array, n: number): void {
  const own = input.group;
  const offset = Number(onto.startNs - own.startNs) / NS;
  const step = onto.rate.den / onto.rate.num;
  const rate = hz(own.rate);
  let value = input.last;
  for (let i = 0; i < n; i++) {
    const index = Math.floor((offset + (onto.first + i) * step) * rate + 1e-6) - own.first;
    if (index >= 0 && own.count > 0) value = input.value[Math.min(index, own.count - 1)];
    out[i] = value;
  }
}
