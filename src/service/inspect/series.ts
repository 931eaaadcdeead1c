import { randomUUID } from 'node:crypto';
import Papa from 'papaparse';
import { LRUCache } from 'lru-cache';
import { statSync } from 'node:fs';
import { badInput } from '$core/errors';
import { measureKind, type Measure } from '$core/measures/registry';
import { sentenceText, type Names } from '$core/sentence/sentence';
import { grubbsHint, seriesStatistics } from '$core/statistics/series';
import type {
  NamedSeries,
  Series,
  SeriesCell,
  SeriesColumn,
  SeriesColumnHead,
  SeriesRow,
  SeriesTable,
} from '$contract/series';
import { filterTakes, filterText, orderTakes, type TakeLine } from '$contract/take-list';
import { addSeriesWord, deleteSeries, getSeries, listSeries, putSeries, seriesWords } from '$store/drawings';
import { listStudies, type StudyRow } from '$store/entities';
import { getTake } from '$store/takes';
import { jobOf, log, takePath, type App } from '../app';
import { bodyOf } from '../study/inputs';
import { channelsOf, takeLines } from './list';
import type { MeasureOutcome } from './measure';

export const seriesOf = (app: App): NamedSeries[] => listSeries(app.db, jobOf(app).id);

/** Makes a series. */
export function addSeries(app: App, name: string, series: Series, by: string): { id: string } {
  const id = randomUUID();
  putSeries(app.db, jobOf(app).id, { id, name, series });
  log(app, 'take', `The series “${name}” was made: ${filterText(series.filter)}.`, { by });
  return { id };
}
/** Changes what is given. @throws `not_found` */
export function changeSeries(
  app: App,
  id: string,
  change: { name?: string; series?: Series },
  by: string,
): void {
  const former = getSeries(app.db, id);
  const next = {
    ...former,
    ...(change.name !== undefined && { name: change.name }),
    ...(change.series && { series: change.series }),
  };
  putSeries(app.db, jobOf(app).id, next);
  const [was, is] = [filterText(former.series.filter), filterText(next.series.filter)];
  if (was !== is)
    log(app, 'take', `The series “${next.name}” holds ${is} from now on (it was: ${was}).`, { by });
}
/** @throws `not_found` */
export function removeSeries(app: App, id: string, by: string): void {
  const { name } = getSeries(app.db, id);
  deleteSeries(app.db, id);
  log(app, 'take', `The series “${name}” was taken away.`, { by });
}

/** Says whether a take counts. @throws `bad_input` without a reason for leaving one out, `not_found` */
export function judgeRow(
  app: App,
  id: string,
  { take, counts, reason }: { take: string; counts: boolean; reason: string },
  by: string,
): void {
  const { name } = getSeries(app.db, id);
  const row = getTake(app.db, take);
  const why = reason.trim();
  if (!counts && why.length < 3)
    throw badInput('reason', reason, 'Say why it does not count: it stays visible beside it.');
  addSeriesWord(app.db, id, take, { at: Date.now(), by, counts, reason: why });
  log(
    app,
    'take',
    `${row.name} ${counts ? 'counts' : 'does not count'} in “${name}”${why ? `: ${why}` : ''}.`,
    { takeId: take, by },
  );
}

/** Measures by the state of the take's file: what was measured once is known until the file changes. */
const measured = new LRUCache<string, MeasureOutcome>({ max: 50_000 });

/** What the measures of a series find in a take: read from what is known, the rest found in a worker thread. */
async function measuresOf(app: App, line: TakeLine, measures: Measure[]): Promise<MeasureOutcome[]> {
  const path = takePath(app, line.id);
  const stamp = stampOf(path);
  const keys = measures.map((m) => JSON.stringify([path, stamp, m.kind, m.settings]));
  const missing = measures.filter((_, k) => !measured.has(keys[k]));
  if (missing.length) {
    const found = await app.workers.do('measure', { path, measures: missing });
    missing.forEach((m, k) => measured.set(keys[measures.indexOf(m)], found[k]));
  }
  return keys.map((key) => measured.get(key)!);
}

function stampOf(path: string): string {
  try {
    const { mtimeMs, size } = statSync(path);
    return `${mtimeMs} ${size}`;
  } catch {
    return 'gone';
  }
}

interface Cell extends SeriesCell {
  unit: string;
}
const cell = (value: number | string | null, rest: Partial<Cell> = {}): Cell => ({
  value,
  atS: null,
  fault: null,
  unit: '',
  ...rest,
});

/** What a study found in a take: of one that ran over several, in that row. */
function rowOf(study: StudyRow, take: string) {
  const { rows, findings, takes } = bodyOf(study);
  return rows ? (rows.find((r) => r.take === take)?.findings ?? null) : takes[0] === take ? findings : null;
}

function cellOf(line: TakeLine, column: SeriesColumn, studies: StudyRow[], found: MeasureOutcome[]): Cell {
  switch (column.of) {
    case 'fact':
      return cell(line.facts[column.name] ?? null);
    case 'finding': {
      // The newest study of that name on this take.
      const study = studies
        .filter((s) => bodyOf(s).name === column.study && bodyOf(s).takes.includes(line.id))
        .findLast((s) => rowOf(s, line.id) !== null);
      if (!study) return cell(null, { fault: `No study “${column.study}” on it.` });
      const finding = rowOf(study, line.id)!.find((f) => f.label === column.label);
      return finding
        ? cell(finding.value, { unit: finding.unit })
        : cell(null, { fault: 'The study has no such finding now.' });
    }
    case 'measure': {
      const own = found.shift()!;
      if ('fault' in own) return cell(null, { fault: own.fault });
      return cell(Number.isFinite(own.value) ? own.value : null, { atS: own.atS, unit: own.unit });
    }
  }
}

/** A series as a table. A take that is void does not count unless somebody says so. @throws `not_found` */
export async function seriesTable(app: App, id: string): Promise<SeriesTable> {
  const { name, series } = getSeries(app.db, id);
  const lines = takeLines(app);
  const takes = orderTakes(filterTakes(lines, series.filter, Date.now()), series.order);
  const words = seriesWords(app.db, id);
  const studies = listStudies(app.db, jobOf(app).id);
  const units = new Map(channelsOf(lines).map((c) => [c.name, c.unit]));
  const names: Names = { channel: (channel) => ({ name: channel || '…', unit: units.get(channel) ?? '' }) };
  const measures = series.columns.flatMap((c) => (c.of === 'measure' ? [c.measure] : []));
  const cells = await Promise.all(
    takes.map(async (line) => {
      const found = await measuresOf(app, line, measures);
      return series.columns.map((column) => cellOf(line, column, studies, found));
    }),
  );
  const rows = takes.map((line, k): SeriesRow => {
    const said = words.get(line.id) ?? [];
    const last = said.at(-1);
    const isVoid = line.judgement?.verdict === 'void';
    return {
      take: line.id,
      number: line.number,
      name: line.name,
      cells: cells[k].map(({ value, atS, fault }) => ({ value, atS, fault })),
      counts: last ? last.counts : !isVoid,
      reason: last ? last.reason : isVoid ? line.judgement!.reason : '',
      by: last ? last.by : isVoid ? line.judgement!.by : '',
      words: said,
    };
  });
  const columns = series.columns.map((column, c): SeriesColumnHead => {
    const numbers = rows.map((row) =>
      row.counts && typeof row.cells[c].value === 'number' ? row.cells[c].value : NaN,
    );
    const isWords = rows.some((row) => typeof row.cells[c].value === 'string');
    const found = isWords ? null : grubbsHint(numbers);
    return {
      ...headOf(column, names),
      unit: cells.find((own) => own[c].unit)?.[c].unit ?? '',
      statistics: isWords ? null : seriesStatistics(numbers),
      hint: found && found.distance > found.critical5 ? { take: rows[found.index].take, name: rows[found.index].name, distance: found.distance, critical5: found.critical5, critical1: found.critical1 } : null, // prettier-ignore
    };
  });
  return { id, name, series, says: filterText(series.filter), columns, rows };
}

function headOf(column: SeriesColumn, names: Names): { title: string; says: string } {
  switch (column.of) {
    case 'fact':
      return { title: column.name, says: `The fact “${column.name}”.` };
    case 'finding':
      return { title: column.label, says: `${column.label}, found by “${column.study}”.` };
    case 'measure': {
      const kind = measureKind(column.measure.kind);
      const { settings } = column.measure;
      return {
        title: column.title || kind.name(settings),
        says: sentenceText(kind.sentence, settings, names),
      };
    }
  }
}

/** A series as a table for spreadsheets: rows with what was judged of them, then the statistics of those that count. @throws `not_found` */
export async function seriesCsv(app: App, id: string): Promise<{ name: string; text: string }> {
  const table = await seriesTable(app, id);
  const heads = table.columns.map(({ title, unit }) => (unit && unit !== '1' ? `${title} [${unit}]` : title));
  const of = (pick: (s: NonNullable<SeriesColumnHead['statistics']>) => number) =>
    table.columns.map(({ statistics }) => {
      const value = statistics ? pick(statistics) : NaN;
      return Number.isFinite(value) ? value : '';
    });
  const data = [
    ...table.rows.map((r) => [
      r.name,
      ...r.cells.map((c) => c.value ?? ''),
      r.counts ? 'in' : 'out',
      r.reason,
      r.by,
    ]),
    [],
    ['n', ...of((s) => s.n)],
    ['mean', ...of((s) => s.mean)],
    ['standard deviation', ...of((s) => s.standardDeviation)],
    ['variation, %', ...of((s) => s.variation)],
    ['lowest', ...of((s) => s.lowest)],
    ['highest', ...of((s) => s.highest)],
    ['median', ...of((s) => s.median)],
    ['95 % interval of the mean, half width', ...of((s) => s.halfWidth95)],
  ];
  const text = Papa.unparse(
    { fields: ['take', ...heads, 'counts', 'why', 'judged by'], data },
    { escapeFormulae: true },
  );
  return { name: table.name, text: `\ufeff${text}\r\n` };
}
