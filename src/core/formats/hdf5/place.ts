import type { Source } from '../format';

/** Bytes of a piece that is held. */
const PIECE = 1 << 20;
type Library = typeof import('h5wasm');
let held: { library: Library; module: Awaited<Library['ready']> } | null = null;

/** Loads the HDF5 library. */
export async function loadHdf5(): Promise<void> {
  if (held) return;
  const library = await import('h5wasm');
  held = { library, module: await library.ready };
  // What the library would print of a fault is kept back; it is not thrown from within, which would leave the library in the middle of its work.
  const { streams } = held.module.FS as unknown as FileSystem;
  for (const stream of streams)
    if (stream?.tty)
      stream.tty.ops = { ...stream.tty.ops, put_char: () => undefined, fsync: () => undefined };
}

/** The library, once it is loaded. */
export const hdf5Library = (): Library => held!.library;

/** Bytes wherever they lie, as the library reads and writes them. */
interface Place {
  size(): number;
  read(at: number, into: Uint8Array): number;
  write(at: number, bytes: Uint8Array): void;
  cut(size: number): void;
}

/** A file of the library's own file system whose bytes lie elsewhere. */
export function mounted<T>(place: Place, use: (path: string) => T): T {
  const files = held!.module.FS as unknown as FileSystem;
  const name = `place-${count++}`;
  files.createDataFile('/', name, new Uint8Array(0), true, true);
  const node = files.lookupPath(`/${name}`).node;
  const usual = node.node_ops;
  node.node_ops = {
    ...usual,
    getattr: (n) => ({ ...usual.getattr(n), size: place.size() }),
    setattr: (n, attributes) => {
      const { size, ...others } = attributes;
      usual.setattr(n, others);
      if (size !== undefined) place.cut(size);
    },
  };
  node.stream_ops = {
    ...node.stream_ops,
    llseek(stream, offset, whence) {
      const from = whence === 1 ? stream.position : whence === 2 ? place.size() : 0;
      return from + offset;
    },
    read: (_stream, buffer, offset, length, at) => place.read(at, bytesIn(buffer, offset, length)),
    write(_stream, buffer, offset, length, at) {
      place.write(at, bytesIn(buffer, offset, length));
      return length;
    },
  };
  try {
    return use(`/${name}`);
  } finally {
    // Of a damaged file the library may keep something open; there is only so much that can be.
    for (const stream of files.streams) if (stream?.node === node) files.close(stream);
    files.unlink(`/${name}`);
  }
}
let count = 0;

const bytesIn = (buffer: ArrayBufferView, offset: number, length: number) =>
  new Uint8Array(buffer.buffer, buffer.byteOffset + offset, length);

interface Node {
  node_ops: { getattr(n: Node): object; setattr(n: Node, of: { size?: number }): void };
  stream_ops: {
    llseek(stream: { position: number }, offset: number, whence: number): number;
    read(stream: unknown, buffer: ArrayBufferView, offset: number, length: number, at: number): number;
    write(stream: unknown, buffer: ArrayBufferView, offset: number, length: number, at: number): number;
  };
}
interface Stream {
  node?: Node;
  tty?: { ops: object };
}
interface FileSystem {
  streams: (Stream | null)[];
  close(stream: Stream): void;
  createDataFile(parent: string, name: string, data: Uint8Array, canRead: boolean, canWrite: boolean): void;
  lookupPath(path: string): { node: Node };
  unlink(path: string): void;
}

/** A file that is read where it lies; nothing can be written. */
export const placeOf = (source: Source): Place => ({
  size: () => source.length,
  read(at, into) {
    const bytes = source.read(at, into.length);
    into.set(bytes);
    return bytes.length;
  },
  write: () => undefined,
  cut: () => undefined,
});

/** Bytes in memory, piece by piece, so that growing copies nothing. */
export class Pieces implements Place {
  private readonly pieces: Uint8Array[] = [];
  private end = 0;
  size = () => this.end;
  cut(size: number): void {
    this.end = size;
    this.reach(size);
  }
  read(at: number, into: Uint8Array): number {
    const n = Math.max(0, Math.min(into.length, this.end - at));
    this.each(at, n, (piece, from, done, some) => into.set(piece.subarray(from, from + some), done));
    return n;
  }
  write(at: number, bytes: Uint8Array): void {
    this.end = Math.max(this.end, at + bytes.length);
    this.reach(this.end);
    this.each(at, bytes.length, (piece, from, done, some) =>
      piece.set(bytes.subarray(done, done + some), from),
    );
  }
  /** All of it, each piece given up as it is taken. */
  *taken(): Generator<Uint8Array> {
    for (let at = 0, k = 0; at < this.end; at += PIECE, k++) {
      yield this.pieces[k].subarray(0, Math.min(PIECE, this.end - at));
      this.pieces[k] = new Uint8Array(0);
    }
  }
  private reach(size: number): void {
    while (this.pieces.length * PIECE < size) this.pieces.push(new Uint8Array(PIECE));
  }
  private each(
    at: number,
    length: number,
    use: (piece: Uint8Array, from: number, done: number, some: number) => void,
  ): void {
    for (let done = 0; done < length;) {
      const from = (at + done) % PIECE;
      const some = Math.min(PIECE - from, length - done);
      use(this.pieces[Math.floor((at + done) / PIECE)], from, done, some);
      done += some;
    }
  }
}
