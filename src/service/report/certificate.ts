import type { Content, TDocumentDefinitions } from 'pdfmake/interfaces';
import { fixed, readingText } from '$core/readings';
import { standardUncertainty, uncertaintyAt } from '$core/uncertainty/budget';
import { commonOf, type Calibration, type Channel } from '$contract/channel';
import { PAPER } from '$contract/palette';
import type { Sensor } from '$contract/sensor';
import { getCalibration, getChannel, listSensors, undoneCalibrations } from '$store/entities';
import { jobOf, type App } from '../app';
import { PAGE, footer, makePdf, stamp } from './document';

const MOST_POINTS = 14;

/** One page that proves a calibration: what, by whom, against what, points and line, as found and as left, uncertainty with its budget.
 *  @throws `not_found` */
export async function certificatePdf(app: App, id: string): Promise<{ name: string; pdf: Buffer }> {
  const c = getCalibration(app.db, id);
  const channel = getChannel(app.db, c.channelId);
  const sensor = listSensors(app.db).find((s) => s.serial === channel.sensorSerial);
  const job = jobOf(app);
  const { range } = commonOf(channel);
  const end = Math.max(Math.abs(range.min), Math.abs(range.max));
  const overall = c.budget.length ? uncertaintyAt(c.budget, end) : null;
  const now = new Date();
  const definition: TDocumentDefinitions = {
    info: { title: `Calibration of ${channel.name}`, creator: 'Farrier', producer: 'Farrier' },
    ...PAGE,
    pageMargins: [48, 42, 48, 46],
    footer: footer(now),
    content: [
      { text: `Calibration of ${channel.name}`, fontSize: 17, bold: true },
      {
        text: `${job.name}, ${job.place}. ${stamp(new Date(c.at))}, ${c.method}, by ${c.by}.${c.due ? ` It holds until ${c.due}.` : ''}`,
        style: 'muted',
        margin: [0, 0, 0, 8],
      },
      {
        columns: [
          [{ text: 'What and how', style: 'heading' }, facts(circumstances(c, channel, sensor))],
          [{ text: 'Result', style: 'heading' }, facts(results(c, channel, overall?.expanded ?? null, end))],
        ],
        columnGap: 22,
      },
      ...(undoneCalibrations(app.db, [c.id]).size
        ? [{ text: 'This calibration was taken back: it is not in force.', bold: true, color: PAPER.red }]
        : []),
      ...points(c),
      ...budget(c, end),
      ...(overall
        ? [
            {
              text: `At ${readingText(end)} ${c.unit}: ± ${readingText(overall.expanded, { digits: 2 })} ${c.unit}, coverage factor ${overall.factor.toFixed(2)} for about 95 %, ${Number.isFinite(overall.dof) ? `${Math.floor(overall.dof)} effective degrees of freedom` : 'degrees of freedom without limit'} (JCGM 100:2008).`,
              margin: [0, 6, 0, 0] as [number, number, number, number],
            },
          ]
        : []),
    ],
  };
  return {
    name: `${channel.name} ${new Date(c.at).toISOString().slice(0, 10)}.pdf`,
    pdf: await makePdf(definition),
  };
}

function circumstances(c: Calibration, channel: Channel, sensor: Sensor | undefined): [string, string][] {
  return [
    [
      'Sensor',
      sensor ? `${sensor.serial}, ${sensor.model || sensor.kind}` : channel.sensorSerial || 'not noted',
    ],
    ['Wired to', channel.wire ? `${channel.wire.terminal} of unit ${channel.wire.unit}` : 'nothing'],
    [
      'Reference',
      c.reference
        ? `${c.reference.serial}, ${c.reference.name}${c.reference.due ? `, in date until ${c.reference.due}` : ''}`
        : 'none named',
    ],
    ['Environment', c.environment || 'not noted'],
    ...(c.note ? ([['Note', c.note]] as [string, string][]) : []),
  ];
}

const LINES = {
  hLineWidth: (i: number, node: { table: { body: unknown[] } }) =>
    i === 0 || i === node.table.body.length ? 0 : 0.5,
  vLineWidth: () => 0,
  hLineColor: () => PAPER.line,
  paddingTop: () => 1,
  paddingBottom: () => 1,
};

const facts = (rows: [string, string][]): Content => ({
  table: { widths: [88, '*'], body: rows.map(([label, text]) => [{ text: label, style: 'label' }, text]) },
  layout: LINES,
});

function results(c: Calibration, channel: Channel, expanded: number | null, end: number): [string, string][] {
  const slope = `${c.unit}/${c.rawUnit}`;
  const rows: [string, string][] = [
    ['Slope', `${readingText(c.slope, { digits: 6 })} ${slope}`],
    ['Offset', `${readingText(c.offset, { digits: 5 })} ${c.unit}`],
  ];
  if (c.points.length) {
    rows.push(['Fit', `${c.form} through ${c.points.filter((p) => !p.dropped).length} points`]);
    rows.push(['Largest distance', `${readingText(c.largestResidual, { digits: 2 })} ${c.unit}`]);
    if (c.linearity !== null) rows.push(['Linearity', `${fixed(100 * c.linearity, 3)} % of the span`]);
    if (c.hysteresis !== null)
      rows.push(['Hysteresis', `${readingText(c.hysteresis, { digits: 2 })} ${c.unit}`]);
  }
  if (c.asFound !== null)
    rows.push([
      'As found, as left',
      `${readingText(c.asFound, { digits: 2 })} ${c.unit}, ${readingText(c.points.length ? c.largestResidual : 0, { digits: 2 })} ${c.unit}`,
    ]);
  for (const m of c.measured) rows.push([m.label, `${readingText(m.value, { digits: 5 })} ${m.unit}`]);
  if (expanded !== null)
    rows.push([
      `Uncertainty at ${readingText(end)} ${commonOf(channel).unit}`,
      `± ${readingText(expanded, { digits: 2 })} ${c.unit} (95 %)`,
    ]);
  return rows;
}

function points(c: Calibration): Content[] {
  if (c.points.length === 0) return [];
  const shown = c.points.slice(0, MOST_POINTS);
  const decimals = Math.min(6, Math.max(0, 2 - Math.floor(Math.log10(c.largestResidual || 1))));
  const cell = (text: string) => ({ text, style: 'cell', alignment: 'right' as const });
  const head = (text: string) => ({ text, style: 'head', alignment: 'right' as const });
  return [
    { text: 'Points', style: 'heading' },
    {
      table: {
        headerRows: 1,
        widths: [80, 40, 100, 90, '*'],
        body: [
          [
            head(`Value, ${c.unit}`),
            head('Going'),
            head(`Reading, ${c.rawUnit}`),
            head(`Off by, ${c.unit}`),
            { text: '', style: 'head' },
          ],
          ...shown.map((p, k) => [
            cell(String(Number(p.target.toPrecision(6))).replace('-', '−')),
            cell(p.going),
            cell(readingText(p.raw, { digits: 6 })),
            // Reading less reference; residuals are kept the other way round.
            cell(fixed(-(c.residuals[k] ?? NaN), decimals)),
            {
              text: p.dropped ? `left out: ${p.dropped}` : p.times > 1 ? `measured ${p.times} times` : '',
              style: 'label',
            },
          ]),
        ],
      },
      layout: LINES,
    },
    ...(c.points.length > MOST_POINTS
      ? [{ text: `and ${c.points.length - MOST_POINTS} more, in the exported table.`, style: 'label' }]
      : []),
  ];
}

function budget(c: Calibration, end: number): Content[] {
  if (c.budget.length === 0) return [];
  const cell = (text: string) => ({ text, style: 'cell', alignment: 'right' as const });
  const head = (text: string) => ({ text, style: 'head', alignment: 'right' as const });
  return [
    { text: 'Uncertainty budget', style: 'heading' },
    {
      table: {
        headerRows: 1,
        widths: ['*', 30, 80, 90, 60],
        body: [
          [
            { text: `At ${readingText(end)} ${c.unit}`, style: 'head' },
            head('Type'),
            head('Distribution'),
            head(`Standard, ${c.unit}`),
            head('Freedom'),
          ],
          ...c.budget.map((part) => [
            { text: part.name, fontSize: 8.5 },
            cell(part.type),
            cell(part.distribution),
            cell(readingText(standardUncertainty(part, end), { digits: 2 })),
            cell(part.dof === null ? '∞' : String(Math.floor(part.dof))),
          ]),
        ],
      },
      layout: LINES,
    },
  ];
}
