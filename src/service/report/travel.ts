import { z } from 'zod';
import { FarrierError, badInput } from '$core/errors';
import { HouseStyle, ReportBody, type ReportView } from '$contract/report';
import { log, type App } from '../app';
import { keepPicture, pictureOf } from '../boards';
import { check } from '../check';
import { keepReport, viewReport } from './reports';
import { PLAIN, changeHouseStyle, houseStyle } from './style';

const VERSION = 1;
/** A report as it goes from house to house: its pages, the style of its house, and every picture of both within. */
const TravellingReport = z.strictObject({
  farrier: z.literal('report'),
  version: z.literal(VERSION),
  report: ReportBody,
  style: HouseStyle,
  pictures: z.record(z.string().regex(/^\d+$/), z.string().max(40_000_000)),
});

/** Numbers of pictures that a report and its style have. */
const picturesOf = ({ pages }: ReportBody, style: HouseStyle): number[] => {
  const blocks = pages.flatMap((p) => p.blocks).filter((b) => b.kind === 'picture');
  return [...new Set([...blocks.map((b) => b.settings.picture), style.logo])].filter((id) => typeof id === 'number');
}; // prettier-ignore

/** A report as a file that can be brought into another house. It is bound to no take there. @throws `not_found` */
export function reportFile(app: App, id: string): { name: string; text: string } {
  const { name, paper, pages, called } = viewReport(app, id);
  const report: ReportBody = { name, paper, pages, called, filter: null, takes: [] };
  const style = houseStyle(app);
  const pictures: Record<string, string> = {};
  for (const picture of picturesOf(report, style)) {
    try {
      pictures[picture] = Buffer.from(pictureOf(app, picture).content).toString('base64');
    } catch (error) {
      // One that is gone here is gone there, too.
      if (!(error instanceof FarrierError)) throw error;
    }
  }
  const file: z.infer<typeof TravellingReport> = {
    farrier: 'report',
    version: VERSION,
    report,
    style,
    pictures,
  };
  return { name: `${name}.report.json`, text: JSON.stringify(file) };
}

/** Brings a report in that came as a file. @param withStyle the style of its house becomes the style of this one
 *  @throws `bad_input` naming what does not suit; nothing is kept then */
export function bringReport(app: App, content: Uint8Array, withStyle: boolean, by: string): ReportView {
  let given: unknown;
  try {
    given = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(content));
  } catch {
    throw badInput('file', 'no report', 'Choose a file that was shared as “a file for another house”.');
  }
  const { report, style, pictures } = check(TravellingReport, given);
  return app.db.transaction(() => {
    const anew = new Map<number, number>();
    for (const [id, bytes] of Object.entries(pictures)) anew.set(Number(id), keepPicture(app, Buffer.from(bytes, 'base64'))); // prettier-ignore
    const moved = (id: unknown) => (typeof id === 'number' ? (anew.get(id) ?? null) : null);
    const pages = report.pages.map((page) => ({
      ...page,
      blocks: page.blocks.map((b) => (b.kind === 'picture' ? { ...b, settings: { ...b.settings, picture: moved(b.settings.picture) } } : b)), // prettier-ignore
    }));
    const kept = keepReport(app, { ...report, pages, takes: [], filter: null }, by);
    if (withStyle) changeHouseStyle(app, { ...PLAIN, ...style, logo: moved(style.logo) }, by);
    log(app, 'report', `“${kept.name}” came as a file${withStyle ? ', with the style of its house' : ''}.`, {
      by,
    });
    return kept;
  });
}
