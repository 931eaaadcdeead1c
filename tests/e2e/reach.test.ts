import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Visitor } from './visitor';
import { Person, openBrowser, removeFolder, seedDemo, startServer, type RunningServer } from './world';

// Every page by day and night as a checker of accessibility rules sees it, and by keyboard alone.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

beforeAll(async () => {
  server = await startServer(seedDemo('reach'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

interface Finding {
  id: string;
  impact: string;
  help: string;
  nodes: { target: string[]; failureSummary: string }[];
}
/** What WCAG 2.2 AA forbids on the page as it is now, as far as rules can tell. */
async function findings(): Promise<string[]> {
  await driver.executeScript(axe);
  const found = await driver.executeAsyncScript<Finding[]>(
    `const done = arguments[arguments.length - 1];
     axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'], resultTypes: ['violations'] })
       .then((r) => done(r.violations), (e) => done([{ id: 'axe', impact: 'critical', help: String(e), nodes: [] }]))`,
  );
  return found
    .filter((f) => f.impact === 'serious' || f.impact === 'critical')
    .flatMap((f) =>
      f.nodes.map((n) => `${f.id} at ${n.target.join(' ')}: ${n.failureSummary.split('\n')[1]?.trim()}`),
    );
}

/** Pages, and what stands there once they are ready. */
async function pages(): Promise<[path: string, ready: string][]> {
  /** The first address of a kind that a page leads to. */
  const linked = async (from: string, css: string) => {
    await p.go(from);
    return new URL((await (await p.find(css)).getAttribute('href'))!, server.base).pathname;
  };
  await p.go('/inspect');
  const take = new URL(await driver.getCurrentUrl()).pathname;
  const { channels } = await p.api<{ channels: { id: string; name: string }[] }>('GET', '/api/setup');
  const wire = channels.find((c) => c.name === 'Blade tip travel') ?? channels[0];
  const bench = `/calibrate/${wire.id}`;
  const board = await linked('/record', 'a[href*="/record/boards/"]');
  const study = await linked('/study', '.list a[href^="/study/"]');
  return [
    ['/rig', '.head .answer'],
    ['/channels', 'tr[data-name] td.now'],
    ['/channels/sensors', 'tr[data-serial]'],
    ['/calibrate', 'td.mono'],
    [bench, 'h1'],
    ['/calibrate/bridges', 'h1'],
    ['/record', 'canvas'],
    [board, '.grid-stack-item'],
    ['/record/alarms', 'h1'],
    [take, 'canvas'],
    ['/study', 'h1'],
    [study, 'canvas'],
    ['/study/new', '[data-kind]'],
    ['/report', '[data-testid=reports]'],
    ['/report/take', 'canvas'],
    ['/logbook', '.book'],
  ];
}

test('no page breaks a rule of WCAG 2.2 AA seriously, by day or by night', async () => {
  await p.go('/rig');
  const found: Record<string, string[]> = {};
  for (const night of [false, true]) {
    await driver.executeScript(`localStorage.setItem('farrier-night', '${night ? 1 : ''}')`);
    for (const [path, ready] of await pages()) {
      await p.go(path);
      await p.find(ready);
      await p.until(
        'the theme',
        async () =>
          (await driver.executeScript<boolean>(
            'return document.documentElement.classList.contains("dark")',
          )) === night,
      );
      const wrong = await findings();
      if (wrong.length) found[`${path}${night ? ' at night' : ''}`] = wrong;
    }
  }
  expect(found).toEqual({});
});

test('by keyboard alone: past the frame in one step, to any channel by the comb, and back from a dialog to where one was', async () => {
  await p.go('/record');
  await p.find('canvas');
  const active = () =>
    driver.executeScript<string>(
      'const e = document.activeElement; return e.id || e.getAttribute("aria-label") || e.textContent.trim()',
    );
  await p.type(Key.TAB);
  expect(await active()).toBe('Skip to the page');
  await p.type(Key.ENTER);
  await p.until('the page', async () => (await active()) === 'page');
  await p.type('f');
  await p.until('the comb', async () => (await active()) === 'All channels');
  await p.type(Key.HOME);
  for (let k = 0; k < 3; k++) await p.type(Key.ARROW_RIGHT);
  const comb = await p.find('.comb');
  const tooth = await comb.getAttribute('aria-activedescendant');
  const name = await driver.executeScript<string>(
    'return document.getElementById(arguments[0]).dataset.channel',
    tooth,
  );
  expect(name).toBe('Shaft torque');
  await p.untilText('.holder .said', 'Shaft torque');
  // The comb is one stop of Tab, not one for each channel.
  const stops = await driver.executeScript<number>(
    'return document.querySelectorAll("header [tabindex=\'0\'], header button, header a").length',
  );
  expect(stops).toBeLessThan(9);
  await p.type(Key.ENTER);
  await p.until('the channel', async () =>
    (await driver.getCurrentUrl()).endsWith(`#${tooth!.slice('tooth-'.length)}`),
  );
  await p.untilText('aside h1', 'Shaft torque');

  // Dialogs give the focus back to what opened them, or to the page: never to nothing.
  await p.go('/record');
  const plans = await p.byWords('plans');
  const opener = await plans.getText();
  await driver.executeScript('arguments[0].focus()', plans);
  await p.type(Key.ENTER);
  await p.find('dialog[open]');
  await p.type(Key.ESCAPE);
  await p.until('the opener', async () => (await active()) === opener);
  await driver.executeScript('document.activeElement.blur()');
  await p.type('?');
  await p.find('dialog[open]');
  await p.type(Key.ESCAPE);
  await p.until(
    'the page itself',
    async () => (await driver.executeScript<string>('return document.activeElement.tagName')) !== 'BODY',
  );
});

test('the channel that is chosen stays chosen when another’s edit comes, also on a page opened by an address', async () => {
  await p.go('/rig');
  const { channels } = await p.api<{ channels: { id: string; name: string }[] }>('GET', '/api/setup');
  const [opened, next, edited] = channels;
  await p.go(`/channels#${opened.id}`);
  await driver.navigate().refresh();
  await p.untilText('aside h1', opened.name);
  await p.clickAt(`tr[data-name="${next.name}"] td[data-key=kind]`);
  await p.untilText('aside h1', next.name);
  const visitor = new Visitor(server.base);
  await visitor.ask('GET', '/rig');
  await visitor.ask('PATCH', `/api/channels/${edited.id}`, { name: 'Edited elsewhere' });
  await p.find('tr[data-name="Edited elsewhere"]');
  expect(await p.text('aside h1')).toBe(next.name);
});
