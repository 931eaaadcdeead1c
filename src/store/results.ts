import {
  closeSync,
  existsSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  writeSync,
} from 'node:fs';
import { join } from 'node:path';
import { decode, encode } from 'cbor2';
import { FarrierError, damaged, notFound } from '$core/errors';

/** What a file of results begins with, beside the result itself. */
interface ResultFile {
  farrier: 'result';
  version: 1;
  result: unknown;
}
const ENDING = '.result';
/** Ends the name of what is drawn of a result that is too large. */
const DRAWN = '-drawn';

/** Results of studies (and of modal analyses, in a folder of their own), one file each beside the takes: CBOR (RFC 8949) with typed arrays as they are (RFC 8746). A file is written once and
 *  never changed; whoever has its name has that result. */
export class ResultStore {
  private readonly folder: string;

  constructor(dataFolder: string, folder = 'results') {
    this.folder = join(dataFolder, folder);
    mkdirSync(this.folder, { recursive: true });
  }
  private path = (id: string) => join(this.folder, id.replace(/[^\w-]/g, '') + ENDING);
  /** Where a result is kept: for whoever reads it in another thread. @throws `not_found` */
  fileOf(id: string): string {
    if (!this.has(id)) throw notFound('result', id);
    return this.path(id);
  }

  /** The file as bytes, for whoever decodes it. */
  static bytes(result: unknown): Uint8Array {
    return encode({ farrier: 'result', version: 1, result } satisfies ResultFile);
  }

  /** Keeps a result. What is not whole is not found: it gets its name at its end. @throws `unavailable` when the disk does not take it */
  put(id: string, bytes: Uint8Array): void {
    const half = `${this.path(id)}.part`;
    try {
      const file = openSync(half, 'w');
      try {
        for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at);
        fsyncSync(file);
      } finally {
        closeSync(file);
      }
      renameSync(half, this.path(id));
    } catch (error) {
      rmSync(half, { force: true });
      throw new FarrierError('unavailable', {
        what: 'The result cannot be kept.',
        where: 'the folder of results',
        why: (error as Error).message,
        next: `Free at least ${Math.ceil(bytes.length / 1e6)} MB, then compute it again.`,
      });
    }
  }

  /** Keeps one that is too large to be drawn whole, with what is drawn of it. */
  putBoth(id: string, bytes: Uint8Array, drawn: Uint8Array): void {
    this.put(id + DRAWN, drawn);
    try {
      this.put(id, bytes);
    } catch (error) {
      this.remove(id);
      throw error;
    }
  }
  /** The name of what is drawn of a result: its own, or that of its thinned copy. */
  drawn = (id: string): string => (this.has(id + DRAWN) ? id + DRAWN : id);

  has = (id: string) => existsSync(this.path(id));

  /** @throws `not_found` */
  read = (id: string): Uint8Array => readFileSync(this.fileOf(id));

  /** A result with its arrays. @throws `not_found`, `damaged` */
  get = <T>(id: string): T => ResultStore.from<T>(this.fileOf(id));

  /** The same out of its file. @throws `damaged` */
  static from<T>(path: string): T {
    const bytes = readFileSync(path);
    let file: ResultFile;
    try {
      file = decode(bytes);
    } catch {
      throw damaged(path, 'The file of the result is damaged.', 'Compute the study again.');
    }
    if (file?.farrier !== 'result' || file.version !== 1)
      throw damaged(path, 'This file holds no result that this program reads.', 'Compute the study again.');
    return file.result as T;
  }

  remove(id: string): void {
    for (const name of [id, id + DRAWN]) rmSync(this.path(name), { force: true });
  }

  /** Takes away what no study has any more. @returns how many files went */
  keepOnly(ids: ReadonlySet<string>): number {
    const gone = readdirSync(this.folder).filter(
      (name) =>
        !ids.has(name.slice(0, -ENDING.length).replace(new RegExp(`${DRAWN}$`), '')) ||
        !name.endsWith(ENDING),
    );
    for (const name of gone) rmSync(join(this.folder, name), { force: true });
    return gone.length;
  }
}
