import { z } from 'zod';
import type { LineProposals } from '$core/lines/split';
import type { Clue } from '../clues';
import { KnownUnit } from '../engine';
import type { ReadChip, Sensor, SensorView } from '../sensor';
import { FAULTS, TryOut, type Heard, type Probe, type SelfTest } from '../unit';
import { Settings, endpoints, nothing, told } from './endpoint';

/** Units, their terminals, and the drawer of sensors. */
export const rig = endpoints({
  'GET /api/ports': {
    says: 'Serial ports of the computer that Farrier runs on.',
    need: 'look',
    answer: z.array(z.object({ path: z.string() }).loose()),
  },
  'POST /api/units': {
    says: 'Adds a unit from the catalogue.',
    need: 'controls',
    body: z.strictObject({ kind: z.string().max(60) }),
    answer: KnownUnit,
  },
  'POST /api/units/[serial]': {
    says: 'A hand at the stand-in: sets one of its controls, or a fault on a terminal.',
    need: 'controls',
    body: z.union([
      z.strictObject({ control: z.string().max(40), value: z.number() }),
      z.strictObject({ terminal: z.string().max(120), fault: z.enum(FAULTS) }),
    ]),
    answer: told<unknown>('What the unit says.'),
  },
  'PATCH /api/units/[serial]': {
    says: 'Changes the name, the settings, what is read from a unit, or puts another in its place.',
    need: 'controls',
    body: z.strictObject({
      name: z.string().max(200).optional(),
      settings: Settings.optional(),
      sources: z.array(Settings).max(2000).optional(),
      database: z
        .strictObject({ name: z.string().max(200), text: z.string().max(20_000_000, 'At most 20 MB.') })
        .nullable()
        .optional(),
      replacedBy: z.string().max(60).optional(),
    }),
    answer: told<unknown>('The unit as it is now.'),
  },
  'DELETE /api/units/[serial]': { says: 'Takes a unit off the list.', need: 'controls', answer: nothing },
  'GET /api/units/[serial]/[...terminal]': {
    says: 'What a terminal reads now, and what may be wrong with its wiring.',
    need: 'look',
    answer: told<Probe & { clues: Clue[] }>('The raw reading of a terminal.'),
  },
  'POST /api/units/[serial]/[...terminal]': {
    says: 'Sets a terminal by hand, outside a recording.',
    need: 'controls',
    body: TryOut,
    answer: told<unknown>('What the unit says.'),
  },
  'GET /api/units/[serial]/chips': {
    says: 'Reads the chips in the sensors of a unit.',
    need: 'look',
    answer: told<ReadChip[]>('One for each terminal with a chip.'),
  },
  'POST /api/units/[serial]/chips': {
    says: 'Takes over what the chips on these terminals say.',
    need: 'controls',
    body: z.strictObject({ terminals: z.array(z.string().max(120)).min(1).max(500) }),
    answer: z.number(),
  },
  'POST /api/units/[serial]/file': {
    says: 'Hands a unit a recorded file to play.',
    need: 'controls',
    sends: 'file',
    answer: told<unknown>('The unit as it is now.'),
  },
  'GET /api/units/[serial]/heard': {
    says: 'What came over the unit’s connection last.',
    need: 'look',
    answer: told<Heard[]>('Lines or frames, oldest first.'),
  },
  'POST /api/units/[serial]/heard': {
    says: 'Sends a line or frame by hand.',
    need: 'controls',
    body: z.strictObject({ text: z.string().min(1, 'Write something to send.').max(2000) }),
    answer: told<unknown>('What the unit says.'),
  },
  'GET /api/units/[serial]/log': {
    says: 'The last frames of a bus as a candump log.',
    need: 'look',
    answer: { file: 'text/plain' },
  },
  'GET /api/units/[serial]/propose': {
    says: 'How the lines that were heard could be read.',
    need: 'look',
    answer: told<LineProposals>('Proposals, the likeliest first.'),
  },
  'POST /api/units/[serial]/reset': {
    says: 'Starts a unit anew.',
    need: 'controls',
    answer: told<unknown>('Nothing.'),
  },
  'POST /api/units/[serial]/test': {
    says: 'Has a unit test itself.',
    need: 'controls',
    answer: told<SelfTest>('What it found.'),
  },
  'GET /api/units/[serial]/wiring': {
    says: 'Terminal drawing and wiring list as a PDF.',
    need: 'look',
    answer: { file: 'application/pdf' },
  },
  'GET /api/sensors': {
    says: 'The drawer of sensors.',
    need: 'look',
    answer: told<SensorView[]>('Every sensor.'),
  },
  'POST /api/sensors': {
    says: 'Puts a sensor into the drawer, or changes one.',
    need: 'controls',
    body: z.strictObject({ former: z.string().max(60).nullable(), edit: Settings }),
    answer: told<Sensor>('The sensor as it is now.'),
  },
  'POST /api/sensors/[serial]': {
    says: 'Attaches a paper to a sensor: certificate or data sheet.',
    need: 'controls',
    sends: 'file',
    answer: nothing,
  },
  'DELETE /api/sensors/[serial]': {
    says: 'Takes a sensor out of the drawer.',
    need: 'controls',
    answer: nothing,
  },
  'GET /api/sensors/list': {
    says: 'The drawer as a file, CSV or JSON.',
    need: 'look',
    query: z.object({ as: z.enum(['csv', 'json']).default('csv') }),
    answer: { file: 'text/csv' },
  },
  'POST /api/sensors/list': {
    says: 'Takes sensors from a CSV or JSON text into the drawer: all or none.',
    need: 'controls',
    body: z.strictObject({ text: z.string().max(10_000_000, 'At most 10 MB.') }),
    answer: z.object({ added: z.number(), replaced: z.number() }),
  },
  'GET /api/documents/[id]': {
    says: 'A paper of a sensor.',
    need: 'look',
    answer: { file: 'application/octet-stream' },
  },
  'DELETE /api/documents/[id]': { says: 'Takes a paper away.', need: 'controls', answer: nothing },
});
