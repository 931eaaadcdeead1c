import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { unitKind, type UnitKind } from './unit-kind';

const BITRATES = [125_000, 250_000, 500_000, 1_000_000] as const;
const BAUDS = [9600, 19_200] as const;

/** A log of frames, as the usual recorders write it. */
const CANDUMP: UnitKind['plays'] = {
  endings: ['log'],
  check: async (content) =>
    void (await import('$core/can/candump')).readCandump(new TextDecoder().decode(content)),
};

/** Buses whose messages a description file explains. Every signal of the file is a terminal. */
export const BUS_KINDS: readonly UnitKind[] = [
  unitKind({
    kind: 'CAN bus',
    title: 'CAN bus',
    says: 'The rotor’s pitch drive on a stand-in bus, or a recorded log played again; signals by a DBC database.',
    prefix: 'CB',
    standIn: true,
    settings: {
      schema: z.strictObject({
        bitRate: field(z.literal(BITRATES), {
          label: 'Bit rate',
          editor: 'choice',
          options: BITRATES,
          unit: 'bit/s',
          help: 'Has to be the one of the bus: another rate disturbs it.',
        }),
        listenOnly: field(z.enum(['listen only', 'listen and send']), {
          label: 'Part in the bus',
          editor: 'choice',
          options: ['listen only', 'listen and send'],
          help: 'Listening only can disturb nobody. Sending is needed for driven channels.',
        }),
      }),
      template: () => 'A bus at {bitRate}; Farrier may {listenOnly}.',
    },
    defaults: { bitRate: 500_000, listenOnly: 'listen and send' },
    database: {
      what: 'CAN database',
      ending: '.dbc',
      entries: async (text, name) => (await import('$core/can/dbc')).readDbc(text, name).length,
      own: async () => ({
        name: 'pitch-drive.dbc',
        text: (await import('./stand-in-databases')).PITCH_DATABASE,
      }),
    },
    plays: CANDUMP,
  }),
  unitKind({
    kind: 'LIN bus',
    title: 'LIN bus',
    says: 'The seal and lubrication nodes on a stand-in bus; signals by an LDF description.',
    prefix: 'LB',
    standIn: true,
    settings: {
      schema: z.strictObject({
        baud: field(z.literal(BAUDS), { label: 'Speed', editor: 'choice', options: BAUDS, unit: 'bit/s' }),
      }),
      template: () => 'A LIN bus at {baud}, listened to.',
    },
    defaults: { baud: 19_200 },
    database: {
      what: 'LIN description',
      ending: '.ldf',
      entries: async (text, name) => (await import('$core/lin/ldf')).readLdf(text, name).length,
      own: async () => ({ name: 'seal.ldf', text: (await import('./stand-in-databases')).SEAL_DESCRIPTION }),
    },
    plays: CANDUMP,
  }),
];
