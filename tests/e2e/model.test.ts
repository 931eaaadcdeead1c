import { join } from 'node:path';
import fc from 'fast-check';
import { By, Key, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Person, folder, openBrowser, removeFolder, startServer, type RunningServer } from './world';

// Edits, takes, undo and reloads in random order through the real pages, held against a small model of what a person expects.
let driver: WebDriver;
let server: RunningServer;
let p: Person;

beforeAll(async () => {
  server = await startServer(join(folder, 'model'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  await p.go('/rig');
  await p.press('Add a unit');
  await p.clickAt('[data-kind="dock chassis"]');
  await p.untilText('.head .answer', '● answering');
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

/** What a channel is to the person at the page. */
interface Known {
  id: string;
  name: string;
  group: string;
}
type State = 'Watching' | 'Armed' | 'Recording';
/** What should be there, and how it came to be: the set-ups before and after each change, and how many of them stand. */
class Model {
  channels: readonly Known[] = [];
  state: State = 'Watching';
  takes = 0;
  made = 0;
  private history: { before: readonly Known[]; after: readonly Known[] }[] = [];
  private standing = 0;

  change(after: readonly Known[]): void {
    this.history = [...this.history.slice(0, this.standing), { before: this.channels, after }];
    this.standing = this.history.length;
    this.channels = after;
  }
  get canUndo(): boolean {
    return this.standing > 0;
  }
  get canRedo(): boolean {
    return this.standing < this.history.length;
  }
  undo(): void {
    this.channels = this.history[--this.standing].before;
  }
  redo(): void {
    this.channels = this.history[this.standing++].after;
  }
}

const row = (name: string) => `tr[data-name="${name}"]`;
const cell = (name: string, key: string) => `${row(name)} td[data-key=${key}]`;
interface Setup {
  channels: { id: string; name: string; group: string }[];
}
const setup = () => p.api<Setup>('GET', '/api/setup');
const at = (path: string) => async () => new URL(await driver.getCurrentUrl()).pathname.startsWith(path);

async function toChannels(model: Model): Promise<void> {
  if (!(await at('/channels')())) {
    await p.clickAt('nav a[href="/channels"]');
    await p.until('the channels', at('/channels'));
    await p.untilText('h1', 'Channels');
  }
  if (model.channels.length) await p.find(row(model.channels[0].name));
}
/** Nothing that was said stays in the way of what follows. */
async function dismiss(): Promise<void> {
  for (const close of await driver.findElements(By.css('main .said button')))
    await close.click().catch(() => undefined);
}
/** A key of the page: with the focus on nothing that takes letters. */
async function pageKey(...keys: string[]): Promise<void> {
  await driver.executeScript('document.activeElement?.blur(); document.querySelector("#page").focus()');
  await p.type(...keys);
}

/** What the server holds and what the page shows are what the model says. */
async function agrees(model: Model): Promise<void> {
  const names = model.channels.map((c) => `${c.name} in ${c.group}`);
  await p.until(`the server to hold ${names.join(', ') || 'no channel'}`, async () => {
    const { channels } = await setup();
    return channels.map((c) => `${c.name} in ${c.group}`).join() === names.join();
  });
  await p.untilText('header .state', model.state);
  if (await at('/channels')())
    await p.until(`the page to show ${names.join(', ') || 'no channel'}`, async () => {
      const shown = await driver.executeScript<string[]>(
        'return [...document.querySelectorAll("tr[data-name]")].map((r) => r.dataset.name)',
      );
      return (
        [...shown].sort().join() ===
        model.channels
          .map((c) => c.name)
          .sort()
          .join()
      );
    });
  await p.until(`${model.takes} takes`, async () =>
    (await p.text('nav a[href="/inspect"]')).includes(model.takes === 1 ? '1 take' : `${model.takes} takes`),
  );
}

/** Where the page is and what it says and asks: for whoever reads of a failure. */
const shown = () =>
  driver.executeScript<string>(
    'return [location.href, ...[...document.querySelectorAll("header .state, main .said, dialog[open], aside h1")].map((e) => e.innerText)].join(" | ")',
  );

interface Real {
  steps: string[];
}
type Step = fc.AsyncCommand<Model, Real>;
/** A step by name: when it can be made, and what it does to page and model. */
const step = (name: string, when: (m: Model) => boolean, act: (m: Model) => Promise<void>): Step => ({
  check: (m) => when(m as Model),
  run: async (m, real) => {
    real.steps.push(name);
    try {
      await act(m);
      await agrees(m);
    } catch (fault) {
      throw new Error(
        `after ${real.steps.slice(-12).join(' → ')}: ${(fault as Error).message}; the page: ${await shown()}`,
        { cause: fault },
      );
    }
  },
  toString: () => name,
});
const pick = <T>(list: readonly T[], k: number): T => list[k % list.length];
const idle = (m: Model) => m.state === 'Watching';

const add = () =>
  step(
    'add a channel',
    (m) => idle(m) && m.channels.length < 7,
    async (m) => {
      await toChannels(m);
      const name = `Channel ${++m.made}`;
      await p.press('Add channel');
      await p.typeInto('#new-name', name);
      await driver.executeScript(
        `const s = document.querySelector('#new-place'); s.value = [...s.options].find((o) => / A4\\//.test(o.value) || / A1\\//.test(o.value)).value; s.dispatchEvent(new Event('change', { bubbles: true }))`,
      );
      await p.press('Add it');
      await p.find(row(name));
      const made = (await setup()).channels.find((c) => c.name === name)!;
      m.change([...m.channels, { id: made.id, name, group: made.group }]);
    },
  );

const rename = (k: number, onto: boolean) =>
  step(
    onto ? 'rename onto another' : 'rename',
    (m) => m.channels.length > (onto ? 1 : 0),
    async (m) => {
      await toChannels(m);
      const { id, name } = pick(m.channels, k);
      const next = onto
        ? pick(
            m.channels.filter((c) => c.id !== id),
            k,
          ).name
        : `Renamed ${++m.made}`;
      await p.clickAt(cell(name, 'name'));
      await p.type(Key.F2);
      await p.find('input.cell');
      await p.type(next, Key.ENTER);
      if (!onto && idle(m)) {
        await p.find(row(next));
        return m.change(m.channels.map((c) => (c.id === id ? { ...c, name: next } : c)));
      }
      // Refused in its place, what was typed still standing; Esc leaves all as it was.
      await p.untilText('.why', onto ? 'already' : 'stays as it is');
      expect(await (await p.find('input.cell')).getAttribute('value')).toBe(next);
      await p.type(Key.ESCAPE);
      await p.find(row(name));
    },
  );

const regroup = (k: number) =>
  step(
    'put into a group',
    (m) => idle(m) && m.channels.length > 0,
    async (m) => {
      await toChannels(m);
      const { id, name, group } = pick(m.channels, k);
      const next = group === 'North' ? 'South' : 'North';
      await p.clickAt(cell(name, 'group'));
      await p.type(Key.F2);
      await p.find('input.cell');
      await p.type(next, Key.ENTER);
      await p.untilText(cell(name, 'group'), next);
      m.change(m.channels.map((c) => (c.id === id ? { ...c, group: next } : c)));
    },
  );

const remove = (k: number) =>
  step(
    'remove',
    (m) => idle(m) && m.channels.length > 1,
    async (m) => {
      await toChannels(m);
      const { id, name } = pick(m.channels, k);
      await p.clickAt(cell(name, 'kind'));
      await p.untilText('aside h1', name);
      await p.press('Remove the channel');
      await p.until('it to be gone', async () => (await driver.findElements(By.css(row(name)))).length === 0);
      m.change(m.channels.filter((c) => c.id !== id));
    },
  );

const undo = () =>
  step(
    'undo',
    (m) => m.canUndo,
    async (m) => {
      await dismiss();
      await pageKey(Key.chord(Key.CONTROL, 'z'));
      if (idle(m)) return m.undo();
      await p.untilText('main .said', 'stays as it is');
      await dismiss();
    },
  );
const redo = () =>
  step(
    'redo',
    (m) => m.canRedo && idle(m),
    async (m) => {
      await pageKey(Key.chord(Key.CONTROL, Key.SHIFT, 'z'));
      m.redo();
    },
  );

const arm = () =>
  step(
    'arm',
    (m) => idle(m) && m.channels.length > 0,
    async (m) => {
      await pageKey('a');
      await p.until(
        'the list before the take',
        async () => !(await p.text('dialog[open]')).includes('Looking'),
      );
      await p.typeInto('#fact-0', Key.chord(Key.CONTROL, 'a'), 'Ada');
      for (const reason of await driver.findElements(By.css('#reason')))
        await reason.sendKeys('to see what happens');
      await (await p.find('dialog[open] form button[type=submit]')).click();
      await p.until('the plan', at('/record'));
      m.state = 'Armed';
    },
  );
const disarm = () =>
  step(
    'disarm',
    (m) => m.state === 'Armed',
    async (m) => {
      await p.press('Disarm');
      m.state = 'Watching';
    },
  );
const start = () =>
  step(
    'start',
    (m) => m.state === 'Armed',
    async (m) => {
      await pageKey('s');
      m.state = 'Recording';
      m.takes++;
    },
  );
const end = () =>
  step(
    'end',
    (m) => m.state === 'Recording',
    async (m) => {
      await pageKey('e');
      m.state = 'Watching';
    },
  );
const reload = () =>
  step(
    'reload',
    () => true,
    async () => {
      await driver.navigate().refresh();
      await p.find('header .state');
    },
  );
const wander = (k: number) =>
  step(
    'go elsewhere',
    () => true,
    async () => {
      const place = pick(['/rig', '/calibrate', '/record', '/logbook', '/study'], k);
      await p.clickAt(`nav a[href="${place}"]`);
      await p.until(place, at(place));
    },
  );

test('edits, takes, undo and reloads in any order: server and page stay what a person expects', async () => {
  await p.api('POST', '/api/layout', { columns: ['name', 'kind', 'group', 'wire', 'now'] });
  await p.go('/channels');
  const model = new Model();
  const real: Real = { steps: [] };
  const some = fc.nat(20);
  const steps = [
    fc.constant(add()),
    fc.constant(add()),
    some.map((k) => rename(k, false)),
    some.map((k) => rename(k, true)),
    some.map(regroup),
    some.map(remove),
    fc.constant(undo()),
    fc.constant(undo()),
    fc.constant(redo()),
    fc.constant(arm()),
    fc.constant(disarm()),
    fc.constant(start()),
    fc.constant(end()),
    fc.constant(end()),
    fc.constant(reload()),
    some.map(wander),
  ];
  await fc.assert(
    fc.asyncProperty(fc.commands(steps, { maxCommands: 60, size: 'max' }), (commands) =>
      // Each run goes on where the one before it ended.
      fc.asyncModelRun(() => ({ model, real }), commands),
    ),
    { seed: 20261125, numRuns: 6, endOnFailure: true },
  );
  expect(real.steps.length).toBeGreaterThan(60);
  expect(new Set(real.steps).size).toBe(13);
  // What was refused in words above is told by the browser, too.
  expect((await p.consoleErrors()).filter((e) => !/status of 4\d\d/.test(e))).toEqual([]);
}, 600_000);
