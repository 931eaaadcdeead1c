import { z } from 'zod';
import { Board } from './board';
import { FrameBody } from './wireframe';
import { Channel } from './channel';
import { KnownUnit } from './engine';
import { Plan } from './plan';
import { Rule } from './rule';
import { Scale } from './scale';
import { Sensor } from './sensor';

export const SETUP_FORMAT = 'farrier-setup';
export const SETUP_VERSION = 2;

/** A file of version 1 knew one plan and no boards. */
function upgraded(value: unknown): unknown {
  const file = value as { version?: unknown; plan?: { name?: unknown } };
  if (file?.version !== 1) return value;
  const { plan, ...rest } = file;
  return { ...rest, plans: [plan], armedNext: plan?.name, boards: [], pictures: [] };
}

const SetupShape = z.object({
  format: z.literal(SETUP_FORMAT, 'It is no set-up of Farrier.'),
  version: z.number().int(),
  writtenAt: z.string(),
  job: z.object({ name: z.string(), place: z.string() }),
  units: z.array(KnownUnit).max(1000),
  scales: z.array(Scale).max(1000),
  sensors: z.array(Sensor).max(10_000),
  channels: z.array(Channel).max(5000),
  plans: z.array(z.object({ name: z.string(), plan: Plan })).max(1000),
  /** Name of the plan that is armed next. */
  armedNext: z.string(),
  rules: z.array(Rule).max(1000),
  boards: z.array(Board.omit({ id: true })).max(200),
  wireframes: z.array(FrameBody).max(200).default([]),
  /** Pictures of boards, by the number that views name, in base64. */
  pictures: z.array(z.object({ id: z.number().int(), data: z.base64() })).max(200),
  columns: z.array(z.string()).nullable(),
});
/** A job's set-up as it travels: everything it depends on, in one file (docs/formats.md). */
export const SetupFile = z.preprocess(upgraded, SetupShape);
export type SetupFile = z.infer<typeof SetupShape>;

/** What becomes of a unit of the file: it is added, or one that is here stands for it. */
export const UnitMapping = z.record(z.string(), z.string().nullable());
export type UnitMapping = z.infer<typeof UnitMapping>;

/** How a file is to be taken. */
export const ImportChoice = z.strictObject({
  mapping: UnitMapping,
  /** Whether calibrations made through a unit hold through the one that stands for it: the same sensors on the same terminals. */
  sameWires: z.boolean().default(false),
});
export type ImportChoice = z.input<typeof ImportChoice>;

export type Fate = 'added' | 'replaced' | 'as it is';
export interface Fated {
  name: string;
  fate: Fate;
}

/** What an import would do, before it does it. */
export interface ImportPreview {
  job: string;
  units: {
    serial: string;
    name: string;
    kind: string;
    present: boolean;
    choices: { serial: string; name: string }[];
    takes: string | null;
  }[];
  channels: Fated[];
  left: string[];
  scales: Fated[];
  sensors: Fated[];
  plans: Fated[];
  boards: Fated[];
  wireframes: Fated[];
  armedNext: string;
  rules: { count: number; fate: 'as they are' | 'replaced' };
  /** Channels whose calibration was made through a unit that another one stands for. */
  throughOthers: { channel: string; from: string; to: string }[];
  /** Addresses that its rules call, and whether rules may call them here. */
  addresses: { address: string; listed: boolean }[];
  /** What does not come along, and what is checked later. */
  notes: string[];
  faults: string[];
}
