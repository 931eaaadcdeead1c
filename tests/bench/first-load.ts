import type { WebDriver } from 'selenium-webdriver';
import { openBrowser, removeFolder } from '../e2e/world';
import { report } from './report';

const MOST_SCRIPT = 600_000;
const MOST_COMPRESSED = 180_000;
const GOAL_MS = 1000;
/** So long nothing more is fetched once a page has all that it shows. */
const QUIET_MS = 700;

interface Loaded {
  files: number;
  plain: number;
  compressed: number;
  /** Of these, what came before the first reading stood there. */
  before: number;
  readingMs: number;
}

/** How much script a browser fetches for each page that it never saw, and when the first live value stands there. */
export async function firstLoads(base: string, pages: string[]): Promise<void> {
  const driver = await openBrowser();
  const devtools = driver as unknown as { sendDevToolsCommand(name: string): Promise<void> };
  try {
    for (const page of pages) {
      await devtools.sendDevToolsCommand('Network.clearBrowserCache');
      await driver.get(base + page);
      const { files, plain, compressed, before, readingMs } = await loaded(driver);
      const kB = (bytes: number) => Math.round(bytes / 1000);
      report({
        name: `script of ${page}, ${files} files, ${kB(compressed)} kB compressed, ${kB(before)} kB of it before the first reading`,
        value: kB(plain),
        unit: 'kB',
        reference: `the goal of ${MOST_SCRIPT / 1000} kB and ${MOST_COMPRESSED / 1000} kB compressed, whichever is further off`,
        ratio: Math.max(plain / MOST_SCRIPT, compressed / MOST_COMPRESSED),
      });
      report({
        name: `first live value on ${page}`,
        value: readingMs,
        unit: 'ms',
        reference: `the goal of ${GOAL_MS} ms`,
        ratio: readingMs / GOAL_MS,
      });
    }
  } finally {
    await driver.quit();
    removeFolder();
  }
}

const loaded = (driver: WebDriver) =>
  driver.executeAsyncScript<Loaded>(`
    const done = arguments[0];
    let [seen, since] = [-1, 0];
    const look = setInterval(() => {
      const scripts = performance.getEntriesByType('resource').filter((r) => r.name.endsWith('.js'));
      const [reading] = performance.getEntriesByName('first reading');
      if (scripts.length !== seen) [seen, since] = [scripts.length, performance.now()];
      if (!reading || performance.now() - since < ${QUIET_MS}) return;
      clearInterval(look);
      const sum = (of) => scripts.reduce((all, r) => all + of(r), 0);
      done({
        files: scripts.length,
        plain: sum((r) => r.decodedBodySize),
        compressed: sum((r) => r.encodedBodySize),
        before: sum((r) => (r.responseEnd < reading.startTime ? r.encodedBodySize : 0)),
        readingMs: Math.round(reading.startTime),
      });
    }, 50);
  `);
