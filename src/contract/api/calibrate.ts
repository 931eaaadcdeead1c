import { z } from 'zod';
import type { ErrorText } from '$core/errors';
import type { Tone } from '$core/signal/tone';
import type { BridgeRow } from '../bridge-check';
import { PointsRun, type Steadiness } from '../calibration';
import { CalibrationPoint } from '../channel';
import type { Comparison } from '../comparison';
import { SheetEntry } from '../sheet-entry';
import { Id, Made, endpoints, list, nothing, number, told } from './endpoint';

const Budget = z.record(z.string(), z.unknown());
const ids = z.array(Id).max(500);
const run = z.record(z.string(), z.unknown());

/** What a run over bridges found: a row for each, and those that could not be measured. */
export interface BridgesRun {
  rows: BridgeRow[];
  refused: { channelId: string; name: string; says: string }[];
  tookS: number;
}
/** What a calibrator’s tone reads, and what follows for the channel. */
export interface ToneReading extends Tone {
  channelId: string;
  /** Rms of the tone as the channel reads it now, and what it should be, in its unit. */
  reads: number;
  level: number;
  /** What the tone makes of the slope, and what is in force. */
  slope: number;
  presentSlope: number;
  /** mV for each unit, as certificates say it. */
  sensitivity: number;
  /** Share by which the channel reads too much now. */
  off: number;
  lastSlope: number | null;
  warnings: string[];
}
/** A take that a channel is in, and how it reads it. */
export interface AffectedTake {
  id: string;
  name: string;
  startedAt: number;
  calibration: string;
  revision: number;
  reason: string;
  differs: boolean;
}
/** What a sheet makes of a channel. */
export interface SheetRead {
  slope: number;
  offset: number;
  rawUnit: string;
  warning: string | null;
  siblings: number;
}

/** Ways to prove a channel. */
export const calibrate = endpoints({
  'POST /api/calibrate/bridges': {
    says: 'Checks bridges by their shunts, or balances them.',
    need: 'controls',
    body: z.strictObject({ do: z.enum(['check', 'balance']), channels: ids, run }),
    answer: told<BridgesRun>('What the run found.'),
  },
  'POST /api/calibrate/bridges/derive': {
    says: 'Derives a bridge’s value from its last shunt check.',
    need: 'controls',
    body: z.strictObject({ channelId: Id }),
    answer: Made,
  },
  'GET /api/calibrate/certificate/[id]': {
    says: 'The certificate of a calibration as a PDF.',
    need: 'look',
    answer: { file: 'application/pdf' },
  },
  'POST /api/calibrate/comparison': {
    says: 'Compares two channels.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, referenceId: Id, seconds: z.number() }),
    answer: told<Comparison & { id: string }>('The comparison, kept as it is shown until it is accepted.'),
  },
  'POST /api/calibrate/comparison/accept': {
    says: 'Accepts a comparison as it was shown.',
    need: 'controls',
    body: z.strictObject({ id: Id, budget: Budget }),
    answer: Made,
  },
  'POST /api/calibrate/draft': {
    says: 'Keeps the points that were measured so far, so that a closed page loses nothing.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, draft: z.record(z.string(), z.unknown()).nullable() }),
    answer: nothing,
  },
  'GET /api/calibrate/due': {
    says: 'Calibrations that the plan’s channels lack before a take.',
    need: 'look',
    answer: told<unknown>('One for each channel that lacks one.'),
  },
  'GET /api/calibrate/history/[id]': {
    says: 'All calibrations of a channel, as CSV or JSON.',
    need: 'look',
    query: z.object({ as: z.enum(['csv', 'json']).default('json') }),
    answer: { file: 'application/json' },
  },
  'POST /api/calibrate/points': {
    says: 'Accepts calibrations by points, of one channel or several.',
    need: 'controls',
    body: z.strictObject({
      runs: z
        .array(
          z.strictObject({
            channelId: Id,
            points: z.array(CalibrationPoint).max(200),
            form: PointsRun.shape.form,
            budget: Budget,
            against: Id.nullable(),
          }),
        )
        .min(1)
        .max(64),
    }),
    answer: told<unknown>('What was accepted.'),
  },
  'POST /api/calibrate/sheet': {
    says: 'What a certificate makes of a channel, with a warning where its value is doubtful; accepted on request.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, entry: SheetEntry, accept: z.boolean() }),
    answer: told<SheetRead>('What it makes of the channel.'),
  },
  'GET /api/calibrate/steady': {
    says: 'How still channels are now; a fault of one is told beside the others.',
    need: 'look',
    query: z.object({ channels: list(65), tolerance: number, hold: number }),
    answer: told<(Steadiness | { channelId: string; fault: ErrorText })[]>('One for each channel.'),
  },
  'GET /api/calibrate/takes': {
    says: 'Takes that a channel is in, and how each reads it.',
    need: 'look',
    query: z.object({ channel: Id.default('') }),
    answer: told<AffectedTake[]>('Newest first.'),
  },
  'POST /api/calibrate/takes': {
    says: 'Gives takes the meaning that the channel has now.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, takes: z.array(Id).max(2000), reason: z.string().max(500) }),
    answer: z.object({ takes: z.number(), recomputed: z.array(z.string()), left: z.array(z.string()) }),
  },
  'POST /api/calibrate/tare': {
    says: 'Sets what channels read now to zero, or takes that back.',
    need: 'controls',
    body: z.strictObject({ channels: ids, on: z.boolean() }),
    answer: nothing,
  },
  'POST /api/calibrate/tone': {
    says: 'Reads a calibrator’s tone.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, level: z.number(), hz: z.number() }),
    answer: told<ToneReading>('What it reads.'),
  },
  'POST /api/calibrate/tone/accept': {
    says: 'Accepts the tone that was read last.',
    need: 'controls',
    body: z.strictObject({ channelId: Id, budget: Budget }),
    answer: Made,
  },
  'GET /api/calibrate/uncertainty': {
    says: 'Expanded uncertainty (about 95 %) of channels at what they read now.',
    need: 'look',
    query: z.object({ channels: list(500) }),
    answer: z.record(z.string(), z.number()),
  },
});
