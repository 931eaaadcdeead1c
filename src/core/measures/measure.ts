import type { z } from 'zod';
import type { Sampled } from '../samples/sampled';
import type { Sentence } from '../sentence/sentence';

/** A take as a measure sees it: its channels by their names. */
export interface Measured {
  name: string;
  durationS: number;
  /** @throws `bad_input` naming the channel that the take does not hold */
  channel(name: string): Sampled;
}

/** One number of a take, with the place where it stands in it. */
export interface MeasureResult {
  value: number;
  unit: string;
  /** s from the start; null where it stands for no single moment. */
  atS: number | null;
}

/** The socket: a number that a sentence asks of a take. Channels are settings by their names, so that it fits any take that has them. */
export interface MeasureKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  /** For the list of what can be measured. */
  title: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  /** What its column is called. */
  name(settings: z.infer<S>): string;
  /** @throws `bad_input` where the take has no such place, in words */
  run(take: Measured, settings: z.infer<S>): MeasureResult;
}
