import type { z } from 'zod';
import type { Figure } from '../figures/figure';
import type { Block } from '../mending/mending';
import type { Sampled, SampledHead } from '../samples/sampled';
import type { Sentence } from '../sentence/sentence';
import type { CancelSignal, Role } from '../studies/study';

/** A signal as it is going to be, and its values: real, in their order, as they are asked for. */
export interface Made extends Pick<SampledHead, 'unit' | 'rate' | 'startNs' | 'length'> {
  /** Added to the name of what it is made from, or its own name where it is made from several. */
  name: string;
  blocks(signal: CancelSignal): Iterable<Block>;
}

/** What a signal is made from, beside what stands in the roles. */
export interface Beside {
  /** A signal of the take by its name. */
  named(name: string): Sampled | undefined;
}

/** The socket: a way to make signals from signals. What it makes is a channel like any other. */
export interface MakingKind<S extends z.ZodObject = z.ZodObject> {
  kind: string;
  /** For the list of what can be made. */
  title: string;
  sentence: Sentence<S>;
  defaults: z.infer<S>;
  roles: readonly Role[];
  /** What stands beside a gap. */
  gaps: string;
  /** Settings that suit what it is made from, where the usual ones do not. */
  suited?(input: Pick<SampledHead, 'rate' | 'length' | 'unit' | 'name'>): Partial<z.infer<S>>;
  /** @throws `bad_input` where the settings do not suit */
  make(inputs: Record<string, Sampled[]>, settings: z.infer<S>, beside: Beside): Made[];
  /** What it does to each frequency, where that can be drawn. @throws as make */
  response?(settings: z.infer<S>, rateHz: number): Figure;
}
