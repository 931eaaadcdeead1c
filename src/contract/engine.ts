import { z } from 'zod';
import { Channel } from './channel';
import { Plan } from './plan';
import { Rule } from './rule';
import type { Wave } from './live';
import { RadioWish, type HeardBand, type HeardFault } from './radio';
import type { CaughtTold } from './radio-catching';
import { GatherWish, type GatherTold } from './radio-gathering';
import type { EngineStatus } from './engine-status';
import { TakeHead } from './take';
import { FAULTS, TryOut } from './unit';
import { EMPTY_CONFIG, UnitConfig } from './units/unit-kind';

/** How often the engine moves on, and how wide one bucket of the live feed is. */
export const BLOCK_MS = 50;

export const NumberedRule = z.object({ id: z.string(), rule: Rule, says: z.string() });
export type NumberedRule = z.infer<typeof NumberedRule>;

/** A unit of the list: how to reach it and what to read from it. */
export const KnownUnit = z.object({
  serial: z.string(),
  kind: z.string(),
  name: z.string(),
  config: UnitConfig.default(EMPTY_CONFIG),
  /** File that a replay reads. */
  path: z.string().optional(),
  /** Why it is not to be opened: the engine failed on it again and again. */
  leftOut: z.string().optional(),
});
export type KnownUnit = z.infer<typeof KnownUnit>;

/** All the engine has to know to measure. */
export const EngineSetup = z.object({
  units: z.array(KnownUnit),
  channels: z.array(Channel),
  rules: z.array(NumberedRule),
});
export type EngineSetup = z.infer<typeof EngineSetup>;

export const EngineCommand = z.discriminatedUnion('do', [
  z.object({ do: z.literal('configure'), setup: EngineSetup }),
  z.object({ do: z.literal('arm'), head: TakeHead, plan: Plan, path: z.string(), by: z.string() }),
  z.object({ do: z.literal('start') }),
  z.object({ do: z.literal('disarm') }),
  z.object({ do: z.literal('end') }),
  z.object({
    do: z.literal('mark'),
    says: z.string().max(4000),
    by: z.string(),
    kind: z.enum(['mark', 'pre-flight']).default('mark'),
  }),
  z.object({ do: z.literal('output'), channelId: z.string(), value: z.number() }),
  z.object({ do: z.literal('rest') }),
  /** Every sample of these channels is told from now on. */
  z.object({ do: z.literal('waves'), channelIds: z.array(z.string()).max(64) }),
  /** Closes the open take, brings outputs to rest and ends the engine. */
  z.object({ do: z.literal('stop') }),
  z.object({ do: z.literal('probe'), unit: z.string(), terminal: z.string() }),
  z.object({ do: z.literal('try out'), unit: z.string(), terminal: z.string(), act: TryOut }),
  /** Lays the shunts of some bridges across their arms, or lets them go. */
  z.object({
    do: z.literal('shunt'),
    terminals: z.array(z.object({ unit: z.string(), terminal: z.string() })).max(1000),
    on: z.boolean(),
  }),
  z.object({ do: z.literal('self-test'), unit: z.string() }),
  z.object({ do: z.literal('reset'), unit: z.string() }),
  z.object({ do: z.literal('heard'), unit: z.string() }),
  z.object({ do: z.literal('chips'), unit: z.string() }),
  z.object({ do: z.literal('log'), unit: z.string() }),
  z.object({ do: z.literal('send'), unit: z.string(), text: z.string().max(2000) }),
  z.object({ do: z.literal('ports') }),
  /** Pictures of a receiver’s band are told from now on, or none. */
  z.object({ do: z.literal('listen'), unit: z.string(), wish: RadioWish }),
  /** Something is gathered step by step from now on, or no more. */
  z.object({ do: z.literal('gather'), unit: z.string(), wish: GatherWish.nullable() }),
  z.object({ do: z.literal('tune'), unit: z.string(), centreHz: z.number() }),
  /** The next samples of some channels, once. */
  z.object({
    do: z.literal('read'),
    channelIds: z.array(z.string()).min(1).max(500),
    samples: z.number().int().min(1).max(200_000),
    /** As the hardware delivers them, instead of in the channel's unit. */
    raw: z.boolean().optional(),
  }),
  z.object({ do: z.literal('control'), unit: z.string(), id: z.string(), value: z.number() }),
  z.object({ do: z.literal('fault'), unit: z.string(), terminal: z.string(), fault: z.enum(FAULTS) }),
]);
export type EngineCommand = z.infer<typeof EngineCommand>;

/** Samples of one channel, read on demand. */
export interface Reading {
  channelId: string;
  rateHz: number;
  values: number[];
}

/** One step of the live feed: a value of each kind for each channel, in the order of the set-up. */
export interface LiveFrame {
  /** Counts the steps; a set-up starts it anew. */
  sequence: number;
  timeMs: number;
  min: Float32Array;
  max: Float32Array;
  last: Float32Array;
  /** Mean of the raw readings. */
  raw: Float32Array;
  /** Mean and mean square of the readings in this step. */
  mean: Float32Array;
  square: Float32Array;
  state: Uint8Array;
}

export type EngineMessage =
  | { say: 'ready' }
  | {
      say: 'answer';
      id: number;
      value?: unknown;
      error?: { code: string; text: { what: string; where?: string; why?: string; next?: string } };
    }
  | { say: 'status'; status: EngineStatus }
  /** @prop anew channels whose readings mean something else than before, or are begun anew */
  | { say: 'setup'; channelIds: string[]; anew?: string[] }
  | { say: 'frame'; frame: LiveFrame }
  | { say: 'waves'; waves: Wave[] }
  | { say: 'heard'; heard: HeardBand | CaughtTold | HeardFault }
  | { say: 'gathering'; unit: string; gathering: GatherTold }
  | { say: 'note'; kind: string; says: string; takeId: string | null; atMs: number; by: string }
  | { say: 'take'; head: TakeHead; durationS: number; hash: string | null }
  | { say: 'call'; address: string; body: unknown };
