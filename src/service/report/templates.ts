import { notFound } from '$core/errors';
import type { Block, Page, ReportBody } from '$contract/report';
import { AXES } from '$contract/report-chart';

/** A report to begin with. */
interface Template {
  name: string;
  title: string;
  says: string;
  body: ReportBody;
}

type Placed = readonly [
  kind: string,
  x: number,
  y: number,
  w: number,
  h: number,
  settings?: Block['settings'],
];
const page = (name: string, ...blocks: Placed[]): Page => ({
  id: name,
  name,
  blocks: blocks.map(([kind, x, y, w, h, settings = {}], k) => ({ id: `${name} ${k}`, kind, x, y, w, h, settings })), // prettier-ignore
});
const report = (name: string, ...pages: Page[]): ReportBody => ({
  name,
  paper: { size: 'A4', direction: 'upright', marginMm: 15 },
  pages,
  filter: null,
  takes: [],
  called: {},
});
const head = (title: string): Placed[] => [
  ['rule', 15, 15, 12, 5, { weight: 3, colour: 'plum' }],
  ['words', 15, 20, 150, 20, { text: `# ${title}\nTake {take} · {date} · {job}`, size: 9 }],
  ['page', 175, 15, 20, 5],
];

const TEMPLATES: readonly Template[] = [
  {
    name: 'empty',
    title: 'An empty page',
    says: 'A4 upright, to be built from nothing.',
    body: report('New report', page('Page 1')),
  },
  {
    name: 'summary',
    title: 'One-page summary',
    says: 'Facts, the curves one under the other, what was found, how it was measured.',
    body: report(
      'Summary',
      page(
        'Summary',
        ...head('{take}'),
        ['facts', 15, 45, 180, 30, { columns: 4 }],
        ['chart', 15, 80, 180, 95, { axes: AXES[2] }],
        ['words', 15, 180, 180, 7, { text: '## What was found' }],
        ['findings', 15, 187, 180, 45],
        ['words', 15, 235, 180, 7, { text: '## How it was measured' }],
        ['method', 15, 242, 180, 40],
      ),
    ),
  },
  {
    name: 'spin-up',
    title: 'Spin-up with several axes',
    says: 'Speed, torque and power over each other, each on its own axis at the left.',
    body: report(
      'Spin-up',
      page(
        'Spin-up',
        ...head('Spin-up'),
        ['chart', 15, 45, 180, 90, { axes: AXES[0] }],
        ['words', 15, 140, 180, 7, { text: '## How it was measured' }],
        ['method', 15, 147, 180, 35],
        ['words', 15, 185, 180, 7, { text: '## What was found' }],
        ['findings', 15, 192, 180, 80],
      ),
      page('Channels', ...head('Where the numbers come from'), ['channels', 15, 45, 180, 235]),
    ),
  },
  {
    name: 'duty',
    title: 'Duty cycle',
    says: 'How long at which level: the drawing and its classes.',
    body: report(
      'Duty cycle',
      page(
        'Duty cycle',
        ...head('Duty cycle'),
        ['figure', 15, 45, 180, 90],
        ['words', 15, 140, 180, 7, { text: '## In classes' }],
        ['table', 15, 147, 180, 95],
        ['method', 15, 247, 180, 35],
      ),
    ),
  },
  {
    name: 'comparison',
    title: 'Comparison of takes',
    says: 'A line for each take, with what a study found in it.',
    body: report(
      'Comparison',
      page(
        'Comparison',
        ...head('Comparison of takes'),
        ['takes', 15, 45, 180, 110],
        ['figure', 15, 160, 180, 80],
        ['notes', 15, 245, 180, 35],
      ),
    ),
  },
  {
    name: 'modes',
    title: 'Modes of a structure',
    says: 'Frequencies and dampings with ±, the poles as they come to rest, the shapes, and how alike they are.',
    body: report(
      'Modes',
      page(
        'Modes',
        ...head('How it moves'),
        ['modes', 15, 45, 180, 115],
        ['words', 15, 165, 180, 7, { text: '## Poles as they come to rest' }],
        ['stabilization', 15, 172, 180, 95],
      ),
      page(
        'Shapes',
        ...head('Shapes'),
        ['shapes', 15, 45, 180, 145],
        ['words', 15, 195, 180, 7, { text: '## How alike they are' }],
        ['alike', 15, 202, 120, 75],
      ),
    ),
  },
  {
    name: 'noise figure',
    title: 'Noise figure of a device',
    says: 'Noise figure and gain over frequency with ±, point by point.',
    body: report(
      'Noise figure',
      page('Noise figure', ['rule', 15, 15, 12, 5, { weight: 3, colour: 'plum' }], ['words', 15, 20, 150, 20, { text: '# Noise figure and gain\n{date} · {job}', size: 9 }], ['page', 175, 15, 20, 5], ['noise', 15, 45, 180, 235, { most: 60 }]), // prettier-ignore
    ),
  },
  {
    name: 'series',
    title: 'Series of specimens',
    says: 'Takes as rows, results as columns, their statistics, and the curve of one.',
    body: report(
      'Series',
      page(
        'Series',
        ...head('Series of specimens'),
        ['series', 15, 45, 180, 150],
        ['words', 15, 200, 180, 7, { text: '## One of them: {take}' }],
        ['chart', 15, 207, 180, 75, { axes: AXES[3] }],
      ),
    ),
  },
  {
    name: 'recorder',
    title: 'Pocket recorder',
    says: 'What a recorder measured: lowest and highest, time beyond its limits, the curve, how it was set up.',
    body: report(
      'Pocket recorder',
      page(
        'Recorder',
        ...head('{take}'),
        ['facts', 15, 45, 180, 35, { columns: 3 }],
        ['chart', 15, 85, 180, 105, { axes: AXES[2], marks: 'shown' }],
        ['words', 15, 197, 180, 7, { text: '## How it was measured' }],
        ['method', 15, 204, 180, 25],
        ['words', 15, 234, 180, 7, { text: '## What was noted' }],
        ['notes', 15, 241, 180, 40],
      ),
    ),
  },
  {
    name: 'certificate',
    title: 'Calibration certificate',
    says: 'The channels of a take with sensors and calibrations, and where they come from.',
    body: report(
      'Calibrations',
      page(
        'Calibrations',
        ...head('Calibrations in force'),
        ['facts', 15, 45, 180, 25, { columns: 4 }],
        ['words', 15, 75, 180, 7, { text: '## Channels, as they were during the take' }],
        ['channels', 15, 82, 180, 130],
        ['words', 15, 217, 180, 7, { text: '## How it was measured' }],
        ['method', 15, 224, 180, 30],
        ['rule', 15, 268, 80, 5, { weight: 0.7, colour: 'ink' }],
        ['words', 15, 273, 80, 8, { text: 'Date, signature', size: 8 }],
      ),
      page('Trail', ...head('Where the numbers come from'), ['trail', 15, 45, 180, 235]),
    ),
  },
];

/** What a report can begin with, as it is offered. */
export const reportTemplates = () => TEMPLATES.map(({ name, title, says }) => ({ name, title, says }));

/** @throws `not_found` */
export function reportTemplate(name: string): ReportBody {
  const found = TEMPLATES.find((t) => t.name === name);
  if (!found) throw notFound('template', name);
  return found.body;
}
