import { badInput } from '$core/errors';
import { field } from '$core/sentence/sentence';
import { z } from 'zod';
import { unitKind, type UnitKind } from './unit-kind';

/** What was recorded once, as a unit again. */
export const REPLAY_KINDS: readonly UnitKind[] = [
  unitKind({
    kind: 'replay',
    title: 'Replay',
    says: 'A take or a WAV file played again at its own speed: rehearse plans and rules without hardware.',
    prefix: 'RP',
    standIn: true,
    settings: {
      schema: z.strictObject({
        source: field(z.string().max(200), {
          label: 'Recording',
          editor: 'choice',
          options: { ask: 'recordings' },
          none: 'a recording',
        }),
        again: field(z.enum(['from the start again', 'nothing more']), {
          label: 'At its end',
          editor: 'choice',
          options: ['from the start again', 'nothing more'],
        }),
      }),
      template: () => 'Plays {source}; at its end {again}.',
    },
    defaults: { source: '', again: 'from the start again' },
    plays: {
      endings: ['wav'],
      check: async (content, name) => {
        if (String.fromCharCode(...content.subarray(0, 4)) !== 'RIFF')
          throw badInput('file', name, 'Choose a WAV file.');
      },
    },
  }),
];
