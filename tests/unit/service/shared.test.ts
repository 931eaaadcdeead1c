import { spawnSync } from 'node:child_process';
import {
  copyFileSync,
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PDFDocument, PDFName, StandardFonts } from '@cantoo/pdf-lib';
import { strFromU8, unzipSync } from 'fflate';
import pptxgen from 'pptxgenjs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Readable } from '$core/pages/hover';
import type { Block, ReportBody } from '$contract/report';
import { closeApp, openApp, type App } from '$service/app';
import { endOutgoing, outgoingState } from '$service/outgoing';
import { putInto } from '$service/report/out/into';
import { addReport, goneReports, removeReport, restoreReport, viewReport, viewReports, writeReport } from '$service/report/reports'; // prettier-ignore
import { PLAIN, changeHouseStyle, houseStyle } from '$service/report/style';
import { bringReport, reportFile } from '$service/report/travel';
import { keepPicture, pictureOf } from '$service/boards';
import { startStudy } from '$service/study/studies';
import { openTake } from '$service/takes';
import { made } from '../made';
import { makeTake } from '../takes';

// A report shared: as a PDF with links, within files that are there already, as slides, as a page that stands alone.
let folder: string;
let app: App;
const takes: string[] = [];
const HZ = 100;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-shared-'));
  app = openApp(folder);
  for (const k of [1, 2, 3])
    takes.push(
      makeTake(app, {
        name: k === 3 ? 'Spin 2' : `Spin ${k}`,
        signals: [
          { name: 'Torque', unit: 'kN·m', hz: HZ, values: Float32Array.from({ length: 20 * HZ }, (_, i) => k * Math.floor(i / HZ)) }, // prettier-ignore
          { name: 'Travel', unit: 'mm', hz: HZ, values: Float32Array.from({ length: 20 * HZ }, (_, i) => Math.cos(i / 50)) }, // prettier-ignore
        ],
      }),
    );
  for (const take of takes)
    await startStudy(app, { kind: 'statistics', takeId: take, name: 'Load' }, 'Ada').done;
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

let count = 0;
const block = (kind: string, settings: Block['settings'] = {}, at: Partial<Block> = {}): Block => ({ id: `b${++count}`, kind, x: 15, y: 15, w: 180, h: 80, settings, ...at }); // prettier-ignore
/** A report of some pages. */
function report(name: string, ...pages: Block[][]): string {
  const { id, version, about, now, ...body } = addReport(app, {}, 'Ada');
  void [about, now];
  const made: ReportBody = { ...body, name, pages: pages.map((blocks, k) => ({ id: `${id} ${k}`.slice(0, 40), name: `Leaf ${k + 1}`, blocks })) }; // prettier-ignore
  return writeReport(app, id, version, made).id;
}
const tool = (name: string, ...args: string[]) => spawnSync(name, args, { encoding: 'utf8' }).stdout;
const pagesOf = (file: string) => tool('pdftotext', '-layout', file, '-').split('\f').slice(0, -1);
const titles = (file: string) => (JSON.parse(tool('qpdf', '--json', '--json-key=outlines', file)) as { outlines: { title: string; destpageposfrom1: number }[] }).outlines.map((o) => [o.title, o.destpageposfrom1]); // prettier-ignore
const checked = (file: string) => spawnSync('qpdf', ['--check', file]).status;
const kept = (name: string, bytes: Uint8Array) => {
  const file = join(folder, name);
  writeFileSync(file, bytes);
  return file;
};
/** Where the links of a file lead, by their page. */
async function links(file: string): Promise<[from: number, to: number][]> {
  const doc = await PDFDocument.load(readFileSync(file));
  const refs = doc.getPages().map((p) => p.ref.toString());
  return doc.getPages().flatMap((page, k) => {
    const annotations = page.node.Annots()?.asArray() ?? [];
    return annotations.map((a): [number, number] => {
      const dest = (doc.context.lookup(a) as unknown as { get(n: PDFName): { get(i: number): { toString(): string } } }).get(PDFName.of('Dest')); // prettier-ignore
      return [k + 1, dest ? refs.indexOf(dest.get(0).toString()) + 1 : 0];
    });
  });
}

describe('a PDF', () => {
  test('leads from each finding to the page with its trail, and nowhere where there is none', async () => {
    const both = report('Both', [block('findings', { study: 'Load' })], [block('trail', { study: 'Load' }, { h: 200 })]); // prettier-ignore
    const { file, bytes } = await made(app, { report: both, takes: [takes[0]], as: 'pdf' });
    const findings = pagesOf(file)[0].split('\n').filter((l) => l.includes('Torque,') || l.includes('Travel,')).length; // prettier-ignore
    const dests = tool('pdfinfo', '-dests', file);
    expect(dests).toMatch(/^\s*2 \[.*"trail /m);
    expect((bytes.toString('latin1').match(/\/Subtype \/Link/g) ?? []).length).toBeGreaterThanOrEqual(
      findings,
    );
    expect(findings).toBe(2);
    const alone = await made(app, { report: report('Alone', [block('findings', { study: 'Load' })]), takes: [takes[0]], as: 'pdf' }); // prettier-ignore
    expect(alone.bytes.toString('latin1')).not.toContain('/Subtype /Link');
  });
  test('says in words what each drawing is, for those who do not see it', async () => {
    const id = report('Tagged', [block('chart', { caption: 'Torque steps' }), block('words', { text: '# Head' }, { y: 100 })]); // prettier-ignore
    const { file } = await made(app, { report: id, takes: [takes[0]], as: 'pdf' });
    const structure = tool('pdfinfo', '-struct-text', file);
    expect(structure).toMatch(/Document\s+Sect[\s\S]*Figure[\s\S]*P[\s\S]*Head/);
    expect(tool('qpdf', '--qdf', '--object-streams=disable', file, '-')).toContain('Draw the first three channels over time'); // prettier-ignore
  });
  test('of each take in one archive: two takes of one name are two files', async () => {
    const id = report('Every', [block('words', { text: 'Of {take}' })]);
    const told: number[] = [];
    const { bytes, archive } = await made(app, { report: id, takes, as: 'pdf', each: true }, { told: (s) => told.push(s) }); // prettier-ignore
    expect(archive).toBe(true);
    expect(Object.keys(unzipSync(bytes))).toEqual(['Every, Spin 1.pdf', 'Every, Spin 2.pdf', 'Every, Spin 2 (2).pdf']); // prettier-ignore
    expect(told.at(-1)).toBe(1);
    expect(told).toEqual([...told].sort((a, b) => a - b));
    expect(readdirSync(join(folder, 'outgoing')).filter((n) => n.includes('.'))).toEqual([]);
  });
  test('that is stopped half-way, or cannot be kept, leaves nothing', async () => {
    const id = report('Stopped', ...Array.from({ length: 8 }, () => [block('chart')]));
    const stop = new AbortController();
    const before = readdirSync(join(folder, 'outgoing'));
    const told = (share: number) => share > 0.3 && stop.abort();
    await expect(made(app, { report: id, takes, as: 'pdf' }, { told, signal: stop.signal })).rejects.toThrow(/cancel|stopped/i); // prettier-ignore
    await expect(made(app, { report: id, takes, as: 'page' }, { told, signal: stop.signal })).rejects.toThrow(/cancel|stopped/i); // prettier-ignore
    expect(readdirSync(join(folder, 'outgoing'))).toEqual(before);
  });
});

describe('the style of the house', () => {
  test('its typeface is embedded and measured by, its colours are those of the curves, on every kind of paper', async () => {
    const id = report('Styled', [block('words', { text: 'Wide words that have to break somewhere on the page, wherever the typeface has them end in turn' }, { w: 40, h: 40 }), block('chart', {}, { y: 60 })]); // prettier-ignore
    const fonts = async () =>
      tool('pdffonts', (await made(app, { report: id, takes: [takes[0]], as: 'pdf' })).file);
    const lines = async () => pagesOf((await made(app, { report: id, takes: [takes[0]], as: 'pdf' })).file)[0].split('\n').filter((l) => /^ *[a-zA-Z, ]+$/.test(l)).length; // prettier-ignore
    const web = async () =>
      (await made(app, { report: id, takes: [takes[0]], as: 'page' })).bytes.toString('utf8');
    expect(await fonts()).toMatch(/Commissioner/);
    const [plain, narrow] = [
      await lines(),
      changeHouseStyle(app, { ...PLAIN, face: 'Archivo Narrow' }, 'Ada'),
    ];
    void narrow;
    expect(await fonts()).toMatch(/ArchivoNarrow/);
    expect(await fonts()).not.toMatch(/Commissioner/);
    expect(await lines()).toBeLessThan(plain);
    const colours = ['#010203', '#040506', '#070809', '#0a0b0c', '#0d0e0f', '#101112', '#131415'];
    changeHouseStyle(app, { ...PLAIN, colours }, 'Ada');
    expect(await web()).toContain('#010203');
    const deck = unzipSync((await made(app, { report: id, takes: [takes[0]], as: 'slides' })).bytes);
    expect(Object.entries(deck).some(([n, b]) => n.includes('charts/chart') && strFromU8(b).includes('010203'))).toBe(true); // prettier-ignore
    expect(() => changeHouseStyle(app, { ...PLAIN, colours: ['red'] }, 'Ada')).toThrow();
    changeHouseStyle(app, PLAIN, 'Ada');
    expect(await web()).not.toContain('#010203');
  });
});

describe('into a PDF that is there', () => {
  /** A PDF of another program: pages, bookmarks, what it says of itself. */
  async function foreign(pages: number): Promise<string> {
    const doc = await PDFDocument.create();
    const font = await doc.embedFont(StandardFonts.Helvetica);
    for (let k = 1; k <= pages; k++)
      doc.addPage([300, 400]).drawText(`Foreign ${k}`, { x: 50, y: 300, font });
    doc.setTitle('The folder');
    doc.setAuthor('Somebody');
    await doc.attach(new TextEncoder().encode('a,b\n1,2\n'), 'data.csv', { mimeType: 'text/csv' });
    return kept(`foreign ${++count}.pdf`, await doc.save());
  }
  const join2 = async (id: string, file: string, how: 'append' | 'replace', over = [takes[0]]) => {
    const path = join(folder, `copy ${++count}`);
    copyFileSync(file, path);
    const done = await made(app, { report: id, takes: over, as: 'pdf', into: { path, how } });
    expect(existsSync(path)).toBe(false);
    return { ...done, pages: pagesOf(done.file) };
  };
  const numbered = (name: string) => report(name, [block('words', { text: `${name} of {take}` }, { h: 20 }), block('page', {}, { y: 40, h: 10 }), block('findings', { study: 'Load' }, { y: 60 })], [block('trail', { study: 'Load' }, { h: 200 })]); // prettier-ignore

  test('at its end: its own pages, words of itself and attachment stay, numbers run on, bookmarks and links come along', async () => {
    const { file, pages } = await join2(numbered('Added'), await foreign(3), 'append');
    expect(pages).toHaveLength(5);
    expect(pages.slice(0, 3).map((p) => p.trim())).toEqual(['Foreign 1', 'Foreign 2', 'Foreign 3']);
    expect(pages[3]).toContain('Added of Spin 1');
    expect(pages[3]).toContain('4 / 5');
    expect(tool('pdfinfo', file)).toMatch(/Title:\s+The folder[\s\S]*Author:\s+Somebody/);
    expect(tool('pdfdetach', '-list', file)).toContain('data.csv');
    expect(titles(file)).toEqual([['Leaf 1', 4], ['Leaf 2', 5]]); // prettier-ignore
    const lead = await links(file);
    expect(lead).toHaveLength(2);
    for (const [from, to] of lead) expect([from, to]).toEqual([4, 5]);
    expect(checked(file)).toBe(0);
    const size = /Page size:\s+([\d.]+) x ([\d.]+)/.exec(tool('pdfinfo', '-f', '5', '-l', '5', file));
    expect(size).toBeNull(); // of a range it says each
    expect(tool('pdfinfo', '-f', '4', '-l', '5', file)).toMatch(/Page\s+4 size:\s+595\.\d+ x 841/);
  });
  test('in the place of its former pages: those of other reports and of others stay where they are', async () => {
    const [first, second] = [numbered('First'), numbered('Second')];
    const one = await join2(first, await foreign(1), 'append');
    const two = await join2(second, one.file, 'append');
    expect(two.pages.map((p) => /(Foreign 1|First|Second|Study Load)/.exec(p)?.[0])).toEqual(['Foreign 1', 'First', 'Study Load', 'Second', 'Study Load']); // prettier-ignore
    // Now over two takes: two more pages, the second report moves on.
    const three = await join2(first, two.file, 'replace', [takes[1], takes[0]]);
    expect(three.pages).toHaveLength(7);
    expect(three.pages[1]).toContain('First of Spin 2');
    expect(three.pages[1]).toContain('2 / 7');
    expect(three.pages[3]).toContain('First of Spin 1');
    expect(three.pages[5]).toContain('Second of Spin 1');
    expect(titles(three.file).map(([title]) => title)).toEqual(['Leaf 1', 'Leaf 2', 'Spin 2: Leaf 1', 'Spin 2: Leaf 2', 'Spin 1: Leaf 1', 'Spin 1: Leaf 2']); // prettier-ignore
    for (const [, page] of titles(three.file)) expect(page).toBeGreaterThan(0);
    expect(checked(three.file)).toBe(0);
    // The same once more changes nothing but the same pages.
    const again = await join2(first, three.file, 'replace', [takes[1], takes[0]]);
    expect(again.pages.map((p) => p.trim())).toEqual(three.pages.map((p) => p.trim()));
  });
  test('where it has none of this report they come to its end, which is said', async () => {
    const { pages, says } = await join2(numbered('New'), await foreign(2), 'replace');
    expect(pages).toHaveLength(4);
    expect(pages[2]).toContain('3 / 4');
    expect(says.join(' ')).toContain('had no pages of this report');
  });
  test('of its own PDF all pages are its own', async () => {
    const id = numbered('Own');
    const { file } = await made(app, { report: id, takes, as: 'pdf' });
    const { pages } = await join2(id, file, 'replace');
    expect(pages).toHaveLength(2);
    expect(pages[0]).toContain('1 / 2');
  });
  test('a file that is no PDF, a damaged one, one that is locked: said what and what next, nothing stays', async () => {
    const id = numbered('Refused');
    const good = readFileSync(await foreign(2));
    const bad: [Uint8Array, RegExp][] = [
      [new TextEncoder().encode('a,b\n1,2\n'), /no PDF/],
      [good.subarray(0, 300), /cannot be read/],
      [new Uint8Array([...new TextEncoder().encode('%PDF-1.7\n'), ...new Uint8Array(5000).fill(65)]), /cannot be read/], // prettier-ignore
    ];
    for (const [bytes, says] of bad) {
      const path = kept(`bad ${++count}`, bytes);
      await expect(made(app, { report: id, takes: [takes[0]], as: 'pdf', into: { path, how: 'append' } })).rejects.toThrow(says); // prettier-ignore
      expect(existsSync(path)).toBe(false);
    }
    const plain = kept('plain.pdf', good);
    const locked = join(folder, 'locked.pdf');
    spawnSync('qpdf', ['--encrypt', 'secret', 'owner', '256', '--', plain, locked]);
    await expect(made(app, { report: id, takes: [takes[0]], as: 'pdf', into: { path: locked, how: 'append' } })).rejects.toThrow(/password/); // prettier-ignore
    expect(readdirSync(join(folder, 'outgoing')).filter((n) => n.includes('.'))).toEqual([]);
  });
  test('a page of the web takes no pages; through the house it is begun, told and taken like any file', async () => {
    const id = numbered('Through');
    const path = kept(`w ${++count}`, readFileSync(await foreign(1)));
    await expect(made(app, { report: id, takes: [], as: 'page', into: { path, how: 'append' } })).rejects.toThrow(/Only PDF/); // prettier-ignore
    const begun = await putInto(app, { report: id, takes: [takes[0]], as: 'pdf', how: 'append' }, readFileSync(await foreign(1)), 'Ada'); // prettier-ignore
    while (outgoingState(app, begun.id).state === 'making') await new Promise((r) => setTimeout(r, 20));
    expect(outgoingState(app, begun.id)).toMatchObject({ state: 'ready', name: 'Through, Spin 1.pdf' });
    endOutgoing(app, begun.id);
    await expect(putInto(app, { report: 'gone', takes: [], as: 'pdf', how: 'append' }, new Uint8Array(5), 'Ada')).rejects.toThrow('report'); // prettier-ignore
    expect(readdirSync(join(folder, 'outgoing')).filter((n) => n.includes('.'))).toEqual([]);
  });
});

describe('slides into a presentation that is there', () => {
  const slidesOf = (bytes: Uint8Array) => {
    const files = unzipSync(bytes);
    const rels = strFromU8(files['ppt/_rels/presentation.xml.rels']);
    return [...strFromU8(files['ppt/presentation.xml']).matchAll(/<p:sldId\b[^>]*r:id="([^"]+)"/g)].map(
      ([, id]) => {
        const target = new RegExp(`<Relationship\\b(?=[^>]*\\bId="${id}")[^>]*\\bTarget="/?(?:ppt/)?([^"]+)"`).exec(rels)![1]; // prettier-ignore
        const xml = strFromU8(files[`ppt/${target}`]);
        return { words: [...xml.matchAll(/<a:t>([^<]*)<\/a:t>/g)].map(([, t]) => t).join(' '), chart: xml.includes('drawingml/2006/chart"'), table: xml.includes('<a:tbl>') }; // prettier-ignore
      },
    );
  };
  async function foreign(): Promise<Uint8Array> {
    const deck = new pptxgen();
    for (const k of [1, 2]) deck.addSlide().addText(`Foreign ${k}`, { x: 1, y: 1, w: 4, h: 1 });
    return (await deck.write({ outputType: 'nodebuffer' })) as Buffer;
  }
  test('at its end, and in the place of the former ones; charts and tables can still be edited', async () => {
    const id = report('Deck', [block('words', { text: 'Deck of {take}' }, { h: 20 }), block('page', {}, { y: 40, h: 8 }), block('chart', {}, { y: 60, h: 60 }), block('table', { study: 'Load' }, { y: 130, h: 60 })]); // prettier-ignore
    const put = (bytes: Uint8Array, how: 'append' | 'replace', over: string[]) => made(app, { report: id, takes: over, as: 'slides', into: { path: kept(`deck ${++count}`, bytes), how } }); // prettier-ignore
    const appended = await put(await foreign(), 'append', [takes[0]]);
    const after = slidesOf(appended.bytes);
    expect(after.map((s) => s.words.slice(0, 9))).toEqual(['Foreign 1', 'Foreign 2', 'Deck of S']);
    expect(after[2].words).toContain('3 / 3');
    expect(after[2]).toMatchObject({ chart: true, table: true });
    const replaced = await put(appended.bytes, 'replace', [takes[1], takes[0]]);
    const now = slidesOf(replaced.bytes);
    expect(now).toHaveLength(4);
    expect(now[2].words).toContain('Deck of Spin 2');
    expect(now[2].words).toContain('3 / 4');
    expect(now[3].words).toContain('Deck of Spin 1');
    // What was replaced is gone from the file, not only from what is shown.
    const all = Object.entries(unzipSync(replaced.bytes)).filter(([n]) => /slides\/slide\d+\.xml$/.test(n));
    expect(all).toHaveLength(4);
    await expect(put(new Uint8Array(400).fill(1), 'append', [])).rejects.toThrow(/no presentation/);
  });
});

describe('a page of the web', () => {
  const readableOf = (html: string) => [...html.matchAll(/<script type="application\/json">([\s\S]*?)<\/script>/g)].flatMap(([, json]) => JSON.parse(json) as Readable[]); // prettier-ignore
  test('stands alone: nothing is asked of a network, fonts and drawings are within', async () => {
    const id = report('Alone <b>', [block('chart'), block('words', { text: 'Fast & <script>alert(1)</script>' }, { y: 120, h: 20 })]); // prettier-ignore
    const { name, bytes } = await made(app, { report: id, takes: [takes[0]], as: 'page' });
    const html = bytes.toString('utf8');
    expect(name).toBe('Alone <b>, Spin 1.html');
    expect(html).toContain("default-src 'none'");
    expect(html.replaceAll('http://www.w3.org/', '')).not.toMatch(/https?:\/\/|src="|@import|url\((?!data:)/);
    expect(html).toContain('<title>Alone &lt;b&gt;</title>');
    expect(html).not.toContain('<script>alert');
    expect(html).toMatch(/Of Spin 1 \((as sealed|not sealed)\)\. Made by Ada/);
  });
  test('its charts say what stands at a place: value, unit and time, in the numbers of the house', async () => {
    const channelId = openTake(app, takes[0]).signals.find((s) => s.name === 'Torque')!.channelId!;
    const id = report('Read', [block('chart', { channels: [channelId], marks: 'left out' })]);
    const [columns] = readableOf((await made(app, { report: id, takes: [takes[0]], as: 'page' })).bytes.toString('utf8')); // prettier-ignore
    if (columns.kind !== 'columns') throw new Error(columns.kind);
    const [x, , width] = columns.box;
    // 10.5 s of 20 s: the tenth step.
    const at = columns.at.reduce((best, v, k) => (Math.abs(v - (x + width * 0.525)) < Math.abs(columns.at[best] - (x + width * 0.525)) ? k : best), 0); // prettier-ignore
    expect(columns.says[at][0]).toMatch(/^10\.5\d* s$/);
    expect(columns.says[at][1]).toBe('Torque 10.000 kN·m');
    for (let k = 1; k < columns.at.length; k++)
      expect(columns.at[k]).toBeGreaterThanOrEqual(columns.at[k - 1]);
    changeHouseStyle(app, { ...PLAIN, numbers: 'comma' }, 'Ada');
    const [comma] = readableOf((await made(app, { report: id, takes: [takes[0]], as: 'page' })).bytes.toString('utf8')); // prettier-ignore
    expect(comma.kind === 'columns' && comma.says[at][0]).toMatch(/^10,5\d* s$/);
    changeHouseStyle(app, PLAIN, 'Ada');
  });
  test('pairs and cells are read, too', async () => {
    const of = async (form: string, channels: string[] = []) => readableOf((await made(app, { report: report(form, [block('chart', { form, parts: 10, channels })]), takes: [takes[0]], as: 'page' })).bytes.toString('utf8')); // prettier-ignore
    const [torque, travel] = ['Torque', 'Travel'].map(
      (name) => openTake(app, takes[0]).signals.find((s) => s.name === name)!.channelId!,
    );
    const [pairs] = await of('against the first of them', [travel, torque]);
    if (pairs.kind !== 'pairs') throw new Error(pairs.kind);
    expect(pairs.at.length).toBe(pairs.says.length);
    expect(pairs.says[0]).toBe('1.0000 mm, Torque 0 kN·m');
    const [x, y, w, h] = pairs.box;
    for (const [px, py] of pairs.at)
      expect(px >= x && px <= x + w + 0.1 && py >= y && py <= y + h + 0.1).toBe(true);
    const [cells] = await of('rows of colour');
    if (cells.kind !== 'cells') throw new Error(cells.kind);
    expect(cells.up).toEqual(['Travel', 'Torque']);
    expect(cells.says).toHaveLength(20);
    expect(cells.x).toHaveLength(11);
    expect(cells.says.at(-1)).toBe('100.0 %');
  });
  test('leads from findings to their trail', async () => {
    const id = report('Led', [block('findings', { study: 'Load' })], [block('trail', { study: 'Load' })]);
    const html = (await made(app, { report: id, takes: [takes[0]], as: 'page' })).bytes.toString('utf8');
    const [, to] = /<a href="#(trail-[\w-]+)">/.exec(html)!;
    expect(html.split(`id="${to}"`)).toHaveLength(2);
  });
});

describe('to another house', () => {
  /** A picture of one dot (PNG, ISO/IEC 15948). */
  const dot = Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==', 'base64'); // prettier-ignore
  const file = (text: string) => new TextEncoder().encode(text);
  let other: App;
  let otherFolder: string;
  beforeAll(() => {
    otherFolder = mkdtempSync(join(tmpdir(), 'farrier-other-'));
    other = openApp(otherFolder);
    // Its pictures have other numbers.
    for (let k = 0; k < 5; k++) keepPicture(other, dot);
  });
  afterAll(async () => {
    await closeApp(other);
    other.db.$client.close();
    rmSync(otherFolder, { recursive: true });
  });

  test('a report comes with pages, pictures and style; it is bound to no take there', async () => {
    const [picture, logo] = [keepPicture(app, dot), keepPicture(app, dot)];
    changeHouseStyle(
      app,
      { ...PLAIN, logo, head: 'Harrow Quay', face: 'Source Serif 4', numbers: 'comma' },
      'Ada',
    );
    const id = report('Travels', [
      block('picture', { picture }),
      block('chart', { form: 'bars' }, { y: 100 }),
    ]);
    const { text } = reportFile(app, id);
    const came = bringReport(other, file(text), true, 'Bo');
    expect(came).toMatchObject({ name: 'Travels', takes: [], filter: null });
    const [first, second] = came.pages[0].blocks;
    expect(second.settings.form).toBe('bars');
    expect(Buffer.from(pictureOf(other, first.settings.picture as number).content)).toEqual(dot);
    expect(houseStyle(other)).toMatchObject({
      head: 'Harrow Quay',
      face: 'Source Serif 4',
      numbers: 'comma',
    });
    expect(pictureOf(other, houseStyle(other).logo!).content.length).toBe(dot.length);
    changeHouseStyle(app, PLAIN, 'Ada');
    // A second time it is another one; without its style the house keeps its own.
    changeHouseStyle(other, { ...PLAIN, head: 'Ours' }, 'Bo');
    const again = bringReport(other, file(text), false, 'Bo');
    expect(again.id).not.toBe(came.id);
    expect(houseStyle(other).head).toBe('Ours');
    expect((await made(other, { report: again.id, takes: [], as: 'pdf' })).bytes.length).toBeGreaterThan(
      1000,
    );
  });
  test('what is no report, of a later version, or holds a picture that is none: refused, and nothing is kept', () => {
    const { text } = reportFile(app, report('Bad', [block('picture', { picture: keepPicture(app, dot) })]));
    const whole = JSON.parse(text) as Record<string, unknown>;
    const count = () => viewReports(other).length;
    const before = count();
    const bad: [string, RegExp][] = [
      ['a,b', /no report/],
      ['{"a":1}', /farrier/],
      [JSON.stringify({ ...whole, version: 2 }), /version/],
      [JSON.stringify({ ...whole, pictures: Object.fromEntries(Object.keys(whole.pictures as object).map((k) => [k, 'AAAA'])) }), /another kind of file/], // prettier-ignore
      [text.replace('"picture"', '"magic"'), /magic/],
    ];
    for (const [bytes, says] of bad) expect(() => bringReport(other, file(bytes), true, 'Bo')).toThrow(says);
    expect(() => bringReport(other, new Uint8Array([0xff, 0xfe, 0x00]), true, 'Bo')).toThrow(/no report/);
    expect(count()).toBe(before);
  });
  test('one that was taken away is listed as such, answers nothing, and comes back as it was', () => {
    const id = report('Gone', [block('words', { text: 'here' })]);
    removeReport(app, id, 'Ada');
    expect(goneReports(app)[0]).toEqual({ id, name: 'Gone' });
    expect(viewReports(app).some((r) => r.id === id)).toBe(false);
    expect(() => viewReport(app, id)).toThrow('report');
    expect(() => removeReport(app, id, 'Ada')).toThrow('report');
    restoreReport(app, id, 'Bo');
    expect(viewReport(app, id).pages[0].blocks[0].settings.text).toBe('here');
    expect(goneReports(app).some((r) => r.id === id)).toBe(false);
    expect(() => restoreReport(app, id, 'Bo')).toThrow('report');
  });
});
