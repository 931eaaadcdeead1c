import Papa from 'papaparse';
import { asFarrierError, badInput } from '$core/errors';
import { COLUMNS, cellText, type Comma } from '$contract/columns';
import { channelKind, roleOf } from '$contract/channel';
import type { App } from '../app';
import { change, channelsOf } from './change';
import { newChannels, readCells, worldOf, type Cell, type CellResult, type NewChannel } from './channels';

const CSV_KEYS = COLUMNS.filter((c) => c.editable && c.key !== 'wire').map((c) => c.key);

/** The channel list as CSV: a column for each setting that any of them has. */
export function channelsCsv(app: App): string {
  const channels = channelsOf(app);
  const keys = CSV_KEYS.filter((key) => channels.some((c) => cellText(c, key) !== ''));
  const label = (key: string) => COLUMNS.find((c) => c.key === key)!.label;
  return (
    Papa.unparse(
      {
        fields: ['Name', 'Kind', 'Unit of the rig', 'Wired to', ...keys.slice(1).map(label)],
        data: channels.map((c) => [
          c.name,
          c.kind,
          c.wire?.unit ?? '',
          c.wire?.terminal ?? '',
          ...keys.slice(1).map((key) => cellText(c, key).replaceAll('−', '-')),
        ]),
      },
      // A cell that a spreadsheet would run is disarmed; a plain negative number is none.
      { escapeFormulae: /^[=@\t\r]|^[+-](?![\d.])/ },
    ) + '\r\n'
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
  by: string,
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
  // What was disarmed for a spreadsheet is taken as it was.
  for (const row of data)
    for (const [label, value] of Object.entries(row))
      if (/^'[=@+\t\r-]/.test(value ?? '')) row[label] = value.slice(1);
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
          roleOf({ kind }) === 'computed'
            ? null
            : { unit: row['Unit of the rig']?.trim() ?? '', terminal: row['Wired to']?.trim() ?? '' },
        ...(formula && { settings: { formula } }),
      });
      later.push(...written.map((w) => ({ name, ...w })));
    } catch (error) {
      faults.push(`Row ${k + 2}, ${name || 'without a name'}: ${asFarrierError(error, name).text.what}`);
    }
  });
  if (faults.length === 0) {
    try {
      return await takeOver(app, { cells, fresh, later }, comma, apply, by);
    } catch (error) {
      faults.push(asFarrierError(error, 'table').message);
    }
  }
  const { results } = readCells(worldOf(app), cells, comma);
  faults.push(...faultsIn(results));
  return { added: fresh.map((f) => f.name), changed: results.filter((r) => !r.fault).length, faults };
}

const faultsIn = (results: CellResult[]) =>
  results.filter((r) => r.fault).map((r) => `${r.channel}, ${r.column}: ${r.fault}`);

/** New rows and changed cells of a list as one change; nothing while one of them is refused. */
async function takeOver(
  app: App,
  list: { cells: Cell[]; fresh: NewChannel[]; later: { name: string; key: string; text: string }[] },
  comma: Comma | null,
  apply: boolean,
  by: string,
): Promise<CsvPreview> {
  const world = worldOf(app);
  const made = newChannels(app, list.fresh, world.channels);
  const ids = new Map(made.map((c) => [c.name, c.id]));
  const { channels, results } = readCells(
    { ...world, channels: [...world.channels, ...made] },
    [...list.cells, ...list.later.map(({ name, ...w }) => ({ id: ids.get(name)!, ...w }))],
    comma,
  );
  const isNew = new Set(made.map((c) => c.id));
  const faults = faultsIn(results);
  const changed = results.filter((r) => !r.fault && !isNew.has(r.id)).length;
  const preview = { added: made.map((c) => c.name), changed, faults };
  if (!apply || faults.length) return preview;
  const before = new Map(world.channels.map((c) => [c.id, c]));
  await change(
    app,
    { channels: channels.filter((c) => before.get(c.id) !== c) },
    'channel',
    '',
    `Took over a list of channels: ${made.length} added, ${changed} cells changed.`,
    by,
  );
  return preview;
}
