import { randomUUID } from 'node:crypto';
import { badInput } from '$core/errors';
import { dayText } from '$core/readings';
import { FILE_KINDS, NEW_SPREADSHEET, NamedSpreadsheet, fileNameBy, unitsWanted, type Spreadsheet, type SpreadsheetView } from '$contract/spreadsheet'; // prettier-ignore
import type { TakeView } from '$contract/take';
import { deleteSpreadsheet, getSpreadsheet, insertSpreadsheet, listSpreadsheets, updateSpreadsheet, type SpreadsheetRow } from '$store/spreadsheets'; // prettier-ignore
import { jobOf, log, takePath, type App } from '../app';
import { check } from '../check';
import { seriesTable } from '../inspect/series';
import { viewStudies } from '../study/studies';
import { viewTake } from '../takes';
import { channelsSheet, marksSheet, resultsSheet, seriesSheet, summarySheet } from './tables';
import type { SheetsTask } from './write';

const MOST_TAKES = 1000;
const viewOf = ({ id, name, body }: SpreadsheetRow): SpreadsheetView => ({
  id,
  name,
  // What a newer version added has its usual value.
  body: { ...NEW_SPREADSHEET, ...(body as Spreadsheet) },
});

export const viewSpreadsheets = (app: App): SpreadsheetView[] =>
  listSpreadsheets(app.db, jobOf(app).id).map(viewOf);

/** @throws `bad_input` for units that are none */
function checked(given: unknown): NamedSpreadsheet {
  const own = check(NamedSpreadsheet, given);
  const units = unitsWanted(own.body.units);
  if ('wrong' in units) throw badInput('Other units', own.body.units, units.wrong);
  return own;
}

/** Keeps a way to write a spreadsheet. @throws `bad_input` */
export function addSpreadsheet(app: App, given: Partial<NamedSpreadsheet>, by: string): { id: string } {
  const taken = new Set(viewSpreadsheets(app).map((s) => s.name));
  let name = given.name ?? 'Spreadsheet';
  for (let n = 2; taken.has(name); n++) name = `${given.name ?? 'Spreadsheet'} ${n}`;
  const own = checked({ name, body: given.body ?? NEW_SPREADSHEET });
  const id = randomUUID();
  insertSpreadsheet(app.db, { id, jobId: jobOf(app).id, position: Date.now(), ...own });
  log(app, 'report', `The spreadsheet “${own.name}” was made.`, { by });
  return { id };
}
/** @throws `not_found`, `bad_input` */
export function changeSpreadsheet(app: App, id: string, given: NamedSpreadsheet): void {
  getSpreadsheet(app.db, id);
  updateSpreadsheet(app.db, id, checked(given));
}
/** @throws `not_found` */
export function removeSpreadsheet(app: App, id: string, by: string): void {
  const { name } = getSpreadsheet(app.db, id);
  deleteSpreadsheet(app.db, id);
  log(app, 'report', `The spreadsheet “${name}” was taken away.`, { by });
}

export interface SheetsAsk {
  /** None means the first that there is, or the usual one. */
  spreadsheet?: string;
  takes: readonly string[];
  series?: string;
}

/** All that a worker needs to write takes as a spreadsheet. @throws `not_found`, `bad_input` without takes, `damaged` */
export async function sheetsTask(app: App, ask: SheetsAsk): Promise<Omit<SheetsTask, 'to'> & { name: string }> {
  const wanted = ask.spreadsheet ? viewOf(getSpreadsheet(app.db, ask.spreadsheet)).body : (viewSpreadsheets(app)[0]?.body ?? NEW_SPREADSHEET);
  const series = ask.series ? await seriesTable(app, ask.series) : null;
  const ids = ask.takes.length || !series ? ask.takes : series.rows.filter((r) => r.counts).map((r) => r.take);
  if (ids.length === 0) throw badInput('takes', 'none', 'Mark at least one take.');
  if (ids.length > MOST_TAKES) throw badInput('takes', ids.length, `Mark up to ${MOST_TAKES}.`);
  const takes = ids.map((id) => viewTake(app, id));
  const has = (part: Spreadsheet['parts'][number]) => wanted.parts.includes(part);
  const job = jobOf(app).name;
  const tables: SheetsTask['tables'] = [];
  if (has('summary')) tables.push({ part: 'summary', sheet: summarySheet(takes, job) });
  if (series) tables.push({ part: has('results') ? 'results' : 'summary', sheet: seriesSheet(series) });
  if (has('results')) tables.push({ part: 'results', sheet: resultsSheet(takes, viewStudies(app)) });
  if (has('channels')) tables.push({ part: 'channels', sheet: channelsSheet(takes) });
  if (has('marks')) tables.push({ part: 'marks', sheet: marksSheet(takes) });
  const ending = { [FILE_KINDS[0]]: 'xlsx', [FILE_KINDS[1]]: 'csv', [FILE_KINDS[2]]: 'zip' }[wanted.as];
  return {
    wanted,
    takes: takes.map(({ head }) => ({ path: takePath(app, head.id), name: head.name, startMs: Number(BigInt(head.startNs) / 1_000_000n) })),
    tables,
    name: `${fileNameBy(wanted.file, namesFor(takes, job, series?.name))}.${ending}`,
  };
} // prettier-ignore

/** What braces in the name of a file can hold. */
function namesFor(takes: readonly TakeView[], job: string, series?: string): Map<string, string> {
  const [{ head }] = takes;
  const start = new Date(Number(BigInt(head.startNs) / 1_000_000n)).toISOString();
  return new Map([
    ...Object.entries(head.facts).map(([key, value]) => [key.toLowerCase(), value] as const),
    ['take', head.name],
    ['takes', series ?? (takes.length === 1 ? head.name : `${head.name} and ${takes.length - 1} more`)],
    ['job', job],
    ['number', String(head.number)],
    ['date', start.slice(0, 10)],
    ['day', dayText(start.slice(0, 10))],
    ['time', start.slice(11, 16).replace(':', '-')],
  ]);
}
