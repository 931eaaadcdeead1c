import { REGISTER_TYPES, WORD_ORDERS } from '$core/registers/registers';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { sourceName, timeoutField, unitKind, type UnitKind } from './unit-kind';

export const REGISTER_TABLES = ['holding registers', 'input registers', 'coils', 'discrete inputs'] as const;
const SPEEDS = [9600, 19_200, 38_400, 57_600, 115_200] as const;
const PARITIES = ['even', 'odd', 'none'] as const;

const address = field(
  z.number('Give a number.').int('Give a whole number.').min(1, 'From 1 to 247.').max(247, 'From 1 to 247.'),
  { label: 'Station', editor: 'number', help: 'Address of the device on its line, 1 to 247.' },
);
const pollEvery = field(
  z.number('Give a number.').min(0.02, 'At least 0.02 s.').max(3600, 'At most an hour.'),
  { label: 'Asked every', editor: 'number', unit: 's' },
);

const registers: UnitKind['sources'] = {
  what: 'Register map',
  row: z.strictObject({
    id: z.string(),
    name: field(sourceName, { label: 'Name', editor: 'text' }),
    table: field(z.enum(REGISTER_TABLES), { label: 'Table', editor: 'choice', options: REGISTER_TABLES }),
    register: field(
      z.number('Give a number.').int('Give a whole number.').min(0, 'From 0.').max(65535, 'At most 65535.'),
      { label: 'Register', editor: 'number', help: 'As sent on the line, counted from 0.' },
    ),
    type: field(z.enum(REGISTER_TYPES), { label: 'Type', editor: 'choice', options: REGISTER_TYPES }),
    order: field(z.enum(WORD_ORDERS), {
      label: 'Word order',
      editor: 'choice',
      options: WORD_ORDERS,
      help: 'A wrong order shows as absurd numbers.',
    }),
    slope: field(
      z.number('Give a number.').refine((v) => v !== 0, 'Not 0.'),
      { label: 'Times', editor: 'number' },
    ),
    offset: field(z.number('Give a number.'), { label: 'Plus', editor: 'number' }),
    unit: field(z.string().max(30), { label: 'Unit', editor: 'text', none: 'no unit' }),
    use: field(z.enum(['read', 'write']), {
      label: 'Use',
      editor: 'choice',
      options: ['read', 'write'],
      help: 'A register that is written can be a driven channel.',
    }),
    timeout: field(timeoutField, { label: 'Gap after', editor: 'number', unit: 's' }),
  }),
  defaults: {
    name: 'Register 0',
    table: 'holding registers',
    register: 0,
    type: 'uint16',
    order: 'high word first',
    slope: 1,
    offset: 0,
    unit: '',
    use: 'read',
    timeout: 5,
  },
};

/** Field-bus and network units. */
export const NETWORK_KINDS: readonly UnitKind[] = [
  unitKind({
    kind: 'Modbus TCP',
    hears: 'Answers',
    title: 'Modbus TCP',
    says: 'A field-bus device on the network: its registers by a map.',
    prefix: 'MT',
    standIn: false,
    settings: {
      schema: z.strictObject({
        host: field(z.string().trim().max(200), { label: 'Host', editor: 'text', none: 'a host' }),
        tcpPort: field(z.number('Give a number.').int().min(1).max(65535), {
          label: 'Port',
          editor: 'number',
        }),
        station: address,
        pollEvery,
      }),
      template: () => 'Station {station} at {host}, port {tcpPort}, asked every {pollEvery}.',
    },
    defaults: { host: '', tcpPort: 502, station: 1, pollEvery: 0.5 },
    sources: registers,
  }),
  unitKind({
    kind: 'Modbus RTU',
    hears: 'Answers',
    title: 'Modbus RTU',
    says: 'A field-bus device on a serial line: its registers by a map.',
    prefix: 'MR',
    standIn: false,
    settings: {
      schema: z.strictObject({
        port: field(z.string().trim().max(200), {
          label: 'Port',
          editor: 'choice',
          options: { ask: 'ports', free: true },
          none: 'a port',
        }),
        baud: field(z.literal(SPEEDS), { label: 'Speed', editor: 'choice', options: SPEEDS, unit: 'bit/s' }),
        parity: field(z.enum(PARITIES), {
          label: 'Parity',
          editor: 'choice',
          options: PARITIES,
          help: 'Even unless the device’s sheet says otherwise.',
        }),
        station: address,
        pollEvery,
      }),
      template: () => 'Station {station} on {port} at {baud}, parity {parity}, asked every {pollEvery}.',
    },
    defaults: { port: '', baud: 19_200, parity: 'even', station: 1, pollEvery: 0.5 },
    sources: registers,
  }),
  unitKind({
    kind: 'MQTT topics',
    hears: 'Messages',
    title: 'MQTT topics',
    says: 'Values that others publish through an MQTT broker.',
    prefix: 'MQ',
    standIn: false,
    settings: {
      schema: z.strictObject({
        url: field(
          z
            .string()
            .trim()
            .max(300)
            .regex(/^(mqtts?:\/\/\S+)?$/, 'Write it like mqtt://host:1883.'),
          { label: 'Broker', editor: 'text', none: 'a broker', help: 'Such as mqtt://host:1883.' },
        ),
        user: field(z.string().max(80), { label: 'User', editor: 'text', none: 'nobody' }),
        password: field(z.string().max(80), { label: 'Password', editor: 'secret', none: 'none' }),
      }),
      template: () => 'Subscribed at {url}, as {user} with password {password}.',
    },
    defaults: { url: '', user: '', password: '' },
    sources: {
      what: 'Topics',
      row: z.strictObject({
        id: z.string(),
        name: field(sourceName, { label: 'Name', editor: 'text' }),
        topic: field(
          z
            .string()
            .trim()
            .min(1, 'Give the topic.')
            .max(300)
            .refine((t) => !/[#+]/.test(t), 'Name one topic, without + or #.'),
          { label: 'Topic', editor: 'text' },
        ),
        pointer: field(
          z
            .string()
            .max(200)
            .regex(/^(\/.*)?$/, 'Begin with /.'),
          {
            label: 'JSON pointer',
            editor: 'text',
            none: 'whole message',
            help: 'Such as /air/temperature; empty when the message is just a number.',
          },
        ),
        timeout: field(timeoutField, { label: 'Gap after', editor: 'number', unit: 's' }),
      }),
      defaults: { name: 'Topic', topic: 'station/value', pointer: '', timeout: 60 },
    },
  }),
];
