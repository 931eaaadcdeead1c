import { z } from 'zod';
import type { Gathered, GatherStep } from '$core/radio/gathering';

/** What a receiver is asked to gather, step by step; it is tuned back afterwards. */
export const GatherWish = z.object({
  /** Of whoever asked: what is told names it. */
  id: z.string().max(40),
  steps: z.array(z.custom<GatherStep>()).min(1).max(20_000),
});
export type GatherWish = z.infer<typeof GatherWish>;

/** How gathering goes: a step that is whole, how far one is that takes long, or why it ended before its end. */
export type GatherTold = { id: string } & (
  { step: number; gathered: Gathered } | { step: number; share: number } | { fault: string; next: string }
);
