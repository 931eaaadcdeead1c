import type { Block, Page } from '$contract/report';
import { AXES } from '$contract/report-chart';
import type { App } from '$service/app';
import { addReport, viewReport, writeReport } from '$service/report/reports';

/** The report of the proof test: what a design office signs. */
export function seedReport(app: App, take: string, id: (channel: string) => string): void {
  const { id: report } = addReport(app, { take }, 'bench');
  const { version, paper, called } = viewReport(app, report);
  let n = 0;
  const block = (kind: string, x: number, y: number, w: number, h: number, settings: Block['settings'] = {}): Block => ({ id: `proof ${++n}`, kind, x, y, w, h, settings }); // prettier-ignore
  const page = (name: string, title: string, ...blocks: Block[]): Page => ({
    id: `proof ${name}`,
    name,
    blocks: [
      block('rule', 15, 15, 12, 5, { weight: 3, colour: 'plum' }),
      block('words', 15, 20, 150, 20, { text: `# ${title}\nTake {take} · {date} · Blade set {Blade set}`, size: 9 }), // prettier-ignore
      block('page', 175, 15, 20, 5),
      ...blocks,
    ],
  });
  const head = (y: number, text: string) => block('words', 15, y, 180, 7, { text: `## ${text}` });
  const [speed, torque, power, flow, flap] = ['Shaft speed', 'Shaft torque', 'Power', 'Flow', 'Blade 1 flap, root'].map(id); // prettier-ignore
  writeReport(
    app,
    report,
    version,
    {
      name: 'Proof test, blade set B',
      paper,
      called,
      filter: null,
      takes: [take],
      pages: [
        page(
          'Cover',
          'Brinewheel II, proof test of blade set B',
          block('facts', 15, 45, 180, 12, { columns: 4 }),
          head(66, 'What was found'),
          block('findings', 15, 73, 180, 35, { study: 'Steady load, statistics' }),
          head(116, 'What was recorded'),
          block('chart', 15, 123, 180, 100, {
            channels: [speed, torque, power, flap],
            axes: AXES[2],
            text: 6.5,
          }),
          head(232, 'How it was measured'),
          block('method', 15, 239, 180, 40, { study: 'Steady load, statistics' }),
        ),
        page(
          'Spin-up',
          'Spin-up to stall',
          block('chart', 15, 45, 180, 95, { channels: [speed, torque, power], axes: AXES[0], caption: 'Speed, torque and power over the whole take.', looks: { [power]: { line: 'dashed', weight: 'usual' } } }), // prettier-ignore
          head(146, 'Torque against speed'),
          block('chart', 15, 153, 87, 70, { channels: [speed, torque], form: 'against the first of them', names: 'left out', text: 6.5 }), // prettier-ignore
          block('chart', 108, 153, 87, 70, { channels: [flap], form: 'bars', parts: 12, of: 'mean', text: 6.5 }), // prettier-ignore
          head(230, 'Everything at once'),
          block('chart', 15, 237, 180, 45, { channels: [speed, torque, power, flow, flap], form: 'rows of colour', parts: 240, text: 6.5 }), // prettier-ignore
        ),
        page(
          'Vibration',
          'Vibration of the nacelle',
          block('figure', 15, 45, 180, 90, { study: 'Nacelle vibration at 1.8 A' }),
          head(140, 'What was found'),
          block('findings', 15, 148, 180, 50, { study: 'Nacelle vibration at 1.8 A' }),
          head(205, 'What was noted'),
          block('notes', 15, 213, 180, 65),
        ),
        page(
          'Trail',
          'Where the numbers come from',
          block('trail', 15, 45, 180, 235, { study: 'Steady load, statistics' }),
        ),
      ],
    },
    take,
  );
}
