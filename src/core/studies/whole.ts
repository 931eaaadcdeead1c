import { badInput } from '../errors';
import type { Sampled } from '../samples/sampled';
import { readSpan } from './span';
import type { CancelSignal, Progress } from './study';

/** More samples than this are not held in memory. */
const MOST = 40_000_000;

/** All samples of a span at once, for methods that cannot do with a part at a time. @throws `bad_input` for more than 40 million */
export function readWhole(
  input: Sampled,
  { first, end }: { first: number; end: number },
  progress: Progress,
  signal: CancelSignal,
): Float32Array {
  if (end - first > MOST)
    throw badInput(
      'span',
      `${end - first} samples of ${input.name}`,
      `This study looks at ${MOST / 1e6} million at once: choose a shorter span.`,
    );
  const out = new Float32Array(end - first);
  let at = 0;
  readSpan(input, first, end, (block) => (out.set(block, at), (at += block.length)), progress, signal);
  return out;
}
