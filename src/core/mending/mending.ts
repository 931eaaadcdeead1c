import type { z } from 'zod';
import type { SampledHead } from '../samples/sampled';
import type { Sentence } from '../sentence/sentence';

/** A block of values and the index of its first one. */
export interface Block {
  first: number;
  values: Float32Array;
}

/** What a step says of itself: how many samples it changed. */
export interface Tally {
  changed: number;
}

/** What a mending makes of a channel. */
export interface MendedAs {
  /** The channel as it is called and read after it. */
  name?: string;
  unit?: string;
  /** A straight line on all values: no sample has to be stored anew. */
  line?: { factor: number; offset: number };
  /** Blocks in their order to blocks in their order, with as little held back as it takes. Values may be changed in place. */
  blocks?: (blocks: Iterable<Block>, tally: Tally) => Iterable<Block>;
  /** Samples of another channel take the place of its own, read by its own conversion. */
  swappedWith?: string;
}

/** The socket: a way to mend a channel of a take without touching what was recorded. */
export interface MendingKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  /** For the list of what can be done. */
  title: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  /** @throws `bad_input` where the settings do not suit the channel */
  mend(
    settings: z.infer<S>,
    channel: Pick<SampledHead, 'name' | 'unit' | 'rate' | 'startNs' | 'length'>,
  ): MendedAs;
}
