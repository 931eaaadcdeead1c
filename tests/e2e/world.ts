import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { inject } from 'vitest';
import { Builder, By, Key, logging, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import { FRAME_KINDS, FrameReader, decodeValues } from '$contract/live';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';

/** One run's folder: data, downloads, the browser's files. */
export const folder = mkdtempSync(join(tmpdir(), 'farrier-e2e-'));
/** Servers that run; a test that fails midway leaves one behind. */
const running = new Set<ChildProcess>();
/** Ends what a failed test left running and removes the run's folder. */
export const removeFolder = () => {
  for (const child of running) child.kill('SIGKILL');
  rmSync(folder, { recursive: true, force: true });
};

export const freePort = () =>
  new Promise<number>((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** The demo's data in a folder of their own. */
export const seedDemo = (name: string) => copyData(inject('demo'), name);
export const copyData = (from: string, name: string) => {
  const to = join(folder, name);
  cpSync(from, to, { recursive: true });
  return to;
};

export interface RunningServer {
  base: string;
  process: ChildProcess;
  output: () => string;
  /** Asks it to stop. @returns its exit code */
  stop(): Promise<number | null>;
}

/** The built application on a free port, or on one that it had before. */
export async function startServer(
  data: string,
  env: Record<string, string> = {},
  port?: number,
): Promise<RunningServer> {
  port ??= await freePort();
  const base = `http://127.0.0.1:${port}`;
  mkdirSync(data, { recursive: true });
  const child = spawn('node', ['build'], {
    env: {
      ...process.env,
      HOST: '127.0.0.1',
      PORT: String(port),
      ORIGIN: base,
      FARRIER_DATA: data,
      BODY_SIZE_LIMIT: '64M',
      ...env,
    },
  });
  running.add(child);
  child.once('exit', () => running.delete(child));
  let output = '';
  const heard = (chunk: Buffer) => (output += chunk.toString());
  child.stdout.on('data', heard);
  child.stderr.on('data', heard);
  const exited = new Promise<number | null>((resolve) => child.once('exit', (code) => resolve(code)));
  const server = { base, process: child, output: () => output, stop: () => (child.kill('SIGTERM'), exited) };
  for (let i = 0; i < 1200; i++) {
    if (output.includes('Listening on')) return server;
    if (child.exitCode !== null) break;
    await pause(50);
  }
  child.kill('SIGKILL');
  throw new Error(`the server did not start: ${output}`);
}

/** Waits until something is true. */
export async function comesTrue(holds: () => boolean | Promise<boolean>, ms = 60_000): Promise<void> {
  for (const end = Date.now() + ms; ; await pause(50)) {
    if (await Promise.resolve(holds()).catch(() => false)) return;
    if (Date.now() > end) throw new Error(`not within ${ms} ms: ${String(holds)}`);
  }
}

/** Waits until so much has been measured, by the engine's own clock: however slow the machine is, so many samples are there then. */
export async function measured(base: string, seconds: number): Promise<void> {
  const stop = new AbortController();
  const late = setTimeout(
    () => stop.abort(new Error(`nothing measured for ${seconds} s within a minute`)),
    60_000,
  );
  try {
    const live = await fetch(`${base}/api/live?strips=&waves=`, { signal: stop.signal });
    const frames = new FrameReader();
    let began = NaN;
    for await (const piece of live.body!)
      for (const f of frames.push(piece as Uint8Array)) {
        if (f.kind !== FRAME_KINDS.values) continue;
        const { timeMs } = decodeValues(f.payload);
        if (Number.isNaN(began)) began = timeMs;
        if (timeMs - began >= seconds * 1000) return;
      }
    throw new Error('the server closed its feed');
  } finally {
    clearTimeout(late);
    stop.abort();
  }
}

export const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

export const downloads = join(folder, 'downloads');

export async function openBrowser(): Promise<WebDriver> {
  mkdirSync(downloads, { recursive: true });
  process.env.TMPDIR = folder; // Chromium leaves folders of its own behind
  const options = new Options();
  options.setChromeBinaryPath('/usr/bin/chromium');
  options.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-dev-shm-usage',
    '--hide-scrollbars',
    '--force-device-scale-factor=1',
    '--window-size=1280,800',
    '--no-first-run',
    '--disable-background-networking',
  );
  options.setUserPreferences({
    'download.default_directory': downloads,
    'download.prompt_for_download': false,
  });
  const log = new logging.Preferences();
  log.setLevel(logging.Type.BROWSER, logging.Level.ALL);
  options.setLoggingPrefs(log);
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder('/usr/bin/chromedriver'))
    .build();
  await (
    driver as unknown as { sendDevToolsCommand(name: string, args: object): Promise<void> }
  ).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width: 1280,
    height: 800,
    deviceScaleFactor: 1,
    mobile: false,
  });
  return driver;
}

/** What an element says that the page has just exchanged for another. */
const EXCHANGED = ['StaleElementReferenceError', 'ElementNotInteractableError'];

/** What a person does in the page: finds things by their words, reads numbers. */
export class Person {
  constructor(
    readonly driver: WebDriver,
    public base: string,
  ) {}

  go = (path: string) => this.driver.get(this.base + path);
  find = (css: string) => this.driver.wait(until.elementLocated(By.css(css)), 30_000, `nothing at ${css}`);
  /** A button or link by its words. */
  byWords = (words: string) =>
    this.driver.wait(
      until.elementLocated(
        By.xpath(`//*[self::button or self::a][contains(normalize-space(.), ${JSON.stringify(words)})]`),
      ),
      30_000,
      `no button “${words}”`,
    );
  press = (words: string) => this.clicking(() => this.byWords(words));
  clickAt = (css: string) => this.clicking(() => this.find(css));

  /** A live page may exchange what was found just now: it is found again then. */
  private clicking = (find: () => Promise<WebElement>) => this.again(async () => this.click(await find()));
  private async again<T>(work: () => Promise<T>): Promise<T> {
    for (let tries = 0; ; tries++) {
      try {
        return await work();
      } catch (fault) {
        if (tries === 5 || !EXCHANGED.includes((fault as Error).name)) throw fault;
        await pause(100);
      }
    }
  }

  private async click(element: WebElement): Promise<void> {
    await this.driver.executeScript('arguments[0].scrollIntoView({ block: "nearest" })', element);
    await this.driver.wait(until.elementIsEnabled(element), 30_000);
    await element.click();
  }

  /** Types into a field. */
  typeInto = (css: string, ...keys: string[]) =>
    this.again(async () => (await this.find(css)).sendKeys(...keys));

  text = (css: string) => this.again(async () => (await this.find(css)).getText());
  /** The first number in a text, with a true minus sign or without. */
  number = async (css: string) =>
    Number((await this.text(css)).replace(/−/g, '-').match(/-?\d+(\.\d+)?/)?.[0] ?? NaN);

  /** Waits until something is true of the page. */
  async until(says: string, holds: () => Promise<boolean>, ms = 45_000): Promise<void> {
    try {
      await this.driver.wait(async () => holds().catch(() => false), ms, says);
    } catch (error) {
      // What the page showed instead says more than the wait does.
      const shown = await this.text('main').catch(() => 'nothing');
      throw new Error(`${(error as Error).message}\nThe page showed: ${shown.slice(0, 1500)}`, {
        cause: error,
      });
    }
  }
  untilText = (css: string, words: string | RegExp, ms?: number) =>
    this.until(
      `${css} to say ${words}`,
      async () =>
        typeof words === 'string' ? (await this.text(css)).includes(words) : words.test(await this.text(css)),
      ms,
    );

  /** Opens a value of a sentence, types, takes it with Enter. */
  async edit(field: string, value: string, within = ''): Promise<void> {
    await this.clickAt(`${within} [data-field=${field}]`);
    const input = await this.find('.editor input');
    await input.sendKeys(Key.chord(Key.CONTROL, 'a'), value, Key.ENTER);
  }
  /** Address of the plan that is armed next; opens its page. */
  async planPath(): Promise<string> {
    await this.go('/record');
    return `/api/plans/${await (await this.find('[aria-label="Plan armed next"]')).getAttribute('value')}`;
  }
  /** Arms by the form: what is asked, and why in spite of what the list says. */
  async arm(operator: string, set: string): Promise<void> {
    await this.type('a');
    await this.until(
      'the list before the take',
      async () => !(await this.text('dialog[open]')).includes('Looking'),
    );
    await this.typeInto('#fact-0', Key.chord(Key.CONTROL, 'a'), operator);
    await this.typeInto('#fact-1', set);
    await this.typeInto('#reason', 'the demo’s own faults', Key.ENTER);
    await this.untilText('header .state', 'Armed');
  }
  /** Opens a value of a sentence and chooses one of its options. */
  async choose(field: string, words: string, within = ''): Promise<void> {
    await this.clickAt(`${within} [data-field=${field}]`);
    await this.driver
      .wait(
        until.elementLocated(
          By.xpath(`//*[@role="radio"][starts-with(normalize-space(.), ${JSON.stringify(words)})]`),
        ),
        10_000,
        `no option “${words}”`,
      )
      .click();
  }
  /** Pastes a text into whatever has the focus, as from a spreadsheet. */
  paste = (text: string) =>
    this.driver.executeScript(
      `const d = new DataTransfer(); d.setData('text/plain', arguments[0]);
       document.activeElement.dispatchEvent(new ClipboardEvent('paste', { clipboardData: d, bubbles: true, cancelable: true }))`,
      text,
    );
  /** Types into whatever has the focus; chords are held. */
  type = (...keys: string[]) =>
    this.again(async () => (await this.driver.switchTo().activeElement()).sendKeys(...keys));

  /** Calls the server as the page would. */
  api = <T>(method: string, path: string, body?: unknown): Promise<T> =>
    this.driver.executeAsyncScript(
      `const [method, path, body, done] = arguments; fetch(path, { method, headers: { 'content-type': 'application/json' }, body: body === null ? undefined : JSON.stringify(body) }).then((r) => r.json()).then(done, (e) => done(String(e)))`,
      method,
      path,
      body ?? null,
    );

  /** Severe entries of the console since the last call. */
  async consoleErrors(): Promise<string[]> {
    const entries = await this.driver.manage().logs().get('browser');
    return entries.filter((e) => e.level.value >= logging.Level.SEVERE.value).map((e) => e.message);
  }

  /** Waits for a download whose name ends so. @returns its path */
  async downloaded(ending: string): Promise<string> {
    let found: string | undefined;
    await this.until(`a download ending in ${ending}`, async () => {
      found = readdirSync(downloads).find((name) => name.endsWith(ending));
      return found !== undefined && existsSync(join(downloads, found));
    });
    return join(downloads, found!);
  }
}
