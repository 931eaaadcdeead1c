import { z } from 'zod';
import { badInput, damaged } from '../../errors';
import { sampledOf, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import type { FormatKind, Source } from '../format';

const SOME = 1 << 14;
/** A file is read whole, bytes. */
const BYTES_MOST = 256e6;

const writing = z.strictObject({
  digits: field(z.number().int().min(3).max(9), {
    label: 'Digits',
    editor: 'number',
    help: 'Significant digits of each value; 9 keep a 32-bit sample to its last bit.',
  }),
});
const reading = z.strictObject({});

/** What a file holds; `docs/formats.md` describes it. */
const File = z.object({
  format: z.literal('farrier-recording'),
  version: z.literal(1),
  name: z.string().max(400),
  start: z.iso.datetime({ offset: true }).nullable().default(null),
  facts: z.record(z.string().max(200), z.string().max(4000)).default({}),
  signals: z
    .array(
      z.object({
        name: z.string().min(1).max(400),
        unit: z.string().max(40).default('1'),
        quantity: z.string().max(80).default(''),
        rate: z.object({ num: z.number().int().positive(), den: z.number().int().positive() }),
        startNs: z.number().min(-1e18).max(1e18).default(0),
        width: z.union([z.literal(1), z.literal(2)]).default(1),
        values: z.array(z.number().nullable()),
      }),
    )
    .min(1)
    .max(10_000),
});

/** JSON (RFC 8259) of our own layout: each signal with its exact rate, first instant in ns and all values; null where a sample is missing. */
export const json: FormatKind<typeof writing, typeof reading> = {
  kind: 'json',
  title: 'JSON, all samples',
  extensions: ['json'],
  mediaType: 'application/json',
  cannotCarry: 'Marks, mendings and the raw values stay in the take; a file is read whole, up to 256 MB.',
  writing: {
    complex: true,
    sentence: { schema: writing, template: () => 'All samples to {digits} digits.' },
    defaults: { digits: 9 },
    *write({ name, start, facts, signals, about }, { digits }) {
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const head = { format: 'farrier-recording', version: 1, name, start, facts: Object.fromEntries(facts) };
      yield `${JSON.stringify(head).slice(0, -1)},"signals":[`;
      for (const [k, signal] of signals.entries()) {
        const { name, unit, quantity, rate, startNs, width, id } = signal;
        const more = about?.get(id);
        const own = { name, unit, quantity, rate, startNs, width, ...(more?.length && { about: Object.fromEntries(more) }) }; // prettier-ignore
        yield `${k ? ',' : ''}\n${JSON.stringify(own).slice(0, -1)},"values":[`;
        for (let at = 0; at < signal.length; at += SOME) {
          const values = signal.read(at, Math.min(SOME, signal.length - at));
          let text = '';
          for (let i = 0; i < values.length; i++)
            text += (at + i ? ',' : '') + (Number.isFinite(values[i]) ? Number(values[i].toPrecision(digits)) : 'null'); // prettier-ignore
          yield text;
        }
        yield ']}';
      }
      yield '\n]}\n';
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'All is in the file.' },
    defaults: {},
    recognises: (source) => /^\s*\{\s*"format"\s*:\s*"farrier-recording"/.test(textOf(source.read(0, 200))),
    read(source) {
      const { name, start, facts, signals } = parsed(source);
      return {
        name,
        start: start && new Date(start).toISOString(),
        facts: Object.entries(facts),
        signals: signals.map(({ values, ...head }, k): Sampled => {
          const whole = values.slice(0, values.length - (values.length % head.width));
          return sampledOf(
            { ...head, id: `signal-${k + 1}` },
            Float32Array.from(whole, (v) => v ?? NaN),
          );
        }),
      };
    },
  },
};

const textOf = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

/** @throws `bad_input` for what is too large or of another layout, `damaged` for what is no JSON */
function parsed(source: Source): z.infer<typeof File> {
  if (source.length > BYTES_MOST)
    throw badInput('file', `${Math.round(source.length / 1e6)} MB of JSON`, 'Up to 256 MB are read: take fewer channels, or another format.'); // prettier-ignore
  let held: unknown;
  try {
    held = JSON.parse(textOf(source.read(0, source.length)));
  } catch (error) {
    throw damaged(source.name, `It is no JSON: ${(error as Error).message.slice(0, 200)}`, 'Copy it again.');
  }
  const file = File.safeParse(held);
  if (file.success) return file.data;
  const { path, message } = file.error.issues[0];
  throw badInput(path.join('.') || 'file', source.name, `${message} The layout is described under Formats in the documentation.`); // prettier-ignore
}
