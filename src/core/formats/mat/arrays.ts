import { Unzlib, unzlibSync } from 'fflate';
import { badInput, damaged } from '../../errors';
import type { Source } from '../format';
import { CLASS, COMPLEX, SIZES, TYPE, padded } from './elements';

/** Numbers of an array where they stand: column by column. */
export interface Numbers {
  length: number;
  read(first: number, count: number): Float64Array;
}
export interface MatArray {
  name: string;
  dimensions: number[];
  numbers: Numbers | null;
  imaginary: Numbers | null;
  text: string | null;
  fields: Map<string, MatArray> | null;
}

const HEADER = 128;
/** A packed variable is unpacked whole: no more than so many bytes. */
const UNPACKED_MOST = 512e6;
const DEEPEST = 8;
const ELEMENTS_MOST = 100_000;

/** All variables of a file (MAT-File Format, Level 5); classes that hold no numbers, text or structure are passed over.
 *  @throws `damaged` naming the byte */
export function arraysOf(source: Source): MatArray[] {
  const wrong = (why: string) =>
    damaged(source.name, why, 'Save it anew as a MAT file of version 5, 6 or 7.');
  if (source.length < HEADER) throw wrong('It is too short for a MAT file.');
  const head = source.read(0, HEADER);
  const order = String.fromCharCode(head[126], head[127]);
  if (order !== 'IM' && order !== 'MI') throw wrong('It is no MAT file of version 5.');
  if ((order === 'IM' ? head[125] : head[124]) === 2)
    throw badInput('file', source.name, 'It is of version 7.3, which is HDF5: save it as version 7.');
  const reader = new Reader(source, order === 'IM', wrong);
  const found: MatArray[] = [];
  for (let at = HEADER, k = 0; at + 8 <= source.length && k < ELEMENTS_MOST; k++) {
    const { type, bytes, content, next } = reader.tag(at);
    if (content + bytes > source.length) throw wrong(`It ends in the middle of what begins at byte ${at}.`);
    if (type === TYPE.matrix) found.push(...reader.array(content, bytes, 0));
    else if (type === TYPE.compressed) found.push(...unpacked(source, content, bytes, order === 'IM', wrong));
    at = type === TYPE.compressed ? content + bytes : next;
  }
  return found;
}

function unpacked(
  source: Source,
  at: number,
  bytes: number,
  little: boolean,
  wrong: (why: string) => Error,
): MatArray[] {
  const packed = source.read(at, bytes);
  let content: Uint8Array;
  try {
    // How large it is stands in its own tag: looked at before all of it is unpacked.
    const size = new DataView(beginOf(packed, 8).buffer).getUint32(4, little) + 8;
    if (!(size <= UNPACKED_MOST))
      throw badInput('variable', `${Math.round(size / 1e6)} MB unpacked`, 'Save it without compression (version 6).'); // prettier-ignore
    content = unzlibSync(packed, { out: new Uint8Array(size) });
  } catch (error) {
    if ((error as { code?: unknown }).code === 'bad_input') throw error;
    throw wrong(`What is packed from byte ${at} on cannot be unpacked.`);
  }
  const inner: Source = { name: source.name, length: content.length, read: (from, count) => content.subarray(from, from + count) }; // prettier-ignore
  const reader = new Reader(inner, little, wrong);
  const { type, bytes: length, content: from } = reader.tag(0);
  return type === TYPE.matrix ? reader.array(from, Math.min(length, inner.length - from), 0) : [];
}

/** The first bytes of what is packed. */
function beginOf(packed: Uint8Array, count: number): Uint8Array {
  const out = new Uint8Array(count);
  let filled = 0;
  const stream = new Unzlib((some) => {
    out.set(some.subarray(0, Math.max(0, count - filled)), Math.min(filled, count));
    filled += some.length;
  });
  const STEP = 256;
  for (let at = 0; filled < count && at < packed.length; at += STEP)
    stream.push(packed.subarray(at, at + STEP), at + STEP >= packed.length);
  return out;
}

class Reader {
  constructor(
    private readonly source: Source,
    private readonly little: boolean,
    private readonly wrong: (why: string) => Error,
  ) {}

  private view(at: number, count: number): DataView {
    const piece = this.source.read(at, count);
    if (piece.byteLength < count) throw this.wrong(`It ends in the middle of what begins at byte ${at}.`);
    return new DataView(piece.buffer, piece.byteOffset, piece.byteLength);
  }

  /** Where the content of an element stands; small ones hold it within their tag. */
  tag(at: number): { type: number; bytes: number; content: number; next: number } {
    const view = this.view(at, 8);
    const first = view.getUint32(0, this.little);
    if (first >>> 16) {
      const bytes = first >>> 16;
      if (bytes > 4) throw this.wrong(`A small element at byte ${at} says more than it can hold.`);
      return { type: first & 0xffff, bytes, content: at + 4, next: at + 8 };
    }
    const bytes = view.getUint32(4, this.little);
    return { type: first, bytes, content: at + 8, next: at + 8 + padded(bytes) };
  }

  /** The array within an element; none for a class that is not read. */
  array(at: number, bytes: number, depth: number): MatArray[] {
    const end = at + bytes;
    if (bytes === 0) return [];
    if (depth > DEEPEST) throw this.wrong('Its structures stand within each other too deeply.');
    const flags = this.tag(at);
    const word = this.view(flags.content, 4).getUint32(0, this.little);
    const [of, complex] = [word & 0xff, (word & COMPLEX) !== 0];
    const sized = this.tag(flags.next);
    const dimensions = [...this.numbersOf(sized, end).read(0, 8)];
    if (dimensions.some((d) => !(d >= 0))) throw this.wrong(`An array at byte ${at} has no size.`);
    const named = this.tag(sized.next);
    const name = this.letters(named);
    const all = dimensions.reduce((a, b) => a * b, 1);
    const plain = { name, dimensions, numbers: null, imaginary: null, text: null, fields: null };
    if (of === CLASS.struct)
      return all === 1 ? [{ ...plain, fields: this.fields(named.next, end, depth) }] : [];
    if (of !== CLASS.char && !(of >= CLASS.double && of <= CLASS.uint64)) return [];
    if (named.next >= end) return [];
    const real = this.tag(named.next);
    const numbers = this.numbersOf(real, end);
    if (of === CLASS.char) {
      const codes = real.type === TYPE.utf8 ? null : numbers.read(0, Math.min(numbers.length, 4096));
      const text = codes ? String.fromCharCode(...codes) : new TextDecoder().decode(this.source.read(real.content, Math.min(real.bytes, 4096))); // prettier-ignore
      return [{ ...plain, text }];
    }
    if (numbers.length !== all)
      throw this.wrong(`“${name}” says ${all} numbers and holds ${numbers.length}.`);
    const imaginary = complex ? this.numbersOf(this.tag(real.next), end) : null;
    if (imaginary && imaginary.length !== all)
      throw this.wrong(`“${name}” has another number of imaginary parts.`);
    return [{ ...plain, numbers, imaginary }];
  }

  private letters({ content, bytes }: { content: number; bytes: number }): string {
    return String.fromCharCode(...this.source.read(content, Math.min(bytes, 256)));
  }

  private fields(at: number, end: number, depth: number): Map<string, MatArray> {
    const long = this.tag(at);
    const each = this.view(long.content, 4).getUint32(0, this.little);
    const names = this.tag(long.next);
    if (!(
      each > 0 &&
      names.bytes % each === 0 &&
      names.bytes <= 1 << 20 &&
      names.content + names.bytes <= end
    ))
      throw this.wrong(`A structure at byte ${at} names no fields.`);
    const text = this.source.read(names.content, names.bytes);
    const found = new Map<string, MatArray>();
    let next = names.next;
    for (let k = 0; k < names.bytes / each && next + 8 <= end; k++) {
      const name = String.fromCharCode(...text.subarray(k * each, (k + 1) * each)).split('\0')[0];
      const own = this.tag(next);
      if (own.content + own.bytes > end) throw this.wrong(`The field “${name}” is cut short.`);
      const [array] = own.type === TYPE.matrix ? this.array(own.content, own.bytes, depth + 1) : [];
      if (array) found.set(name, array);
      next = own.next;
    }
    return found;
  }

  private numbersOf(
    { type, bytes, content }: { type: number; bytes: number; content: number },
    end: number,
  ): Numbers {
    const size = SIZES[type];
    if (!size) throw this.wrong(`Numbers at byte ${content} are of a type (${type}) that is not read.`);
    if (content + bytes > end) throw this.wrong(`Numbers at byte ${content} are cut short.`);
    const { little } = this;
    const get = GETTERS[type];
    return {
      length: Math.floor(bytes / size),
      read: (first, count) => {
        const most = Math.max(0, Math.min(count, Math.floor(bytes / size) - first));
        const view = this.view(content + first * size, most * size);
        return Float64Array.from({ length: most }, (_, i) => get(view, i * size, little));
      },
    };
  }
}

const GETTERS: Record<number, (view: DataView, at: number, little: boolean) => number> = {
  1: (v, at) => v.getInt8(at),
  2: (v, at) => v.getUint8(at),
  3: (v, at, little) => v.getInt16(at, little),
  4: (v, at, little) => v.getUint16(at, little),
  5: (v, at, little) => v.getInt32(at, little),
  6: (v, at, little) => v.getUint32(at, little),
  7: (v, at, little) => v.getFloat32(at, little),
  9: (v, at, little) => v.getFloat64(at, little),
  12: (v, at, little) => Number(v.getBigInt64(at, little)),
  13: (v, at, little) => Number(v.getBigUint64(at, little)),
  16: (v, at) => v.getUint8(at),
  17: (v, at, little) => v.getUint16(at, little),
};
