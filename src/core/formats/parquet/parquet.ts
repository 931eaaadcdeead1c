import { z } from 'zod';
import { badInput } from '../../errors';
import { field } from '../../sentence/sentence';
import type { FormatKind } from '../format';
import { FileNames } from '../file-names';

const writing = z.strictObject({});
const reading = z.strictObject({
  rateHz: field(z.number().positive().max(1e9).nullable(), {
    label: 'Sample rate',
    editor: 'number',
    unit: 'S/s',
    none: 'the rate of its times',
    help: 'For a file without a column of times.',
  }),
});

let work: (typeof import('./write') & typeof import('./read')) | null = null;

/** Apache Parquet, a folder partitioned by job, take and channel: in each file a row for every sample that there is, its time in s from the start and its value;
 *  names, unit, exact rate and calibration stand in the file's metadata. */
export const parquet: FormatKind<typeof writing, typeof reading> = {
  kind: 'parquet',
  title: 'Parquet folder, for many takes at once',
  extensions: ['parquet'],
  mediaType: 'application/vnd.apache.parquet',
  cannotCarry: 'Marks, mendings and the raw values stay in the take; missing samples have no row.',
  prepare: async () => (work ??= { ...(await import('./write')), ...(await import('./read')) }),
  writing: {
    sentence: { schema: writing, template: () => 'A file for each channel, a row for each sample that there is.' },
    defaults: {},
    *write(recording) {
      const { signals, name, job } = recording;
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const names = new FileNames();
      const [jobName, takeName] = [job ?? '', name].map((n) => partition(n));
      for (const signal of signals) {
        const folder = `${jobName ? `job=${jobName}/` : ''}take=${takeName}/channel=${partition(names.of(signal.name))}`;
        yield { file: `${folder}/samples.parquet` };
        yield* work!.fileOf(recording, signal);
      }
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'Columns of numbers, sampled at {rateHz}.' },
    defaults: { rateHz: null },
    recognises: (source) => new TextDecoder('latin1').decode(source.read(0, 4)) === 'PAR1',
    read: (source, options) => work!.readParquet(source, options),
  },
}; // prettier-ignore

/** A value within a path, as query engines write it: percent signs for what a path cannot hold. */
const partition = (value: string) =>
  value.replace(/[^\p{L}\p{N} _.,()+-]/gu, (c) => encodeURIComponent(c).replace(/['*~!]/g, (x) => `%${x.charCodeAt(0).toString(16)}`)); // prettier-ignore
