import { z } from 'zod';
import { RESIDUES, Rainflow, type CycleSink, type Residue } from '../../counting/rainflow';
import { TurningPoints } from '../../counting/turning';
import type { Sampled } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import { readSpan } from '../span';
import type { CancelSignal, Progress } from '../study';

/** The fields of a study that counts cycles. */
export const cycleFields = {
  hysteresis: field(z.number().min(0, 'At least 0.').max(1e12).nullable(), {
    label: 'Smallest range',
    editor: 'number',
    unitFrom: 'channel',
    none: 'one class',
    help: 'Ranges up to this are dropped before anything is counted: the signal has to turn back by more.',
  }),
  residue: field(z.enum(RESIDUES), {
    label: 'Residue',
    editor: 'choice',
    options: RESIDUES,
    help: 'Turning points that close no cycle: often the largest of all. As halves each range counts half (ASTM E1049, 5.4.4); closed by repeating, the history is taken as one that comes again and again (5.4.5).',
  }),
};

/** Tells the cycles of a span by rainflow counting. @returns how many samples were missing: they are passed over */
export function countCycles(
  input: Sampled,
  { first, end }: { first: number; end: number },
  { hysteresis, residue }: { hysteresis: number; residue: Residue },
  sink: CycleSink,
  progress: Progress,
  signal: CancelSignal,
): { missing: number; turningPoints: number } {
  const rainflow = new Rainflow(sink);
  let turningPoints = 0;
  const turning = new TurningPoints(hysteresis, (values, indices, count) => {
    turningPoints += count;
    rainflow.feed(values, indices, count);
  });
  let missing = 0;
  let at = first;
  readSpan(
    input,
    first,
    end,
    (block) => {
      turning.push(block, at);
      at += block.length;
      for (let i = 0; i < block.length; i++) if (block[i] !== block[i]) missing++;
    },
    progress,
    signal,
  );
  turning.end();
  rainflow.end(residue);
  return { missing, turningPoints };
}
