import type { Followed } from '$contract/api/setup';
import { randomUUID } from 'node:crypto';
import { asFarrierError, badInput, conflict, notFound } from '$core/errors';
import { compileExpression } from '$core/expression/expression';
import { sentenceText } from '$core/sentence/sentence';
import { readUnit } from '$core/quantities/quantities';
import { cellText, columnOf, readCell, type Comma } from '$contract/columns';
import { channelKind, checkSettings, commonOf, roleOf, type Channel } from '$contract/channel';
import { findUnitKind } from '$contract/units/kinds';
import * as store from '$store/entities';
import { jobOf, type App } from '../app';
import { checkOrder } from '../check';
import { change, channelsOf, writtenElsewhere } from './change';
import { namesOf } from './patch';
import {
  checkChannel,
  checkMeaning,
  checkWire,
  makeEdits,
  readName,
  type ChannelChange,
  type EditWorld,
} from './edits';
import { followUnits } from './follow-units';
import { checkFormula, userOf } from './formulas';
import { usesOf, type Use } from './uses';

export const worldOf = (app: App): EditWorld => ({
  channels: channelsOf(app),
  scales: store.listScales(app.db, jobOf(app).id),
  units: app.live.status.units,
});

/** Makes edits of several channels as one change: all or nothing. Formulas, rules, plans and boards follow new names and units.
 *  @throws `bad_input`, `conflict` naming the channel */
async function editChannels(
  app: App,
  edits: { id: string; edit: ChannelChange }[],
  by: string,
  says?: string,
): Promise<Channel[]> {
  const world = worldOf(app);
  for (const { id } of edits) if (!world.channels.some((c) => c.id === id)) throw notFound('channel', id);
  const { channels, refused } = makeEdits(
    world,
    edits.map(({ id, edit }) => ({ id, unit: edit.settings?.unit !== undefined, read: () => edit })),
  );
  for (const fault of refused.values()) throw fault;
  await putEdited(app, world.channels, channels, new Set(edits.map((e) => e.id)), by, says);
  const byId = new Map(channels.map((c) => [c.id, c]));
  return edits.map(({ id }) => byId.get(id)!);
}

/** Writes channels as they were edited. */
async function putEdited(
  app: App,
  before: Channel[],
  after: Channel[],
  edited: ReadonlySet<string>,
  by: string,
  says?: string,
): Promise<void> {
  const touched = after.filter((c, k) => c !== before[k]);
  if (touched.length === 0) return;
  const own = touched.filter((c) => edited.has(c.id));
  const single = own.length === 1 ? own[0] : null;
  await change(
    app,
    { channels: touched },
    'channel',
    single?.id ?? '',
    says ??
      (single
        ? `${single.name}: ${sentenceText(channelKind(single.kind).sentence, single.settings, namesOf(after))}`
        : `Changed ${own.length} channels: ${own
            .slice(0, 4)
            .map((c) => c.name)
            .join(', ')}${own.length > 4 ? ' …' : ''}.`),
    by,
  );
}

/** Changes a channel: settings are checked as a whole, a new unit converts limits, a new name is followed by formulas.
 *  @throws `bad_input` with field and reason, `conflict` for a name in use or a running take */
export async function editChannel(app: App, id: string, edit: ChannelChange, by: string): Promise<Channel> {
  const [after] = await editChannels(app, [{ id, edit }], by);
  return after;
}

/** One cell of the grid of channels as it was pasted or typed. */
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

/** What a block of cells makes of channels, cell by cell, and the channels as they would be. */
export function readCells(world: EditWorld, cells: Cell[], comma: Comma | null) {
  const former = new Map(world.channels.map((c) => [c.id, c]));
  const wanted = cells.filter(({ id, key, text }) => {
    const channel = former.get(id);
    if (!channel) throw notFound('channel', id);
    return text.trim() !== cellText(channel, key);
  });
  const { channels, refused } = makeEdits(
    world,
    wanted.map(({ id, key, text }) => ({
      id,
      unit: key === 'unit',
      read: (channel) => readCell(channel, key, text, comma),
    })),
  );
  const byId = new Map(channels.map((c) => [c.id, c]));
  const results = wanted.flatMap((cell, k): CellResult[] => {
    const before = former.get(cell.id)!;
    const said = {
      ...cell,
      channel: before.name,
      column: columnOf(cell.key)?.label ?? cell.key,
      before: cellText(before, cell.key),
    };
    const fault = refused.get(k);
    if (fault)
      return [{ ...said, after: null, fault: [fault.text.what, fault.text.next].filter(Boolean).join(' ') }];
    const after = cellText(byId.get(cell.id)!, cell.key);
    return after === said.before ? [] : [{ ...said, after, fault: null }];
  });
  return { channels, results, edited: new Set(wanted.filter((_, k) => !refused.has(k)).map((c) => c.id)) };
}

/** What is brought along with edited channels. @throws `conflict` naming what cannot be */
export function followsOf(
  app: App,
  before: Channel[],
  after: Channel[],
  edited: ReadonlySet<string>,
): Followed[] {
  const formulas = after.flatMap((c, k): Followed[] =>
    edited.has(c.id) || c === before[k]
      ? []
      : [
          {
            what: `Formula of ${c.name}`,
            before: String(before[k].settings.formula),
            after: String(c.settings.formula),
          },
        ],
  );
  return [...formulas, ...followUnits(before, after, writtenElsewhere(app)).followed];
}

export interface NewChannel {
  name: string;
  kind: string;
  wire: Channel['wire'];
  group?: string;
  settings?: Record<string, unknown>;
  sensorSerial?: string;
}

/** New channels on free terminals, or computed ones, with their kinds' usual settings and what the terminal's sheet says; nothing is written.
 *  @param present those there are @throws `conflict` when a terminal or name is taken, `bad_input` */
export function newChannels(app: App, inputs: NewChannel[], present: Channel[]): Channel[] {
  const all = [...present];
  const made: Channel[] = [];
  for (const input of inputs) {
    const kind = channelKind(input.kind);
    if (!input.wire && roleOf({ kind: input.kind }) !== 'computed')
      throw badInput('terminal', null, 'Choose the terminal it is wired to.');
    const channel = checkChannel({
      id: randomUUID(),
      name: readName(input.name),
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
      checkWire(app.live.status.units, channel.wire, channel);
    }
    checkMeaning(channel);
    if (roleOf(channel) === 'computed') checkFormula(channel, all);
    all.push(channel);
    made.push(channel);
  }
  return made;
}

/** Adds channels as one change. @throws as newChannels, `conflict` while a take runs */
export async function addChannels(app: App, inputs: NewChannel[], by: string): Promise<Channel[]> {
  const present = channelsOf(app);
  const made = newChannels(app, inputs, present);
  const all = [...present, ...made];
  const [first] = made;
  const says =
    made.length === 1
      ? `Added ${first.name}${first.wire ? ` on ${first.wire.terminal}` : ''}: ${sentenceText(channelKind(first.kind).sentence, first.settings, namesOf(all))}`
      : `Added ${made.length} channels: ${made
          .slice(0, 4)
          .map((c) => c.name)
          .join(', ')}${made.length > 4 ? ' …' : ''}.`;
  const odd = unreadUnits(app, inputs);
  const asks = odd.length
    ? ` ${odd
        .slice(0, 5)
        .map((o) => `${o.name} has “${o.unit}” for a unit`)
        .join(', ')}${odd.length > 5 ? ' …' : ''}: read as a bare number until you give it one.`
    : '';
  await change(app, { channels: made }, 'channel', made.length === 1 ? first.id : '', says + asks, by);
  return made;
}

export const addChannel = async (app: App, input: NewChannel, by: string): Promise<Channel> =>
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
    ...(sheet.unit !== undefined && known('unit') && { unit: readable(sheet.unit) }),
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

/** What would stop working without channels. @throws `not_found`, `conflict` when a formula needs one that would be gone */
export const channelUses = (app: App, ids: string[]): Use[] => {
  leaving(app, ids);
  return usesOf(ids, channelsOf(app), writtenElsewhere(app));
};

/** A unit as a description gives it; “1” for what is none, so that one odd word does not keep all the others away. */
function readable(unit: string): string {
  try {
    return readUnit(unit);
  } catch {
    return '1';
  }
}

/** Signals whose unit in the description is no unit, or can be meant in two ways: each is to be asked about. */
function unreadUnits(app: App, inputs: NewChannel[]): { name: string; unit: string; why: string }[] {
  return inputs.flatMap(({ name, wire, settings }) => {
    const terminal = app.live.status.units
      .find((u) => u.description.serial === wire?.unit)
      ?.description.modules.flatMap((m) => m.terminals)
      .find((t) => t.id === wire!.terminal);
    const unit = terminal?.sheet?.unit;
    if (!unit || settings?.unit !== undefined) return [];
    try {
      readUnit(unit);
      return [];
    } catch (error) {
      return [{ name, unit, why: asFarrierError(error, name).text.next ?? '' }];
    }
  });
}

/** @throws `not_found`, `conflict` when a formula needs one that would be gone */
function leaving(app: App, ids: string[]): Channel[] {
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
  return gone;
}

/** Takes channels away. @param anyway whether it is known what stops working
 *  @throws `not_found`, `conflict` when a formula needs one of them, or something else uses one and that is not known */
export async function removeChannels(app: App, ids: string[], by: string, anyway = false): Promise<void> {
  const gone = leaving(app, ids);
  const names = gone.map((c) => c.name);
  const uses = usesOf(ids, channelsOf(app), writtenElsewhere(app));
  if (uses.length && !anyway)
    throw conflict(
      'channel',
      `${names.length === 1 ? names[0] : `${names.length} channels`}: ${uses
        .slice(0, 3)
        .map((u) => `${u.what} uses it. ${u.after}`)
        .join(' ')}`,
      'Change these first, or remove it all the same.',
    );
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

export const removeChannel = (app: App, id: string, by: string, anyway = false) =>
  removeChannels(app, [id], by, anyway);

/** Puts the channels into an order. @throws `bad_input` when one is missing or named twice */
export async function orderChannels(app: App, ids: string[], by: string): Promise<void> {
  checkOrder('channel', ids, channelsOf(app));
  await change(app, { order: ids }, 'channel', '', 'Put the channels into another order.', by);
}

/** Accepts something found for a channel (such as a calibration) as one change. */
export const replaceChannel = (app: App, after: Channel, says: string, by: string) =>
  change(app, { channels: [after] }, 'channel', after.id, says, by);
