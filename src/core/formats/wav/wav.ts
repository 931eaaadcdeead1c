import { z } from 'zod';
import { badInput, damaged } from '../../errors';
import { rateHz, sampledOf, startS, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { Filled } from '../filled';
import type { FormatKind, Source } from '../format';
import { FileNames } from '../file-names';

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
  numbers: field(z.enum(['32-bit float', '16 bit', '24 bit', '32 bit']), {
    label: 'Numbers',
    editor: 'choice',
    options: ['32-bit float', '16 bit', '24 bit', '32 bit'],
    help: 'Float keeps values in their unit; whole numbers are shares of the largest value of each channel.',
  }),
  beside: field(z.enum(['nothing', 'a description']), {
    label: 'Beside it',
    editor: 'choice',
    options: ['nothing', 'a description'],
    help: 'Names, units and full scales as JSON in a file of its own; both come in an archive.',
  }),
});
type Options = z.infer<typeof writing>;
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

/** Waveform audio (RIFF, and RF64 by EBU Tech 3306 beyond 4 GB): linear PCM of 8 to 32 bits or IEEE float in, 16 to 32 bits or
 *  32-bit float out. A chunk “frin” behind the samples says in JSON what each track is; other programs pass it over. */
export const wav: FormatKind<typeof writing, typeof reading> = {
  kind: 'wav',
  title: 'WAV, all samples',
  extensions: ['wav'],
  mediaType: 'audio/wav',
  cannotCarry:
    'Marks, calibrations and the time of day stay in the take; all channels have one rate, gaps are filled; other programs see neither names nor units.',
  writing: {
    sentence: {
      schema: writing,
      template: () => 'As {numbers}, gaps filled with {gaps}, beside it {beside}.',
    },
    defaults: { gaps: 'silence', numbers: '32-bit float', beside: 'nothing' },
    *write({ signals, name }, options) {
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
      const float = options.numbers === '32-bit float';
      const bits = float ? 32 : Number(options.numbers.slice(0, 2));
      const scales = signals.map((s) => (float ? 1 : largest(s)));
      // The largest value is the largest whole number, which is a little less than full scale.
      const full = float ? 1 : 2 ** (bits - 1) / (2 ** (bits - 1) - 1);
      const tracks = signals.map((s, k): Track => ({ name: s.name, unit: s.unit, scale: scales[k] * full }));
      const described = JSON.stringify({ tracks, startS: Math.min(...signals.map(startS)) });
      if (options.beside === 'a description') {
        const plain = new FileNames().of(name);
        yield { file: `${plain}.json` };
        yield described;
        yield { file: `${plain}.wav` };
      }
      const text = new TextEncoder().encode(described);
      yield* samples(signals, { rate, bits, float, behind: 8 + text.length + (text.length % 2) }, scales, options.gaps); // prettier-ignore
      yield chunkHead('frin', text.length);
      yield text;
      if (text.length % 2) yield new Uint8Array(1);
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
      const tracks = tracksIn(source, data.at + data.length + (data.length % 2));
      const signals = Array.from({ length: channels }, (_, k): Sampled => ({
        ...sampledOf(
          {
            id: `track-${k + 1}`,
            name: tracks[k]?.name ?? `Track ${k + 1}`,
            quantity: '',
            unit: tracks[k]?.unit ?? unit,
            rate: { num: rate, den: 1 },
            startNs: 0,
            width: 1,
          },
          new Float32Array(0),
        ),
        length,
        read(first, count) {
          const n = Math.max(0, Math.min(count, length - first));
          const view = viewOf(source.read(data.at + first * frame, n * frame));
          const own = tracks[k]?.scale ?? scale;
          return Float32Array.from({ length: n }, (_, i) => own * number(view, i * frame + k * bytes));
        },
      }));
      return { name: source.name.replace(/\.[^.]*$/, ''), start: null, facts: [], signals };
    },
  },
};

/** Value that is full scale: the largest that there is. */
function largest(signal: Sampled): number {
  let most = 0;
  for (let at = 0; at < signal.length; at += FRAMES)
    for (const v of signal.read(at, Math.min(FRAMES, signal.length - at)))
      if (Math.abs(v) > most && Number.isFinite(v)) most = Math.abs(v);
  return most || 1;
}

/** How samples are written. @param behind bytes that follow them */
interface Layout {
  rate: number;
  bits: number;
  float: boolean;
  behind: number;
}

/** The header and all frames. */
function* samples(
  signals: Sampled[],
  layout: Layout,
  scales: number[],
  gaps: Options['gaps'],
): Generator<Uint8Array> {
  const { rate, bits, float } = layout;
  const begin = Math.min(...signals.map((s) => s.startNs));
  const offsets = signals.map((s) => Math.round(((s.startNs - begin) / 1e9) * rate));
  const frames = Math.max(...signals.map((s, k) => offsets[k] + s.length));
  yield header(signals.length, frames, layout);
  const columns = signals.map((s, k) => new Filled(s, offsets[k], gaps === 'the last value'));
  const bytes = bits / 8;
  const full = 2 ** (bits - 1);
  for (let at = 0; at < frames; at += FRAMES) {
    const n = Math.min(FRAMES, frames - at);
    const out = new DataView(new ArrayBuffer(n * signals.length * bytes));
    columns.forEach((column, k) => {
      const values = column.take(at, n);
      for (let i = 0; i < n; i++) {
        const place = (i * signals.length + k) * bytes;
        if (float) out.setFloat32(place, values[i], true);
        else {
          const whole = Math.max(-full, Math.min(full - 1, Math.round((values[i] / scales[k]) * (full - 1))));
          if (bits === 16) out.setInt16(place, whole, true);
          else if (bits === 32) out.setInt32(place, whole, true);
          else {
            out.setInt8(place + 2, whole >> 16);
            out.setUint16(place, whole & 0xffff, true);
          }
        }
      }
    });
    yield new Uint8Array(out.buffer);
  }
  if ((frames * signals.length * bytes) % 2) yield new Uint8Array(1);
}

/** What a track is, as the chunk behind the samples says. */
interface Track {
  name: string;
  unit: string;
  scale: number;
}
const Described = z.object({
  tracks: z.array(z.object({ name: z.string().max(400), unit: z.string().max(40), scale: z.number().positive() })).max(SIGNALS_MOST), // prettier-ignore
});

/** Tracks by our chunk behind the samples; none where there is no such chunk. */
function tracksIn(source: Source, at: number): Track[] {
  const head = source.read(at, 8);
  if (head.length < 8 || ascii(head.subarray(0, 4)) !== 'frin') return [];
  const length = Math.min(viewOf(head).getUint32(4, true), 4e6);
  try {
    const { tracks } = Described.parse(JSON.parse(new TextDecoder().decode(source.read(at + 8, length))));
    return tracks;
  } catch {
    return [];
  }
}

function chunkHead(name: string, length: number): Uint8Array {
  const out = new Uint8Array(8);
  out.set([...name].map((c) => c.charCodeAt(0)));
  viewOf(out).setUint32(4, length, true);
  return out;
}

/** The file up to its samples: with sizes of 64 bits where 32 do not hold them. */
function header(channels: number, frames: number, { rate, bits, float, behind }: Layout): Uint8Array {
  const data = frames * channels * (bits / 8);
  const all = HEADER - 8 + data + (data % 2) + behind;
  const large = all > 0xffffffff - 8;
  const bytes = new Uint8Array(HEADER);
  const view = new DataView(bytes.buffer);
  const text = (at: number, says: string) =>
    bytes.set(
      [...says].map((c) => c.charCodeAt(0)),
      at,
    );
  const size = (value: number) => (large ? 0xffffffff : value);
  text(0, large ? 'RF64' : 'RIFF');
  view.setUint32(4, size(all), true);
  text(8, 'WAVE');
  // Room that is a chunk to be skipped in a small file, and holds the long sizes in a large one.
  text(12, large ? 'ds64' : 'JUNK');
  view.setUint32(16, 28, true);
  if (large) {
    view.setBigUint64(20, BigInt(all), true);
    view.setBigUint64(28, BigInt(data), true);
    view.setBigUint64(36, BigInt(frames), true);
  }
  text(48, 'fmt ');
  view.setUint32(52, 16, true);
  view.setUint16(56, float ? 3 : 1, true); // IEEE float, or whole numbers
  view.setUint16(58, channels, true);
  view.setUint32(60, rate, true);
  view.setUint32(64, rate * channels * (bits / 8), true);
  view.setUint16(68, channels * (bits / 8), true);
  view.setUint16(70, bits, true);
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
