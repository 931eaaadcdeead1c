import { z } from 'zod';
import type { FrameFinding } from '$core/wireframe/check';
import { ModalSpan, PickedMode, correlate, fit, type AnalysisLine, type AnalysisView } from '../modal';
import { FrameBody, type NamedFrame } from '../wireframe';
import { Id, endpoints, nothing, told } from './endpoint';

const View = told<AnalysisView>('The analysis as it is now; its sets compute on by themselves.');
const Frame = told<{ frame: NamedFrame; findings: FrameFinding[] }>('The wireframe, and what is wrong with it.'); // prettier-ignore
const SetChange = z.strictObject({
  spans: z.array(ModalSpan).min(1, 'Choose a take.').max(50).optional(),
  correlate: correlate
    .partial()
    .extend({ resolution: z.number().positive().max(1e5).optional() })
    .optional(),
  fit: fit.partial().optional(),
});

/** How structures move: wireframes, correlations, poles, shapes. */
export const modalPart = endpoints({
  'GET /api/wireframes': {
    says: 'Wireframes of this job.',
    need: 'look',
    answer: told<{ frame: NamedFrame; findings: FrameFinding[] }[]>('In their order.'),
  },
  'POST /api/wireframes': { says: 'Adds a wireframe.', need: 'take part', body: FrameBody, answer: Frame },
  'POST /api/wireframes/read': {
    says: 'Reads a universal file of a structure as a wireframe, without keeping it.',
    need: 'look',
    sends: 'file',
    asks: true,
    answer: FrameBody,
  },
  'GET /api/wireframes/channels': {
    says: 'Channels that can sit on a wireframe: those of the job, of takes that analyses use, and of one that is named.',
    need: 'look',
    query: z.object({ take: Id.optional() }),
    answer:
      told<{ id: string; name: string; unit: string; moves: boolean; drives?: boolean; from: string }[]>(
        'Channels.',
      ),
  },
  'GET /api/wireframes/[id]': {
    says: 'A wireframe.',
    need: 'look',
    query: z.object({ take: Id.optional() }),
    answer: Frame,
  },
  'PUT /api/wireframes/[id]': {
    says: 'Writes a wireframe over; it can be undone.',
    need: 'take part',
    body: z.strictObject({ frame: FrameBody, says: z.string().max(120).default('') }),
    answer: Frame,
  },
  'DELETE /api/wireframes/[id]': { says: 'Removes a wireframe; it can be undone.', need: 'take part', answer: nothing }, // prettier-ignore
  'GET /api/wireframes/[id]/file': {
    says: 'A wireframe as a universal file (datasets 164, 2411, 82).',
    need: 'look',
    answer: { file: 'text/plain' },
  },
  'GET /api/modal': {
    says: 'Modal analyses of this job.',
    need: 'look',
    answer: told<AnalysisLine[]>('Oldest first.'),
  },
  'POST /api/modal': {
    says: 'Begins a modal analysis of one or several takes: correlated and fitted in the usual way.',
    need: 'take part',
    body: z.strictObject({
      takes: z.array(Id).min(1, 'Choose a take.').max(50),
      name: z.string().max(80).optional(),
      frame: Id.nullish(),
    }),
    answer: View,
  },
  'GET /api/modal/[id]': { says: 'A modal analysis.', need: 'look', answer: View },
  'PATCH /api/modal/[id]': {
    says: 'Calls an analysis otherwise, or shows it on another wireframe.',
    need: 'take part',
    body: z.strictObject({ name: z.string().max(80).optional(), frame: Id.nullish() }),
    answer: View,
  },
  'DELETE /api/modal/[id]': { says: 'Removes an analysis.', need: 'take part', answer: nothing },
  'POST /api/modal/[id]/sets': {
    says: 'Adds a set like another, changed: both stay.',
    need: 'take part',
    body: SetChange.extend({ like: Id }),
    answer: told<{ view: AnalysisView; set: string }>('The analysis, and the id of the new set.'),
  },
  'POST /api/modal/[id]/runs': {
    says: 'Adds a set like another for each of some takes; its modes are found again by their shapes.',
    need: 'take part',
    body: z.strictObject({ like: Id, takes: z.array(Id).min(1, 'Choose a take.').max(40) }),
    answer: View,
  },
  'PATCH /api/modal/[id]/sets/[set]': {
    says: 'Changes a link of a set’s chain; what follows is made anew. Without a change: brings it up to date.',
    need: 'take part',
    body: SetChange,
    answer: View,
  },
  'DELETE /api/modal/[id]/sets/[set]': { says: 'Takes a set away.', need: 'take part', answer: View },
  'POST /api/modal/[id]/sets/[set]/cancel': {
    says: 'Ends what is being computed of a set.',
    need: 'take part',
    answer: nothing,
  },
  'PUT /api/modal/[id]/sets/[set]/modes': {
    says: 'Takes poles for modes, with names; those that are not named are let go.',
    need: 'take part',
    body: z.strictObject({ picks: z.array(PickedMode).max(100, 'At most 100 modes.') }),
    answer: View,
  },
  'POST /api/modal/[id]/sets/[set]/spread': {
    says: 'Finds ± of frequencies and dampings from so many draws of blocks of the span, with replacement (bootstrap).',
    need: 'take part',
    body: z.strictObject({ times: z.number().int().min(10, 'At least 10.').max(500, 'At most 500.') }),
    answer: View,
  },
  'GET /api/modal/[id]/sets/[set]/correlations': {
    says: 'Correlations without their window: CBOR with typed arrays.',
    need: 'look',
    answer: { bytes: 'application/cbor' },
  },
  'GET /api/modal/[id]/sets/[set]/poles': {
    says: 'Poles of all orders, with their shapes: CBOR with typed arrays.',
    need: 'look',
    answer: { bytes: 'application/cbor' },
  },
  'GET /api/modal/[id]/sets/[set]/file': {
    says: 'Shapes with their nodes (universal file, datasets 164, 2411, 82, 55), functions (58), or modes as JSON or CSV.',
    need: 'look',
    query: z.object({ as: z.enum(['shapes', 'functions', 'json', 'csv']) }),
    answer: { file: 'text/plain' },
  },
});
