import { z } from 'zod';
import { Placed, RecorderWish, type FieldView, type RecorderReadings } from '../field';
import { Reach } from '../station';
import { endpoints, nothing, told } from './endpoint';

const Password = z.string().min(1).max(100);
const Address = Reach.min(1);

/** Instruments that work by themselves: pocket recorders in their cradles. */
export const fieldPart = endpoints({
  'GET /api/field': {
    says: 'Cradles, what lies in them, and every recorder that has been seen.',
    need: 'look',
    answer: told<FieldView>('As it is now.'),
  },
  'PUT /api/field/cradles': {
    says: 'Where cradles are, as host:port or a serial port, and whether what is put in is fetched at once.',
    need: 'controls',
    body: z.strictObject({ cradles: z.array(Address).max(8), fetches: z.boolean() }),
    answer: nothing,
  },
  'GET /api/field/recorders/[serial]/readings': {
    says: 'What was fetched of a recorder’s recording, to be drawn: extremes of stretches of time; and what it measured while it waited.',
    need: 'look',
    answer: told<RecorderReadings>('Times are true times.'),
  },
  'POST /api/field/recorders/[serial]/setup': {
    says: 'Sets up the recorder that lies in a cradle, after all it holds was fetched.',
    need: 'controls',
    body: z.strictObject({
      wish: RecorderWish,
      password: Password.optional(),
      lock: z.strictObject({ password: Password, for: z.enum(['setting up', 'fetching too']) }).nullable().optional(),
    }), // prettier-ignore
    answer: nothing,
  },
  'POST /api/field/recorders/[serial]/fetch': {
    says: 'Fetches what is new of the recorder that lies in a cradle.',
    need: 'take part',
    body: z.strictObject({ password: Password.optional() }),
    answer: nothing,
  },
  'POST /api/field/recorders/[serial]/sleep': {
    says: 'Puts a recorder to sleep, after all it holds was fetched.',
    need: 'controls',
    body: z.strictObject({ password: Password.optional() }),
    answer: nothing,
  },
  'POST /api/field/recorders/[serial]/clear': {
    says: 'Clears the alarm of the recorder that lies in a cradle; what it recorded stays.',
    need: 'take part',
    answer: nothing,
  },
  'PUT /api/field/recorders/[serial]/place': {
    says: 'Who put a recorder where: facts of the takes that are fetched of it from now on.',
    need: 'take part',
    body: Placed,
    answer: nothing,
  },
  'PUT /api/field/templates/[name]': {
    says: 'Keeps a set-up of recorders under a name, to begin with later.',
    need: 'take part',
    body: z.strictObject({ wish: RecorderWish }),
    answer: nothing,
  },
  'DELETE /api/field/templates/[name]': {
    says: 'Takes a kept set-up away.',
    need: 'take part',
    answer: nothing,
  },
  'PUT /api/field/batch': {
    says: 'Recorders that are put in from now on are set up by this, one after the other; null ends it.',
    need: 'controls',
    body: z.strictObject({ wish: RecorderWish.nullable() }),
    answer: nothing,
  },
  'POST /api/field/play': {
    says: 'Of a cradle that plays: puts a recorder in, takes it out, pushes its button, changes its battery, lets its time run faster.',
    need: 'take part',
    body: z.strictObject({ do: z.enum(['put', 'out', 'press', 'battery', 'speed']), serial: z.string().max(40), times: z.number().min(1).max(10_000).optional() }), // prettier-ignore
    answer: nothing,
  },
});
