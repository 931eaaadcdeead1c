import { z } from 'zod';
import { badInput, damaged } from '../../errors';
import { rateHz, startS, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { rateFromHz } from '../../time/rate';
import type { FormatKind, Recording, Source } from '../format';
import { FileNames } from '../file-names';
import { tarEnd, tarFill, tarFiles, tarHead, type TarFile } from './tar';

/** Samples that are written at a time. */
const SOME = 1 << 15;
/** What says of itself in text, bytes at the most. */
const META_MOST = 64e6;
/** What the length of a file in an archive can be. */
const FILE_MOST = 8 * 1024 ** 3 - 1;

const writing = z.strictObject({});
const reading = z.strictObject({
  unit: field(z.string().trim().min(1).max(20), {
    label: 'Unit',
    editor: 'text',
    help: 'Of what says none.',
  }),
});

/** The part of a description that is understood (SigMF 1.2). */
const Meta = z.object({
  global: z.object({
    'core:datatype': z.string(),
    'core:sample_rate': z.number().positive().optional(),
    'core:num_channels': z.number().int().positive().max(1024).default(1),
    'core:description': z.string().optional(),
    'farrier:name': z.string().optional(),
    'farrier:unit': z.string().optional(),
    'farrier:quantity': z.string().optional(),
    'farrier:start_s': z.number().optional(),
  }),
  captures: z
    .array(
      z.object({ 'core:datetime': z.string().optional(), 'core:frequency': z.number().optional() }).loose(),
    )
    .default([]),
  annotations: z
    .array(
      z
        .object({ 'core:sample_start': z.number().int().min(0), 'core:sample_count': z.number().int().min(0).optional(), 'core:label': z.string().optional() })
        .loose(),
    )
    .default([]),
}); // prettier-ignore
type Meta = z.infer<typeof Meta>;
const GAP = 'not measured';

/** SigMF archive (Signal Metadata Format 1.2): one recording a channel, complex samples as cf32_le, real ones as rf32_le, missing ones as zeros under an annotation. */
export const sigmf: FormatKind<typeof writing, typeof reading> = {
  kind: 'sigmf',
  title: 'SigMF archive, for radio recordings',
  extensions: ['sigmf'],
  mediaType: 'application/x-tar',
  cannotCarry: 'Marks, mendings, calibrations and the raw values stay in the take; each channel is a recording of its own in the archive.', // prettier-ignore
  writing: {
    complex: true,
    sentence: { schema: writing, template: () => 'A recording for each channel, missing samples as zeros.' },
    defaults: {},
    *write(recording) {
      const { signals } = recording;
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const long = signals.find((s) => s.length * s.width * 4 > FILE_MOST);
      if (long) throw badInput('channel', `${long.name} of ${long.length} samples`, 'A file in an archive holds 8 GB: export a shorter span.'); // prettier-ignore
      const names = new FileNames();
      for (const signal of signals) {
        // Names in an archive have 100 bytes: plain letters, and short enough.
        const name = names.of(signal.name.normalize('NFKD').replace(/[^A-Za-z0-9_ .-]+/g, '').trim().slice(0, 60) || 'channel'); // prettier-ignore
        const gaps: [first: number, count: number][] = [];
        const bytes = signal.length * signal.width * 4;
        yield tarHead(`${name}.sigmf-data`, bytes);
        for (let at = 0; at < signal.length; at += SOME) yield filled(signal, at, gaps);
        yield tarFill(bytes);
        const text = new TextEncoder().encode(JSON.stringify(metaOf(recording, signal, gaps), null, 1));
        yield tarHead(`${name}.sigmf-meta`, text.length);
        yield text;
        yield tarFill(text.length);
      }
      yield tarEnd();
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'What says no unit is in {unit}.' },
    defaults: { unit: '1' },
    recognises: (source) =>
      new TextDecoder('latin1').decode(source.read(257, 5)) === 'ustar' &&
      /\.sigmf-(meta|data|collection)$/.test(new TextDecoder('latin1').decode(source.read(0, 100)).split('\0')[0]), // prettier-ignore
    read,
  },
};

/** Samples with zeros for those that are missing, which are noted as gaps. */
function filled(signal: Sampled, at: number, gaps: [number, number][]): Uint8Array {
  const { width } = signal;
  const values = signal.read(at, Math.min(SOME, signal.length - at)).slice();
  for (let i = 0; i * width < values.length; i++) {
    const own = values.subarray(i * width, (i + 1) * width);
    if (!own.some(Number.isNaN)) continue;
    own.fill(0);
    const last = gaps.at(-1);
    if (last && last[0] + last[1] === at + i) last[1]++;
    else gaps.push([at + i, 1]);
  }
  return littleEnd(values);
}
const littleEnd = (values: Float32Array): Uint8Array => {
  const out = new DataView(new ArrayBuffer(values.length * 4));
  values.forEach((v, i) => out.setFloat32(i * 4, v, true));
  return new Uint8Array(out.buffer);
};

function metaOf({ name, start }: Recording, signal: Sampled, gaps: [number, number][]) {
  const begin = start && new Date(Date.parse(start) + startS(signal) * 1000).toISOString();
  return {
    global: {
      'core:version': '1.2.0',
      'core:datatype': signal.width === 2 ? 'cf32_le' : 'rf32_le',
      'core:sample_rate': rateHz(signal),
      'core:num_channels': 1,
      'core:description': `${name}: ${signal.name}`,
      'core:extensions': [{ name: 'farrier', version: '1.0.0', optional: true }],
      'farrier:name': signal.name,
      'farrier:unit': signal.unit,
      'farrier:quantity': signal.quantity,
      'farrier:start_s': startS(signal),
    },
    captures: [{ 'core:sample_start': 0, ...(begin && { 'core:datetime': begin }) }],
    annotations: gaps.map(([first, count]) => ({
      'core:sample_start': first,
      'core:sample_count': count,
      'core:label': GAP,
    })),
  };
}

function read(source: Source, options: { unit: string }): Recording {
  const files = tarFiles(source);
  const byName = new Map(files.map((f) => [f.name, f]));
  const metas = files.filter((f) => f.name.endsWith('.sigmf-meta'));
  if (metas.length === 0)
    throw badInput(
      'file',
      source.name,
      'It holds no recording: choose an archive with .sigmf-meta and .sigmf-data.',
    );
  let start: string | null = null;
  const signals = metas.flatMap((file) => {
    const meta = metaIn(source, file);
    const data = byName.get(file.name.replace(/meta$/, 'data'));
    if (!data) throw damaged(file.name, 'Its samples are not in the archive.', 'Copy it again.');
    start ??= meta.captures[0]?.['core:datetime'] ?? null;
    return signalsIn(source, data, meta, options.unit);
  });
  const begin = start === null ? NaN : Date.parse(start);
  return {
    name: source.name.replace(/\.[^.]*$/, ''),
    start: Number.isFinite(begin) ? new Date(begin).toISOString() : null,
    facts: [],
    signals,
  };
}

function metaIn(source: Source, file: TarFile): Meta {
  if (file.length > META_MOST)
    throw badInput(
      'description',
      `${Math.round(file.length / 1e6)} MB`,
      `Descriptions up to ${META_MOST / 1e6} MB are read.`,
    );
  try {
    return Meta.parse(JSON.parse(new TextDecoder().decode(source.read(file.at, file.length))));
  } catch (error) {
    const why = error instanceof z.ZodError ? `${error.issues[0].path.join('.')}: ${error.issues[0].message}` : (error as Error).message; // prettier-ignore
    throw damaged(file.name, `The description cannot be read: ${why.slice(0, 200)}.`, 'Copy it again.');
  }
}

/** Whole numbers become shares of full scale. */
const TYPES: Record<string, { bytes: number; get: (v: DataView, at: number, little: boolean) => number }> = {
  f32: { bytes: 4, get: (v, at, little) => v.getFloat32(at, little) },
  f64: { bytes: 8, get: (v, at, little) => v.getFloat64(at, little) },
  i32: { bytes: 4, get: (v, at, little) => v.getInt32(at, little) / 2 ** 31 },
  i16: { bytes: 2, get: (v, at, little) => v.getInt16(at, little) / 2 ** 15 },
  u32: { bytes: 4, get: (v, at, little) => v.getUint32(at, little) / 2 ** 31 - 1 },
  u16: { bytes: 2, get: (v, at, little) => v.getUint16(at, little) / 2 ** 15 - 1 },
  i8: { bytes: 1, get: (v, at) => v.getInt8(at) / 2 ** 7 },
  u8: { bytes: 1, get: (v, at) => v.getUint8(at) / 2 ** 7 - 1 },
};

function signalsIn(source: Source, data: TarFile, { global: said, captures, annotations }: Meta, unit: string): Sampled[] {
  const written = /^([rc])([fiu]\d+)(?:_(le|be))?$/.exec(said['core:datatype']);
  const type = written && TYPES[written[2]];
  if (!type || (type.bytes > 1 && !written[3]))
    throw badInput('core:datatype', said['core:datatype'], `Types such as cf32_le and ri16_le are read; this one is in ${data.name}.`); // prettier-ignore
  if (said['core:sample_rate'] === undefined)
    throw badInput('core:sample_rate', 'missing', `Write it into the description of ${data.name}.`);
  const width = written[1] === 'c' ? 2 : 1;
  const channels = said['core:num_channels'];
  const frame = type.bytes * width * channels;
  const length = Math.floor(data.length / frame);
  const little = written[3] !== 'be';
  const gaps = annotations.filter((a) => a['core:label'] === GAP);
  const own = said['farrier:name'] ?? data.name.split('/').at(-1)!.replace(/\.sigmf-data$/, '');
  const facts = captures[0]?.['core:frequency'];
  return Array.from({ length: channels }, (_, c): Sampled => ({
    id: `${data.name}-${c}`,
    name: `${own}${facts === undefined ? '' : ` at ${facts / 1e6} MHz`}${channels > 1 ? ` ${c + 1}` : ''}`,
    quantity: said['farrier:quantity'] ?? '',
    unit: said['farrier:unit'] ?? unit,
    rate: rateFromHz(said['core:sample_rate']!),
    startNs: Math.round((said['farrier:start_s'] ?? 0) * 1e9),
    width,
    length,
    read(first, count) {
      const n = Math.max(0, Math.min(count, length - first));
      const bytes = source.read(data.at + first * frame, n * frame);
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
      const out = new Float32Array(n * width);
      for (let i = 0; i < n; i++)
        for (let part = 0; part < width; part++)
          out[i * width + part] = type.get(view, i * frame + (c * width + part) * type.bytes, little);
      for (const gap of gaps) {
        const from = Math.max(first, gap['core:sample_start']);
        const end = Math.min(first + n, gap['core:sample_start'] + (gap['core:sample_count'] ?? length));
        if (end > from) out.fill(NaN, (from - first) * width, (end - first) * width);
      }
      return out;
    },
  }));
} // prettier-ignore
