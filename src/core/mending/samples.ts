import { z } from 'zod';
import { badInput } from '../errors';
import { samplesWithin } from '../samples/sampled';
import { field } from '../sentence/sentence';
import type { Block, MendingKind, Tally } from './mending';

const seconds = (label: string, help: string) =>
  field(z.number().min(0).max(1e9), { label, editor: 'number', unit: 's', help });

const WITH = ['nothing: they are missing', 'a straight line'] as const;
const spikesSchema = z.strictObject({
  window: field(z.number().int().min(3, 'At least 3 samples.').max(1001, 'At most 1001 samples.'), {
    label: 'Samples beside it',
    editor: 'number',
    help: 'How many neighbours (half of them before it) say what is usual there. A spike has to be shorter than half of them.',
  }),
  times: field(z.number().min(1, 'At least 1.').max(1000), {
    label: 'Times the usual scatter',
    editor: 'number',
    help: 'The scatter is 1.4826 times the median distance from the median: the standard deviation of noise without spikes.',
  }),
  least: field(z.number().min(0).max(1e12), {
    label: 'At least',
    editor: 'number',
    unitFrom: 'unit',
    help: 'What is nearer than this to the median is never a spike, however quiet the rest is.',
  }),
  by: field(z.enum(WITH), { label: 'Replaced by', editor: 'choice', options: WITH }),
});

/** Spikes: what lies farther from the median of its neighbours than so many times their scatter (Hampel identifier: Davies and Gather, JASA 88,
 *  1993). */
export const spikes: MendingKind<typeof spikesSchema> = {
  kind: 'spikes',
  title: 'take spikes out',
  sentence: {
    schema: spikesSchema,
    template: () =>
      'Samples farther than {times} times the usual scatter, and at least {least}, from the median of {window} samples about them are replaced by {by}.',
  },
  defaults: { window: 21, times: 6, least: 0, by: 'a straight line' },
  mend: ({ window, times, least, by }) => ({
    blocks: (blocks, tally) => {
      const marked = withoutSpikes(blocks, window >> 1, times, least, tally);
      return by === WITH[0] ? unmarked(marked) : bridged(marked, Infinity, undefined, true);
    },
  }),
};

/** A spike that is to be told from a gap: a NaN with a payload would not survive every engine, infinity is no reading. */
const SPIKE = Infinity;

/** Values with spikes marked. Holds back half a window. */
function* withoutSpikes(
  blocks: Iterable<Block>,
  half: number,
  times: number,
  least: number,
  tally: Tally,
): Generator<Block> {
  let held = new Float32Array(0);
  let heldFirst = 0;
  /** How many of the held ones were given on; they stay as neighbours. */
  let given = 0;
  const near: number[] = [];
  function judged(to: number): Block {
    const out = held.slice(given, to);
    for (let i = given; i < to; i++) {
      const value = held[i];
      if (value !== value) continue;
      near.length = 0;
      for (let k = Math.max(0, i - half); k <= Math.min(held.length - 1, i + half); k++)
        if (held[k] === held[k]) near.push(held[k]);
      if (near.length < 3) continue;
      const middle = median(near);
      for (let k = 0; k < near.length; k++) near[k] = Math.abs(near[k] - middle);
      const scatter = 1.4826 * median(near);
      const away = Math.abs(value - middle);
      if (away > times * scatter && away > least) {
        out[i - given] = SPIKE;
        tally.changed++;
      }
    }
    const block = { first: heldFirst + given, values: out };
    const keep = Math.max(0, to - half);
    held = held.slice(keep);
    heldFirst += keep;
    given = to - keep;
    return block;
  }
  for (const { first, values } of blocks) {
    if (held.length && first !== heldFirst + held.length) {
      // What is missing between blocks parts them.
      if (given < held.length) yield judged(held.length);
      held = new Float32Array(0);
    }
    if (held.length === 0) [heldFirst, given] = [first, 0];
    const more = new Float32Array(held.length + values.length);
    more.set(held);
    more.set(values, held.length);
    held = more;
    if (held.length - half > given) yield judged(held.length - half);
  }
  if (given < held.length) yield judged(held.length);
}

/** The middle value, of an even number the lower one. Sorts what it is given. */
function median(values: number[]): number {
  values.sort((a, b) => a - b);
  return values[(values.length - 1) >> 1];
}

function* unmarked(blocks: Iterable<Block>): Generator<Block> {
  for (const block of blocks) {
    for (let i = 0; i < block.values.length; i++) if (block.values[i] === SPIKE) block.values[i] = NaN;
    yield block;
  }
}

/** Straight lines over what is missing, up to a number of samples; longer gaps stay. Holds back what may yet be bridged.
 *  @param marks bridge what is marked as a spike instead, and leave gaps alone */
function* bridged(blocks: Iterable<Block>, most: number, tally?: Tally, marks = false): Generator<Block> {
  const missing = (v: number) => (marks ? v === SPIKE : v !== v);
  let before = NaN;
  let waiting: Float32Array = new Float32Array(0);
  let waitingFirst = 0;
  const close = (after: number) => {
    const n = waiting.length;
    const bridge = n <= most && before === before && after === after;
    if (bridge && tally) tally.changed += n;
    return waiting.map((_, i) => (bridge ? before + ((i + 1) / (n + 1)) * (after - before) : NaN));
  };
  let next = -1;
  for (const { first, values } of blocks) {
    if (first !== next && next >= 0) {
      if (waiting.length) yield { first: waitingFirst, values: close(NaN) };
      [waiting, before] = [new Float32Array(0), NaN];
    }
    next = first + values.length;
    let i = 0;
    const parts: Float32Array[] = [];
    const partsFirst = waiting.length ? waitingFirst : first;
    while (i < values.length) {
      if (waiting.length || missing(values[i])) {
        let end = i;
        while (end < values.length && missing(values[end])) end++;
        if (waiting.length === 0) waitingFirst = first + i;
        const longer = new Float32Array(waiting.length + end - i).fill(NaN);
        waiting = longer;
        i = end;
        if (i < values.length) {
          parts.push(close(values[i]));
          waiting = new Float32Array(0);
        } else if (waiting.length > most) {
          // Too long already: it stays missing, and nothing is held back for it.
          parts.push(waiting);
          [waiting, before] = [new Float32Array(0), NaN];
        }
      } else {
        let end = i;
        while (end < values.length && !missing(values[end])) end++;
        parts.push(values.subarray(i, end));
        before = values[end - 1];
        i = end;
      }
    }
    const length = parts.reduce((sum, p) => sum + p.length, 0);
    if (length === 0) continue;
    const out = new Float32Array(length);
    let at = 0;
    for (const part of parts) {
      out.set(part, at);
      at += part.length;
    }
    yield { first: partsFirst, values: out };
  }
  if (waiting.length) yield { first: waitingFirst, values: close(NaN) };
}

const bridgeSchema = z.strictObject({
  most: field(z.number().int().min(1, 'At least 1 sample.').max(100_000, 'At most 100,000 samples.'), {
    label: 'Up to',
    editor: 'number',
    help: 'Samples. Longer drop-outs stay missing.',
  }),
});
/** Drop-outs bridged by a straight line. */
export const bridge: MendingKind<typeof bridgeSchema> = {
  kind: 'bridge',
  title: 'bridge drop-outs',
  sentence: {
    schema: bridgeSchema,
    template: () => 'Drop-outs of up to {most} samples are bridged by a straight line.',
  },
  defaults: { most: 5 },
  mend: ({ most }) => ({ blocks: (blocks, tally) => bridged(blocks, most, tally) }),
};

const missingSchema = z.strictObject({
  from: seconds('From', 'After the start of the take.'),
  to: seconds('To', 'After the start of the take.'),
});
/** A span that says nothing of what was measured. */
export const missing: MendingKind<typeof missingSchema> = {
  kind: 'missing',
  title: 'call a span missing',
  sentence: { schema: missingSchema, template: () => 'From {from} to {to} nothing counts as measured.' },
  defaults: { from: 0, to: 1 },
  mend({ from, to }, channel) {
    if (!(to > from)) throw badInput('To', `${to} s`, 'The end has to come after the start.');
    const span = samplesWithin(channel, from, to);
    if (span.end <= span.first)
      throw badInput('span', `${from} to ${to} s`, `It holds no sample of ${channel.name}.`);
    return { blocks: (blocks, tally) => emptied(blocks, span, tally) };
  },
};
function* emptied(
  blocks: Iterable<Block>,
  span: { first: number; end: number },
  tally: Tally,
): Generator<Block> {
  for (const block of blocks) {
    const from = Math.max(0, span.first - block.first);
    const to = Math.min(block.values.length, span.end - block.first);
    for (let i = from; i < to; i++) {
      if (block.values[i] === block.values[i]) tally.changed++;
      block.values[i] = NaN;
    }
    yield block;
  }
}

const value = (label: string) =>
  field(z.number().min(-1e12).max(1e12), { label, editor: 'number', unitFrom: 'unit' });
const driftSchema = z.strictObject({
  first: value('Too high by'),
  from: seconds('At first', 'After the start of the take.'),
  last: value('Later too high by'),
  to: seconds('Later', 'After the start of the take.'),
});
/** A drift that is known at two moments, taken out along a straight line. */
export const drift: MendingKind<typeof driftSchema> = {
  kind: 'drift',
  title: 'take a drift out',
  sentence: {
    schema: driftSchema,
    template: () => 'It read too high by {first} at {from} and by {last} at {to}: that line is taken off.',
  },
  defaults: { first: 0, from: 0, last: 0, to: 1 },
  mend({ first, from, last, to }, { rate, startNs }) {
    if (from === to) throw badInput('Later', `${to} s`, 'Give two different moments.');
    const perSecond = (last - first) / (to - from);
    const step = (perSecond * rate.den) / rate.num;
    const begin = first + perSecond * (startNs / 1e9 - from);
    return {
      blocks: (blocks, tally) => sloped(blocks, (index) => begin + index * step, tally),
    };
  },
};
function* sloped(blocks: Iterable<Block>, line: (index: number) => number, tally: Tally): Generator<Block> {
  for (const block of blocks) {
    for (let i = 0; i < block.values.length; i++) block.values[i] -= line(block.first + i);
    tally.changed += block.values.length;
    yield block;
  }
}
