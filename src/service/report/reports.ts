import { randomUUID } from 'node:crypto';
import { badInput } from '$core/errors';
import { type BlockSettings, Block, ReportBody, type ReportView } from '$contract/report';
import { blockKind } from '$contract/report-blocks';
import { filterTakes, filterText, orderTakes } from '$contract/take-list';
import {
  setReportGone,
  getReport,
  insertReport,
  listReports,
  updateReport,
  type ReportRow,
} from '$store/reports';
import { getTake } from '$store/takes';
import { jobOf, log, type App } from '../app';
import { check } from '../check';
import { takeLines } from '../inspect/list';
import { openTake } from '../takes';
import { reportTemplate } from './templates';

const MOST_TAKES = 200;

/** A report as it was kept; what its blocks could not be set to then is as it comes. */
function bodyOf(row: ReportRow): ReportBody {
  const body = row.body as ReportBody;
  const whole = (block: Block): Block => ({ ...block, settings: { ...blockKind(block.kind)?.defaults, ...block.settings } }); // prettier-ignore
  return { ...body, pages: body.pages.map((page) => ({ ...page, blocks: page.blocks.map(whole) })) };
}

/** Takes that a report is about now, the newest first where a filter says it. */
function takesNow(app: App, { filter, takes }: Pick<ReportBody, 'filter' | 'takes'>): ReportView['now'] {
  const lines = takeLines(app).filter((t) => t.state !== 'recording');
  const found = filter
    ? orderTakes(filterTakes(lines, filter, Date.now()), 'newest')
    : takes.flatMap((id) => lines.filter((t) => t.id === id));
  return found.slice(0, MOST_TAKES).map(({ id, name }) => ({ id, name }));
}

function view(app: App, row: ReportRow): ReportView {
  const body = bodyOf(row);
  const now = takesNow(app, body);
  const about = body.filter
    ? filterText(body.filter)
    : body.takes.length === 0
      ? 'whichever take it is run over'
      : now.length === 1
        ? now[0].name
        : now.length
          ? `${now[0].name} and ${now.length - 1} more`
          : 'takes that are gone';
  return { ...body, id: row.id, version: row.version, about, now };
}

export const viewReport = (app: App, id: string): ReportView => view(app, getReport(app.db, id));
export const viewReports = (app: App): ReportView[] =>
  listReports(app.db, jobOf(app).id).map((row) => view(app, row));

/** Blocks of a kind that is known, with settings that suit it. @throws `bad_input` naming the block */
function checked(body: unknown): ReportBody {
  const report = check(ReportBody, body);
  const seen = new Set<string>();
  for (const { id } of [...report.pages, ...report.pages.flatMap((p) => p.blocks)]) {
    if (seen.has(id)) throw badInput('pages', `“${id}” twice`, 'Give each page and block an id of its own.');
    seen.add(id);
  }
  return {
    ...report,
    pages: report.pages.map((page) => ({ ...page, blocks: page.blocks.map(checkedBlock) })),
  };
}
function checkedBlock(block: Block): Block {
  const kind = blockKind(block.kind);
  if (!kind) throw badInput('block', block.kind, 'Put another kind of block there.');
  return { ...block, settings: check(kind.sentence.schema, { ...kind.defaults, ...block.settings }) };
}

/** Names of the channels that its blocks mean, as the take calls them that it is shown for. */
function calledIn(app: App, body: ReportBody, takeId: string | undefined): ReportBody['called'] {
  if (!takeId) return body.called;
  try {
    const known = openTake(app, takeId).signals.map((s) => [s.channelId, s.name] as const);
    const meant = new Set(
      body.pages.flatMap((p) => p.blocks.flatMap((b) => (b.settings.channels as string[] | undefined) ?? [])),
    );
    return { ...body.called, ...Object.fromEntries(known.filter(([id]) => id && meant.has(id))) };
  } catch {
    return body.called;
  }
}

/** Makes a report from a template, or from another one. @throws `bad_input`, `not_found` */
export function addReport(
  app: App,
  {
    template,
    from,
    take,
    settings,
  }: { template?: string; from?: string; take?: string; settings?: BlockSettings },
  by: string,
): ReportView {
  if (take) getTake(app.db, take);
  const source = from ? bodyOf(getReport(app.db, from)) : reportTemplate(template ?? 'empty');
  const fresh = {
    ...settled(source, settings ?? {}),
    name: from ? `${source.name}, copy`.slice(0, 80) : source.name,
  };
  return keepReport(app, { ...fresh, takes: take ? [take] : fresh.takes }, by);
}
/** Blocks of some kinds set otherwise than the template has them. */
const settled = (body: ReportBody, settings: BlockSettings): ReportBody => ({
  ...body,
  pages: body.pages.map((page) => ({
    ...page,
    blocks: page.blocks.map((b) => ({ ...b, settings: { ...b.settings, ...settings[b.kind] } })),
  })),
});
const withNewIds = (body: ReportBody): ReportBody => ({
  ...body,
  pages: body.pages.map((page) => ({
    ...page,
    id: randomUUID(),
    blocks: page.blocks.map((block) => ({ ...block, id: randomUUID() })),
  })),
});

/** Writes a report as its editor left it. @param shown the take that it is looked at for @throws `bad_input`, `not_found`, `conflict` where it was changed since that version */
export function writeReport(
  app: App,
  id: string,
  version: number,
  body: unknown,
  shown?: string,
): ReportView {
  const own = checked(body);
  for (const take of own.takes)
    if (!bodyOf(getReport(app.db, id)).takes.includes(take)) getTake(app.db, take);
  updateReport(app.db, id, version, { ...own, called: calledIn(app, own, shown) });
  return viewReport(app, id);
}

/** Takes a report away; it can be brought back. @throws `not_found` */
export function removeReport(app: App, id: string, by: string): void {
  const { name } = bodyOf(getReport(app.db, id));
  setReportGone(app.db, id, Date.now());
  log(app, 'report', `The report “${name}” was taken away.`, { by });
}
/** @throws `not_found` where none of that id was taken away */
export function restoreReport(app: App, id: string, by: string): void {
  const { name } = bodyOf(getReport(app.db, id, true));
  setReportGone(app.db, id, null);
  log(app, 'report', `The report “${name}” was brought back.`, { by });
}
/** Reports that were taken away, the last one first. */
export const goneReports = (app: App): { id: string; name: string }[] =>
  listReports(app.db, jobOf(app).id, true)
    .sort((a, b) => b.goneAt! - a.goneAt!)
    .map((row) => ({ id: row.id, name: bodyOf(row).name }));

/** Keeps a report that came whole, with pages and blocks of new ids. @throws `bad_input` */
export function keepReport(app: App, given: unknown, by: string): ReportView {
  const body = checked(withNewIds(check(ReportBody, given)));
  const row = {
    id: randomUUID(),
    jobId: jobOf(app).id,
    position: Date.now(),
    version: 1,
    body,
    goneAt: null,
  };
  insertReport(app.db, row);
  log(app, 'report', `The report “${body.name}” was made.`, { by });
  return view(app, row);
}
