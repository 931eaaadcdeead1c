import Papa from 'papaparse';
import type { Content, TableCell } from 'pdfmake/interfaces';
import type { LogEntry } from '$contract/overview';
import { checkChain, getPicture, listLog, logKinds, type LogFilter } from '$store/logbook';
import { listTakes, takeNames } from '$store/takes';
import { jobOf, log, type App } from './app';
import { readPicture } from './boards';
import { footer, makePdf, PAGE, stamp } from './report/document';

const PAGE_ROWS = 200;
const EXPORT_ROWS = 5000;

/** Entries of the job, newest first. */
export function logPage(app: App, filter: LogFilter = {}): LogEntry[] {
  const entries = listLog(app.db, jobOf(app).id, PAGE_ROWS, filter);
  const names = takeNames(app.db, [...new Set(entries.flatMap((e) => e.takeId ?? []))]);
  return entries.map((e) => (e.takeId === null ? e : { ...e, take: names.get(e.takeId) }));
}
export const kindsOfLog = (app: App) => logKinds(app.db, jobOf(app).id);

/** Whether all entries stand as they were written. @returns it in words */
export function chainText(app: App): { whole: boolean; says: string } {
  const { entries, broken } = checkChain(app.db);
  return broken
    ? {
        whole: false,
        says: `Entry ${broken.id} of ${stamp(new Date(broken.at))} is not as it was written, or one before it is missing.`,
      }
    : { whole: true, says: `${entries} entries, each sealed with the one before it; none was altered.` };
}

/** A person's note, perhaps with a picture; it keeps its time, and its take while one is recorded. @throws `bad_input` for a file that is no picture */
export function addNote(app: App, says: string, by: string, picture?: Buffer): void {
  log(app, 'note', says, {
    by,
    takeId: app.live.status.state === 'Recording' ? app.live.status.take?.id : null,
    picture: picture && readPicture(picture),
  });
}

const rowsOf = (app: App, filter: LogFilter) => {
  const takes = new Map(listTakes(app.db, jobOf(app).id).map((t) => [t.id, t.name]));
  return listLog(app.db, jobOf(app).id, EXPORT_ROWS, filter)
    .reverse()
    .map((e) => ({ ...e, take: takes.get(e.takeId ?? '') ?? '' }));
};
/** The logbook as a table for spreadsheets, oldest first; what a spreadsheet would run is disarmed. */
export const logCsv = (app: App, filter: LogFilter): string =>
  `\ufeff${Papa.unparse(
    {
      fields: ['time (UTC)', 'kind', 'what', 'take', 'by', 'hash'],
      data: rowsOf(app, filter).map((e) => [
        new Date(e.at).toISOString(),
        e.kind,
        e.says,
        e.take,
        e.by,
        e.hash ?? '',
      ]),
    },
    { escapeFormulae: true },
  )}\r\n`;

/** Width and height that a picture may take on a page, points. */
const PICTURE_FIT: [number, number] = [240, 180];
/** A picture of an entry; of a kind that paper cannot show, where it is to be seen. */
function pictureOf(app: App, id: number, shown: boolean): Content {
  const { type, content } = getPicture(app.db, id);
  if (!shown || type === 'image/webp')
    return { text: `Its picture (no. ${id}) is on the page of the logbook.`, style: 'label' };
  return {
    image: `data:${type};base64,${content.toString('base64')}`,
    fit: PICTURE_FIT,
    margin: [0, 4, 0, 2],
  };
}

/** The logbook as pages, with its pictures; without them when one of them is damaged. */
export async function logPdf(app: App, filter: LogFilter): Promise<Buffer> {
  try {
    return await pages(app, filter, true);
  } catch (error) {
    console.error(error);
    return pages(app, filter, false);
  }
}

function pages(app: App, filter: LogFilter, pictures: boolean): Promise<Buffer> {
  const rows: TableCell[][] = rowsOf(app, filter).map((e) => [
    { text: stamp(new Date(e.at)), style: 'cell' },
    e.kind,
    {
      stack: [
        e.take ? `${e.says} (${e.take})` : e.says,
        ...(e.picture === null ? [] : [pictureOf(app, e.picture, pictures)]),
      ],
    },
    e.by,
  ]);
  return makePdf({
    ...PAGE,
    footer: footer(new Date()),
    content: [
      { text: `Logbook of ${jobOf(app).name}`, style: 'heading' },
      { text: chainText(app).says, style: 'label', margin: [0, 0, 0, 10] },
      {
        table: { headerRows: 1, widths: [92, 48, '*', 44], body: [['Time', 'Kind', 'What', 'By'], ...rows] },
        layout: 'lightHorizontalLines',
        fontSize: 8,
      },
    ],
  });
}
