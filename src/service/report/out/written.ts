import { randomUUID } from 'node:crypto';
import { createWriteStream, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { FarrierError, asFarrierError, cancelled, type ErrorText } from '$core/errors';
import { bytesOf } from '$core/formats/zipped';
import type { Piece } from '$core/formats/format';
import type { ReportKind } from '$contract/outgoing';
import { EXTENSIONS } from '$contract/outgoing';
import type { ReportView } from '$contract/report';
import type { App } from '../../app';
import { stamp } from '../document';
import { viewReport } from '../reports';
import { houseStyle } from '../style';
import { openTake, sealOf } from '../../takes';
import { drawnPages, type DrawAsk } from './drawn';
import { writeHtml } from './html';
import { slidesOf } from './slides';

/** What of a report is wanted as a file. */
export interface ReportAsk {
  report: string;
  takes: readonly string[];
  as: ReportKind;
  /** A file for each take, all in one archive. */
  each?: boolean;
  /** A file on the disk that the pages go into: at its end, or in the place of those that this report has there. It is taken away. */
  into?: { path: string; how: 'append' | 'replace' } | null;
}
interface Watch {
  progress(share: number): void;
  signal: AbortSignal;
}
type Done = { says: string[]; archive?: boolean } | { fault: ErrorText };

const safe = (name: string) => name.replace(/[/\\]/g, '-');

/** How a report is written, and what its file is called. @throws `not_found` */
export function reportMaking(app: App, ask: ReportAsk, by: string): { name: string; run(to: string, watch: Watch): Promise<Done> } {
  const report = viewReport(app, ask.report);
  const named = ask.takes.map((id) => openTake(app, id).head.name);
  const name = `${report.name}${named.length === 1 ? `, ${named[0]}` : ''}.${EXTENSIONS[ask.as]}`;
  const run = async (to: string, watch: Watch): Promise<Done> => {
    try {
      if (ask.into) return await writeInto(app, report, { ...ask, into: ask.into }, by, to, watch);
      if (ask.each && ask.takes.length > 1) return await writeEach(app, report, ask, by, to, watch);
      return await writeOne(app, report, ask, by, to, watch);
    } catch (error) {
      rmSync(to, { force: true });
      return { fault: asFarrierError(error, name).text };
    }
  };
  return { name, run };
} // prettier-ignore

/** Writes a report over its takes as one file. @param at which numbers its pages have */
async function writeOne(app: App, report: ReportView, { takes, as }: Pick<ReportAsk, 'takes' | 'as'>, by: string, to: string, watch: Watch, at: Pick<DrawAsk, 'first' | 'all'> = {}): Promise<Done> {
  const made = new Date();
  const { face } = houseStyle(app);
  const ask = { takes, ...at };
  if (as === 'slides') {
    const { pptx, says } = await slidesOf(app, report, ask, by, watch);
    writeFileSync(to, pptx);
    return { says };
  }
  const about = await aboutOf(app, takes);
  if (as === 'page') {
    const pages = drawnPages(app, report, { ...ask, hovered: true }, watch);
    await pipeline(writeHtml(pages, { title: report.name, about: `${report.name}. ${about}. Made by ${by} on ${stamp(made)} with Farrier.`, face }), createWriteStream(to)); // prettier-ignore
    return { says: [] };
  }
  // Pages lie on the disk until they are set: one at a time is held, here and in the thread.
  const spool = `${to}.pages`;
  try {
    const anchors = new Set<string>();
    let count = 0;
    const lines = async function* () {
      for await (const page of drawnPages(app, report, ask, { ...watch, progress: (share) => watch.progress(share / 2) })) {
        for (const block of page.blocks) for (const anchor of block.anchors) anchors.add(anchor);
        count++;
        yield `${JSON.stringify(page)}\n`;
      }
    };
    await pipeline(lines, createWriteStream(spool));
    const task = { pages: spool, count, to, title: report.name, author: by, subject: about, report: report.id, anchors: [...anchors], madeMs: made.getTime(), face }; // prettier-ignore
    return await app.workers.do('writePdf', task, { signal: watch.signal, progress: (share) => watch.progress(0.5 + share / 2) }); // prettier-ignore
  } finally {
    rmSync(spool, { force: true });
  }
} // prettier-ignore

/** Of which takes it is, with their seals. @throws `not_found` */
async function aboutOf(app: App, takes: readonly string[]): Promise<string> {
  const names: string[] = [];
  for (const id of takes) names.push(`${openTake(app, id).head.name} (${sealText((await sealOf(app, id)).state)})`); // prettier-ignore
  return names.length ? `Of ${names.join('; ')}` : 'Of no take';
}
const sealText = (state: string) => (state === 'sealed' ? 'as sealed' : state === 'changed' ? 'changed since it was sealed' : state); // prettier-ignore

/** A file for each take, all in one archive; two takes of one name have files of two names. */
async function writeEach(app: App, report: ReportView, ask: ReportAsk, by: string, to: string, { progress, signal }: Watch): Promise<Done> {
  const parts: { name: string; path: string }[] = [];
  const says = new Set<string>();
  try {
    for (const [k, take] of ask.takes.entries()) {
      if (signal.aborted) throw cancelled(report.name);
      const part = { name: freeName(safe(`${report.name}, ${openTake(app, take).head.name}.${EXTENSIONS[ask.as]}`), new Set(parts.map((p) => p.name))), path: `${to}.${randomUUID()}` }; // prettier-ignore
      parts.push(part);
      const share = (of: number) => progress((k + of) / ask.takes.length);
      const done = await writeOne(app, report, { ...ask, takes: [take] }, by, part.path, { progress: share, signal });
      if ('fault' in done) throw new FarrierError('unavailable', done.fault);
      for (const text of done.says) says.add(text);
    }
    const pieces = function* (): Generator<Piece> {
      for (const { name, path } of parts) {
        yield { file: name };
        yield new Uint8Array(readFileSync(path));
      }
    };
    await pipeline(bytesOf(pieces()), createWriteStream(to));
    return { says: [...says], archive: true };
  } finally {
    for (const { path } of parts) rmSync(path, { force: true });
  }
} // prettier-ignore

/** A name that no other file has yet. */
function freeName(name: string, taken: ReadonlySet<string>): string {
  if (!taken.has(name)) return name;
  for (let n = 2; ; n++) {
    const next = name.replace(/(\.\w+)?$/, ` (${n})$1`);
    if (!taken.has(next)) return next;
  }
}

/** Puts the pages into a file that has others: what it had stays, numbers run on. */
async function writeInto(app: App, report: ReportView, ask: ReportAsk & { into: NonNullable<ReportAsk['into']> }, by: string, to: string, watch: Watch): Promise<Done> {
  const { path, how } = ask.into;
  const added = `${to}.added`;
  try {
    if (ask.as === 'page') throw new FarrierError('bad_input', { what: 'Only PDF files and slides can be added to.', next: 'Write it as a file of its own.' }); // prettier-ignore
    const kind = ask.as === 'pdf' ? 'pdf' : 'pptx';
    const known = await app.workers.do('lookIntoFile', { path, kind, report: report.id });
    if ('fault' in known) return known;
    const { pages, own } = known.result;
    const replaced = how === 'replace' ? own : [];
    const at = replaced.length ? replaced[0] : pages;
    const count = Math.max(1, ask.takes.length) * report.pages.length;
    const half = (from: number) => (share: number) => watch.progress(from + share / 2);
    const numbers = { first: at + 1, all: pages - replaced.length + count };
    const made = await writeOne(app, report, ask, by, added, { ...watch, progress: half(0) }, numbers);
    if ('fault' in made) return made;
    const joined = await app.workers.do('joinFiles', { path, added, at, without: replaced, kind, to }, { signal: watch.signal, progress: half(0.5) }); // prettier-ignore
    if ('fault' in joined) return joined;
    const none = how === 'replace' && own.length === 0 ? ['The file had no pages of this report: they were put at its end.'] : []; // prettier-ignore
    return { says: [...made.says, ...joined.says, ...none] };
  } finally {
    for (const gone of [added, path]) rmSync(gone, { force: true });
  }
} // prettier-ignore
