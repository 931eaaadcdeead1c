import { z } from 'zod';
import { badInput } from '../errors';
import type { Sampled } from '../samples/sampled';
import { sentenceText } from '../sentence/sentence';
import { CHUNK } from '../studies/study';
import type { Block, MendedAs, MendingKind, Tally } from './mending';
import { offset, polarity, rename, swap, unit } from './plain';
import { bridge, drift, missing, spikes } from './samples';

/** All ways to mend, in the order they are offered. */
export const MENDING_KINDS: readonly MendingKind[] = [
  spikes,
  offset,
  drift,
  bridge,
  missing,
  polarity,
  rename,
  unit,
  swap,
] as unknown as MendingKind[];

/** @throws `bad_input` for a kind that there is not */
export function mendingKind(kind: string): MendingKind {
  const found = MENDING_KINDS.find((k) => k.kind === kind);
  if (!found) throw badInput('mending', kind, 'Choose one of the list.');
  return found;
}

/** A mending as it is kept. */
export const Mending = z.strictObject({
  kind: z.string().max(40),
  settings: z.record(z.string().max(40), z.unknown()),
});
export type Mending = z.infer<typeof Mending>;

/** A mending in words. */
export function mendText({ kind, settings }: Mending, { unit }: { unit: string }): string {
  const found = MENDING_KINDS.find((k) => k.kind === kind);
  if (!found) return 'Mended in a way that this version does not know.';
  return sentenceText(found.sentence, { unit, ...settings }, { channel: (name) => ({ name, unit }) });
}

type Head = Pick<Sampled, 'name' | 'unit' | 'rate' | 'startNs' | 'length'>;

/** What several mendings, one after the other, make of a channel. @throws `bad_input` where one does not suit */
export function mendAll(
  mendings: readonly Mending[],
  channel: Head,
): { name: string; unit: string; steps: MendedAs[] } {
  let head = { ...channel };
  const steps = mendings.map(({ kind, settings }) => {
    const step = mendingKind(kind).mend(settings, head);
    head = { ...head, name: step.name ?? head.name, unit: step.unit ?? head.unit };
    return step;
  });
  return { name: head.name, unit: head.unit, steps };
}

/** Values of a channel after its mendings, block by block. @param tallies one for each step */
export function mended(
  source: Sampled,
  steps: readonly MendedAs[],
  tallies: readonly Tally[],
): Iterable<Block> {
  let blocks: Iterable<Block> = blocksOf(source);
  steps.forEach((step, k) => {
    if (step.blocks) blocks = step.blocks(blocks, tallies[k]);
    if (step.line) blocks = scaled(blocks, step.line, tallies[k]);
  });
  return blocks;
}

function* blocksOf(source: Sampled): Generator<Block> {
  for (let first = 0; first < source.length; first += CHUNK)
    yield { first, values: Float32Array.from(source.read(first, Math.min(CHUNK, source.length - first))) };
}
function* scaled(
  blocks: Iterable<Block>,
  { factor, offset }: { factor: number; offset: number },
  tally: Tally,
): Generator<Block> {
  for (const block of blocks) {
    for (let i = 0; i < block.values.length; i++) block.values[i] = block.values[i] * factor + offset;
    tally.changed += block.values.length;
    yield block;
  }
}
