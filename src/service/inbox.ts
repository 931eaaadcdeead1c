import { createWriteStream, existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'; // prettier-ignore
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { asFarrierError } from '$core/errors';
import { Watched } from '$contract/spreadsheet';
import { getHouse, putHouse } from '$store/house';
import { log, type App } from './app';
import { check } from './check';
import { importTake } from './exchange';
import { madeNow } from './outgoing';
import { viewSpreadsheets } from './sheets/presets';

const KEY = 'watched folder';
const NOTHING: Watched = { files: 'left alone', spreadsheet: '' };
/** From one look to the next: a file that has not changed in between is whole. */
const LOOK_MS = 2000;
const BY = 'the watched folder';

/** What becomes of files that come into the folder. */
export const watchedSettings = (app: App): Watched => {
  const held = Watched.safeParse({ ...NOTHING, ...(getHouse(app.db, KEY) as object | null) });
  return held.success ? held.data : NOTHING;
};
/** @throws `bad_input` */
export function changeWatched(app: App, given: Watched, by: string): void {
  const wanted = check(Watched, given);
  putHouse(app.db, KEY, wanted);
  mkdirSync(join(app.folder, 'watched'), { recursive: true });
  log(app, 'take', `Files that come into the folder “watched” are ${wanted.files}.`, { by });
}

/** A folder of the house that other programs put files into. What has been taken lies in “taken” beside its spreadsheet, what could not be
 *  read in “refused” beside a text that says why: nothing is lost, and nothing is taken twice. */
export class Inbox {
  private timer: ReturnType<typeof setTimeout> | null = null;
  private ended = false;
  private seen = new Map<string, string>();

  constructor(private readonly app: App) {}

  begin(): void {
    const again = async () => {
      await this.look().catch((error) => log(this.app, 'trouble', asFarrierError(error, 'watched').message));
      if (!this.ended) this.timer = setTimeout(() => void again(), LOOK_MS).unref();
    };
    this.timer = setTimeout(() => void again(), LOOK_MS).unref();
  }
  end(): void {
    this.ended = true;
    if (this.timer) clearTimeout(this.timer);
  }

  /** Takes what has lain there unchanged since the last look. */
  async look(): Promise<void> {
    const { files, spreadsheet } = watchedSettings(this.app);
    const folder = join(this.app.folder, 'watched');
    if (files === 'left alone' || !existsSync(folder)) return void this.seen.clear();
    const now = new Map<string, string>();
    for (const entry of readdirSync(folder, { withFileTypes: true })) {
      if (this.ended) return;
      // Files that are being copied are often called so until they are whole.
      if (!entry.isFile() || /^\.|\.(part|partial|tmp|crdownload)$|~$/i.test(entry.name)) continue;
      const { size, mtimeMs } = statSync(join(folder, entry.name));
      const state = `${size} ${mtimeMs}`;
      if (size > 0 && this.seen.get(entry.name) === state)
        await this.take(folder, entry.name, files === 'brought in' ? null : spreadsheet); // prettier-ignore
      else now.set(entry.name, state);
    }
    this.seen = now;
  }

  private async take(folder: string, name: string, spreadsheet: string | null): Promise<void> {
    const own = this.moved(folder, 'taken', name);
    let isTaken = false;
    try {
      const head = await importTake(this.app, own, {}, BY);
      isTaken = true;
      if (spreadsheet === null) return;
      const way = spreadsheet
        ? viewSpreadsheets(this.app).find((s) => s.name === spreadsheet)?.id
        : undefined;
      if (spreadsheet && !way) log(this.app, 'trouble', `There is no spreadsheet “${spreadsheet}”: ${name} is written by the first way.`, { by: BY }); // prettier-ignore
      const made = await madeNow(this.app, { what: 'spreadsheet', spreadsheet: way, takes: [head.id] }, null);
      const half = `${own.path}.part`;
      try {
        await pipeline(Readable.fromWeb(made.body as never), createWriteStream(half));
        const to = free(join(folder, 'taken'), `${own.name}.${made.name.split('.').at(-1)!}`);
        renameSync(half, join(folder, 'taken', to));
        log(this.app, 'report', `${head.name} was written to watched/taken/${to}.`, {
          takeId: head.id,
          by: BY,
        });
      } finally {
        rmSync(half, { force: true });
      }
    } catch (error) {
      const { message } = asFarrierError(error, name);
      // What was not brought in goes aside; what was, and only not written, is there as a take.
      if (!isTaken && existsSync(own.path)) {
        const aside = this.moved(join(folder, 'taken'), '../refused', own.name);
        writeFileSync(`${aside.path}.why.txt`, `${message}\n`);
      }
      log(this.app, 'trouble', `${name} from the watched folder: ${message}`, { by: BY });
    }
  }
  private moved(from: string, to: string, name: string): { name: string; path: string } {
    const folder = join(from, to);
    mkdirSync(folder, { recursive: true });
    const own = free(folder, name);
    renameSync(join(from, name), join(folder, own));
    return { name: own, path: join(folder, own) };
  }
}

/** A name that no file of a folder has yet. */
function free(folder: string, name: string): string {
  for (let n = 1; ; n++) {
    const next = n === 1 ? name : name.replace(/(\.\w+)?$/, ` (${n})$1`);
    if (!existsSync(join(folder, next))) return next;
  }
}
