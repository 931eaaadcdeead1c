import { z } from 'zod';
import { GRID_METHODS } from '$core/samples/on-grid';
import { isUnit, readUnit } from '$core/quantities/quantities';
import { field, type Sentence } from '$core/sentence/sentence';
import { nameText } from './name-text';

export const FILE_KINDS = ['a spreadsheet (XLSX)', 'one CSV file', 'a folder of CSV files'] as const;
const SHEET_PARTS = ['summary', 'results', 'statistics', 'channels', 'samples', 'marks'] as const;
const SAMPLES = ['every sample', 'every so many', 'on a fixed step'] as const;
export const STATISTICS = ['mean', 's', 'rms', 'lowest', 'highest', 'span', 'missing'] as const;
const LAYOUTS = ['a sheet for each take', 'all takes under each other'] as const;
const ENCODINGS = ['UTF-8 with mark', 'UTF-8', 'UTF-16', 'Windows-1252'] as const;
const SEPARATORS = ['comma', 'semicolon', 'tab'] as const;
const LINE_ENDS = ['CR LF', 'LF'] as const;

const choice = <const T extends readonly [string, ...string[]]>(label: string, options: T, help?: string) =>
  field(z.enum(options), { label, editor: 'choice', options, help });

const schema = z.strictObject({
  file: field(z.string().trim().min(1, 'Give the file a name.').max(120), {
    label: 'Name of the file',
    editor: 'text',
    help: 'In braces: take, takes, job, number, date, time, or the name of a fact.',
  }),
  as: choice('Written as', FILE_KINDS),
  parts: field(z.array(z.enum(SHEET_PARTS)).min(1, 'Choose at least one.'), {
    label: 'Holds',
    editor: 'several',
    options: SHEET_PARTS,
    counted: { beyond: 6, as: 'sheets' },
  }),
  channels: field(z.array(z.string().max(40)).max(500), {
    label: 'Channels',
    editor: 'channels',
    none: 'all channels',
    counted: { beyond: 4, as: 'channels' },
  }),
  units: field(z.string().trim().max(400), {
    label: 'Other units',
    editor: 'text',
    none: 'each in its own unit',
    help: 'Such as “load in kN, travel in mm”: channels by name or quantity.',
  }),
  samples: choice('Samples', SAMPLES),
  every: field(z.number().int().min(2).max(1_000_000), { label: 'Every', editor: 'number', help: 'Of so many samples one is written; those between are left out, not averaged.' }),
  stepS: field(z.number().min(1e-6).max(86_400), { label: 'Step', editor: 'number', unit: 's' }),
  method: choice('Value', GRID_METHODS, 'How the value at each step is found from the samples around it.'),
  layout: choice('Laid out', LAYOUTS),
  statistics: field(z.array(z.enum(STATISTICS)).min(1, 'Choose at least one.'), {
    label: 'Statistics',
    editor: 'several',
    options: STATISTICS,
    counted: { beyond: 7, as: 'statistics' },
  }),
  separator: choice('Cells parted by', SEPARATORS),
  decimal: choice('Decimal sign', ['point', 'comma']),
  encoding: choice('Encoding', ENCODINGS),
  ends: choice('Lines end with', LINE_ENDS),
}); // prettier-ignore

/** How takes are written as a spreadsheet, in one action. */
export type Spreadsheet = z.infer<typeof schema>;

export const spreadsheetSentence: Sentence<typeof schema> = {
  schema,
  template: ({ as, parts, samples }) =>
    [
      'Name it {file} and write {as} with {parts}, of {channels}, {units}.',
      parts.includes('samples') &&
        `Of the samples {samples}${samples === 'every so many' ? ': one of {every}' : samples === 'on a fixed step' ? ' of {stepS}, {method}' : ''}, {layout}.`,
      parts.includes('statistics') && 'Statistics: {statistics}.',
      as !== FILE_KINDS[0] &&
        'Cells parted by {separator}, decimal {decimal}, text as {encoding}, lines end with {ends}.',
    ]
      .filter(Boolean)
      .join(' '),
};

export const NEW_SPREADSHEET: Spreadsheet = {
  file: '{takes}, {date}',
  as: FILE_KINDS[0],
  parts: ['summary', 'results', 'statistics', 'channels', 'samples'],
  channels: [],
  units: '',
  samples: 'on a fixed step',
  every: 10,
  stepS: 0.02,
  method: 'on the line between',
  layout: 'a sheet for each take',
  statistics: ['mean', 's', 'lowest', 'highest'],
  separator: 'comma',
  decimal: 'point',
  encoding: 'UTF-8 with mark',
  ends: 'CR LF',
};

/** One that is kept under a name. */
export const NamedSpreadsheet = z.strictObject({ name: nameText(80), body: schema });
export type NamedSpreadsheet = z.infer<typeof NamedSpreadsheet>;
export interface SpreadsheetView extends NamedSpreadsheet {
  id: string;
}

/** “load in kN, travel in mm” as pairs. @returns the pairs, or what is wrong in words */
export function unitsWanted(text: string): { of: string; unit: string }[] | { wrong: string } {
  const pairs: { of: string; unit: string }[] = [];
  for (const part of text.split(/[,;]/).map((p) => p.trim()).filter(Boolean)) {
    const found = /^(.+?)\s+in\s+(\S+)$/i.exec(part);
    if (!found) return { wrong: `“${part}” is not written like “load in kN”.` };
    if (!isUnit(found[2])) return { wrong: `“${found[2]}” is no unit that is known.` };
    pairs.push({ of: found[1], unit: readUnit(found[2]) });
  }
  return pairs;
} // prettier-ignore

/** A file's name by its template; what is not known is left as it is written. */
export const fileNameBy = (template: string, values: ReadonlyMap<string, string>): string =>
  template
    .replace(/\{([^{}]+)\}/g, (whole, name: string) => values.get(name.trim().toLowerCase()) ?? whole)
    .replace(/[\\/:*?"<>|\p{Cc}]+/gu, '-')
    .replace(/^[.\s]+|[.\s]+$/g, '')
    .slice(0, 150) || 'Takes';

const WATCHED = ['left alone', 'brought in', 'brought in and written as a spreadsheet'] as const;
/** What becomes of files that are put into a folder of the house by other programs. */
export const Watched = z.strictObject({
  files: field(z.enum(WATCHED), { label: 'Files that come', editor: 'choice', options: WATCHED }),
  spreadsheet: field(z.string().trim().max(80), {
    label: 'Spreadsheet',
    editor: 'choice',
    options: { ask: 'spreadsheet', free: false },
    none: 'the first way',
  }),
});
export type Watched = z.infer<typeof Watched>;
export const watchedSentence: Sentence<typeof Watched> = {
  schema: Watched,
  template: ({ files }) =>
    `Files that come into the folder “watched” are {files}${files === WATCHED[2] ? ', by {spreadsheet}' : ''}.`,
};
