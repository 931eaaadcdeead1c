import { randomUUID } from 'node:crypto';
import { asFarrierError, badInput, conflict, notFound, type FarrierError } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { sentenceText } from '$core/sentence/sentence';
import { unitConversion } from '$core/units/units';
import { cellText, columnOf, readCell, type CellChange, type Comma } from '$contract/columns';
import {
  Channel as ChannelSchema,
  changeSettings,
  channelKind,
  checkSettings,
  commonOf,
  roleOf,
  type Channel,
} from '$contract/channel';
import { findUnitKind } from '$contract/units/kinds';
import * as store from '$store/entities';
import { jobOf, type App } from '../app';
import { BENCH, change, channelsOf, namesOf } from './change';
import { checkFormula, followNames, userOf } from './formulas';

/** What can be changed of a channel at once. */
export interface ChannelChange extends CellChange {
  colour?: number;
  wire?: Channel['wire'];
}

function checkChannel(channel: unknown): Channel {
  const parsed = ChannelSchema.safeParse(channel, { reportInput: true });
  if (parsed.success) return parsed.data;
  const issue = parsed.error.issues[0];
  throw badInput(String(issue.path[0] ?? 'channel'), issue.input, issue.message);
}

/** A channel with a change made, checked for itself and against the others.
 *  @param others all channels of the job, as they will be @throws `bad_input`, `conflict` with field and reason */
function changed(app: App, before: Channel, edit: ChannelChange, others: Channel[]): Channel {
  const { terminal, settings, scale, ...plain } = edit;
  const kind = channelKind(before.kind);
  let wire = plain.wire === undefined ? before.wire : plain.wire;
  if (terminal !== undefined && wire) wire = { ...wire, terminal };
  if (wire && JSON.stringify(wire) !== JSON.stringify(before.wire)) checkWire(app, wire, before, others);
  const after = checkChannel({
    ...before,
    ...plain,
    wire,
    scale: scale === undefined ? before.scale : scaleOf(app, before, scale),
    settings: settings ? changeSettings(kind, before.settings, settings) : before.settings,
  });
  if (after.tare && commonOf(after).unit !== commonOf(before).unit) after.tare = tareIn(before, after);
  if (after.name !== before.name && others.some((c) => c.id !== before.id && c.name === after.name))
    throw conflict('name', `There is a channel “${after.name}” already.`, 'Give it another name.');
  if (after.kind === 'computed') checkFormula(after, others);
  return after;
}

/** A tare is a distance: it scales with the unit, without the offset of a temperature scale. */
function tareIn(before: Channel, after: Channel): number {
  const { factor } = unitConversion(commonOf(before).unit, commonOf(after).unit);
  return Number((before.tare * factor).toPrecision(9));
}

function scaleOf(app: App, channel: Channel, name: string) {
  if (name === '') return null;
  const scales = store.listScales(app.db, jobOf(app).id);
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

/** @throws `conflict` when the terminal is taken or does not accept the channel's kind */
function checkWire(app: App, wire: NonNullable<Channel['wire']>, channel: Channel, others: Channel[]): void {
  const taken = others.find(
    (c) => c.id !== channel.id && c.wire?.unit === wire.unit && c.wire.terminal === wire.terminal,
  );
  if (taken && channelKind(taken.kind).accepts.join() === channelKind(channel.kind).accepts.join())
    throw conflict('terminal', `“${taken.name}” is wired to ${wire.terminal}.`, 'Choose a free terminal.');
  const unit = app.live.status.units.find((u) => u.description.serial === wire.unit)?.description;
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

/** Makes edits of several channels as one change: all or nothing. New names are followed by formulas.
 *  @throws `bad_input`, `conflict` naming the channel */
export async function editChannels(
  app: App,
  edits: { id: string; edit: ChannelChange }[],
  by = BENCH,
  says?: string,
): Promise<Channel[]> {
  const channels = channelsOf(app);
  const next = new Map(channels.map((c) => [c.id, c]));
  const done: Channel[] = [];
  for (const { id, edit } of edits) {
    const before = next.get(id);
    if (!before) throw notFound('channel', id);
    const after = changed(app, before, edit, [...next.values()]);
    next.set(id, after);
    if (after.name !== before.name)
      for (const user of followNames([...next.values()], new Map([[before.name, after.name]])))
        next.set(user.id, user);
    done.push(after);
  }
  for (const c of next.values()) if (c.kind === 'computed') recheck(c, [...next.values()], done);
  const touched = channels.flatMap((c) => (next.get(c.id) === c ? [] : [next.get(c.id)!]));
  if (touched.length === 0) return done;
  const single = edits.length === 1 ? done[0] : null;
  await change(
    app,
    { channels: touched },
    'channel',
    single?.id ?? '',
    says ??
      (single
        ? `${single.name}: ${sentenceText(channelKind(single.kind).sentence, single.settings, namesOf([...next.values()]))}`
        : `Changed ${done.length} channels: ${done
            .slice(0, 4)
            .map((c) => c.name)
            .join(', ')}${done.length > 4 ? ' …' : ''}.`),
    by,
  );
  return done.map((c) => next.get(c.id)!);
}

/** A formula that used a changed channel still has to fit its unit. */
function recheck(channel: Channel, channels: Channel[], changes: Channel[]): void {
  if (!changes.some((c) => String(channel.settings.formula).includes(`"${c.name}"`))) return;
  try {
    checkFormula(channel, channels);
  } catch (error) {
    const fault = asFarrierError(error, channel.name);
    throw conflict(
      channel.name,
      `Its formula would not fit any more. ${fault.text.what}`,
      'Change the formula first.',
    );
  }
}

/** Changes a channel: settings are checked as a whole, a new unit converts limits, a new name is followed by formulas.
 *  @throws `bad_input` with field and reason, `conflict` for a name in use or a running take */
export async function editChannel(app: App, id: string, edit: ChannelChange, by = BENCH): Promise<Channel> {
  const [after] = await editChannels(app, [{ id, edit }], by);
  return after;
}

/** One cell of the channel table as it was pasted or typed. */
export interface Cell {
  id: string;
  key: string;
  text: string;
}
export interface CellResult extends Cell {
  channel: string;
  column: string;
  before: string;
  /** As it will stand; null where it is refused. */
  after: string | null;
  fault: string | null;
}

/** Reads cells into channels. Cells that stand as they are, are left out. With `apply` those that were understood are made, as one change.
 *  @returns what becomes of each cell, and why not */
export async function writeCells(
  app: App,
  cells: Cell[],
  comma: Comma | null,
  apply: boolean,
  by = BENCH,
): Promise<CellResult[]> {
  const channels = channelsOf(app);
  const next = new Map(channels.map((c) => [c.id, c]));
  const edits: { id: string; edit: ChannelChange }[] = [];
  const results = cells.flatMap((cell): CellResult[] => {
    const before = next.get(cell.id);
    if (!before) throw notFound('channel', cell.id);
    const said = {
      ...cell,
      channel: before.name,
      column: columnOf(cell.key)?.label ?? cell.key,
      before: cellText(before, cell.key),
    };
    if (cell.text.trim() === said.before) return [];
    try {
      const edit = readCell(before, cell.key, cell.text, comma);
      const after = changed(app, before, edit, [...next.values()]);
      next.set(cell.id, after);
      edits.push({ id: cell.id, edit });
      const shown = cellText(after, cell.key);
      return shown === said.before ? [] : [{ ...said, after: shown, fault: null }];
    } catch (error) {
      const { text } = asFarrierError(error, before.name) as FarrierError;
      return [{ ...said, after: null, fault: [text.what, text.next].filter(Boolean).join(' ') }];
    }
  });
  const good = results.filter((r) => r.fault === null);
  if (apply && good.length) {
    const columns = [...new Set(good.map((r) => r.column))];
    await editChannels(
      app,
      edits,
      by,
      `${good.length === 1 ? `${good[0].channel}: ${good[0].column} ${good[0].after}` : `Wrote ${good.length} cells of ${new Set(good.map((r) => r.id)).size} channels: ${columns.slice(0, 5).join(', ')}`}.`,
    );
  }
  return results;
}

export interface NewChannel {
  name: string;
  kind: string;
  wire: Channel['wire'];
  group?: string;
  settings?: Record<string, unknown>;
  sensorSerial?: string;
}

/** Adds channels on free terminals, or computed ones, with their kinds' usual settings and what the terminal's sheet says, as one change.
 *  @throws `conflict` when a terminal or name is taken, `bad_input` */
export async function addChannels(app: App, inputs: NewChannel[], by = BENCH): Promise<Channel[]> {
  const all = channelsOf(app);
  const made: Channel[] = [];
  for (const input of inputs) {
    const kind = channelKind(input.kind);
    if (!input.wire && roleOf({ kind: input.kind }) !== 'computed')
      throw badInput('terminal', null, 'Choose the terminal it is wired to.');
    const channel = checkChannel({
      id: randomUUID(),
      name: input.name,
      group: input.group ?? '',
      kind: kind.kind,
      wire: input.wire,
      sensorSerial: input.sensorSerial ?? '',
      colour: all.length,
      scale: null,
      settings: checkSettings(kind, {
        ...kind.defaults,
        ...sheetSettings(app, input, kind.kind),
        ...formulaSettings(input, all),
        ...input.settings,
      }),
      calibration: null,
      tare: 0,
    });
    if (all.some((c) => c.name === channel.name))
      throw conflict('name', `There is a channel “${channel.name}” already.`, 'Give it another name.');
    if (channel.wire) {
      const taken = all.find(
        (c) => c.wire?.unit === channel.wire!.unit && c.wire.terminal === channel.wire!.terminal,
      );
      if (taken)
        throw conflict(
          'terminal',
          `“${taken.name}” is wired to ${channel.wire.terminal}.`,
          'Choose a free terminal.',
        );
      checkWire(app, channel.wire, channel, all);
    }
    if (channel.kind === 'computed') checkFormula(channel, all);
    all.push(channel);
    made.push(channel);
  }
  const [first] = made;
  const says =
    made.length === 1
      ? `Added ${first.name}${first.wire ? ` on ${first.wire.terminal}` : ''}: ${sentenceText(channelKind(first.kind).sentence, first.settings, namesOf(all))}`
      : `Added ${made.length} channels: ${made
          .slice(0, 4)
          .map((c) => c.name)
          .join(', ')}${made.length > 4 ? ' …' : ''}.`;
  await change(app, { channels: made }, 'channel', made.length === 1 ? first.id : '', says, by);
  return made;
}

export const addChannel = async (app: App, input: NewChannel, by = BENCH): Promise<Channel> =>
  (await addChannels(app, [input], by))[0];

/** A computed channel is in the unit that its formula gives, over the range of an input in that unit. */
function formulaSettings({ kind, settings }: NewChannel, channels: Channel[]): Record<string, unknown> {
  if (kind !== 'computed' || typeof settings?.formula !== 'string' || settings.unit !== undefined) return {};
  const { inputs, usualUnit } = compileExpression(settings.formula);
  const byName = new Map(channels.map((c) => [c.name, c]));
  if (!inputs.every((name) => byName.has(name))) return {}; // said by the check of the formula
  const unit = usualUnit((name) => commonOf(byName.get(name)!).unit);
  const alike = inputs.map((name) => commonOf(byName.get(name)!)).find((c) => c.unit === unit);
  return { unit, range: alike?.range ?? { min: 0, max: unit === 'yes/no' ? 1 : 100 } };
}

/** What a terminal says of its number (scaling, unit, range), and the gap that its source row asks for. */
function sheetSettings(app: App, { wire }: NewChannel, kind: string): Record<string, unknown> {
  const unit = app.live.status.units.find((u) => u.description.serial === wire?.unit)?.description;
  const module = unit?.modules.find((m) => m.terminals.some((t) => t.id === wire?.terminal));
  if (!unit || !module || !wire) return {};
  const sheet = module.terminals.find((t) => t.id === wire.terminal)!.sheet ?? {};
  const { defaults, sentence } = channelKind(kind);
  const known = (key: string) => key in sentence.schema.shape;
  const usual = defaults.rateHz as number;
  const rates = module.ratesHz;
  const source = store
    .listUnits(app.db)
    .find((u) => u.serial === wire.unit && findUnitKind(u.kind)?.sources)
    ?.config.sources.find((s) => wire.terminal.endsWith(`/${s.id}`));
  return {
    ...(known('slope') && sheet.slope !== undefined && { slope: sheet.slope }),
    ...(known('offset') && sheet.offset !== undefined && { offset: sheet.offset }),
    ...(sheet.unit !== undefined && { unit: sheet.unit }),
    ...(sheet.min !== undefined &&
      sheet.max !== undefined &&
      sheet.min < sheet.max && { range: { min: sheet.min, max: sheet.max } }),
    ...(known('rest') &&
      sheet.min !== undefined &&
      sheet.max !== undefined && { rest: Math.min(sheet.max, Math.max(sheet.min, 0)) }),
    ...(known('timeout') && typeof source?.timeout === 'number' && { timeout: source.timeout }),
    ...(rates.length &&
      !rates.includes(usual) && { rateHz: rates.find((r) => r >= usual) ?? rates[rates.length - 1] }),
  };
}

/** @throws `not_found`, `conflict` when a formula needs one that would be gone */
export async function removeChannels(app: App, ids: string[], by = BENCH): Promise<void> {
  const channels = channelsOf(app);
  const gone = ids.map((id) => {
    const channel = channels.find((c) => c.id === id);
    if (!channel) throw notFound('channel', id);
    return channel;
  });
  const names = gone.map((c) => c.name);
  const user = userOf(channels, names);
  if (user) {
    const used = names.find((n) => String(user.settings.formula).includes(`"${n}"`))!;
    throw conflict('channel', `“${user.name}” is computed from “${used}”.`, 'Change its formula first.');
  }
  await change(
    app,
    { drop: { channels: ids } },
    'channel',
    ids.length === 1 ? ids[0] : '',
    gone.length === 1
      ? `Removed ${names[0]}.`
      : `Removed ${gone.length} channels: ${names.slice(0, 4).join(', ')}${gone.length > 4 ? ' …' : ''}.`,
    by,
  );
}

export const removeChannel = (app: App, id: string, by = BENCH) => removeChannels(app, [id], by);

/** Puts the channels into an order. @throws `bad_input` when one is missing or named twice */
export async function orderChannels(app: App, ids: string[], by = BENCH): Promise<void> {
  const now = channelsOf(app).map((c) => c.id);
  if (ids.length !== now.length || new Set(ids).size !== ids.length || !ids.every((id) => now.includes(id)))
    throw badInput(
      'order',
      `${ids.length} channels`,
      'Name each channel once; open the page again if others changed it.',
    );
  await change(app, { order: ids }, 'channel', '', 'Put the channels into another order.', by);
}

/** Accepts something found for a channel (such as a calibration) as one change. */
export const replaceChannel = (app: App, after: Channel, says: string, by: string) =>
  change(app, { channels: [after] }, 'channel', after.id, says, by);
