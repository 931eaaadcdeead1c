import { z } from 'zod';
import { badInput, damaged } from '../../errors';
import { rateHz, sampledOf, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Filled } from '../filled';
import type { FormatKind, Source } from '../format';

const SIGNALS_MOST = 65_535;
/** Frames that are written at a time. */
const FRAMES = 16_384;
const HEADER = 80;

const writing = z.strictObject({
  gaps: field(z.enum(['silence', 'the last value']), {
    label: 'Gaps',
    editor: 'choice',
    options: ['silence', 'the last value'],
    help: 'A WAV file has a value for every sample: what stands where none was recorded.',
  }),
});
const reading = z.strictObject({
  scale: field(z.number().positive(), {
    label: 'Full scale',
    editor: 'number',
    help: 'Value of the largest number in the file; 1 keeps what is written.',
  }),
  unit: field(z.string().trim().min(1).max(20), {
    label: 'Unit',
    editor: 'text',
    help: 'What the values are in; a WAV file does not say.',
  }),
});

/** Waveform audio (RIFF, and RF64 by EBU Tech 3306 beyond 4 GB): linear PCM of 8 to 32 bits or IEEE float in, 32-bit float out. */
export const wav: FormatKind<typeof writing, typeof reading> = {
  kind: 'wav',
  title: 'WAV, all samples',
  extensions: ['wav'],
  mediaType: 'audio/wav',
  cannotCarry:
    'Names, units, marks, calibrations and the time of day stay in the take; all channels have one rate, gaps are filled.',
  writing: {
    sentence: { schema: writing, template: () => 'Gaps are filled with {gaps}.' },
    defaults: { gaps: 'silence' },
    *write({ signals }, { gaps }) {
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      if (signals.length > SIGNALS_MOST)
        throw badInput('channels', signals.length, `Choose up to ${SIGNALS_MOST}.`);
      const rates = [...new Set(signals.map(rateHz))];
      const [rate] = rates;
      if (rates.length > 1 || !Number.isInteger(rate) || rate > 0xffffffff)
        throw badInput(
          'channels',
          `sampled at ${rates.map((r) => Number(r.toPrecision(6))).join(', ')} S/s`,
          'A WAV file has one rate, in whole samples a second: choose channels of one.',
        );
      const begin = Math.min(...signals.map((s) => s.startNs));
      const offsets = signals.map((s) => Math.round(((s.startNs - begin) / 1e9) * rate));
      const frames = Math.max(...signals.map((s, k) => offsets[k] + s.length));
      yield header(signals.length, rate, frames);
      const columns = signals.map((s, k) => new Filled(s, offsets[k], gaps === 'the last value'));
      for (let at = 0; at < frames; at += FRAMES) {
        const n = Math.min(FRAMES, frames - at);
        const out = new DataView(new ArrayBuffer(n * signals.length * 4));
        columns.forEach((column, k) => {
          const values = column.take(at, n);
          for (let i = 0; i < n; i++) out.setFloat32((i * signals.length + k) * 4, values[i], true);
        });
        yield new Uint8Array(out.buffer);
      }
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'Full scale is {scale} {unit}.' },
    defaults: { scale: 1, unit: '1' },
    recognises: (source) => {
      const start = ascii(source.read(0, 12));
      return /^(RIFF|RF64)....WAVE$/s.test(start);
    },
    read(source, { scale, unit }) {
      const { format, data } = chunksOf(source);
      const { channels, rate, bits, float } = format;
      const bytes = bits / 8;
      const frame = channels * bytes;
      const length = Math.floor(data.length / frame);
      const number = decoder(bits, float);
      const signals = Array.from({ length: channels }, (_, k): Sampled => ({
        ...sampledOf(
          {
            id: `track-${k + 1}`,
            name: `Track ${k + 1}`,
            quantity: '',
            unit,
            rate: { num: rate, den: 1 },
            startNs: 0,
            width: 1,
          },
          new Float32Array(0),
        ),
        length,
        read(first, count) {
          const piece = source.read(data.at + first * frame, count * frame);
          const view = new DataView(piece.buffer, piece.byteOffset, piece.byteLength);
          return Float32Array.from({ length: count }, (_, i) => scale * number(view, i * frame + k * bytes));
        },
      }));
      return { name: source.name.replace(/\.[^.]*$/, ''), start: null, facts: [], signals };
    },
  },
};

/** The file up to its samples: with sizes of 64 bits where 32 do not hold them. */
function header(channels: number, rate: number, frames: number): Uint8Array {
  const data = frames * channels * 4;
  const large = data + HEADER > 0xffffffff;
  const bytes = new Uint8Array(HEADER);
  const view = new DataView(bytes.buffer);
  const text = (at: number, says: string) =>
    bytes.set(
      [...says].map((c) => c.charCodeAt(0)),
      at,
    );
  const size = (value: number) => (large ? 0xffffffff : value);
  text(0, large ? 'RF64' : 'RIFF');
  view.setUint32(4, size(HEADER - 8 + data), true);
  text(8, 'WAVE');
  // Room that is a chunk to be skipped in a small file, and holds the long sizes in a large one.
  text(12, large ? 'ds64' : 'JUNK');
  view.setUint32(16, 28, true);
  if (large) {
    view.setBigUint64(20, BigInt(HEADER - 8 + data), true);
    view.setBigUint64(28, BigInt(data), true);
    view.setBigUint64(36, BigInt(frames), true);
  }
  text(48, 'fmt ');
  view.setUint32(52, 16, true);
  view.setUint16(56, 3, true); // IEEE float
  view.setUint16(58, channels, true);
  view.setUint32(60, rate, true);
  view.setUint32(64, rate * channels * 4, true);
  view.setUint16(68, channels * 4, true);
  view.setUint16(70, 32, true);
  text(72, 'data');
  view.setUint32(76, size(data), true);
  return bytes;
}

interface Format {
  channels: number;
  rate: number;
  bits: number;
  float: boolean;
}
const PCM = 1;
const FLOAT = 3;
const EXTENSIBLE = 0xfffe;
/** Chunks before the samples: more than any real file has. */
const CHUNKS_MOST = 1000;

/** Finds the format and the samples. @throws `damaged` saying what is missing */
function chunksOf(source: Source): { format: Format; data: { at: number; length: number } } {
  const wrong = (why: string) => damaged(source.name, why, 'Export it anew as PCM or float WAV.');
  if (!/^(RIFF|RF64)....WAVE$/s.test(ascii(source.read(0, 12)))) throw wrong('It is no WAV file.');
  let format: Format | null = null;
  let long = NaN;
  let at = 12;
  for (let k = 0; k < CHUNKS_MOST && at + 8 <= source.length; k++) {
    const head = source.read(at, 8);
    const name = ascii(head.subarray(0, 4));
    const size = viewOf(head).getUint32(4, true);
    if (name === 'ds64' && size >= 24) long = Number(viewOf(source.read(at + 8, 24)).getBigUint64(8, true));
    if (name === 'fmt ') format = formatOf(source.read(at + 8, Math.min(size, 40)), wrong);
    if (name === 'data') {
      if (!format) throw wrong('Its samples come before their format.');
      const length = size === 0xffffffff && !Number.isNaN(long) ? long : size;
      // A recorder that lost its power has left a file that is shorter, or longer, than it says.
      const there = source.length - at - 8;
      return { format, data: { at: at + 8, length: length === 0 ? there : Math.min(length, there) } };
    }
    at += 8 + size + (size % 2);
  }
  throw wrong(format ? 'It holds no samples.' : 'It does not say what its samples are.');
}

function formatOf(chunk: Uint8Array, wrong: (why: string) => Error): Format {
  if (chunk.length < 16) throw wrong('Its format is cut short.');
  const view = viewOf(chunk);
  const tag = view.getUint16(0, true);
  const code = tag === EXTENSIBLE && chunk.length >= 26 ? view.getUint16(24, true) : tag;
  const [channels, rate, bits] = [view.getUint16(2, true), view.getUint32(4, true), view.getUint16(14, true)];
  const float = code === FLOAT;
  if (code !== PCM && !float) throw wrong(`Its samples are packed in a way (${code}) that is not read.`);
  if (!(float ? [32, 64] : [8, 16, 24, 32]).includes(bits))
    throw wrong(`Samples of ${bits} bits are not read.`);
  if (channels < 1 || rate < 1) throw wrong('It has no channels or no rate.');
  return { channels, rate, bits, float };
}

/** Reads one number: integers as shares of full scale. */
function decoder(bits: number, float: boolean): (view: DataView, at: number) => number {
  if (float) return bits === 64 ? (v, at) => v.getFloat64(at, true) : (v, at) => v.getFloat32(at, true);
  switch (bits) {
    case 8:
      return (v, at) => (v.getUint8(at) - 128) / 128;
    case 16:
      return (v, at) => v.getInt16(at, true) / 32_768;
    case 24:
      return (v, at) => (v.getUint16(at, true) + v.getInt8(at + 2) * 65_536) / 8_388_608;
    default:
      return (v, at) => v.getInt32(at, true) / 2_147_483_648;
  }
}

const viewOf = (bytes: Uint8Array) => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
const ascii = (bytes: Uint8Array) => String.fromCharCode(...bytes);
