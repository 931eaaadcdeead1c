import { z } from 'zod';
import { Channel } from './channel';
import { KnownUnit } from './engine';
import { Plan } from './plan';
import { Rule } from './rule';
import { Scale } from './scale';
import { Sensor } from './sensor';

export const SETUP_FORMAT = 'farrier-setup';
export const SETUP_VERSION = 1;

/** A job's set-up as it travels: everything it depends on, in one file (docs/formats.md). */
export const SetupFile = z.object({
  format: z.literal(SETUP_FORMAT, 'It is no set-up of Farrier.'),
  version: z.number().int(),
  writtenAt: z.string(),
  job: z.object({ name: z.string(), place: z.string() }),
  units: z.array(KnownUnit).max(1000),
  scales: z.array(Scale).max(1000),
  sensors: z.array(Sensor).max(10_000),
  channels: z.array(Channel).max(5000),
  plan: z.object({ name: z.string(), plan: Plan }),
  rules: z.array(Rule).max(1000),
  columns: z.array(z.string()).nullable(),
});
export type SetupFile = z.infer<typeof SetupFile>;

/** What becomes of a unit of the file: it is added, or one that is here stands for it. */
export const UnitMapping = z.record(z.string(), z.string().nullable());
export type UnitMapping = z.infer<typeof UnitMapping>;

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
  channels: { name: string; fate: 'added' | 'replaced' | 'as it is' }[];
  left: string[];
  scales: { name: string; fate: 'added' | 'replaced' | 'as it is' }[];
  sensors: { name: string; fate: 'added' | 'replaced' | 'as it is' }[];
  plan: string;
  rules: number;
  faults: string[];
}
