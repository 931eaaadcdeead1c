import { clockText, plainReading } from '$core/readings';
import type { Figure } from '$core/figures/figure';
import { paintFigure, paintStack } from '$core/figures/paper';
import { rowsOf, type Table } from '$core/figures/table';
import { rateText } from '$core/samples/sampled';
import { resultTables, type StudyResult } from '$core/studies/study';
import { PAPER, PAPER_INK } from '$contract/palette';
import type { TakeView } from '$contract/take';
import type { StudyView } from '$contract/study';
import type { Content, ContentTable, TDocumentDefinitions } from 'pdfmake/interfaces';
import { PAGE, footer, makePdf, stamp } from './document';

const WIDTH = 499; // A4 less the margins, points
const MAX_ROWS = 24;
/** Height of a figure, points. */
const FIGURE = 190;

export interface ReportContent {
  take: TakeView;
  /** Of the channels, over the whole take. */
  strips: Figure[];
  studies: { view: StudyView; result: StudyResult | null }[];
  generated: Date;
}

/** The report of a take as PDF: facts, method in sentences, strips, each study with figure and table, and the trail of every channel. */
export async function reportPdf({ take, strips, studies, generated }: ReportContent): Promise<Buffer> {
  const { head } = take;
  const start = new Date(Number(BigInt(head.startNs) / 1_000_000n));
  const definition: TDocumentDefinitions = {
    info: { title: `${head.name}, ${head.job}`, creator: 'Farrier', producer: 'Farrier' },
    ...PAGE,
    header: (page) =>
      page === 1
        ? undefined
        : { text: `${head.name}  ·  ${head.job}`, style: 'label', margin: [48, 26, 48, 0] },
    footer: footer(generated),
    content: [
      { canvas: [{ type: 'rect', x: 0, y: 0, w: 34, h: 3, color: PAPER.plum }], margin: [0, 0, 0, 10] },
      { text: head.job, style: 'muted', fontSize: 10 },
      { text: head.name, fontSize: 25, bold: true, lineHeight: 1.1, margin: [0, 0, 0, 2] },
      {
        text: `${stamp(start)}, ${clockText(take.durationS)} long${head.state === 'interrupted' ? ', interrupted' : ''}`,
        style: 'muted',
        margin: [0, 0, 0, 12],
      },
      factsTable([
        ...Object.entries(head.facts),
        ['Channels', String(take.signals.length)],
        ['Take', `no. ${head.number}`],
      ]),
      { text: 'How it was recorded', style: 'heading' },
      { text: head.planText, style: 'sentence' },
      { text: 'What was recorded', style: 'heading' },
      {
        svg: paintStack(
          strips,
          PAPER_INK,
          { width: WIDTH },
          [0, take.durationS],
          take.notes.map((n) => n.atS),
        ),
        width: WIDTH,
      },
      notesList(take),
      ...studies.flatMap(studyContent),
      { text: 'Where the numbers come from', style: 'heading' },
      channelTable(take),
    ],
  };
  return makePdf(definition);
}

function factsTable(facts: [string, string][]): Content {
  const cells = facts.map(([name, value]): Content => ({
    stack: [
      { text: name, style: 'label' },
      { text: value || '–', fontSize: 11, bold: true },
    ],
  }));
  while (cells.length % 4) cells.push({ text: '' });
  const rows: Content[][] = [];
  for (let i = 0; i < cells.length; i += 4) rows.push(cells.slice(i, i + 4));
  return {
    table: { widths: ['*', '*', '*', '*'], body: rows },
    layout: hairlines(true),
    margin: [0, 0, 0, 4],
  };
}

const hairlines = (outer: boolean): ContentTable['layout'] => ({
  hLineWidth: (i, node) => (outer || (i > 0 && i < node.table.body.length) ? 0.5 : 0),
  vLineWidth: () => 0,
  hLineColor: () => PAPER.line,
  paddingLeft: (i) => (i === 0 ? 0 : 4),
  paddingRight: () => 4,
  paddingTop: () => 3,
  paddingBottom: () => 3,
});

function notesList({ notes }: TakeView): Content {
  const told = notes.filter((note) => note.kind !== 'armed').slice(0, 20);
  return {
    ul: told.map((note) => ({
      text: [{ text: clockText(note.atS), font: 'Mono', fontSize: 8 }, `  ${note.says}`],
      fontSize: 8.5,
    })),
    type: 'none',
    margin: [0, 6, 0, 0],
  };
}

function studyContent({ view: study, result }: ReportContent['studies'][number]): Content[] {
  if (study.state !== 'done' || !result) return [];
  const figures = result.figures.map((figure): Content => ({
    svg: paintFigure(figure, PAPER_INK, { width: WIDTH, height: FIGURE }),
    width: WIDTH,
    margin: [0, 2, 0, 6],
  }));
  // Tables with a row for each line of a spectrum are for export.
  const tables = resultTables(result)
    .filter((t) => t.length <= MAX_ROWS)
    .map(resultTable);
  const [first, ...rest] = [...figures, ...tables];
  const head: Content[] = [
    { text: study.name, style: 'heading' },
    { text: study.says, style: 'sentence' },
    ...(study.outOfDate
      ? [{ text: 'Out of date: something it depends on has changed since.', color: '#A86A0B', bold: true }]
      : []),
  ];
  // A heading stays with what it is the heading of.
  return [{ stack: first ? [...head, first] : head, unbreakable: true }, ...rest];
}

function resultTable(table: Table): Content {
  const head = table.columns.map((c): Content => ({
    text: c.unit ? `${c.label}, ${c.unit}` : c.label,
    style: 'head',
    alignment: c.numeric ? 'right' : 'left',
  }));
  const rows = rowsOf(table).map((row) =>
    row.map((cell, k): Content => {
      const { numeric } = table.columns[k];
      if (!numeric) return { text: String(cell ?? '–'), fontSize: 8, noWrap: k > 0 };
      return {
        text: cell === null ? '–' : plainReading(cell as number),
        style: 'cell',
        alignment: 'right',
      };
    }),
  );
  const narrow = table.columns.length > 10;
  return {
    table: {
      headerRows: 1,
      dontBreakRows: true,
      widths: table.columns.map((_, k) => (k === 0 ? '*' : 'auto')),
      body: [head, ...rows],
    },
    layout: hairlines(false),
    fontSize: narrow ? 6.4 : 8,
    margin: [0, 2, 0, 6],
  };
}

function channelTable({ signals }: TakeView): Content {
  return {
    table: {
      headerRows: 1,
      keepWithHeaderRows: 1,
      dontBreakRows: true,
      widths: [92, '*', 150],
      body: [
        ['Channel', 'Sensor and settings at the time', 'Calibration'].map((text) => ({
          text,
          style: 'head',
        })),
        ...signals.map((s): Content[] => [
          {
            text: [{ text: s.name, bold: true }, `\n${s.unit}, ${rateText(s)} S/s`],
            fontSize: 8,
          },
          { text: s.sentence, fontSize: 8 },
          { text: s.calibration, fontSize: 8 },
        ]),
      ],
    },
    layout: hairlines(false),
  };
}
