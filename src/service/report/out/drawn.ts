import { readable, type Readable } from '$core/pages/hover';
import { contentOf } from '$core/pages/sheet';
import { sentenceText } from '$core/sentence/sentence';
import { cancelled } from '$core/errors';
import { pageMm, type Block, type ReportView } from '$contract/report';
import { blockKind } from '$contract/report-blocks';
import type { App } from '../../app';
import { contextFor, seriesFor } from '../context';
import { framed, numbersOf, paintedBlock, pt, settingOf } from '../pages';
import { houseStyle } from '../style';
import type { DrawnBlock, DrawnPage, Part } from './drawn-page';

export interface DrawAsk {
  takes: readonly string[];
  /** Number of the first page, and of how many there are: of pages that go into a file that has some already. */
  first?: number;
  all?: number;
  /** Whether charts are to be read on it. */
  hovered?: boolean;
}

const DRAWINGS = new Set(['chart', 'figure', 'picture']);
const partOf = (kind: string): Part => (DRAWINGS.has(kind) ? 'drawing' : kind === 'rule' || kind === 'page' ? 'beside' : 'words'); // prettier-ignore

/** The pages of a report over some takes, one after the other, drawn as they print. Others have their turn between two pages.
 *  @throws `not_found`, `cancelled` */
export async function* drawnPages(
  app: App,
  report: ReportView,
  { takes, first = 1, all, hovered = false }: DrawAsk,
  { progress, signal }: { progress: (share: number) => void; signal: { readonly aborted: boolean } },
): AsyncGenerator<DrawnPage> {
  const [width, height] = pageMm(report.paper).map(pt);
  const over: (string | null)[] = takes.length ? [...takes] : [null];
  const series = await seriesFor(app, report.pages);
  const style = houseStyle(app);
  const setting = settingOf(style);
  const said = <R extends Readable>(r: R): R => (style.numbers === 'point' ? r : (JSON.parse(JSON.stringify(r), (_, v) => (typeof v === 'string' ? numbersOf(v, style) : v)) as R)); // prettier-ignore
  const count = over.length * report.pages.length;
  for (const [n, takeId] of over.entries()) {
    const context = contextFor(app, report, takeId, report.now, series);
    const name = context.take?.head.name;
    const names = { channel: (id: string) => ({ name: report.called[id] ?? context.take?.signals.find((s) => s.channelId === id)?.name ?? id, unit: '' }) }; // prettier-ignore
    for (const [k, page] of report.pages.entries()) {
      await new Promise((turn) => setImmediate(turn));
      if (signal.aborted) throw cancelled(report.name);
      const own = { ...context, page: first + n * report.pages.length + k, pages: all ?? count };
      const blocks = page.blocks.map((block): DrawnBlock => {
        const { sheet, svg } = paintedBlock(block, own, setting);
        const [x, y] = [pt(block.x), pt(block.y)];
        return { x, y, content: contentOf(svg), part: partOf(block.kind), alt: altOf(block, names), links: sheet.links, anchors: sheet.anchors, readable: hovered ? sheet.plots.flatMap((p) => readable(p, x, y)).map(said) : [] }; // prettier-ignore
      });
      yield {
        title: over.length > 1 && name ? `${name}: ${page.name}` : page.name,
        width,
        height,
        frame: contentOf(framed(report, setting, own)),
        blocks,
      };
      progress((n * report.pages.length + k + 1) / count);
    }
  }
}

const altOf = ({ kind, settings }: Block, names: Parameters<typeof sentenceText>[2]): string => {
  const known = blockKind(kind);
  return known ? sentenceText(known.sentence, { ...known.defaults, ...settings } as never, names) : '';
};
