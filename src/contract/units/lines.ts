import { SPLITS } from '$core/lines/split';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { sourceName, timeoutField, unitKind, type UnitKind } from './unit-kind';

const SPEEDS = [1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200, 230_400, 460_800, 921_600] as const;
const FRAMES = ['8N1', '8E1', '8O1', '7E1', '7O1', '8N2'] as const;
const ENDS = ['LF', 'CR', 'CR LF', ';'] as const;
/** Characters that end a line. */
export const LINE_ENDS: Record<(typeof ENDS)[number], string> = {
  LF: '\n',
  CR: '\r',
  'CR LF': '\r\n',
  ';': ';',
};

const split = {
  lineEnd: field(z.enum(ENDS), { label: 'Lines end with', editor: 'choice', options: ENDS }),
  how: field(z.enum(SPLITS), { label: 'Taken apart', editor: 'choice', options: SPLITS }),
  separator: field(z.string().min(1, 'Give the sign between fields.').max(8), {
    label: 'Separator',
    editor: 'text',
    help: 'A blank stands for any run of blanks.',
  }),
  prefix: field(z.string().max(80), {
    label: 'Prefix',
    editor: 'text',
    none: 'no prefix',
    help: 'Lines that begin otherwise are passed over.',
  }),
};
const SPLIT_SAYS = 'Lines end with {lineEnd} and are taken apart {how}';
const splitSays = (how: unknown) =>
  how === 'as JSON'
    ? `${SPLIT_SAYS}.`
    : `${SPLIT_SAYS}, with {separator} between fields${how === 'after a prefix' ? ', behind {prefix}' : ''}.`;
const SPLIT_DEFAULTS = { lineEnd: 'LF', how: 'by a separator', separator: ',', prefix: '' };

const fields: UnitKind['sources'] = {
  what: 'Fields of a line',
  row: z.strictObject({
    id: z.string(),
    name: field(sourceName, { label: 'Name', editor: 'text' }),
    field: field(z.string().min(1, 'Say which field.').max(200), {
      label: 'Field',
      editor: 'text',
      help: 'Its place from 1 on, its key, or its JSON pointer.',
    }),
    timeout: field(timeoutField, {
      label: 'Gap after',
      editor: 'number',
      unit: 's',
      help: 'When nothing has arrived for so long the value is missing.',
    }),
  }),
  defaults: { name: 'Field 1', field: '1', timeout: 5 },
};

/** Units that print lines of text. */
export const LINE_KINDS: readonly UnitKind[] = [
  unitKind({
    kind: 'serial line',
    hears: 'Lines',
    title: 'Serial line',
    says: 'A board or instrument that prints its numbers as lines on a serial port.',
    prefix: 'SL',
    standIn: false,
    settings: {
      schema: z.strictObject({
        port: field(z.string().trim().max(200), {
          label: 'Port',
          editor: 'choice',
          options: { ask: 'ports', free: true },
          none: 'a port',
          help: 'As the system names it; those plugged in now are offered.',
        }),
        baud: field(z.literal(SPEEDS), {
          label: 'Speed',
          editor: 'choice',
          options: SPEEDS,
          unit: 'bit/s',
          help: 'A wrong speed shows as unreadable lines.',
        }),
        frame: field(z.enum(FRAMES), {
          label: 'Framing',
          editor: 'choice',
          options: FRAMES,
          help: 'Data bits, parity, stop bits.',
        }),
        ...split,
      }),
      template: (s) => `Listens on {port} at {baud}, {frame}. ${splitSays(s.how)}`,
    },
    defaults: { port: '', baud: 115_200, frame: '8N1', ...SPLIT_DEFAULTS },
    sources: fields,
  }),
  unitKind({
    kind: 'network line',
    hears: 'Lines',
    title: 'Network line',
    says: 'A device that prints its numbers as lines on a TCP connection.',
    prefix: 'NL',
    standIn: false,
    settings: {
      schema: z.strictObject({
        host: field(z.string().trim().max(200), { label: 'Host', editor: 'text', none: 'a host' }),
        tcpPort: field(z.number('Give a number.').int('Give a whole number.').min(1).max(65535), {
          label: 'Port',
          editor: 'number',
        }),
        ...split,
      }),
      template: (s) => `Listens to {host}, port {tcpPort}. ${splitSays(s.how)}`,
    },
    defaults: { host: '', tcpPort: 4001, ...SPLIT_DEFAULTS },
    sources: fields,
  }),
];
