import { asFarrierError, badInput } from '$core/errors';
import type { Measured, MeasureResult } from '$core/measures/measure';
import { measureKind, type Measure } from '$core/measures/registry';
import { TakeReader } from '$store/take/reader';

export type MeasureOutcome = MeasureResult | { fault: string };

/** What some measures find in a take; of one that finds nothing, why. */
export function measure({ path, measures }: { path: string; measures: Measure[] }): MeasureOutcome[] {
  let reader: TakeReader;
  try {
    reader = new TakeReader(path);
  } catch (error) {
    const fault = asFarrierError(error, path).message;
    return measures.map(() => ({ fault }));
  }
  try {
    const take = asMeasured(reader);
    return measures.map(({ kind, settings }) => {
      try {
        return measureKind(kind).run(take, settings);
      } catch (error) {
        return { fault: asFarrierError(error, reader.head.name).message };
      }
    });
  } finally {
    reader.close();
  }
}

const asMeasured = (reader: TakeReader): Measured => ({
  name: reader.head.name,
  durationS: reader.durationS,
  channel(name) {
    const found = reader.signals.find((s) => s.channelId && s.name === name);
    if (!found) throw badInput('channel', name || 'none', `${reader.head.name} does not hold it.`);
    if (found.width === 2) throw badInput(name, 'complex samples', 'Choose a channel of real samples.');
    return reader.sampled(found.id);
  },
});
