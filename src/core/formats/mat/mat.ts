import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, startS, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { rateFromHz } from '../../time/rate';
import type { FormatKind, Source } from '../format';
import { arraysOf, type MatArray, type Numbers } from './arrays';
import { CLASS, COMPLEX, TYPE, arrayHead, ascii, element, joined, numberArray, padded, tag, textArray } from './elements'; // prettier-ignore

/** Samples that are written at a time. */
const SOME = 1 << 15;
/** Bytes that a name of a field takes, and letters of a variable’s name at the most. */
const FIELD = 32;
const LETTERS = 63;
/** A matrix has no more columns that are taken as signals. */
const COLUMNS_MOST = 500;
/** What an element can say of its length. */
const BYTES_MOST = 0x7fffffff;

const writing = z.strictObject({});
const reading = z.strictObject({
  rate: field(z.number().positive(), {
    label: 'Sample rate',
    editor: 'number',
    unit: 'S/s',
    help: 'Of what says none: a plain vector or the columns of a matrix.',
  }),
  unit: field(z.string().trim().min(1).max(20), {
    label: 'Unit',
    editor: 'text',
    help: 'Of what says none.',
  }),
});

const FIELDS = ['name', 'unit', 'rate', 'start', 'values'] as const;

/** MAT file, version 5 (MAT-File Format, Level 5, uncompressed): a structure for each channel with its name, unit, rate in samples a second, start in seconds
 *  and values in single precision, gaps as NaN. */
export const mat: FormatKind<typeof writing, typeof reading> = {
  kind: 'mat',
  title: 'MAT file, version 5',
  extensions: ['mat'],
  mediaType: 'application/octet-stream',
  cannotCarry: 'Marks, calibrations and facts stay in the take; names of variables are made of letters, digits and _, the whole name stands within.', // prettier-ignore
  writing: {
    complex: true,
    sentence: { schema: writing, template: () => 'A structure for each channel, with all its samples.' },
    defaults: {},
    *write({ name, start, signals }) {
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const long = signals.find((s) => s.length * s.width * 4 + 4096 > BYTES_MOST);
      if (long) throw badInput('channel', `${long.name} of ${long.length} samples`, 'A variable of this format holds 2 GB: export a shorter span.'); // prettier-ignore
      yield fileHead(name, start);
      const taken = new Set<string>();
      for (const signal of signals) {
        const { before, bytes } = structHead(signal, variableName(signal.name, taken));
        yield joined(tag(TYPE.matrix, bytes), before);
        // In phase first, then in quadrature: each a block of its own.
        for (let part = 0; part < signal.width; part++) {
          yield tag(TYPE.single, signal.length * 4);
          for (let at = 0; at < signal.length; at += SOME) yield samples(signal, at, part);
          const rest = padded(signal.length * 4) - signal.length * 4;
          if (rest) yield new Uint8Array(rest);
        }
      }
    },
  },
  reading: {
    sentence: {
      schema: reading,
      template: () => 'What says no rate has {rate}, what says no unit is in {unit}.',
    },
    defaults: { rate: 1000, unit: '1' },
    recognises: (source: Source) => {
      const end = source.read(124, 4);
      const order = String.fromCharCode(end[2] ?? 0, end[3] ?? 0);
      return end.length === 4 && ((order === 'IM' && end[1] <= 2) || (order === 'MI' && end[0] <= 2));
    },
    read(source, options) {
      const signals = arraysOf(source).flatMap((array) => signalsOf(array, options));
      if (signals.length === 0)
        throw badInput(
          'file',
          source.name,
          'It holds no vector or matrix of numbers: choose a file with measured values.',
        );
      return { name: source.name.replace(/\.[^.]*$/, ''), start: null, facts: [], signals };
    },
  },
};

function fileHead(name: string, start: string | null): Uint8Array {
  const out = new Uint8Array(128).fill(32, 0, 116);
  const says = `MAT-file of level 5, made with Farrier: ${name}${start ? `, ${start}` : ''}`;
  out.set(ascii(says.replace(/[^\x20-\x7e]/g, '?').slice(0, 116)));
  out.set([0x00, 0x01, 0x49, 0x4d], 124); // version 1, little end first
  return out;
}

/** A name that such programs take for a variable, and no other has. */
export function variableName(name: string, taken: Set<string>): string {
  const plain = name.normalize('NFKD').replace(/[^A-Za-z0-9_]+/g, '_').replace(/^_+|_+$/g, ''); // prettier-ignore
  const base = (/^[A-Za-z]/.test(plain) ? plain : `x_${plain}`).slice(0, LETTERS);
  for (let n = 1; ; n++) {
    const end = n === 1 ? '' : `_${n}`;
    const next = base.slice(0, LETTERS - end.length) + end;
    if (taken.has(next.toLowerCase())) continue;
    taken.add(next.toLowerCase());
    return next;
  }
}

/** Everything of a channel’s structure up to its samples, and how many bytes the whole takes. */
function structHead(signal: Sampled, name: string): { before: Uint8Array; bytes: number } {
  const { length, width } = signal;
  const names = new Uint8Array(FIELD * FIELDS.length);
  FIELDS.forEach((f, k) => names.set(ascii(f), k * FIELD));
  const valuesHead = arrayHead(CLASS.single | (width === 2 ? COMPLEX : 0), [length, 1], '');
  const valuesBytes = valuesHead.length + width * (8 + padded(length * 4));
  const before = joined(
    arrayHead(CLASS.struct, [1, 1], name),
    element(TYPE.int32, Uint8Array.of(FIELD, 0, 0, 0)),
    element(TYPE.int8, names),
    textArray(signal.name),
    textArray(signal.unit),
    numberArray([rateHz(signal)]),
    numberArray([startS(signal)]),
    tag(TYPE.matrix, valuesBytes),
    valuesHead,
  );
  return { before, bytes: before.length + valuesBytes - valuesHead.length };
}

function samples(signal: Sampled, at: number, part: number): Uint8Array {
  const { width, length } = signal;
  const values = signal.read(at, Math.min(SOME, length - at));
  const out = new DataView(new ArrayBuffer((values.length / width) * 4));
  for (let i = 0; i * width < values.length; i++) out.setFloat32(i * 4, values[i * width + part], true);
  return new Uint8Array(out.buffer);
}

interface Said {
  name: string;
  unit: string;
  hz: number;
  startS: number;
}

function signalsOf(array: MatArray, options: { rate: number; unit: string }): Sampled[] {
  const { fields, name } = array;
  if (fields) {
    const values = fields.get('values');
    const number = (key: string, usual: number) => {
      const held = fields.get(key)?.numbers?.read(0, 1)[0];
      return held !== undefined && Number.isFinite(held) ? held : usual;
    };
    const rate = number('rate', options.rate);
    if (!values) return [...fields].flatMap(([field, inner]) => signalsOf({ ...inner, name: `${name}.${field}` }, options)); // prettier-ignore
    const said = { name: fields.get('name')?.text || name, unit: fields.get('unit')?.text || options.unit, hz: rate > 0 ? rate : options.rate, startS: number('start', 0) }; // prettier-ignore
    return columnsOf(values, said);
  }
  return columnsOf(array, { name, unit: options.unit, hz: options.rate, startS: 0 });
}

/** A vector is one signal, a matrix one a column; single numbers are none. */
function columnsOf({ numbers, imaginary, dimensions }: MatArray, said: Said): Sampled[] {
  if (!numbers || numbers.length < 2 || dimensions.length > 2) return [];
  const [rows, columns] = dimensions[0] === 1 ? [dimensions[1], 1] : [dimensions[0], dimensions[1] ?? 1];
  if (columns > COLUMNS_MOST)
    throw badInput('variable', `${said.name} with ${columns} columns`, `At most ${COLUMNS_MOST} are read: save signals in columns.`); // prettier-ignore
  return Array.from({ length: columns }, (_, k): Sampled => ({
    id: `${said.name}-${k}`,
    name: columns > 1 ? `${said.name} ${k + 1}` : said.name,
    quantity: '',
    unit: said.unit,
    rate: rateFromHz(said.hz),
    startNs: Math.round(said.startS * 1e9),
    width: imaginary ? 2 : 1,
    length: rows,
    read: (first, count) => valuesOf(numbers, imaginary, k * rows + first, Math.min(count, rows - first)),
  }));
}
function valuesOf(real: Numbers, imaginary: Numbers | null, first: number, count: number): Float32Array {
  const own = real.read(first, count);
  if (!imaginary) return Float32Array.from(own);
  const beside = imaginary.read(first, count);
  return Float32Array.from({ length: own.length * 2 }, (_, i) => (i % 2 ? beside : own)[i >> 1]);
}
