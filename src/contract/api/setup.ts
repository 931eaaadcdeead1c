import { z } from 'zod';
import type { Channel } from '../channel';
import { ImportChoice, type ImportPreview } from '../setup-file';
import { ScaleLaw, type Scale } from '../scale';
import type { SheetDifference } from '../sensor';
import { Id, Says, Settings, endpoints, flag, nothing, told } from './endpoint';

const Wire = z.strictObject({ unit: z.string().max(60), terminal: z.string().max(120) });
const NewChannel = z.strictObject({
  name: z.string().max(200),
  kind: z.string().max(40),
  group: z.string().max(60).optional(),
  sensorSerial: z.string().max(60).optional(),
  wire: Wire.nullable(),
  settings: z.record(z.string(), z.unknown()).optional(),
});
const Comma = z.enum(['decimal sign', 'between thousands']).nullable();
const SetupText = ImportChoice.extend({ text: z.string().max(60_000_000, 'At most 60 MB.') });
const Ids = z.strictObject({ ids: z.array(Id).max(5000) });

/** What follows from a change elsewhere: what it is, as it was and as it will be. */
export interface Followed {
  what: string;
  before: string;
  after: string;
}
/** What a block of cells changes, cell by cell, and what is refused. */
export interface CellsWritten {
  cells: {
    id: string;
    key: string;
    text: string;
    channel: string;
    column: string;
    before: string;
    after: string | null;
    fault: string | null;
  }[];
  rows: { name: string; says: string; fault: string | null }[];
  follows: Followed[];
}
/** A change of the set-up in the history. */
export interface Change {
  id: number;
  at: number;
  by: string;
  says: string;
}

/** Channels, scales and the set-up as a whole. */
export const setup = endpoints({
  'POST /api/channels': {
    says: 'Adds one channel, or several as one change.',
    need: 'controls',
    body: z.union([NewChannel, z.array(NewChannel).min(1).max(2000)]),
    answer: told<Channel | Channel[]>('What was added, as it was asked: one or several.'),
  },
  'PATCH /api/channels/[id]': {
    says: 'Changes some of a channel.',
    need: 'controls',
    body: z.strictObject({
      name: z.string().max(200).optional(),
      group: z.string().max(60).optional(),
      sensorSerial: z.string().max(60).optional(),
      colour: z.number().int().min(0).max(100).optional(),
      scale: z.string().max(80).optional(),
      wire: Wire.optional(),
      settings: Settings.optional(),
    }),
    answer: told<unknown>('The channel as it is now.'),
  },
  'DELETE /api/channels/[id]': { says: 'Takes a channel away.', need: 'controls', answer: nothing },
  'GET /api/channels/[id]/sheet': {
    says: 'What taking over a sensor’s sheet would change.',
    need: 'look',
    query: z.object({ serial: z.string().max(60).default('') }),
    answer: told<SheetDifference[]>('What differs.'),
  },
  'POST /api/channels/[id]/sheet': {
    says: 'Takes over a sensor’s sheet.',
    need: 'controls',
    body: z.strictObject({ serial: z.string().max(60) }),
    answer: nothing,
  },
  'POST /api/channels/cells': {
    says: 'What a block of cells would change, or the change itself.',
    need: 'controls',
    body: z.strictObject({
      cells: z
        .array(
          z.strictObject({ id: z.string().max(60), key: z.string().max(40), text: z.string().max(2000) }),
        )
        .max(20_000, 'At most 20,000 cells at once.'),
      rows: z
        .array(
          z.strictObject({
            like: z.string().max(60),
            cells: z.array(z.strictObject({ key: z.string().max(40), text: z.string().max(2000) })).max(80),
          }),
        )
        .max(2000, 'At most 2,000 new channels at once.')
        .default([]),
      comma: Comma,
      apply: z.boolean(),
    }),
    answer: told<CellsWritten>('Each cell with what it was and will be, or why not.'),
  },
  'GET /api/channels/csv': {
    says: 'The channels as a CSV table.',
    need: 'look',
    answer: { file: 'text/csv' },
  },
  'POST /api/channels/csv': {
    says: 'What a CSV table would change of the channels, or the change itself.',
    need: 'controls',
    body: z.strictObject({
      text: z.string().max(10_000_000, 'At most 10 MB.'),
      comma: Comma,
      apply: z.boolean(),
    }),
    answer: z.object({ added: z.array(z.string()), changed: z.number(), faults: z.array(z.string()) }),
  },
  'POST /api/channels/order': {
    says: 'Puts the channels in another order.',
    need: 'controls',
    body: Ids,
    answer: nothing,
  },
  'POST /api/channels/read': {
    says: 'The next samples of some channels, once.',
    need: 'controls',
    body: z.strictObject({
      channelIds: z.array(z.string().max(60)).min(1).max(500),
      samples: z
        .number()
        .int('Give a whole number.')
        .min(1, 'At least 1 sample.')
        .max(100_000, 'At most 100,000 samples.'),
    }),
    answer:
      told<{ channelId: string; rateHz: number; values: (number | null)[] }[]>('Samples of each channel.'),
  },
  'POST /api/channels/remove': {
    says: 'What would stop working without some channels, or their removal.',
    need: 'controls',
    body: z.strictObject({
      ids: z.array(z.string().max(60)).min(1).max(5000),
      /** false: only what would stop working. */
      apply: z.boolean().default(true),
      /** What stops working is known. */
      anyway: z.boolean().default(false),
    }),
    answer: told<Followed[]>('What would stop working; nothing once they are removed.'),
  },
  'POST /api/layout': {
    says: 'Chooses the columns of the grid of channels.',
    need: 'controls',
    body: z.strictObject({ columns: z.array(z.string().max(40)).min(1).max(80) }),
    answer: nothing,
  },
  'POST /api/scales': {
    says: 'Keeps a scale for channels of this job.',
    need: 'controls',
    body: z.strictObject({
      id: z.string().max(60).optional(),
      name: z.string().max(200),
      rawUnit: z.string().max(40),
      unit: z.string().max(40),
      law: ScaleLaw,
      note: z.string().max(500).optional(),
    }),
    answer: told<Scale>('The scale as it is now.'),
  },
  'DELETE /api/scales/[id]': { says: 'Takes a scale away.', need: 'controls', answer: nothing },
  'GET /api/setup': {
    says: 'The set-up of the job as a file.',
    need: 'look',
    answer: { file: 'application/json' },
  },
  'POST /api/setup': {
    says: 'Takes over a set-up file, or parts of it.',
    need: 'controls',
    body: SetupText,
    answer: nothing,
  },
  'POST /api/setup/preview': {
    says: 'What a set-up file would change.',
    need: 'take part',
    body: SetupText,
    answer: told<ImportPreview>('What it would change.'),
  },
  'GET /api/history': {
    says: 'Changes of the set-up that stand, newest first.',
    need: 'look',
    query: z.object({ take: Id.optional() }),
    answer: told<Change[]>('At most the last 500.'),
  },
  'POST /api/history': {
    says: 'Takes back everything after a change.',
    need: 'controls',
    body: z.strictObject({ to: z.number().int().min(0) }),
    answer: Says,
  },
  'POST /api/undo': {
    says: 'Takes the last change back, or makes it again.',
    need: 'controls',
    query: z.object({ again: flag }),
    answer: Says,
  },
});
