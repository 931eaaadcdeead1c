import { spawnSync } from 'node:child_process';
import { readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { ReportView } from '$contract/report';
import {
  Person,
  downloads,
  folder,
  openBrowser,
  removeFolder,
  seedDemo,
  startServer,
  type RunningServer,
} from './world';

// Reports as their users meet them: a page built from nothing, printed over takes.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
beforeAll(async () => {
  server = await startServer(seedDemo('report'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const PAGE = '[data-testid=page]';
/** Waits until something that is drawn says so. */
const drawn = (kind: string, words: string) =>
  p.until(`the ${kind} to say ${words}`, () =>
    driver.executeScript(
      `return document.querySelector('${PAGE} .block[data-kind=${kind}]').textContent.includes(arguments[0])`,
      words,
    ),
  );
const kept = async () => p.api<ReportView>('GET', `/api/reports/${reportId}`);
let reportId = '';
const blocks = async () => (await kept()).pages[0].blocks;
/** Drags something onto the page, to a share of its width and height. */
async function drop(title: string, x: number, y: number): Promise<void> {
  const button = await p.find(`[data-testid=put] button[data-kind="${title}"]`);
  await driver.executeScript(
    `const [from, page, x, y] = arguments; const box = page.getBoundingClientRect(); const data = new DataTransfer();
     const at = { bubbles: true, cancelable: true, dataTransfer: data, clientX: box.left + x * box.width, clientY: box.top + y * box.height };
     from.dispatchEvent(new DragEvent('dragstart', at)); page.dispatchEvent(new DragEvent('dragover', at)); page.dispatchEvent(new DragEvent('drop', at));`,
    button,
    await p.find(PAGE),
    x,
    y,
  );
}
async function dragBlock(kind: string, dx: number, dy: number, from = { x: 0, y: 0 }): Promise<void> {
  // Where it is now: it moves while it is dragged.
  const at = (await driver.executeScript(
    `const b = document.querySelector('${PAGE} .block[data-kind=${kind}]'); b.scrollIntoView({ block: 'nearest' });
     const { left, top, width, height } = b.getBoundingClientRect(); return { x: left + width / 2, y: top + height / 2 };`,
  )) as { x: number; y: number };
  const move = (x: number, y: number) => ({
    x: Math.round(at.x + from.x + x),
    y: Math.round(at.y + from.y + y),
  });
  await driver
    .actions({ async: true })
    .move(move(0, 0))
    .press()
    .move(move(dx / 2, dy / 2))
    .move(move(dx, dy))
    .release()
    .perform();
}
const pxAMm = async () => Number(await driver.executeScript(`return document.querySelector('${PAGE}').clientWidth / 210`)); // prettier-ignore
const text = (file: string) => spawnSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).stdout;

test('a page from nothing: chart, findings and words are put on it; what is seen is what is printed', async () => {
  await p.go('/report');
  await p.press('An empty page');
  await p.find(PAGE);
  reportId = (await driver.getCurrentUrl()).split('/').at(-1)!.split('?')[0];
  await drop('chart', 0.1, 0.2);
  await drawn('chart', 'Shaft torque');
  await drop('findings', 0.1, 0.55);
  await drawn('findings', 'Shaft torque, mean');
  // By a click it goes under what stands there.
  await p.clickAt('[data-testid=put] button[data-kind=words]');
  await p.typeInto(
    '[data-testid=block] .ProseMirror',
    '# Spin-up of {take}',
    Key.ENTER,
    'Blade set {Blade set}, {Rotor}',
  );
  await drawn('words', 'Spin-up of BW2-B-15');
  await p.untilText('[data-testid=block]', 'There is no value “Rotor” here.');
  await p.untilText('.page-head', '1 block lacks something');
  await p.until('the report to be kept', async () => (await blocks()).length === 3);
  const [chart, findings, words] = await blocks();
  // On the grid of 5 mm that begins at the margins of 15.
  for (const b of [chart, findings, words]) expect([(b.x - 15) % 5, (b.y - 15) % 5]).toEqual([0, 0]);
  expect([chart.x, chart.y]).toEqual([20, 60]);

  await p.press('Make the PDF');
  const file = await p.downloaded('.pdf');
  const says = text(file);
  for (const part of ['Spin-up of BW2-B-15', 'Blade set B, Rotor?', 'Shaft torque, mean', 'kN·m'])
    expect(says).toContain(part);
  const fonts = spawnSync('pdffonts', [file], { encoding: 'utf8' }).stdout.trim().split('\n').slice(2);
  for (const font of fonts) expect(font).toMatch(/yes yes/);
  expect(
    spawnSync('pdfimages', ['-list', file], { encoding: 'utf8' }).stdout.trim().split('\n'),
  ).toHaveLength(2);
});

test('by hand a block is moved and resized, and aligned to its neighbours; by undo it is back, by redo there again', async () => {
  const before = (await blocks())[1];
  const mm = await pxAMm();
  // Ends 1 mm beside the left edge of the chart: it is taken to it.
  await dragBlock('findings', (20 - before.x + 1) * mm, -18 * mm);
  await p.until('the findings to be moved', async () => (await blocks())[1].y !== before.y);
  const after = (await blocks())[1];
  expect(after.x).toBe(20);
  expect(Math.abs(after.y - before.y + 18)).toBeLessThan(2.6);
  expect(after).toMatchObject({ w: before.w, h: before.h });
  await p.press('undo');
  await p.until('it to be back', async () => (await blocks())[1].y === before.y);
  await p.press('redo');
  await p.until('it to be there again', async () => (await blocks())[1].y === after.y);
  // Its right edge, by the handle, 30 mm to the left.
  await dragBlock('findings', -30 * mm, 0, { x: (after.w * mm) / 2, y: 0 });
  await p.until('it to be narrower', async () => (await blocks())[1].w < after.w - 25);
  expect((await blocks())[1]).toMatchObject({ x: after.x, y: after.y, h: after.h });
});

test('by keys: arrows move what is marked, Shift resizes, Alt goes by tenths; copied, removed, all back', async () => {
  const chart = (await blocks())[0];
  const focus = () =>
    driver.executeScript(`document.querySelector('${PAGE} .block[data-kind=chart]').focus()`);
  const keys = (...of: string[]) => driver.actions({ async: true }).sendKeys(...of).perform(); // prettier-ignore
  await focus();
  await keys(Key.ARROW_DOWN, Key.ARROW_RIGHT);
  await driver.actions({ async: true }).keyDown(Key.ALT).sendKeys(Key.ARROW_RIGHT).keyUp(Key.ALT).perform();
  await driver.actions({ async: true }).keyDown(Key.SHIFT).sendKeys(Key.ARROW_UP).keyUp(Key.SHIFT).perform();
  await p.until('the chart to be moved', async () => (await blocks())[0].h === chart.h - 5);
  expect((await blocks())[0]).toMatchObject({ x: chart.x + 5.1, y: chart.y + 5, w: chart.w });
  await driver.actions({ async: true }).keyDown(Key.CONTROL).sendKeys('d').keyUp(Key.CONTROL).perform();
  await p.until('a copy', async () => (await blocks()).length === 4);
  await driver.executeScript(`document.querySelector('${PAGE} .block.chosen').focus()`);
  await keys(Key.DELETE);
  await p.until('the copy to be gone', async () => (await blocks()).length === 3);
  for (let k = 0; k < 12 && (await blocks())[0].y !== chart.y; k++) {
    await p.press('undo');
    await p.find('.page[data-saved=true]');
  }
  expect((await blocks())[0]).toMatchObject({ x: chart.x, y: chart.y, w: chart.w, h: chart.h });
});

test('over three takes: one file each, and all in one with numbers that run on', async () => {
  const all = (await p.api<{ ids: string[] }>('GET', '/api/takes?count=0')).ids.slice(0, 3);
  const report = await kept();
  const { id, version, about, now, ...body } = report;
  void [about, now];
  await p.api('PUT', `/api/reports/${id}`, { version, body: { ...body, takes: all } });
  await p.go(`/report/${id}`);
  await p.press('Over 3 takes');
  await p.press('all in one PDF');
  const one = text(await p.downloaded(`${report.name}.pdf`));
  const pages = one.split('\f').filter((t) => t.trim());
  expect(pages).toHaveLength(3);
  expect(new Set(pages.map((t) => /Spin-up of (\S+)/.exec(t)![1])).size).toBe(3);
  await p.press('Over 3 takes');
  await p.press('3 PDFs');
  const files = unzipSync(readFileSync(await p.downloaded('.zip')));
  expect(Object.keys(files)).toHaveLength(3);
  for (const page of pages) {
    const name = /Spin-up of (\S+)/.exec(page)![1];
    const file = join(folder, `${name}.pdf`);
    writeFileSync(file, files[`${report.name}, ${name}.pdf`]);
    const own = text(file);
    expect(own.split('\f').filter((t) => t.trim())).toHaveLength(1);
    expect(own).toContain(`Spin-up of ${name}`);
  }
});

test('words are written as they are seen: bold, a list, above the line, a value from the list; taken back by the page', async () => {
  await p.go(`/report/${reportId}`);
  await p.clickAt(`${PAGE} .block[data-kind=words]`);
  const words = async () =>
    (await kept()).pages[0].blocks.find((b) => b.kind === 'words')!.settings.text as string;
  const before = await words();
  await p.typeInto('[data-testid=block] .ProseMirror', Key.chord(Key.CONTROL, Key.END), Key.ENTER, '- Area ', Key.chord(Key.CONTROL, 'b'), '3', Key.chord(Key.CONTROL, 'b'), ' m', Key.chord(Key.CONTROL, '.'), '2', Key.chord(Key.CONTROL, '.'), Key.ENTER); // prettier-ignore
  await p.clickAt('[data-testid=block] [aria-label="Put in a value"] option[value=date]');
  await p.until('it to be kept', async () => (await words()) === `${before}\n- Area **3** m^2^\n- {date}`);
  await drawn('words', '• ');
  // The head of an item is pressed where the caret stands in one.
  await p.find('[role=toolbar] button[aria-pressed=true]');
  for (let k = 0; k < 6 && (await words()) !== before; k++) {
    await p.press('undo');
    await p.find('.page[data-saved=true]');
  }
  expect(await words()).toBe(before);
  await p.until('the editor to follow', async () => !(await p.text('[data-testid=block] .ProseMirror')).includes('Area')); // prettier-ignore
});

test('a form is chosen by looking at the channels in each, and a curve gets a name and ends of its own', async () => {
  await p.clickAt(`${PAGE} .block[data-kind=chart]`);
  await p.press('choose by looking');
  await p.until(
    'six drawings',
    async () => (await driver.findElements(By.css('[data-testid=forms] svg'))).length === 6,
  );
  await p.clickAt('[data-testid=forms] li:nth-child(6) button');
  const settings = async () => (await blocks())[0].settings;
  await p.until('it to be kept', async () => (await settings()).form === 'rows of colour');
  await drawn('chart', 'Each from its lowest to its highest');
  await p.clickAt('[data-testid=forms] li:nth-child(1) button');
  await p.press('look of the curves');
  await p.clickAt('[data-curve="Shaft torque"] [data-field=label]');
  await p.typeInto('.editor input', Key.chord(Key.CONTROL, 'a'), 'Brake torque', Key.ENTER);
  await drawn('chart', 'Brake torque');
  await p.until('the name to be kept', async () => JSON.stringify((await settings()).looks).includes('Brake torque')); // prettier-ignore
});

test('one page of the web opens from the disk alone; its charts are read by pointer and by keys', async () => {
  await p.press('Share as');
  await p.press('one page of the web');
  const file = await p.downloaded('.html');
  const house = await driver.getCurrentUrl();
  await driver.get(`file://${file}`);
  const sections = await driver.findElements(By.css('section'));
  expect(sections).toHaveLength(3);
  // In the middle of the first chart.
  const read = async (share: number) => {
    await driver.executeScript(
      `const section = document.querySelector('section[tabindex]'); const [x, y, w, h] = JSON.parse(section.querySelector('script').textContent)[0].box;
       const { left, top, width } = section.getBoundingClientRect(); const scale = width / Number(section.dataset.width);
       section.dispatchEvent(new PointerEvent('pointermove', { clientX: left + (x + ${share} * w) * scale, clientY: top + (y + h / 2) * scale }));`,
    );
    return driver.executeScript(`const r = document.querySelector('#reading'); return r.hidden ? '' : r.textContent;`) as Promise<string>; // prettier-ignore
  };
  const middle = await read(0.5);
  expect(middle).toMatch(/Brake torque [\d.]+( to [\d.]+)? kN·m/);
  const seconds = (text: string) => Number(/^([\d.]+) s/.exec(text)![1]);
  expect(seconds(await read(0.75)) / seconds(middle)).toBeCloseTo(1.5, 1);
  expect(await read(1.2)).toBe('');
  await read(0.5);
  await driver.executeScript(`document.querySelector('section[tabindex]').focus({ preventScroll: true })`);
  await driver.actions({ async: true }).sendKeys(Key.ARROW_RIGHT).perform();
  const next = (await driver.executeScript(
    `return document.querySelector('#reading').textContent`,
  )) as string;
  expect(seconds(next)).toBeGreaterThan(seconds(middle));
  expect(seconds(next) - seconds(middle)).toBeLessThan(2);
  await driver.get(house);
  await p.find(`${PAGE} .block`);
});

test('pages go into a PDF that is there: what it had stays, numbers run on; a picture of a page is as large as it says', async () => {
  // The three takes in one, from before.
  const former = readFileSync(await p.downloaded(`${(await kept()).name}.pdf`));
  const path = join(folder, 'folder.pdf');
  writeFileSync(path, former);
  expect(text(path).split('\f').filter((t) => t.trim())).toHaveLength(3); // prettier-ignore
  const files = () => readdirSync(downloads).filter((n) => n.endsWith('.pdf'));
  const before = files().length;
  await p.press('Share as');
  await (await p.find('[aria-label="The file that the pages go into"]')).sendKeys(path);
  await p.until('the file to be saved', async () => files().length === before + 1);
  const newest = files().map((n) => join(downloads, n)).sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs)[0]; // prettier-ignore
  expect(text(newest).split('\f').filter((t) => t.trim())).toHaveLength(6); // prettier-ignore
  await p.press('Share as');
  await p.press('a picture');
  const png = readFileSync(await p.downloaded('.png'));
  // A4 at 200 dots an inch.
  expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([1654, 2339]);
});

test('two people change one report: the second sees what the first has made of it, and is told', async () => {
  await p.go(`/report/${reportId}`);
  await p.find(`${PAGE} .block`);
  const { id, version, about, now, ...body } = await kept();
  void [about, now];
  await p.api('PUT', `/api/reports/${id}`, { version, body: { ...body, name: 'As the other has it' } });
  await driver.executeScript(`document.querySelector('${PAGE} .block[data-kind=chart]').focus()`);
  await driver.actions({ async: true }).sendKeys(Key.ARROW_DOWN).perform();
  await p.untilText('body', 'Somebody else has changed it meanwhile.');
  await p.until('the other’s name', async () => (await driver.executeScript('return document.querySelector("input.name").value')) === 'As the other has it'); // prettier-ignore
  // Nothing went wrong but the refusal itself.
  expect((await p.consoleErrors()).filter((e) => !e.includes('409'))).toEqual([]);
});
