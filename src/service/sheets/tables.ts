import { clockText } from '$core/readings';
import { rateHz } from '$core/samples/sampled';
import type { SeriesTable } from '$contract/series';
import type { StudyView } from '$contract/study';
import type { TakeView } from '$contract/take';
import { instants, numbers, words, type SheetCell, type SheetColumn, type WholeSheet } from './sheet';

const startOf = ({ head }: TakeView) => new Date(Number(BigInt(head.startNs) / 1_000_000n));
/** A fact that is a number is written as one. */
const cellOf = (value: string | undefined): SheetCell => {
  if (value === undefined || value === '') return null;
  return /^[-+]?\d+(\.\d+)?(e[-+]?\d+)?$/i.test(value.trim()) && value.trim().length < 16
    ? Number(value)
    : value;
};
const numeric = (cells: readonly SheetCell[]) =>
  cells.some((c) => typeof c === 'number') && cells.every((c) => c === null || typeof c === 'number');

/** A row a take: when, how long, by which plan, and all facts. */
export function summarySheet(takes: readonly TakeView[], job: string): WholeSheet {
  const facts = [...new Set(takes.flatMap((t) => Object.keys(t.head.facts)))];
  const cells = takes.map((t) => facts.map((name) => cellOf(t.head.facts[name])));
  const columns: SheetColumn[] = [
    words('Take'),
    numbers('Number'),
    words('Job'),
    instants('Start (UTC)'),
    numbers('Length', 's'),
    words('State'),
    words('Judged'),
    ...facts.map((name, c) => (numeric(cells.map((row) => row[c])) ? numbers(name) : words(name))),
    words('Plan'),
  ];
  const rows = takes.map((take, k): SheetCell[] => [
    take.head.name,
    take.head.number,
    job,
    startOf(take),
    Number(take.durationS.toFixed(6)),
    take.head.state,
    take.judgements.at(-1)?.verdict ?? null,
    ...cells[k],
    take.head.planText || null,
  ]);
  return { title: 'Summary', columns, rows };
}

/** What studies found in the takes, a row a finding. */
export function resultsSheet(takes: readonly TakeView[], studies: readonly StudyView[]): WholeSheet {
  const rows = takes.flatMap(({ head }) =>
    studies
      .filter((s) => s.state === 'done' && s.takes.includes(head.id))
      .flatMap((study) => {
        const own = study.rows?.find((r) => r.take === head.id)?.findings ?? (study.takes[0] === head.id ? study.findings : []); // prettier-ignore
        return own.map(({ label, value, unit, note }): SheetCell[] => [head.name, study.name, label, Number.isFinite(value) ? value : null, unit === '1' ? null : unit, note ?? null, study.says]); // prettier-ignore
      }),
  );
  const columns = [
    words('Take'),
    words('Study'),
    words('Finding'),
    numbers('Value'),
    words('Unit'),
    words('Beside it'),
    words('Method'),
  ];
  return { title: 'Results', columns, rows };
}

/** Channels as they were in each take, with their calibrations. */
export function channelsSheet(takes: readonly TakeView[]): WholeSheet {
  const columns = [
    words('Take'),
    words('Channel'),
    words('Unit'),
    numbers('Rate', 'S/s'),
    numbers('Samples'),
    words('Sensor and settings'),
    words('Calibration'),
  ];
  const rows = takes.flatMap((take) =>
    take.signals.map((s): SheetCell[] => [
      take.head.name,
      s.name,
      s.unit === '1' ? null : s.unit,
      Number(rateHz(s).toPrecision(9)),
      s.length,
      s.sentence,
      s.calibration,
    ]),
  );
  return { title: 'Channels', columns, rows };
}

/** What was noted on the time axes. */
export function marksSheet(takes: readonly TakeView[]): WholeSheet {
  const columns = [words('Take'), numbers('Time', 's'), words('Clock'), words('Kind'), words('What'), words('By')]; // prettier-ignore
  const rows = takes.flatMap(
    (take) =>
    take.notes.map((note): SheetCell[] => [take.head.name, Number(note.atS.toFixed(6)), clockText(note.atS), note.kind, note.says, note.by ?? null]), // prettier-ignore
  );
  return { title: 'Marks', columns, rows };
}

/** A series as it stands on the page, with the statistics of what counts under it. */
export function seriesSheet({ name, columns: heads, rows: takes }: SeriesTable): WholeSheet {
  const columns = [
    words('Take'),
    ...heads.map(({ title, unit, statistics }) => (statistics ? numbers(title, unit) : words(title))),
    words('Counts'),
    words('Why'),
  ];
  const rows = takes.map((row): SheetCell[] => [
    row.name,
    ...row.cells.map((c) => c.value),
    row.counts ? 'yes' : 'no',
    row.reason || null,
  ]);
  const of = (label: string, pick: (s: NonNullable<(typeof heads)[number]['statistics']>) => number): SheetCell[] => [
    label,
    ...heads.map(({ statistics }) => {
      const value = statistics ? pick(statistics) : NaN;
      return Number.isFinite(value) ? value : null;
    }),
    null,
    null,
  ]; // prettier-ignore
  const statistics = [
    of('count', (s) => s.n),
    of('mean', (s) => s.mean),
    of('standard deviation', (s) => s.standardDeviation),
    of('lowest', (s) => s.lowest),
    of('highest', (s) => s.highest),
    of('median', (s) => s.median),
  ];
  return { title: name, columns, rows: [...rows, new Array<null>(columns.length).fill(null), ...statistics] };
}
