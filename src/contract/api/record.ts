import { z } from 'zod';
import { LOOK_MOST } from '../live';
import type { Alarm } from '../alarm';
import { Board, BoardChange } from '../board';
import type { PreflightCheck } from '../preflight';
import type { Rehearsal } from '../rehearsal';
import { Id, Made, Settings, endpoints, list, nothing, told } from './endpoint';

const source = z.string().max(80);

/** Recording: plans, rules, takes as they run, alarms, boards and what they show. */
export const record = endpoints({
  'GET /api/alarms': { says: 'The last alarms.', need: 'look', answer: told<Alarm[]>('Newest first.') },
  'POST /api/alarms': {
    says: 'Acknowledges alarms, quietens them, or puts a source on the shelf.',
    need: 'take part',
    body: z.discriminatedUnion('do', [
      z.strictObject({ do: z.literal('take'), id: z.number().int().nullable() }),
      z.strictObject({ do: z.literal('hush') }),
      z.strictObject({ do: z.literal('shelve'), source, minutes: z.number(), why: z.string().max(200) }),
      z.strictObject({ do: z.literal('unshelve'), source }),
    ]),
    answer: nothing,
  },
  'POST /api/boards': {
    says: 'Makes a board, empty or like another.',
    need: 'take part',
    body: z.strictObject({ name: z.string().max(60), from: Id.optional() }),
    answer: Made,
  },
  'PATCH /api/boards/[id]': {
    says: 'Changes the fields of views that differ.',
    need: 'take part',
    body: BoardChange,
    answer: Board,
  },
  'DELETE /api/boards/[id]': {
    says: 'Takes a board away.',
    need: 'take part',
    answer: told<unknown>('What was taken away.'),
  },
  'POST /api/pictures': {
    says: 'Keeps a picture for a board.',
    need: 'take part',
    sends: 'file',
    answer: z.object({ id: z.number() }),
  },
  'GET /api/pictures/[id]': { says: 'A picture.', need: 'look', answer: { bytes: 'image/*' } },
  'GET /api/plans': {
    says: 'Where the job’s plans differ.',
    need: 'look',
    answer: z.object({
      plans: z.array(z.string()),
      rows: z.array(z.object({ label: z.string(), values: z.array(z.string()) })),
    }),
  },
  'POST /api/plans': {
    says: 'Makes a plan, usual or like another.',
    need: 'controls',
    body: z.strictObject({ name: z.string().max(60), from: Id.optional() }),
    answer: told<unknown>('The plan.'),
  },
  'PATCH /api/plans/[id]': {
    says: 'Changes some of a plan.',
    need: 'controls',
    // The values themselves are checked with the whole plan.
    body: Settings,
    answer: told<unknown>('The plan as it is now.'),
  },
  'POST /api/plans/[id]': {
    says: 'Makes it the plan that is armed next.',
    need: 'controls',
    answer: nothing,
  },
  'DELETE /api/plans/[id]': { says: 'Takes a plan away.', need: 'controls', answer: nothing },
  'POST /api/record': {
    says: 'Arms, starts, ends, marks, drives an output, brings all to rest.',
    need: 'controls',
    body: z.discriminatedUnion('do', [
      z.strictObject({
        do: z.literal('arm'),
        facts: z.record(z.string().max(40), z.string().max(200)),
        reason: z.string().max(300).optional(),
        planId: Id.optional(),
      }),
      z.strictObject({ do: z.literal('start') }),
      z.strictObject({ do: z.literal('end') }),
      z.strictObject({ do: z.literal('disarm') }),
      z.strictObject({ do: z.literal('mark'), says: z.string().max(500) }),
      z.strictObject({ do: z.literal('output'), channelId: Id, value: z.number() }),
      z.strictObject({ do: z.literal('rest') }),
    ]),
    answer: told<unknown>('What the engine says.'),
  },
  'GET /api/record/preflight': {
    says: 'What is wrong or doubtful before the next take.',
    need: 'look',
    answer: told<PreflightCheck[]>('The worst first.'),
  },
  'POST /api/rehearse': {
    says: 'Plays a take through a plan, as if it were live.',
    need: 'take part',
    body: z.strictObject({ takeId: Id, planId: Id }),
    answer: told<Rehearsal>('What would have happened when.'),
  },
  'POST /api/rules': {
    says: 'Makes a rule.',
    need: 'controls',
    body: Settings,
    answer: told<unknown>('The rule.'),
  },
  'PATCH /api/rules/[id]': {
    says: 'Changes some of a rule.',
    need: 'controls',
    body: Settings,
    answer: told<unknown>('The rule as it is now.'),
  },
  'DELETE /api/rules/[id]': { says: 'Takes a rule away.', need: 'controls', answer: nothing },
  'POST /api/rules/order': {
    says: 'Puts the rules in the order in which they act.',
    need: 'controls',
    body: z.strictObject({ ids: z.array(Id).max(1000) }),
    answer: nothing,
  },
  'GET /api/hosts': { says: 'Hosts that rules may call.', need: 'look', answer: z.array(z.string()) },
  'POST /api/hosts': {
    says: 'Puts a host on the list, or takes it off.',
    need: 'controls',
    body: z.strictObject({ host: z.string().max(260), allowed: z.boolean() }),
    answer: told<unknown>('The list as it is now.'),
  },
  'GET /api/live': {
    says: 'The live feed of one page: length-prefixed frames without end.',
    need: 'look',
    query: z.object({
      strips: list(LOOK_MOST, 80),
      waves: list(LOOK_MOST, 80),
      radio: z.string().max(60).optional(),
      catches: z.string().max(60).optional(),
      captures: z.string().max(60).optional(),
    }),
    answer: { bytes: 'application/octet-stream' },
  },
  'PUT /api/live/[id]': {
    says: 'Shows other strips and samples on a stream that is open; what it showed already is not told again.',
    need: 'look',
    asks: true,
    body: z.strictObject({
      strips: z.array(z.string().max(80)).max(LOOK_MOST),
      waves: z.array(z.string().max(80)).max(LOOK_MOST),
      radio: z.string().max(60).optional(),
      catches: z.string().max(60).optional(),
      captures: z.string().max(60).optional(),
    }),
    answer: nothing,
  },
  'POST /api/live/reset': {
    says: 'Extremes and means begin anew, of one channel or of all.',
    need: 'controls',
    body: z.strictObject({ channelId: Id.optional() }),
    answer: nothing,
  },
});
