import { badInput } from '$core/errors';
import {
  NO_NAMES,
  fieldText,
  fieldUnit,
  sentenceFields,
  type FieldInfo,
  type SentenceField,
} from '$core/sentence/sentence';
import { convertUnit, readQuantity } from '$core/quantities/quantities';
import { CHANNEL_KINDS } from './kinds/kinds';
import { channelKind, type Channel } from './channel';

/** A column of the grid of channels. */
export interface Column {
  key: string;
  label: string;
  /** Whether its cells can be written; a channel without the field has an empty, closed cell. */
  editable: boolean;
  numeric: boolean;
  width: number;
}

const fixed = (key: string, label: string, width: number, editable = true): Column => ({
  key,
  label,
  editable,
  numeric: false,
  width,
});

const fields = new Map<string, FieldInfo>();
for (const kind of CHANNEL_KINDS)
  for (const { key, info } of sentenceFields(kind.sentence.schema))
    if (!fields.has(key)) fields.set(key, info);

/** Every column there is: what all channels have, then each setting of any kind. */
export const COLUMNS: readonly Column[] = [
  fixed('name', 'Name', 176),
  fixed('group', 'Group', 120),
  fixed('kind', 'Sensor', 122, false),
  fixed('wire', 'Wired to', 84),
  fixed('sensorSerial', 'Sensor no.', 96),
  fixed('now', 'Now', 104, false),
  fixed('share', 'Of range', 98, false),
  fixed('calibration', 'Calibration', 118, false),
  fixed('scale', 'Scale', 120),
  ...[...fields].map(([key, info]): Column => ({
    key,
    label: info.label,
    editable: true,
    numeric: info.editor === 'number',
    width: info.editor === 'range' || info.editor === 'formula' ? 140 : 104,
  })),
];
export const USUAL_COLUMNS = ['name', 'kind', 'wire', 'now', 'share', 'calibration'];
export const columnOf = (key: string) => COLUMNS.find((c) => c.key === key);

/** The setting that a column shows for this channel; undefined where its kind has none of that name. */
export const settingOf = (channel: Channel, key: string): SentenceField | undefined =>
  sentenceFields(channelKind(channel.kind).sentence.schema).find((f) => f.key === key);

/** Text of a cell as it is copied and shown, with its unit; live columns are the page's. */
export function cellText(channel: Channel, key: string): string {
  switch (key) {
    case 'name':
      return channel.name;
    case 'group':
      return channel.group;
    case 'kind':
      return channelKind(channel.kind).title(channel.settings);
    case 'wire':
      return channel.wire?.terminal ?? '';
    case 'sensorSerial':
      return channel.sensorSerial;
    case 'scale':
      return channel.scale?.name ?? '';
  }
  const field = settingOf(channel, key);
  return field ? fieldText(field, channel.settings, NO_NAMES) : '';
}

/** What a pasted or typed cell changes. */
export interface CellChange {
  name?: string;
  group?: string;
  sensorSerial?: string;
  terminal?: string;
  scale?: string;
  settings?: Record<string, unknown>;
}

/** How “2,05” is meant. */
export type Comma = 'decimal sign' | 'between thousands';

/** Whether a text is a number only when one knows what its comma means. */
export const needsComma = (text: string) => /^\s*[+\-−±]?\d+,\d+(\D.*)?$/.test(text);

/** Reads the text of a cell for a channel. @param comma how commas within numbers are meant; null asks
 *  @throws `bad_input` with the reason why the cell cannot take it */
export function readCell(channel: Channel, key: string, text: string, comma: Comma | null): CellChange {
  const plain = text.trim();
  switch (key) {
    case 'name':
      return { name: plain };
    case 'group':
      return { group: plain };
    case 'sensorSerial':
      return { sensorSerial: plain };
    case 'wire':
      if (!channel.wire) throw badInput('Wired to', plain, 'A computed channel has no terminal.');
      return { terminal: plain };
    case 'scale':
      return { scale: plain };
  }
  const column = columnOf(key);
  if (!column?.editable) throw badInput(column?.label ?? key, plain, 'This column cannot be written.');
  const field = settingOf(channel, key);
  if (!field)
    throw badInput(column.label, plain, `A ${channel.kind} has no such setting: leave the cell empty.`);
  return { settings: { [key]: readSetting(field, channel, plain, comma) } };
}

function readSetting(
  { key, info }: SentenceField,
  channel: Channel,
  text: string,
  comma: Comma | null,
): unknown {
  const unit = fieldUnit(info, channel.settings, NO_NAMES);
  const number = (part: string): number => {
    if (needsComma(part) && comma === null) throw badInput(info.label, part, 'Say what the comma means.');
    const read = readQuantity(
      needsComma(part) ? part.replace(',', comma === 'decimal sign' ? '.' : '') : part,
    );
    if (!read) throw badInput(info.label, part, `Give a number${unit ? ` in ${unit}` : ''}.`);
    return read.unit === null || read.unit === unit
      ? read.value
      : Number(convertUnit(read.value, read.unit, unit || '1').toPrecision(12));
  };
  switch (info.editor) {
    case 'number':
      if (info.none !== undefined && (text === '' || text.toLowerCase() === info.none)) return null;
      return number(text);
    case 'range': {
      const both = /^±\s*(.+)$/.exec(text);
      if (both) {
        const size = number(both[1]);
        return { min: -size, max: size };
      }
      const parts = /^(.+?)\s*(?:to|…|\.\.|;)\s*(.+)$/.exec(text);
      if (!parts) throw badInput(info.label, text, 'Write it like “0 to 100 kN” or “±20 g”.');
      // A unit behind the second end counts for both.
      const behind = readQuantity(parts[2].replace(',', '.'))?.unit;
      return {
        min: number(
          behind && readQuantity(parts[1].replace(',', '.'))?.unit === null
            ? `${parts[1]} ${behind}`
            : parts[1],
        ),
        max: number(parts[2]),
      };
    }
    case 'choice': {
      const options = Array.isArray(info.options) ? (info.options as readonly (string | number)[]) : null;
      if (!options) return typeof channel.settings[key] === 'number' ? number(text) : text;
      const bare = info.unit && text.endsWith(info.unit) ? text.slice(0, -info.unit.length).trim() : text;
      const found = options.find((o) => String(o).toLowerCase() === bare.toLowerCase());
      if (found === undefined) throw badInput(info.label, text, `Choose one of ${options.join('; ')}.`);
      return found;
    }
    default:
      return text;
  }
}

/** A block as it comes from a spreadsheet: rows by line, cells by tab; cells in quotation marks keep their lines. */
export function readBlock(text: string): string[][] {
  const rows: string[][] = [[]];
  let cell = '';
  let quoted = false;
  for (let i = 0; i < text.length; i++) {
    const sign = text[i];
    if (quoted) {
      if (sign !== '"') cell += sign;
      else if (text[i + 1] === '"') cell += text[++i];
      else quoted = false;
    } else if (sign === '"' && cell === '') quoted = true;
    else if (sign === '\t' || sign === '\n') {
      rows[rows.length - 1].push(cell);
      cell = '';
      if (sign === '\n') rows.push([]);
    } else if (sign !== '\r') cell += sign;
  }
  rows[rows.length - 1].push(cell);
  if (rows.length > 1 && rows[rows.length - 1].length === 1 && rows[rows.length - 1][0] === '') rows.pop();
  return rows;
}

/** A block for the clipboard. */
export const blockText = (rows: string[][]) =>
  rows
    .map((row) => row.map((c) => (/[\t\n"]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join('\t'))
    .join('\n');
