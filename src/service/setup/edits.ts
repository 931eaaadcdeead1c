import { asFarrierError, badInput, conflict, FarrierError } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { unitConversion } from '$core/quantities/quantities';
import {
  Channel as ChannelSchema,
  changeSettings,
  channelKind,
  commonOf,
  conversionOf,
  roleOf,
  type Channel,
} from '$contract/channel';
import type { CellChange } from '$contract/columns';
import { ChannelName } from '$contract/name-text';
import type { Scale } from '$contract/scale';
import type { UnitState } from '$contract/unit';
import { checkFormula, followNames } from './formulas';
import { followInFormulas } from './follow-units';

/** What can be changed of a channel at once. */
export interface ChannelChange extends CellChange {
  colour?: number;
  wire?: Channel['wire'];
}

/** One edit of a block: read from the channel as it stands once its unit is the new one. */
export interface Edit {
  id: string;
  /** Units come first: other numbers of the block may be written in them. */
  unit: boolean;
  read: (channel: Channel) => ChannelChange;
}

/** What edits are checked against. */
export interface EditWorld {
  channels: Channel[];
  scales: Scale[];
  units: UnitState[];
}

export interface Edited {
  /** All channels as they would be, in their order. */
  channels: Channel[];
  /** What is refused, by the place of the edit in the block; all else goes together. */
  refused: Map<number, FarrierError>;
}

/** Makes a block of edits, all at once: two names or terminals may be exchanged, a formula may use names that come with the same block. What
 *  cannot be is found out edit by edit; the others are what they would be without it. The same function decides what is shown before and
 *  what is written. */
export function makeEdits(world: EditWorld, edits: readonly Edit[]): Edited {
  const refused = new Map<number, FarrierError>();
  for (;;) {
    const before = refused.size;
    const channels = attempt(world, edits, refused);
    if (refused.size === before) return { channels, refused };
  }
}

/** One go at those edits that are not refused yet; finds more that are. */
function attempt(world: EditWorld, edits: readonly Edit[], refused: Map<number, FarrierError>): Channel[] {
  const places = new Map<string, number[]>();
  edits.forEach(({ id }, k) => {
    if (!refused.has(k)) places.set(id, [...(places.get(id) ?? []), k]);
  });
  const refuse = (k: number, error: unknown, where: string) =>
    void (refused.has(k) || refused.set(k, asFarrierError(error, where)));
  /** Which setting of which channel each edit wrote, to lay a fault at its door. */
  const wrote = new Map<string, { k: number; change: ChannelChange }[]>();
  let next = world.channels.map((channel): Channel => {
    const own = places.get(channel.id);
    if (!own) return channel;
    let made = channel;
    for (const k of [...own.filter((i) => edits[i].unit), ...own.filter((i) => !edits[i].unit)]) {
      try {
        const change = edits[k].read(made);
        made = changedAlone(world, made, change);
        wrote.set(channel.id, [...(wrote.get(channel.id) ?? []), { k, change }]);
      } catch (error) {
        refuse(k, error, made.name);
      }
    }
    return made;
  });
  const blame = (id: string, error: unknown, ...keys: (keyof ChannelChange)[]): boolean => {
    const found = (wrote.get(id) ?? []).filter(({ change }) => keys.some((key) => change[key] !== undefined));
    for (const { k } of found) refuse(k, error, id);
    return found.length > 0;
  };
  const former = new Map(world.channels.map((c) => [c.id, c]));

  const renamed = new Map<string, string>();
  for (const c of next) if (former.get(c.id)!.name !== c.name) renamed.set(former.get(c.id)!.name, c.name);
  for (const c of doubles(next, (one) => one.name))
    blame(c.id, conflict('name', `There is a channel “${c.name}” already.`, 'Give it another name.'), 'name');
  const wireOf = ({ wire }: Channel) => wire && `${wire.unit} ${wire.terminal}`;
  for (const c of next) {
    if (!c.wire || wireOf(c) === wireOf(former.get(c.id)!)) continue;
    const taken = next.find(
      (o) =>
        o.id !== c.id &&
        wireOf(o) === wireOf(c) &&
        channelKind(o.kind).accepts.join() === channelKind(c.kind).accepts.join(),
    );
    if (taken)
      blame(
        c.id,
        conflict('terminal', `“${taken.name}” is wired to ${c.wire.terminal}.`, 'Choose a free terminal.'),
        'wire',
        'terminal',
      );
  }

  // Formulas that nobody wrote in this block follow new names and units; those that were written may use either.
  const own = new Set(
    [...wrote].flatMap(([id, list]) =>
      list.some(({ change }) => change.settings?.formula !== undefined) ? [id] : [],
    ),
  );
  const put = (list: Channel[]) => {
    const byId = new Map(list.map((c) => [c.id, c]));
    next = next.map((c) => byId.get(c.id) ?? c);
  };
  const names = new Set(next.map((c) => c.name));
  put(
    followNames(
      next.filter((c) => !own.has(c.id)),
      renamed,
    ),
  );
  put(
    followNames(
      next.filter((c) => own.has(c.id) && usesUnknown(c, names)),
      renamed,
    ),
  );
  put(followInFormulas(world.channels, next, own));

  const touched = new Set(next.filter((c) => former.get(c.id) !== c).map((c) => c.name));
  // What was written first: a fault in it is no fault of what uses it.
  for (const c of [...next.filter((n) => own.has(n.id)), ...next.filter((n) => !own.has(n.id))]) {
    if (roleOf(c) !== 'computed') continue;
    if (former.get(c.id) === c && !usesOneOf(c, touched)) continue;
    try {
      checkFormula(c, next);
    } catch (error) {
      if (blame(c.id, error, 'settings', 'name')) continue;
      const fault = asFarrierError(error, c.name);
      const why = conflict(
        c.name,
        `Its formula would not fit any more. ${fault.text.what}`,
        'Change the formula first.',
      );
      for (const input of next.filter((i) => touched.has(i.name) && usesOneOf(c, new Set([i.name]))))
        blame(input.id, why, 'settings', 'name');
    }
  }
  return next;
}

/** What of several channels has the same key: all but the one that had it before. */
function* doubles(channels: Channel[], keyOf: (c: Channel) => string): Generator<Channel> {
  const byKey = new Map<string, Channel[]>();
  for (const c of channels) byKey.set(keyOf(c), [...(byKey.get(keyOf(c)) ?? []), c]);
  for (const group of byKey.values()) if (group.length > 1) yield* group;
}

const inputsOf = (channel: Channel): string[] => {
  try {
    return compileExpression(String(channel.settings.formula)).inputs;
  } catch {
    return [];
  }
};
const usesOneOf = (channel: Channel, names: ReadonlySet<string>) =>
  inputsOf(channel).some((name) => names.has(name));
const usesUnknown = (channel: Channel, names: ReadonlySet<string>) =>
  inputsOf(channel).some((name) => !names.has(name));

/** A channel with a change made, checked for itself. @throws `bad_input`, `conflict` with field and reason */
function changedAlone(world: EditWorld, before: Channel, edit: ChannelChange): Channel {
  const { terminal, settings, scale, ...plain } = edit;
  if (plain.name !== undefined) plain.name = readName(plain.name);
  const kind = channelKind(before.kind);
  let wire = plain.wire === undefined ? before.wire : plain.wire;
  if (terminal !== undefined && wire) wire = { ...wire, terminal };
  if (wire && JSON.stringify(wire) !== JSON.stringify(before.wire)) checkWire(world.units, wire, before);
  const after = checkChannel({
    ...before,
    ...plain,
    wire,
    scale: scale === undefined ? before.scale : scaleOf(world.scales, before, scale),
    settings: settings ? changeSettings(kind, before.settings, settings) : before.settings,
  });
  if (after.tare && commonOf(after).unit !== commonOf(before).unit) after.tare = tareIn(before, after);
  checkMeaning(after);
  return after;
}

/** A new name of a channel. @throws `bad_input` with the reason */
export function readName(name: string): string {
  const read = ChannelName.safeParse(name);
  if (read.success) return read.data;
  throw badInput('name', name, read.error.issues[0].message);
}

export function checkChannel(channel: unknown): Channel {
  const parsed = ChannelSchema.safeParse(channel, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(String(issue.path[0] ?? 'channel'), issue.input, issue.message);
}

/** A scale or calibration has to measure what the channel's unit measures. @throws `bad_input` naming the channel */
export function checkMeaning(channel: Channel): void {
  if (roleOf(channel) === 'computed') return;
  try {
    conversionOf(channel);
  } catch (error) {
    const { scale, calibration } = channel;
    const { unit } = commonOf(channel);
    const { text } = asFarrierError(error, channel.name);
    const culprit = scale
      ? `its scale “${scale.name}” gives ${scale.unit}`
      : calibration
        ? `its calibration is in ${calibration.unit}`
        : 'its law gives something else';
    throw new FarrierError('bad_input', {
      what: `${channel.name} cannot be read in ${unit}: ${culprit}.`,
      where: 'unit',
      why: text.next ?? text.what,
      next: 'Choose a unit of the same quantity, or take the scale or calibration off the channel first.',
    });
  }
}

/** A tare is a distance: it scales with the unit, without the offset of a temperature scale. */
function tareIn(before: Channel, after: Channel): number {
  const { factor } = unitConversion(commonOf(before).unit, commonOf(after).unit);
  return Number((before.tare * factor).toPrecision(9));
}

function scaleOf(scales: Scale[], channel: Channel, name: string): Scale | null {
  if (name === '') return null;
  const found = scales.find((s) => s.id === name || s.name.toLowerCase() === name.toLowerCase());
  if (!found)
    throw badInput(
      'scale',
      name,
      scales.length ? `There are: ${scales.map((s) => s.name).join(', ')}.` : 'Make the scale first.',
    );
  const kind = channelKind(channel.kind);
  if (!kind.linear || kind.lawUnit !== null)
    throw badInput(
      'scale',
      found.name,
      `A ${channel.kind} has its own law; scales are for voltages, currents, ratios and numbers.`,
    );
  return found;
}

/** @throws `bad_input` when the terminal is not there or does not accept the channel's kind */
export function checkWire(
  units: UnitState[],
  wire: NonNullable<Channel['wire']>,
  channel: Pick<Channel, 'kind'>,
): void {
  const unit = units.find((u) => u.description.serial === wire.unit)?.description;
  if (!unit) return; // not found now: it is checked by the engine when it is
  const at = unit.modules.flatMap((m) => m.terminals).find((t) => t.id === wire.terminal);
  if (!at) throw badInput('terminal', wire.terminal, `${unit.name} has no such terminal.`);
  const { accepts } = channelKind(channel.kind);
  if (!accepts.includes(at.kind))
    throw badInput(
      'terminal',
      wire.terminal,
      `It takes ${at.kind}, not a ${channel.kind}: choose one for ${accepts.join(' or ')}.`,
    );
}
