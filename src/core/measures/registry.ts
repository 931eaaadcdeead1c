import { z } from 'zod';
import { badInput } from '../errors';
import { area, slope } from './curve';
import { level } from './level';
import type { MeasureKind } from './measure';
import { crossing, timeAbove, valueAtTime } from './moment';
import { there } from './there';

/** All kinds of measures, in the order they are offered. */
export const MEASURE_KINDS: readonly MeasureKind[] = [
  level,
  there,
  slope,
  area,
  timeAbove,
  crossing,
  valueAtTime,
] as unknown as MeasureKind[];

/** @throws `bad_input` for a kind that there is not */
export function measureKind(kind: string): MeasureKind {
  const found = MEASURE_KINDS.find((k) => k.kind === kind);
  if (!found) throw badInput('measure', kind, 'Choose one of the list.');
  return found;
}

/** A measure as it is kept: its kind and its settings, checked by the kind. */
export const Measure = z
  .strictObject({ kind: z.string().max(40), settings: z.record(z.string().max(40), z.unknown()) })
  .superRefine(({ kind, settings }, context) => {
    const found = MEASURE_KINDS.find((k) => k.kind === kind);
    const issue = found
      ? found.sentence.schema.safeParse(settings).error?.issues[0]
      : { message: 'There is no such measure.' };
    if (issue) context.addIssue({ code: 'custom', message: issue.message, input: settings });
  });
export type Measure = z.infer<typeof Measure>;
