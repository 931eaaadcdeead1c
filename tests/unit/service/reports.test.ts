import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { deflateSync } from 'node:zlib';
import { strFromU8, unzipSync } from 'fflate';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Block, ReportBody, ReportView } from '$contract/report';
import { Series } from '$contract/series';
import { putKept } from '$store/radio-kept';
import { BLOCK_KINDS, blockKinds } from '$contract/report-blocks';
import { AXES } from '$contract/report-chart';
import { TakeFilter } from '$contract/take-list';
import { closeApp, jobOf, openApp, takePath, type App } from '$service/app';
import { keepPicture } from '$service/boards';
import { addSeries } from '$service/inspect/series';
import { logPage } from '$service/logbook';
import { PLAIN, changeHouseStyle } from '$service/report/style';
import { paintReport } from '$service/report/pages';
import { PAINTERS } from '$service/report/blocks/registry';
import { addReport, removeReport, viewReport, viewReports, writeReport } from '$service/report/reports';
import { reportTemplates } from '$service/report/templates';
import { startStudy } from '$service/study/studies';
import { openTake } from '$service/takes';
import { made, printed } from '../made';
import { makeTake } from '../takes';

// Reports: pages that are drawn for a take, printed over several, and kept by version.
let folder: string;
let app: App;
const takes: string[] = [];
let other: string;
const HZ = 100;
const curve = (level: number) => Float32Array.from({ length: 40 * HZ }, (_, i) => level + Math.sin(i / 40));
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-reports-'));
  app = openApp(folder);
  for (const k of [1, 2, 3])
    takes.push(
      makeTake(app, {
        name: `Spin ${k}`,
        facts: { 'Blade set': 'ABC'[k - 1], Note: '<b>&"' },
        startMs: 1_790_000_000_000 + k * 3_600_000,
        signals: [
          { name: 'Shaft speed', unit: 'rpm', hz: HZ, values: curve(100 * k) },
          { name: 'Shaft torque', unit: 'kN·m', hz: HZ, values: curve(2) },
          { name: 'Flap µ√', unit: 'µε', hz: HZ, values: curve(400) },
        ],
        notes: [{ atS: 12, says: 'brake set to 2' }],
      }),
    );
  other = makeTake(app, { name: 'Bare', signals: [{ name: 'Shaft torque', unit: 'kN·m', hz: HZ, values: curve(3) }] }); // prettier-ignore
  for (const take of takes.slice(0, 2)) await startStudy(app, { kind: 'statistics', takeId: take, name: 'Steady load' }, 'Ada').done; // prettier-ignore
  await startStudy(
    app,
    { kind: 'spectrum', takeId: takes[0], name: 'Lines', settings: { length: 256 } },
    'Ada',
  ).done;
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const channel = (name: string, take = takes[0]) => openTake(app, take).signals.find((s) => s.name === name)!.channelId!; // prettier-ignore
let count = 0;
const block = (
  kind: keyof typeof BLOCK_KINDS,
  settings: Block['settings'] = {},
  size: Partial<Block> = {},
): Block => ({
  id: `b${++count}`,
  kind,
  x: 15,
  y: 15,
  w: 180,
  h: 80,
  settings,
  ...size,
});
const write = (report: ReportView, blocks: Block[], change: Partial<ReportBody> = {}, shown?: string) => {
  const { id, version, about, now, ...body } = viewReport(app, report.id);
  void about;
  void now;
  return writeReport(app, id, version, { ...body, pages: [{ ...body.pages[0], blocks }], ...change }, shown);
};
const draw = async (report: ReportView, take: string | null) => {
  const { pages, values } = await paintReport(app, report, take, report.now);
  return { blocks: pages.flatMap((p) => p.blocks), values };
};
const wordsOf = (svg: string) => svg.replace(/<[^>]+>/g, '\n').replace(/\n+/g, '\n');
const only = async (
  kind: keyof typeof BLOCK_KINDS,
  settings: Block['settings'],
  take: string | null = takes[0],
  size: Partial<Block> = {},
) => {
  // prettier-ignore
  const [painted] = (await draw(write(addReport(app, {}, 'Ada'), [block(kind, settings, size)]), take)).blocks;
  return painted;
};
const pdfText = (pdf: Buffer, name: string) => {
  const file = join(folder, `${name}.pdf`);
  writeFileSync(file, pdf);
  return { file, text: spawnSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).stdout };
};

describe('what is kept', () => {
  test('a report is made, changed by version, copied with ids of its own, taken away; the logbook says so', async () => {
    const first = addReport(app, { template: 'summary' }, 'Ada');
    expect(first).toMatchObject({ version: 1, about: 'whichever take it is run over', now: [] });
    const changed = write(first, [block('words', { text: 'x' })]);
    expect(changed.version).toBe(2);
    const copy = addReport(app, { from: first.id }, 'Bo');
    expect(copy.name).toBe(`${first.name}, copy`);
    expect(copy.pages[0].blocks[0].settings).toEqual(changed.pages[0].blocks[0].settings);
    expect(copy.pages[0].blocks[0].id).not.toBe(changed.pages[0].blocks[0].id);
    removeReport(app, first.id, 'Cy');
    expect(viewReports(app).map((r) => r.id)).not.toContain(first.id);
    expect(() => viewReport(app, first.id)).toThrow('report');
    const says = logPage(app).map((e) => `${e.by}: ${e.says}`);
    expect(says).toContain(`Bo: The report “${copy.name}” was made.`);
    expect(says).toContain(`Cy: The report “${first.name}” was taken away.`);
  });
  test('two who change the same version: the second is told, and nothing of the first is lost', async () => {
    const report = addReport(app, {}, 'Ada');
    write(report, [block('words', { text: 'mine' })]);
    const { id, about, now, version, ...body } = report;
    void [about, now];
    expect(() => writeReport(app, id, version, { ...body, name: 'Yours' })).toThrow(/meanwhile/);
    expect(viewReport(app, id)).toMatchObject({ name: report.name, version: 2 });
    expect(viewReport(app, id).pages[0].blocks[0].settings.text).toBe('mine');
  });
  test('a block of no known kind, settings that do not suit, an id twice, a take that is gone: refused, naming it', async () => {
    const report = addReport(app, {}, 'Ada');
    const bad =
      (blocks: Block[], change = {}) =>
      () =>
        write(report, blocks, change);
    expect(bad([{ ...block('words'), kind: 'magic' }])).toThrow('magic');
    expect(bad([block('words', { size: 1000 })])).toThrow(/Size/i);
    expect(bad([block('chart', { axes: 'sideways' })])).toThrow();
    const twice = block('words');
    expect(bad([twice, twice])).toThrow('twice');
    expect(bad([], { takes: ['gone'] })).toThrow('take');
    expect(viewReport(app, report.id).version).toBe(1);
  });
  test('every template is whole: its kinds are known, its blocks lie on the paper and not over each other', async () => {
    expect(reportTemplates().length).toBeGreaterThanOrEqual(5);
    for (const { name } of reportTemplates()) {
      const report = addReport(app, { template: name }, 'Ada');
      for (const page of report.pages)
        for (const [i, a] of page.blocks.entries()) {
          expect(a.x >= 0 && a.y >= 0 && a.x + a.w <= 210 && a.y + a.h <= 297, `${name}: ${a.kind}`).toBe(
            true,
          );
          for (const b of page.blocks.slice(i + 1))
            expect(a.x + a.w <= b.x || b.x + b.w <= a.x || a.y + a.h <= b.y || b.y + b.h <= a.y, `${name}: ${a.kind} over ${b.kind}`).toBe(true); // prettier-ignore
        }
      expect((await draw(report, takes[0])).blocks).toHaveLength(
        report.pages.flatMap((p) => p.blocks).length,
      );
    }
  });
});

/** A picture of one colour, made byte by byte (PNG, ISO/IEC 15948). */
function png(width: number, height: number): Buffer {
  const crcOf = (bytes: Buffer) => {
    let crc = 0xffffffff;
    for (const byte of bytes) {
      crc ^= byte;
      for (let k = 0; k < 8; k++) crc = crc & 1 ? (crc >>> 1) ^ 0xedb88320 : crc >>> 1;
    }
    return (crc ^ 0xffffffff) >>> 0;
  };
  const chunk = (name: string, body: Buffer) => {
    const inside = Buffer.concat([Buffer.from(name), body]);
    const [length, crc] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(body.length);
    crc.writeUInt32BE(crcOf(inside));
    return Buffer.concat([length, inside, crc]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 0, 0, 0, 0], 8); // grey, 8 bit
  const rows = Buffer.alloc((width + 1) * height, 0x80);
  for (let y = 0; y < height; y++) rows[y * (width + 1)] = 0;
  return Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]), chunk('IHDR', head), chunk('IDAT', deflateSync(rows)), chunk('IEND', Buffer.alloc(0))]); // prettier-ignore
}

describe('pictures, series, trails, and what every page has', () => {
  const place = (svg: string) => /<image x="([\d.-]+)" y="([\d.-]+)" width="([\d.]+)" height="([\d.]+)"/.exec(svg)!.slice(1).map(Number); // prettier-ignore

  test('a picture keeps its proportion, stands in the middle of its box, and is kept within the report’s PDF', async () => {
    const id = keepPicture(app, png(1600, 400));
    const { svg, says } = await only('picture', { picture: id }, takes[0], { w: 80, h: 60 });
    const [x, y, w, h] = place(svg);
    expect([w / h, x]).toEqual([expect.closeTo(4, 2), 0]);
    expect(y + h / 2).toBeCloseTo((60 * 72) / 25.4 / 2, 1);
    expect(says).toBeNull();
    const report = write(addReport(app, {}, 'Ada'), [block('picture', { picture: id }, { w: 80, h: 60 })]);
    const { pdf } = await printed(app, report.id, []);
    const { file } = pdfText(pdf, 'picture');
    const images = spawnSync('pdfimages', ['-list', file], { encoding: 'utf8' }).stdout;
    expect(images).toMatch(/image\s+1600\s+400/);
  });

  test('one that prints coarse says with how many dots; one that is gone, or that papers do not take, is said', async () => {
    const id = keepPicture(app, png(200, 100));
    expect((await only('picture', { picture: id }, takes[0], { w: 100, h: 60 })).says).toBe('It prints 100 × 50 mm with 51 dots an inch, which looks coarse: 150 or more are good.'); // prettier-ignore
    expect((await only('picture', { picture: id }, takes[0], { w: 30, h: 60 })).says).toBeNull();
    expect((await only('picture', { picture: 99_999 })).says).toBe('The picture is gone.');
    expect((await only('picture', {})).says).toBe('No picture is chosen.');
  });

  test('a series stands with what counts and its statistics, by name or the first', async () => {
    addSeries(app, 'Steady', Series.parse({ columns: [{ of: 'fact', name: 'Blade set' }, { of: 'finding', study: 'Steady load', label: 'Shaft torque, mean' }] }), 'Ada'); // prettier-ignore
    const words = wordsOf((await only('series', {})).svg);
    for (const text of ['Spin 1', 'Shaft torque, mean, kN·m', 'standard deviation', 'Blade set']) expect(words).toContain(text); // prettier-ignore
    expect(wordsOf((await only('series', { statistics: 'left out' })).svg)).not.toContain('standard deviation'); // prettier-ignore
    expect((await only('series', { series: 'Gone' })).says).toContain('“Gone”');
    // The same on paper.
    const report = write(addReport(app, { template: 'series' }, 'Ada'), [block('series')]);
    expect(pdfText((await printed(app, report.id, [takes[0]])).pdf, 'series').text).toContain('standard deviation'); // prettier-ignore
  });

  test('a trail goes from the study over the take to each channel', async () => {
    const words = wordsOf((await only('trail', { study: 'Steady load' })).svg);
    for (const text of ['Study Steady load', 'Take Spin 1', 'Shaft torque']) expect(words).toContain(text);
    expect((await only('trail', { study: 'Steady load' }, takes[0], { h: 6 })).says).toMatch(/steps do not fit/); // prettier-ignore
  });

  test('the house’s words, logo and decimal comma are on every page, as seen and as printed', async () => {
    const logo = keepPicture(app, png(300, 100));
    const report = write(addReport(app, {}, 'Ada'), [block('findings', { study: 'Steady load' }), block('words', { text: 'Version 1.2 of {take}' }, { y: 120, h: 10 })]); // prettier-ignore
    const before = await paintReport(app, report, takes[0], report.now);
    changeHouseStyle(app, { ...PLAIN, logo, head: 'Harrow Quay, {take}', foot: 'Page {page} of {pages}, {nothing}', numbers: 'comma' }, 'Ada'); // prettier-ignore
    const after = await paintReport(app, report, takes[0], report.now);
    const [frame] = after.pages.map((p) => p.frame);
    expect(wordsOf(frame)).toMatch(/Harrow Quay, Spin 1[\s\S]*Page 1 of 1, \{nothing\}/);
    const [x, , w, h] = place(frame);
    expect(w / h).toBeCloseTo(3, 2);
    expect(x + w).toBeCloseTo(((210 - 15) * 72) / 25.4, 1);
    const numbers = (of: typeof before, k: number) => wordsOf(of.pages[0].blocks[k].svg);
    expect(numbers(before, 0)).toMatch(/\d\.\d/);
    expect(numbers(after, 0)).toBe(numbers(before, 0).replace(/(\d)\.(?=\d)/g, (whole, digit: string) => `${digit},`)); // prettier-ignore
    // Words stay words.
    expect(numbers(after, 1)).toContain('1.2');
    const { text } = pdfText((await printed(app, report.id, [takes[0], takes[1]])).pdf, 'style');
    expect(text).toContain('Harrow Quay, Spin 2');
    expect(text).toContain('Page 2 of 2');
    expect(() => changeHouseStyle(app, { ...PLAIN, logo: 99_999 }, 'Ada')).toThrow(/no picture/); // prettier-ignore
    changeHouseStyle(app, PLAIN, 'Ada');
    expect((await paintReport(app, report, takes[0], report.now)).pages[0].frame).not.toContain('<text');
  });
});

describe('slides', () => {
  const partsOf = async (report: ReportView, over: string[]) => {
    const { bytes: pptx, says } = await made(app, { report: report.id, takes: over, as: 'slides' });
    const files = unzipSync(new Uint8Array(pptx));
    const text = (name: string) => strFromU8(files[name]);
    return { files: Object.keys(files), text, says };
  };
  test('a page is a slide of its size; curves are charts with their numbers, tables are tables, words are words', async () => {
    const report = write(addReport(app, {}, 'Ada'), [
      block('words', { text: '# {take}\n**bold** x^2^' }, { h: 20 }),
      block('chart', { channels: [channel('Shaft speed'), channel('Shaft torque')], axes: AXES[2], from: 0, to: 20 }, { y: 40 }), // prettier-ignore
      block('channels', {}, { y: 125 }),
      block('figure', { study: 'Lines' }, { y: 210, h: 70 }),
    ]);
    const { files, text } = await partsOf(report, takes.slice(0, 2));
    expect(files.filter((f) => /slides\/slide\d+\.xml$/.test(f))).toHaveLength(2);
    expect(text('ppt/presentation.xml')).toMatch(/sldSz cx="7560000" cy="10692000"/);
    const slide = text('ppt/slides/slide1.xml');
    for (const says of ['Spin 1', 'bold', '<a:tbl>', 'Shaft torque', 'baseline="30000"']) expect(slide).toContain(says); // prettier-ignore
    expect(text('ppt/slides/slide2.xml')).toContain('Spin 2');
    // Two channels under each other, and a spectrum that only the first take has.
    const charts = files.filter((f) => /charts\/chart\d+\.xml$/.test(f));
    expect(charts).toHaveLength(5);
    const first = text('ppt/charts/chart1.xml');
    expect(first).toContain('Shaft speed');
    expect(first).toContain('<c:scatterChart>');
    const values = [...first.split('<c:yVal>')[1].matchAll(/<c:v>([-\d.e]+)<\/c:v>/g)].map((m) =>
      Number(m[1]),
    );
    const times = [...first.split('<c:xVal>')[1].split('</c:xVal>')[0].matchAll(/<c:v>([-\d.e]+)<\/c:v>/g)].map((m) => Number(m[1])); // prettier-ignore
    expect(values.length).toBeGreaterThan(100);
    // The speed of the first take is 100 + sin(100 t / 40).
    for (const [i, v] of values.entries()) expect(Math.abs(v - (100 + Math.sin((times[i] * HZ) / 40)))).toBeLessThan(0.2); // prettier-ignore
  });
  test('pictures are pictures; what slides cannot show is said', async () => {
    const id = keepPicture(app, png(40, 20));
    const report = write(addReport(app, {}, 'Ada'), [block('picture', { picture: id })]);
    const { files, says } = await partsOf(report, []);
    expect(files.some((f) => /media\/.*\.png$/.test(f))).toBe(true);
    expect(says).toEqual([]);
  });
});

describe('what a page says', () => {
  test('every kind is drawn: with a take, without one, in a box that is far too small; nothing is ever no number', async () => {
    expect(Object.keys(PAINTERS).sort()).toEqual(Object.keys(BLOCK_KINDS).sort());
    for (const { kind, defaults } of blockKinds)
      for (const take of [takes[0], other, null])
        for (const size of [{}, { w: 5, h: 2 }]) {
          const { svg, says } = await only(kind as keyof typeof BLOCK_KINDS, { ...defaults }, take, size);
          expect(svg, `${kind} ${take}`).not.toMatch(/NaN|undefined|Infinity/);
          expect(svg.startsWith('<svg')).toBe(true);
          if (!take && !['words', 'rule', 'page', 'takes', 'series', 'picture', 'noise', 'emissions', 'modes', 'stabilization', 'shapes', 'alike'].includes(kind)) expect(says, kind).toContain('No take'); // prettier-ignore
        }
  });
  test('noise figures and suspects are those of the device that is named, the last of them; what is not there is said', async () => {
    const jobId = jobOf(app).id;
    const point = { hz: 5e8, figureDb: 1.52, figureExpanded: 0.2, gainDb: 22.3, gainExpanded: 0.4, y: 20, effectiveK: 120, budget: [], findings: [] }; // prettier-ignore
    const keep = (id: string, kind: string, name: string, body: object) =>
      putKept(app.db, { id, jobId, kind, name, at: 1, body: body as Record<string, unknown> });
    const noise = (device: string, figureDb: number | null) => ({
      ...{
        id: device,
        device,
        atMs: 0,
        roomK: 296.4,
        ownAtMs: 0,
        remark: '',
        source: { serial: 'NS-07' },
        settings: {},
      },
      points: [
        { ...point, figureDb },
        {
          ...point,
          hz: 6e8,
          figureDb: null,
          gainDb: null,
          findings: [{ says: 'a carrier leaks in', leaves: true }],
        },
      ],
    });
    expect((await only('noise', { device: '', most: 30 })).says).toBe('No noise figure was measured.');
    keep('n1', 'noise figure', 'LNA-01', noise('LNA-01', 1.52));
    keep('n2', 'noise figure', 'LNA-02', noise('LNA-02', 1.77));
    const one = wordsOf((await only('noise', { device: 'LNA-01', most: 30 })).svg);
    expect(one).toContain('1.52');
    expect(one).toContain('0.20');
    expect(one).toContain('a carrier leaks in');
    expect(wordsOf((await only('noise', { device: '', most: 30 })).svg)).toContain('1.77');
    expect((await only('noise', { device: 'LNA-09', most: 30 })).says).toBe(
      'No noise figure of LNA-09 was measured.',
    );
    const suspect = {
      id: 1,
      hz: 96e6,
      level: 43,
      ambient: false,
      note: 'with the door open',
      limit: 40,
      limitOf: 'quasi-peak',
      room: -1.6,
    };
    const measured = { atMs: 0, hz: 96.003e6, peak: 43.5, quasiPeak: 41.6, average: 37.2, overload: false };
    const run = { id: 'e', number: 3, device: 'the pitch drive', atMs: 0, ambient: false, limits: { name: 'cabinet' }, suspects: [{ ...suspect, measured }] }; // prettier-ignore
    keep('e1', 'emissions', 'the pitch drive', run);
    const looked = wordsOf((await only('emissions', { device: '', most: 30 })).svg);
    for (const words of ['96.0030', '41.6', '37.2', 'over by 1.6 dB', 'with the door open', 'look 3'])
      expect(looked).toContain(words);
  });
  test('findings are those of the take’s own study of that name', async () => {
    const [a, b] = await Promise.all(
      takes.map(async (t) => wordsOf((await only('findings', { study: 'Steady load' }, t)).svg)),
    );
    expect(a).toMatch(/\n100\.\d rpm\nShaft speed, mean\n/);
    expect(b).toMatch(/\n200\.\d rpm\nShaft speed, mean\n/);
    const none = await only('findings', { study: 'Steady load' }, takes[2]);
    expect(none.says).toBe('Spin 3 has no study “Steady load” with a result.');
    expect(wordsOf(none.svg)).toContain('Spin 3 has no study');
  });
  test('a figure that is not named comes from the first study that draws one', async () => {
    const found = await only('figure', { study: '', figure: '', caption: 'Lines of all' });
    expect(found.says).toBeNull();
    expect(wordsOf(found.svg)).toContain('Lines of all');
    expect((await only('figure', { study: 'Lines', figure: 'Waterfall' })).says).toBe(
      'Lines has no figure “Waterfall”.',
    );
  });
  test('channels that the take lacks are named, the others are drawn', async () => {
    const ids = ['Shaft speed', 'Shaft torque'].map((n) => channel(n));
    const report = write(addReport(app, {}, 'Ada'), [block('chart', { channels: ids })], {}, takes[0]);
    expect(report.called).toEqual({ [ids[0]]: 'Shaft speed', [ids[1]]: 'Shaft torque' });
    const [full] = (await draw(report, takes[0])).blocks;
    expect(full.says).toBeNull();
    // The other take has a torque of its own, under that name.
    const [partly] = (await draw(report, other)).blocks;
    expect(partly.says).toBe('Bare has no “Shaft speed”.');
    expect(wordsOf(partly.svg)).toContain('Shaft torque');
    expect(wordsOf(partly.svg)).toContain('without Shaft speed');
  });
  test('each way of axes draws the same curves; a span outside the take is said', async () => {
    for (const axes of AXES) {
      const { svg, says } = await only('chart', {
        channels: ['Shaft speed', 'Flap µ√'].map((n) => channel(n)),
        axes,
      });
      expect(says, axes).toBeNull();
      expect(wordsOf(svg)).toContain('Shaft speed');
      expect(svg.split('stroke-linejoin="round"').length - 1, axes).toBe(2);
    }
    expect((await only('chart', { from: 500, to: 600 })).says).toContain('nothing of Spin 1 lies');
  });
  test('words take values in, with their letters as text; what is not known is said', async () => {
    const painted = await only('words', {
      text: '# {take}\nset {Blade set}: {Note} {Shaft speed, mean} {Rotor}',
    });
    const words = wordsOf(painted.svg).replace(/\s+/g, ' ');
    expect(words).toContain('Spin 1');
    expect(words).toMatch(/set A ?: &lt;b&gt;&amp;&quot;/);
    expect(words).toContain('Rotor?');
    expect(painted.svg).not.toContain('<b>');
    expect(painted.says).toBe('There is no value “Rotor” here.');
    expect((await draw(addReport(app, {}, 'Ada'), takes[0])).values).toContainEqual({
      name: 'Blade set',
      says: 'A',
    });
  });
  test('what does not fit is counted, so that nobody signs half a text', async () => {
    const text = Array.from({ length: 40 }, (_, i) => `line ${i}`).join('\n');
    expect((await only('words', { text }, takes[0], { h: 20 })).says).toMatch(/^\d+ lines do not fit/);
    expect((await only('words', { text: 'line' }, takes[0], { h: 20 })).says).toBeNull();
    expect((await only('channels', { channels: [] }, takes[0], { h: 9 })).says).toContain('do not fit');
  });
  test('takes beside each other: facts and findings by take, a dash where one has none', async () => {
    const report = write(addReport(app, {}, 'Ada'), [block('takes', { facts: ['Blade set'], study: 'Steady load' })], { takes }); // prettier-ignore
    const words = wordsOf((await draw(report, takes[0])).blocks[0].svg);
    for (const says of ['Spin 1', 'Spin 2', 'Spin 3', 'A', 'B', 'C']) expect(words).toContain(`\n${says}\n`);
    expect(words.split('\n–').length - 1).toBe(3);
    expect(viewReport(app, report.id).about).toBe('Spin 1 and 2 more');
    // Bound to none, it is about the one that it is shown for.
    expect(wordsOf((await only('takes', { facts: [], study: '' })).svg)).toContain('\nSpin 1\n');
  });
  test('a filter says which takes: a new one joins', async () => {
    const filter = TakeFilter.parse({ conditions: [{ kind: 'fact', settings: { fact: 'Blade set', test: 'is', value: 'Q' } }] }); // prettier-ignore
    const report = write(addReport(app, {}, 'Ada'), [], { filter });
    expect(report.now).toEqual([]);
    makeTake(app, {
      name: 'Late',
      facts: { 'Blade set': 'Q' },
      signals: [{ name: 'Load', hz: 10, values: curve(1) }],
    });
    expect(viewReport(app, report.id).now.map((t) => t.name)).toEqual(['Late']);
  });
  test('a result that is damaged is said in its block; the others stand', async () => {
    const report = write(addReport(app, {}, 'Ada'), [block('words', { text: 'stands' }), block('table', { study: 'Steady load' })]); // prettier-ignore
    const get = app.results.get;
    app.results.get = () => {
      throw new Error('The file of the result is damaged.');
    };
    try {
      const [words, table] = (await draw(report, takes[0])).blocks;
      expect(words.says).toBeNull();
      expect(table.says).toContain('damaged');
    } finally {
      app.results.get = get;
    }
  });
});

describe('what is printed', () => {
  test('the same words at the same places as on the screen, vectors, fonts embedded, who made it of which take', async () => {
    const report = write(addReport(app, {}, 'Ada'), [
      block('words', { text: '# {take}\nMeasured as §4 says: 5 µε ≤ 2 √Hz 日本' }, { h: 25 }),
      block('chart', {}, { y: 45 }),
      block('findings', { study: 'Steady load' }, { y: 130 }),
    ]);
    const { name, pdf } = await printed(app, report.id, [takes[0]]);
    expect(name).toBe(`${report.name}, Spin 1.pdf`);
    const { file, text } = pdfText(pdf, 'one');
    for (const says of ['Spin 1', 'Measured as §4 says: 5 µε ≤ 2 √Hz', 'Shaft speed, mean', 'Flap µ√'])
      expect(text).toContain(says);
    const info = spawnSync('pdfinfo', ['-isodates', file], { encoding: 'utf8' }).stdout;
    expect(info).toMatch(/Author:\s+Ada/);
    expect(info).toMatch(/Subject:\s+Of Spin 1 \((as sealed|not sealed)\)/);
    expect(info).toMatch(/Page size:\s+595\.276 x 841\.89 pts \(A4\)/);
    const fonts = spawnSync('pdffonts', [file], { encoding: 'utf8' }).stdout.trim().split('\n').slice(2);
    expect(fonts.length).toBeGreaterThanOrEqual(3);
    for (const font of fonts) expect(font).toMatch(/yes yes/);
    expect(
      spawnSync('pdfimages', ['-list', file], { encoding: 'utf8' }).stdout.trim().split('\n'),
    ).toHaveLength(2);
    expect(pdf.toString('latin1')).toContain('pdfaid:part');
    // Tagged: a drawing says in words what it is.
    expect(info).toMatch(/Tagged:\s+yes/);
    // Its first finding stands where the drawing has it: 15 mm in, 130 mm down, to a tenth of a millimetre.
    const boxes = spawnSync('pdftotext', ['-bbox', file, '-'], { encoding: 'utf8' }).stdout;
    const [, x] = /xMin="([\d.]+)" yMin="[\d.]+" xMax="[\d.]+" yMax="[\d.]+">Measured</.exec(boxes)!;
    expect(Math.abs((Number(x) * 25.4) / 72 - 15)).toBeLessThan(0.1);
  });
  test('over three takes in one file: pages in order, numbers run on, a bookmark for each', async () => {
    const report = write(addReport(app, {}, 'Ada'), [block('words', { text: 'Of {take} set {Blade set}' }), block('page', {}, { y: 100 })]); // prettier-ignore
    const told: number[] = [];
    const { pdf } = await printed(app, report.id, takes, (share) => told.push(share));
    const { file, text } = pdfText(pdf, 'three');
    const pages = text.split('\f').slice(0, 3);
    pages.forEach((page, k) => {
      expect(page).toContain(`Of Spin ${k + 1} set ${'ABC'[k]}`);
      expect(page).toContain(`${k + 1} / 3`);
    });
    // Drawn and set: each half of the way.
    expect(told.map((t) => t * 6)).toEqual([1, 2, 3, 4, 5, 6].map((n) => expect.closeTo(n, 9)));
    const outline = spawnSync('qpdf', ['--json', '--json-key=outlines', file], { encoding: 'utf8' }).stdout;
    const titles = (JSON.parse(outline) as { outlines: { title: string; destpageposfrom1: number }[] })
      .outlines;
    expect(titles.map((o) => [o.title, o.destpageposfrom1])).toEqual(takes.map((_, k) => [`Spin ${k + 1}: Page 1`, k + 1])); // prettier-ignore
    expect(spawnSync('qpdf', ['--check', file]).status).toBe(0);
  });
  test('A3 across is as large as it says; without a take it says so instead of failing', async () => {
    const report = write(addReport(app, {}, 'Ada'), [block('chart')], { paper: { size: 'A3', direction: 'across', marginMm: 10 } }); // prettier-ignore
    const { pdf } = await printed(app, report.id, []);
    const { file, text } = pdfText(pdf, 'large');
    expect(spawnSync('pdfinfo', [file], { encoding: 'utf8' }).stdout).toMatch(/1190\.5\d* x 841\.89/);
    expect(text).toContain('No take is chosen.');
  });
  test('a take that is gone from the disk is an error that names it', async () => {
    const id = makeTake(app, { name: 'Short-lived', signals: [{ name: 'Load', hz: 10, values: curve(1) }] });
    rmSync(takePath(app, id));
    await expect(printed(app, addReport(app, {}, 'Ada').id, [id])).rejects.toThrow(/not found|is not|take/i); // prettier-ignore
  });
});
