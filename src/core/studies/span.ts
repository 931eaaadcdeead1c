import { z } from 'zod';
import { cancelled, badInput } from '../errors';
import { samplesWithin, type Sampled } from '../samples/sampled';
import { field } from '../sentence/sentence';
import { CHUNK, type CancelSignal, type Progress } from './study';

/** The span that is looked at. */
export const spanFields = {
  from: field(z.number().min(0).max(1e9), {
    label: 'From',
    editor: 'number',
    unit: 's',
    help: 'Seconds after the start of the take.',
  }),
  to: field(z.number().min(0).max(1e9).nullable(), {
    label: 'To',
    editor: 'number',
    unit: 's',
    none: 'the end',
    help: 'Seconds after the start of the take; empty means its end.',
  }),
};

/** The fields of a study that looks at channels over a span. */
export const channelFields = {
  channels: field(z.array(z.string()).max(200), {
    label: 'Channels',
    editor: 'channels',
    help: 'The channels of the take that are looked at; none chosen means all.',
  }),
  ...spanFields,
};

/** Samples of a signal that lie in [from, to). @throws `bad_input` when none does */
export function spanOf(
  input: Sampled,
  settings: { from: number; to: number | null },
): { first: number; end: number } {
  const { first, end } = samplesWithin(input, settings.from, settings.to);
  if (end <= first)
    throw badInput(
      'span',
      `${settings.from} s to ${settings.to ?? 'the end'}`,
      `It holds no sample of ${input.name}: choose a span inside the take.`,
    );
  return { first, end };
}

/** Reads a span chunk by chunk, telling progress and listening for cancel. */
export function readSpan(
  input: Sampled,
  first: number,
  end: number,
  each: (block: Float32Array) => void,
  progress: Progress,
  signal: CancelSignal,
): void {
  for (let at = first; at < end; at += CHUNK) {
    if (signal.aborted) throw cancelled(input.name);
    each(input.read(at, Math.min(CHUNK, end - at)));
    progress((Math.min(end, at + CHUNK) - first) / (end - first));
  }
}
