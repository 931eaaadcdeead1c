import { Zip, ZipDeflate, ZipPassThrough, strToU8 } from 'fflate';
import { badInput } from '../errors';
import type { Piece } from './format';

/** What a ZIP archive without the extension for large files holds, bytes. */
const BYTES_MOST = 0xffffffff;

/** Bytes of one file as they are; where the pieces begin files of their own, one ZIP archive of them (APPNOTE 6.3), made as it is taken.
 *  @throws `bad_input` beyond 4 GB */
export function* bytesOf(pieces: Generator<Piece>): Generator<Uint8Array> {
  const first = pieces.next();
  if (first.done) return;
  const asBytes = (piece: string | Uint8Array) => (typeof piece === 'string' ? strToU8(piece) : piece);
  if (typeof first.value === 'string' || first.value instanceof Uint8Array) {
    yield asBytes(first.value);
    for (const piece of pieces) {
      if (typeof piece === 'object' && 'file' in piece)
        throw new Error(`${piece.file} begins in the middle of a file without a name.`);
      yield asBytes(piece);
    }
    return;
  }
  const made: Uint8Array[] = [];
  let bytes = 0;
  const zip = new Zip((error, data) => {
    if (error) throw error;
    made.push(data);
    bytes += data.length;
  });
  let open: ZipPassThrough | ZipDeflate | null = null;
  const begin = (name: string) => {
    open?.push(new Uint8Array(0), true);
    // Text is packed; samples hardly can be.
    open = /\.(csv|tsv|json|txt|sigmf-meta)$/i.test(name)
      ? new ZipDeflate(name, { level: 6 })
      : new ZipPassThrough(name);
    zip.add(open);
  };
  begin(first.value.file);
  for (const piece of pieces) {
    if (typeof piece === 'object' && 'file' in piece) begin(piece.file);
    else open!.push(asBytes(piece));
    yield* made.splice(0);
    if (bytes > BYTES_MOST) throw badInput('archive', 'larger than 4 GB', 'Take fewer channels, or a shorter span.'); // prettier-ignore
  }
  open!.push(new Uint8Array(0), true);
  zip.end();
  yield* made.splice(0);
}

/** Whether pieces begin files of their own, by the first of them. */
export const isSeveral = (first: Piece | undefined): boolean => typeof first === 'object' && 'file' in first;

/** A generator whose first piece was looked at, with that piece. */
export function* after<T>(first: IteratorResult<T>, rest: Iterable<T>): Generator<T> {
  if (first.done) return;
  yield first.value;
  yield* rest;
}
