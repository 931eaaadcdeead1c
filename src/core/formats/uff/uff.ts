import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz, type Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { rateFromHz, type Rate } from '../../time/rate';
import { Filled } from '../filled';
import type { FormatKind } from '../format';
import { datasetsOf, type Dataset } from './dataset';

const FORMS = ['numbers as text', 'numbers in binary'] as const;
const GAPS = ['zeros', 'the last value'] as const;
const writing = z.strictObject({
  form: field(z.enum(FORMS), {
    label: 'Form',
    editor: 'choice',
    options: FORMS,
    help: 'Binary files (58b) are a fifth as large; older programs read text only.',
  }),
  gaps: field(z.enum(GAPS), {
    label: 'Gaps',
    editor: 'choice',
    options: GAPS,
    help: 'The format has no sign for a missing value: what stands where none was recorded.',
  }),
});
const reading = z.strictObject({
  unit: field(z.string().trim().min(1).max(20), {
    label: 'Unit',
    editor: 'text',
    help: 'What values are in whose function does not say it.',
  }),
});

/** Values that are written at a time: full lines of four numbers. */
const SOME = 4096;
const TIME = 17;
/** The line of the description that says what the head’s six digits cannot hold. */
const EXACT = /^Rate (\d+)\/(\d+) per second, first at (-?\d+) ns$/;

/** Universal file, dataset 58 and 58b: functions at nodal degrees of freedom, here responses over time (Universal File Datasets, number 58). A function’s
 *  head holds its step in six digits only; what is written here says the exact rate in a line of its description. */
export const uff: FormatKind<typeof writing, typeof reading> = {
  kind: 'uff',
  title: 'Universal file, dataset 58',
  extensions: ['uff', 'unv', 'ufb'],
  mediaType: 'application/octet-stream',
  cannotCarry: 'Marks, calibrations and facts stay in the take; names and units are written in ASCII, in 80 and 20 letters; gaps are filled.', // prettier-ignore
  writing: {
    complex: true,
    sentence: { schema: writing, template: () => 'With {form}; gaps are filled with {gaps}.' },
    defaults: { form: 'numbers in binary', gaps: 'zeros' },
    *write({ name, start, signals }, { form, gaps }) {
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const binary = form === 'numbers in binary';
      for (const [k, signal] of signals.entries()) {
        yield head(signal, { take: name, start, node: k + 1, binary });
        const values = new Filled(flat(signal), 0, gaps === 'the last value');
        const all = signal.length * signal.width;
        for (let at = 0; at < all; at += SOME) {
          const some = values.take(at, Math.min(SOME, all - at));
          yield binary ? bytesOf(some) : textOf(some);
        }
        yield `${binary ? '\n' : ''}    -1\n`;
      }
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'What says no unit is in {unit}.' },
    defaults: { unit: '1' },
    recognises: (source) => {
      const start = new TextDecoder('latin1').decode(source.read(0, 200));
      return /^\s*-1\s*\r?\n\s*(58b?|15|55|82|151|164|2411|2420)\b/i.test(start);
    },
    read(source, { unit }) {
      const datasets = datasetsOf(source);
      if (datasets.length === 0)
        throw badInput(
          'file',
          source.name,
          'It holds no function (dataset 58): choose a file with measured functions.',
        );
      const overTime = datasets.filter((d) => d.abscissa === TIME && d.even && d.step > 0 && d.values > 0);
      if (overTime.length === 0)
        throw badInput(
          'file',
          source.name,
          `Its ${datasets.length} functions are not responses over time at an even step: choose a file with time histories.`,
        );
      const [first] = overTime;
      return {
        name: first.ids[1] || source.name.replace(/\.[^.]*$/, ''),
        start: startOf(first.ids[2]),
        facts: [],
        signals: overTime.map((d, k) => signalOf(d, k, unit)),
      };
    },
  },
};

/** A complex signal as a real one of twice the length: in phase and in quadrature in turn. */
const flat = (signal: Sampled): Sampled =>
  signal.width === 1
    ? signal
    : {
        ...signal,
        width: 1,
        length: signal.length * 2,
        read: (first, count) => signal.read(first / 2, count / 2),
      };

const MONTHS = ['JAN', 'FEB', 'MAR', 'APR', 'MAY', 'JUN', 'JUL', 'AUG', 'SEP', 'OCT', 'NOV', 'DEC'];
const two = (n: number) => String(n).padStart(2, '0');
/** A date as the format has it: 26-NOV-26 20:31:22. */
function dateText(iso: string): string {
  const d = new Date(iso);
  return `${two(d.getUTCDate())}-${MONTHS[d.getUTCMonth()]}-${two(d.getUTCFullYear() % 100)} ${two(d.getUTCHours())}:${two(d.getUTCMinutes())}:${two(d.getUTCSeconds())}`;
}
function startOf(line: string | undefined): string | null {
  const m = /^(\d{2})-([A-Z]{3})-(\d{2}) (\d{2}):(\d{2}):(\d{2})/i.exec(line ?? '');
  const month = m ? MONTHS.indexOf(m[2].toUpperCase()) : -1;
  if (!m || month < 0) return null;
  const year = Number(m[3]) + (Number(m[3]) < 70 ? 2000 : 1900);
  const at = new Date(Date.UTC(year, month, Number(m[1]), Number(m[4]), Number(m[5]), Number(m[6])));
  return Number.isNaN(at.getTime()) ? null : at.toISOString();
}

const integer = (value: number, width: number) => String(value).padStart(width);
/** A number in so many letters, with as many digits as they hold. */
function scientific(value: number, width: number, digits: number): string {
  const [mantissa, exponent] = value.toExponential(digits).split('e');
  const sign = exponent.startsWith('-') ? '-' : '+';
  return `${mantissa}E${sign}${exponent.slice(1).padStart(2, '0')}`.padStart(width);
}
const IN_LETTERS: Record<string, string> = { 'μ': 'u', 'ε': 'e', 'Ω': 'Ohm', '°': 'deg', '√': 'sqrt', '·': '*', '–': '-', '…': '...' }; // prettier-ignore
/** Words in one line of ASCII, which is all that the format knows. */
const plain = (text: string, most: number): string =>
  [...text.normalize('NFKD')]
    .map((c) => IN_LETTERS[c] ?? (/[\x20-\x7e]/.test(c) ? c : /\p{M}/u.test(c) ? '' : '?'))
    .join('')
    .slice(0, most)
    .trim() || 'NONE';

function head(
  signal: Sampled,
  { take, start, node, binary }: { take: string; start: string | null; node: number; binary: boolean },
): string {
  const { name, unit, rate, startNs, width, length } = signal;
  // Text holds double precision, so that no digit of a sample is lost; binary holds the samples as they are.
  const type = width === 2 ? (binary ? 5 : 6) : binary ? 2 : 4;
  const axisOf = (kind: number, label: string, of: string) => `${integer(kind, 10)}${integer(0, 5).repeat(3)} ${plain(label, 20).padEnd(20)} ${plain(of, 20).padEnd(20)}`; // prettier-ignore
  const lines = [
    '    -1',
    binary
      ? `    58b${integer(1, 6)}${integer(2, 6)}${integer(11, 12)}${integer(length * width * 4, 12)}${integer(0, 6).repeat(2)}${integer(0, 12).repeat(2)}`
      : '    58',
    plain(name, 80),
    plain(take, 80),
    start ? dateText(start) : 'NONE',
    `Rate ${rate.num}/${rate.den} per second, first at ${startNs} ns`,
    'NONE',
    `${integer(1, 5)}${integer(0, 10)}${integer(node, 5)}${integer(0, 10)} ${'NONE'.padEnd(10)}${integer(node, 10)}${integer(0, 4)} ${'NONE'.padEnd(10)}${integer(0, 10)}${integer(0, 4)}`,
    `${integer(type, 10)}${integer(length, 10)}${integer(1, 10)}${scientific(startNs / 1e9, 13, 5)}${scientific(1 / rateHz(signal), 13, 5)}${scientific(0, 13, 5)}`,
    axisOf(TIME, 'Time', 's'),
    axisOf(0, name, unit),
    axisOf(0, 'NONE', 'NONE'),
    axisOf(0, 'NONE', 'NONE'),
  ];
  return lines.map((line) => `${line}\n`).join('');
}

function bytesOf(values: Float32Array): Uint8Array {
  const out = new DataView(new ArrayBuffer(values.length * 4));
  values.forEach((v, i) => out.setFloat32(i * 4, v, true));
  return new Uint8Array(out.buffer);
}
function textOf(values: Float32Array): string {
  let text = '';
  for (let i = 0; i < values.length; i++) text += scientific(values[i], 20, 12) + (i % 4 === 3 || i === values.length - 1 ? '\n' : ''); // prettier-ignore
  return text;
}

/** A rate out of a step of six digits: the whole number of samples a second that it can mean, else what it says. */
function rateOf({ step, ids }: Dataset): { rate: Rate; startNs: number | null } {
  const exact = ids.map((line) => EXACT.exec(line)).find(Boolean);
  if (exact && Number(exact[1]) > 0 && Number(exact[2]) > 0)
    return { rate: { num: Number(exact[1]), den: Number(exact[2]) }, startNs: Number(exact[3]) };
  const said = 1 / step;
  const near = Math.round(said);
  const DIGITS = 5e-6;
  return {
    rate: rateFromHz(near >= 1 && Math.abs(said - near) <= said * DIGITS ? near : said),
    startNs: null,
  };
}

function signalOf(d: Dataset, k: number, unit: string): Sampled {
  const { rate, startNs } = rateOf(d);
  return {
    id: `function-${k + 1}`,
    name: d.ids[0] || d.ordinate.label || `Node ${d.response.node || k + 1}`,
    quantity: '',
    unit: d.ordinate.unit || unit,
    rate,
    startNs: startNs ?? Math.round(d.from * 1e9),
    width: d.width,
    length: d.values,
    read: (first, count) => Float32Array.from(d.numbers(first * d.width, count * d.width)),
  };
}
