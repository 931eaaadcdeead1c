import { randomUUID } from 'node:crypto';
import Papa from 'papaparse';
import { asFarrierError, badInput, damaged } from '$core/errors';
import { COLUMNS, cellText, type Comma } from '$contract/columns';
import { channelKind, checkSettings, type Channel } from '$contract/channel';
import { checkScale } from '$contract/scale';
import {
  SETUP_FORMAT,
  SETUP_VERSION,
  SetupFile,
  type ImportPreview,
  type UnitMapping,
} from '$contract/setup-file';
import { findUnitKind } from '$contract/units/kinds';
import * as store from '$store/entities';
import { jobOf, type App } from '../app';
import { BENCH, change, channelsOf, idle, type SetupPatch } from './change';
import { addChannels, writeCells, type Cell, type NewChannel } from './channels';
import { checkFormula } from './formulas';

const MAX_CHARACTERS = 30_000_000;

/** The job's set-up with all it depends on, as a file. Passwords stay behind. */
export function exportSetup(app: App): SetupFile {
  const job = jobOf(app);
  const channels = store.listChannels(app.db, job.id);
  const named = store.jobPlan(app.db, job.id)!;
  const wired = new Set(channels.map((c) => c.wire?.unit));
  const serials = new Set(channels.map((c) => c.sensorSerial));
  const withoutSecrets = (settings: Record<string, unknown>) =>
    'password' in settings ? { ...settings, password: '' } : settings;
  return {
    format: SETUP_FORMAT,
    version: SETUP_VERSION,
    writtenAt: new Date().toISOString(),
    job: { name: job.name, place: job.place },
    units: store
      .listUnits(app.db)
      .filter((u) => wired.has(u.serial))
      .map((u) => ({ ...u, config: { ...u.config, settings: withoutSecrets(u.config.settings) } })),
    scales: store.listScales(app.db, job.id),
    sensors: store.listSensors(app.db).filter((s) => serials.has(s.serial)),
    channels,
    plan: { name: named.name, plan: named.plan },
    rules: store.listRules(app.db, job.id).map((r) => r.rule),
    columns: store.getLayout(app.db, job.id, 'channels') as string[] | null,
  };
}

/** Reads a set-up file. @throws `damaged` for what is none, comes from a newer version or breaks a rule, naming the place */
export function readSetup(text: string): SetupFile {
  const where = 'set-up file';
  if (text.length > MAX_CHARACTERS)
    throw damaged(
      where,
      `It has ${Math.round(text.length / 1e6)} MB, more than a set-up can have.`,
      'Choose a file that was exported as a set-up.',
    );
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw damaged(
      where,
      `It is no JSON: ${(error as Error).message.slice(0, 120)}.`,
      'Export it anew; it may have been cut off on its way.',
    );
  }
  const head = value as { format?: unknown; version?: unknown } | null;
  if (head?.format !== SETUP_FORMAT)
    throw damaged(where, 'It is no set-up of Farrier.', 'Choose a file that was exported as a set-up.');
  if (typeof head.version === 'number' && head.version > SETUP_VERSION)
    throw damaged(
      where,
      `It has version ${head.version}, this program reads up to ${SETUP_VERSION}.`,
      'Open it with a newer version.',
    );
  const parsed = SetupFile.safeParse(value);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw damaged(
      `${where}, ${issue.path.join('.')}`,
      issue.message,
      'Export it anew, or correct this place.',
    );
  }
  const file = parsed.data;
  const ids = new Set(file.channels.map((c) => c.id));
  const names = new Set(file.channels.map((c) => c.name));
  if (ids.size < file.channels.length || names.size < file.channels.length)
    throw damaged(where, 'Two channels have the same name.', 'Rename one in the file.');
  file.channels = file.channels.map((c) => {
    try {
      const kind = channelKind(c.kind);
      return { ...c, settings: checkSettings(kind, { ...kind.defaults, ...c.settings }) };
    } catch (error) {
      const fault = asFarrierError(error, c.name);
      throw damaged(
        `${where}, channel “${c.name}”`,
        fault.text.what,
        fault.text.next ?? 'Correct it in the file.',
      );
    }
  });
  for (const c of file.channels) if (c.kind === 'computed') checkFormula(c, file.channels);
  file.scales.forEach(checkScale);
  for (const u of file.units)
    if (!findUnitKind(u.kind))
      throw damaged(
        `${where}, unit ${u.serial}`,
        `There is no unit of kind “${u.kind}” here.`,
        'Open it with a newer version.',
      );
  return file;
}

/** The file as it would be put into this job: channels that are here by name keep their ids, units go where they are mapped to. */
function fitted(app: App, file: SetupFile, mapping: UnitMapping): { patch: SetupPatch; channels: Channel[] } {
  const present = channelsOf(app);
  const byName = new Map(present.map((c) => [c.name, c]));
  const idOf = new Map(file.channels.map((c) => [c.id, byName.get(c.name)?.id ?? randomUUID()]));
  const scaleNow = new Map(store.listScales(app.db, jobOf(app).id).map((s) => [s.name, s.id]));
  const scales = file.scales.map((s) => ({ ...s, id: scaleNow.get(s.name) ?? randomUUID() }));
  const scaleByOld = new Map(file.scales.map((s, k) => [s.id, scales[k]]));
  const channels = file.channels.map((c) => ({
    ...c,
    id: idOf.get(c.id)!,
    wire: c.wire && { ...c.wire, unit: mapping[c.wire.unit] ?? c.wire.unit },
    scale: c.scale && (scaleByOld.get(c.scale.id) ?? c.scale),
    calibration: c.calibration && { ...c.calibration, id: randomUUID(), channelId: idOf.get(c.id)! },
  }));
  const channelId = (id: string | null) => (id === null ? null : (idOf.get(id) ?? null));
  const { plan } = file.plan;
  const serials = new Set(store.listUnits(app.db).map((u) => u.serial));
  return {
    channels,
    patch: {
      units: file.units.filter((u) => !mapping[u.serial] && !serials.has(u.serial)),
      scales,
      channels,
      plan: {
        id: store.jobPlan(app.db, jobOf(app).id)!.id,
        name: file.plan.name,
        plan: withChannels(plan, channelId),
      },
      rules: file.rules.map((rule) => ({ id: randomUUID(), rule: withChannels(rule, channelId) })),
      drop: { rules: store.listRules(app.db, jobOf(app).id).map((r) => r.id) },
    },
  };
}

/** A plan or rule whose channels go by other ids; one that is not known is left open. */
function withChannels<T>(value: T, idOf: (id: string | null) => string | null): T {
  return JSON.parse(
    JSON.stringify(value, (key, held: unknown) => {
      if (key === 'channel' || key === 'output') return idOf(held as string | null);
      return key === 'channels' ? (held as string[]).flatMap((id) => idOf(id) ?? []) : held;
    }),
  ) as T;
}

/** What importing a file would add, replace and leave, without doing it. @throws `damaged` */
export function previewSetup(app: App, text: string, mapping: UnitMapping): ImportPreview {
  const file = readSetup(text);
  const { channels } = fitted(app, file, mapping);
  const present = channelsOf(app);
  const units = store.listUnits(app.db);
  const byName = new Map(present.map((c) => [c.name, c]));
  const fate = <T>(now: T | undefined, next: T) =>
    now === undefined ? 'added' : JSON.stringify(now) === JSON.stringify(next) ? 'as it is' : 'replaced';
  const sensors = new Map(store.listSensors(app.db).map((s) => [s.serial, s]));
  const scales = new Map(store.listScales(app.db, jobOf(app).id).map((s) => [s.name, s]));
  const incoming = new Set(file.channels.map((c) => c.name));
  return {
    job: `${file.job.name}, written ${file.writtenAt.slice(0, 16).replace('T', ' ')}`,
    units: file.units.map((u) => ({
      serial: u.serial,
      name: u.name,
      kind: u.kind,
      present: units.some((p) => p.serial === u.serial),
      choices: units
        .filter((p) => p.kind === u.kind && p.serial !== u.serial)
        .map(({ serial, name }) => ({ serial, name })),
      takes: mapping[u.serial] ?? null,
    })),
    channels: channels.map((c) => ({ name: c.name, fate: fate(plain(byName.get(c.name)), plain(c)!) })),
    left: present.filter((c) => !incoming.has(c.name)).map((c) => c.name),
    scales: file.scales.map((s) => ({
      name: s.name,
      fate: fate(scales.get(s.name) && { ...scales.get(s.name)!, id: '' }, { ...s, id: '' }),
    })),
    sensors: file.sensors.map((s) => ({
      name: `${s.serial}, ${s.kind}`,
      fate: fate(sensors.get(s.serial), s),
    })),
    plan: file.plan.name,
    rules: file.rules.length,
    faults: wireFaults(app, channels, incoming),
  };
}

/** A channel as far as it matters for being the same. */
const plain = (c: Channel | undefined) =>
  c && {
    ...c,
    colour: 0,
    calibration: c.calibration && { ...c.calibration, id: '', channelId: '' },
    scale: c.scale && { ...c.scale, id: '' },
  };

/** Terminals that a channel of the file and one that stays would both have. */
function wireFaults(app: App, channels: Channel[], incoming: Set<string>): string[] {
  const staying = channelsOf(app).filter((c) => c.wire && !incoming.has(c.name));
  return channels.flatMap((c) => {
    const taken = staying.find((s) => s.wire!.unit === c.wire?.unit && s.wire!.terminal === c.wire?.terminal);
    return taken
      ? [
          `“${c.name}” and “${taken.name}”, which stays, would both be on ${c.wire!.terminal}: remove one, or map the unit elsewhere.`,
        ]
      : [];
  });
}

/** Imports a set-up file whole, as one change that can be undone; or not at all. Sensors go into the drawer.
 *  @throws `damaged`, `conflict` while a take runs, `bad_input` when terminals would be taken twice */
export async function importSetup(app: App, text: string, mapping: UnitMapping, by = BENCH): Promise<void> {
  idle(app);
  const file = readSetup(text);
  const { patch, channels } = fitted(app, file, mapping);
  const faults = wireFaults(app, channels, new Set(file.channels.map((c) => c.name)));
  if (faults.length) throw badInput('terminals', `${faults.length} taken twice`, faults[0]);
  await change(
    app,
    patch,
    'setup',
    '',
    `Imported the set-up of ${file.job.name}: ${channels.length} channels, ${file.units.length} units, ${file.scales.length} scales, ${file.rules.length} rules.`,
    by,
  );
  app.db.transaction(() => {
    for (const s of file.sensors) store.putSensor(app.db, s);
    if (file.columns) store.putLayout(app.db, jobOf(app).id, 'channels', file.columns);
    for (const c of channels) if (c.calibration) store.insertCalibration(app.db, c.calibration);
  });
}

const CSV_KEYS = COLUMNS.filter((c) => c.editable && c.key !== 'wire').map((c) => c.key);

/** The channel list as CSV: a column for each setting that any of them has. */
export function channelsCsv(app: App): string {
  const channels = channelsOf(app);
  const keys = CSV_KEYS.filter((key) => channels.some((c) => cellText(c, key) !== ''));
  const label = (key: string) => COLUMNS.find((c) => c.key === key)!.label;
  return (
    Papa.unparse({
      fields: ['Name', 'Kind', 'Unit of the rig', 'Wired to', ...keys.slice(1).map(label)],
      data: channels.map((c) => [
        c.name,
        c.kind,
        c.wire?.unit ?? '',
        c.wire?.terminal ?? '',
        ...keys.slice(1).map((key) => cellText(c, key).replaceAll('−', '-')),
      ]),
    }) + '\r\n'
  );
}

export interface CsvPreview {
  added: string[];
  changed: number;
  faults: string[];
}

/** Takes a channel list from CSV: known names are changed, others added. Nothing is done while a row is at fault.
 *  @throws `bad_input` when it is no such table */
export async function importChannelsCsv(
  app: App,
  text: string,
  comma: Comma | null,
  apply: boolean,
  by = BENCH,
): Promise<CsvPreview> {
  const { data, meta } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: true,
  });
  if (!meta.fields?.includes('Name'))
    throw badInput(
      'table',
      'without a column “Name”',
      'The first line names the columns, as in an exported list.',
    );
  if (data.length > 5000) throw badInput('table', `${data.length} rows`, 'At most 5000 channels.');
  const byLabel = new Map(COLUMNS.filter((c) => c.editable).map((c) => [c.label, c.key]));
  const byName = new Map(channelsOf(app).map((c) => [c.name, c]));
  const cells: Cell[] = [];
  const fresh: NewChannel[] = [];
  const faults: string[] = [];
  const later: { name: string; key: string; text: string }[] = [];
  data.forEach((row, k) => {
    const name = row.Name?.trim() ?? '';
    const known = byName.get(name);
    const written = Object.entries(row).flatMap(([label, value]) => {
      const key = byLabel.get(label);
      return key && key !== 'name' && key !== 'wire' && value?.trim() ? [{ key, text: value }] : [];
    });
    if (known) {
      cells.push(...written.map((w) => ({ id: known.id, ...w })));
      if (row['Wired to']?.trim() && known.wire)
        cells.push({ id: known.id, key: 'wire', text: row['Wired to'] });
      return;
    }
    const kind = row.Kind?.trim() ?? '';
    const formula = written.find((w) => w.key === 'formula')?.text;
    try {
      channelKind(kind);
      fresh.push({
        name,
        kind,
        wire:
          kind === 'computed'
            ? null
            : { unit: row['Unit of the rig']?.trim() ?? '', terminal: row['Wired to']?.trim() ?? '' },
        ...(formula && { settings: { formula } }),
      });
      later.push(...written.map((w) => ({ name, ...w })));
    } catch (error) {
      faults.push(`Row ${k + 2}, ${name || 'without a name'}: ${asFarrierError(error, name).text.what}`);
    }
  });
  const results = await writeCells(app, cells, comma, false, by);
  faults.push(...results.filter((r) => r.fault).map((r) => `${r.channel}, ${r.column}: ${r.fault}`));
  const preview = {
    added: fresh.map((f) => f.name),
    changed: results.filter((r) => !r.fault).length,
    faults,
  };
  if (!apply || faults.length) return preview;
  // Units first: what else a row says is meant in its unit.
  const ranked = (list: { key: string }[]) =>
    list.sort((a, b) => Number(b.key === 'unit') - Number(a.key === 'unit'));
  if (fresh.length) await addChannels(app, fresh, by);
  const now = new Map(channelsOf(app).map((c) => [c.name, c.id]));
  ranked(later);
  await writeCells(
    app,
    [...cells, ...later.map(({ name, ...w }) => ({ id: now.get(name)!, ...w }))],
    comma,
    true,
    by,
  );
  return preview;
}
