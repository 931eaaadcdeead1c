import { channelKind } from '$contract/channel';
import { FarrierError, badInput, conflict, notFound } from '$core/errors';
import { checkSource, checkUnitSettings, newUnit, type UnitConfig } from '$contract/units/config';
import { findUnitKind } from '$contract/units/kinds';
import type { KnownUnit } from '$contract/engine';
import type { Heard, Probe, SelfTest, TryOut } from '$contract/unit';
import type { Clue } from '$contract/clues';
import { nameText } from '$contract/name-text';
import { wiringClues } from '$contract/clues';
import { proposeSplits, type LineProposals } from '$core/lines/split';
import { listUnits } from '$store/entities';
import { randomUUID } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { log, type App } from './app';
import { check } from './check';
import { change, channelsOf, uploadPath } from './setup/change';

/** @throws `not_found` */
export function unitOf(app: App, serial: string): KnownUnit {
  const found = listUnits(app.db).find((u) => u.serial === serial);
  if (!found) throw notFound('unit', serial);
  return found;
}

/** A unit as the page gets it: without the text of its database and without secrets. */
export function shownUnit(unit: KnownUnit): KnownUnit {
  const { database, settings } = unit.config;
  return {
    ...unit,
    config: {
      ...unit.config,
      database: database && { name: database.name, text: '' },
      settings:
        'password' in settings ? { ...settings, password: settings.password ? '••••' : '' } : settings,
    },
  };
}

/** Adds a unit of a kind, with its kind's usual settings. @throws `not_found` for a kind that is not in the catalogue */
export async function addUnit(app: App, kind: string, by: string): Promise<KnownUnit> {
  const unit = await newUnit(kind, listUnits(app.db));
  await change(app, { units: [unit] }, 'unit', unit.serial, `Added ${unit.name}, ${unit.serial}.`, by);
  return shownUnit(unit);
}

export interface UnitEdit {
  name?: string;
  settings?: Record<string, unknown>;
  sources?: Record<string, unknown>[];
  database?: { name: string; text: string } | null;
}

/** Renames a unit, sets it up differently or gives it another address; its channels stay. @throws `bad_input` with field and reason */
export async function editUnit(app: App, serial: string, edit: UnitEdit, by: string): Promise<KnownUnit> {
  const before = unitOf(app, serial);
  const config: UnitConfig = { ...before.config };
  if (edit.settings)
    config.settings = checkUnitSettings(before.kind, { ...config.settings, ...edit.settings });
  if (edit.sources)
    config.sources = edit.sources.map((row) =>
      checkSource(before.kind, { id: randomUUID().slice(0, 8), ...row }),
    );
  if (edit.database !== undefined)
    config.database = edit.database && (await checkDatabase(app, before.kind, edit.database));
  const name = edit.name === undefined ? before.name : check(nameText(60), edit.name);
  const after = { ...before, name, config };
  const said =
    edit.name !== undefined
      ? `Unit ${serial} is called “${name}”.`
      : edit.database
        ? `${name}: took over ${edit.database.name}.`
        : `${name} was set up differently.`;
  await change(app, { units: [after] }, 'unit', serial, said, by);
  return shownUnit(after);
}

/** Off the main thread: a large description must not hold up what is measured. @throws `damaged` naming the line */
async function checkDatabase(
  app: App,
  kind: string,
  database: { name: string; text: string },
): Promise<{ name: string; text: string }> {
  const name = database.name.replace(/[^\p{L}\p{N} ._-]/gu, '').slice(0, 120) || 'database';
  if (!findUnitKind(kind)?.database) throw badInput('file', name, 'This unit takes no description file.');
  const outcome = await app.workers.do('checkDatabase', { kind, name, text: database.text });
  if ('fault' in outcome) throw new FarrierError('damaged', outcome.fault);
  return { name, text: database.text };
}

/** Takes a unit off the list; its channels stay and say that it is missing, until it is added again or they are wired elsewhere. */
export async function removeUnit(app: App, serial: string, by: string): Promise<void> {
  const unit = unitOf(app, serial);
  const wired = channelsOf(app).filter((c) => c.wire?.unit === serial).length;
  await change(
    app,
    { drop: { units: [serial] } },
    'unit',
    serial,
    `Removed ${unit.name}${wired ? `; ${wired} channels were wired to it` : ''}.`,
    by,
  );
}

/** A unit was exchanged for another of its kind: the channels go over to it. @throws `conflict` when the kinds differ */
export async function replaceUnit(app: App, from: string, to: string, by: string): Promise<void> {
  const [old, fresh] = [unitOf(app, from), unitOf(app, to)];
  if (old.kind !== fresh.kind)
    throw conflict(
      'unit',
      `${old.name} is a ${old.kind}, ${fresh.name} a ${fresh.kind}.`,
      'Choose one of the same kind.',
    );
  const channels = channelsOf(app);
  if (channels.some((c) => c.wire?.unit === to))
    throw conflict('unit', `Channels are wired to ${fresh.name} already.`, 'Choose one that is free.');
  const moved = channels
    .filter((c) => c.wire?.unit === from)
    .map((c) => ({ ...c, wire: { ...c.wire!, unit: to } }));
  await change(
    app,
    { channels: moved },
    'unit',
    to,
    `${moved.length} channels went from ${old.name} to ${fresh.name}.`,
    by,
  );
}

/** Keeps an uploaded recording and lets the unit play it. @throws `bad_input`, `damaged` */
export async function playFile(
  app: App,
  serial: string,
  name: string,
  content: Buffer,
  by: string,
): Promise<KnownUnit> {
  const unit = unitOf(app, serial);
  const plays = findUnitKind(unit.kind)?.plays;
  if (!plays) throw badInput('file', name, 'This unit plays no files.');
  await plays.check(content, name);
  const ending = plays.endings.find((e) => name.toLowerCase().endsWith(`.${e}`)) ?? plays.endings[0];
  const stored = `${randomUUID()}.${ending}`;
  mkdirSync(join(app.folder, 'files'), { recursive: true });
  writeFileSync(uploadPath(app, stored), content);
  const after = {
    ...unit,
    config: { ...unit.config, settings: { ...unit.config.settings, source: `file:${stored}` } },
  };
  await change(app, { units: [after] }, 'unit', serial, `${unit.name} plays ${name}.`, by);
  return shownUnit(after);
}

const ask = <T>(app: App, command: Parameters<App['engine']['command']>[0]) =>
  app.engine.command(command) as Promise<T>;

/** One look at a terminal, with signs of wrong wiring. */
export async function probe(app: App, serial: string, terminal: string): Promise<Probe & { clues: Clue[] }> {
  const found = await ask<Probe>(app, { do: 'probe', unit: serial, terminal });
  const channels = channelsOf(app).filter((c) => c.wire?.unit === serial);
  const channel = channels.find((c) => c.wire!.terminal === terminal) ?? null;
  const [module] = terminal.split('/');
  return {
    ...found,
    clues: wiringClues({
      channel,
      probe: found,
      state: channel ? app.live.state(channel.id) : 'not measured',
      recent: channel ? app.live.rawMeans(channel.id, 60) : [],
      neighbours: channels
        .filter(
          (c) =>
            c !== channel && channelKind(c.kind).needsJunction && c.wire!.terminal.startsWith(`${module}/`),
        )
        .map((c) => ({ name: c.name, recent: app.live.rawMeans(c.id, 60) })),
    }),
  };
}

export const heard = (app: App, serial: string) => ask<Heard[]>(app, { do: 'heard', unit: serial });
export const busLog = (app: App, serial: string) => ask<string>(app, { do: 'log', unit: serial });
export const serialPorts = (app: App) => ask<{ path: string; says: string }[]>(app, { do: 'ports' });

/** How the lines that have arrived can be taken apart, the way that fits best first, and the last lines beside which its values stand.
 *  @throws `not_found` when none has a number */
export async function proposeLines(app: App, serial: string): Promise<LineProposals> {
  const lines = (await heard(app, serial)).map((h) => h.text);
  const choices = proposeSplits(lines);
  if (choices.length === 0)
    throw notFound(
      'number',
      lines.length ? `in the last ${lines.length} lines` : 'because no line has arrived yet',
    );
  return { choices, lines: lines.filter((l) => l.trim() !== '').slice(-choices[0].rows.length) };
}

/** Tries a unit out; every act is a line of the logbook. @throws `conflict` while a take is armed or recorded */
export async function tryOut(
  app: App,
  serial: string,
  terminal: string,
  act: TryOut,
  by: string,
): Promise<void> {
  await ask(app, { do: 'try out', unit: serial, terminal, act });
  const { set, ...rest } = act as { set: string } & Record<string, unknown>;
  log(
    app,
    'unit',
    `Tried out ${terminal} of ${unitOf(app, serial).name}: ${[set, ...Object.entries(rest).map(([k, v]) => `${k} ${String(v)}`)].join(', ')}.`,
    { by },
  );
}

/** @throws `conflict` while a take is armed or recorded */
export async function selfTest(app: App, serial: string, by: string): Promise<SelfTest> {
  const result = await ask<SelfTest>(app, { do: 'self-test', unit: serial });
  const bad = result.checks.filter((c) => !c.ok);
  log(
    app,
    'unit',
    `Self-test of ${unitOf(app, serial).name}: ${result.ok ? 'passed' : bad.map((c) => `${c.what}: ${c.says}`).join('; ')}.`,
    { by },
  );
  return result;
}

/** @throws `conflict` while a take is armed or recorded */
export async function resetUnit(app: App, serial: string, by: string): Promise<void> {
  await ask(app, { do: 'reset', unit: serial });
  log(
    app,
    'unit',
    `${unitOf(app, serial).name} was reset: outputs at rest, lines as inputs, counts from 0.`,
    { by },
  );
}

/** Sends a line or frame by hand. @throws `bad_input`, `not_allowed`, `conflict` */
export async function send(app: App, serial: string, text: string, by: string): Promise<void> {
  await ask(app, { do: 'send', unit: serial, text });
  log(app, 'unit', `Sent through ${unitOf(app, serial).name}: ${text}`, { by });
}
