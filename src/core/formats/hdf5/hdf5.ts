import type { Dataset, Group } from 'h5wasm';
import { z } from 'zod';
import { badInput } from '../../errors';
import { rateHz } from '../../samples/sampled';
import { field } from '../../sentence/sentence';
import type { FormatKind, Recording } from '../format';
import { Pieces, hdf5Library, loadHdf5, mounted } from './place';
import { readHdf5 } from './read';

/** Samples that are written at a time, and that lie together. */
const SOME = 1 << 17;
/** What is held in memory while a file is made, bytes. */
const BYTES_MOST = 3e9;

const writing = z.strictObject({
  packed: field(z.enum(['as they are', 'packed']), {
    label: 'Samples',
    editor: 'choice',
    options: ['as they are', 'packed'],
    help: 'Packed (deflate) is smaller and slower; every reader knows it.',
  }),
});
const reading = z.strictObject({
  datasets: field(z.string().trim().max(2000).nullable(), {
    label: 'Datasets',
    editor: 'text',
    none: 'all vectors and columns of numbers',
    help: 'Paths such as /run1/force, with commas between them.',
  }),
  rateHz: field(z.number().positive().max(1e9).nullable(), {
    label: 'Sample rate',
    editor: 'number',
    unit: 'S/s',
    none: 'the rate that they say',
    help: 'For datasets that say none.',
  }),
});

/** HDF5 (version 1.8 and later) of our own layout: /signals/001 and on, each a vector “values” in single precision with its name, unit, exact rate and start as
 *  attributes; facts as attributes of /facts. Missing samples are NaN. */
export const hdf5: FormatKind<typeof writing, typeof reading> = {
  kind: 'hdf5',
  title: 'HDF5, all samples',
  extensions: ['h5', 'hdf5', 'hdf', 'he5'],
  mediaType: 'application/x-hdf5',
  cannotCarry: 'Marks, mendings and the raw values stay in the take.',
  prepare: loadHdf5,
  writing: {
    complex: true,
    whole: true,
    sentence: { schema: writing, template: () => 'All samples {packed}.' },
    defaults: { packed: 'as they are' },
    *write(recording, options) {
      const { signals } = recording;
      if (signals.length === 0) throw badInput('channels', 'none', 'Choose at least one channel to export.');
      const bytes = signals.reduce((sum, s) => sum + s.length * s.width * 4, 0);
      if (bytes > BYTES_MOST)
        throw badInput('samples', `${Math.round(bytes / 1e6)} MB`, 'Up to 3 GB are written as one file: choose fewer channels.'); // prettier-ignore
      const place = new Pieces();
      mounted(place, (path) => write(path, recording, options.packed === 'packed'));
      yield* place.taken();
    },
  },
  reading: {
    sentence: { schema: reading, template: () => 'Take {datasets}, sampled at {rateHz}.' },
    defaults: { datasets: null, rateHz: null },
    recognises: (source) => [...source.read(0, 8)].join() === '137,72,68,70,13,10,26,10',
    read: readHdf5,
  },
};

function write(path: string, { name, start, facts, signals, about, job }: Recording, packed: boolean): void {
  const file = new (hdf5Library().File)(path, 'w');
  try {
    text(file, { format: 'farrier-recording', name, start: start ?? '', job: job ?? '' });
    file.create_attribute('version', 1, null, '<i');
    text(file.create_group('facts'), Object.fromEntries(facts));
    const all = file.create_group('signals');
    signals.forEach((signal, k) => {
      const { length, width, unit, quantity, rate, startNs } = signal;
      const group = all.create_group(String(k + 1).padStart(3, '0'));
      text(group, { name: signal.name, unit, quantity, ...Object.fromEntries(about?.get(signal.id) ?? []) });
      group.create_attribute('rate', Float64Array.of(rateHz(signal)), [], '<d');
      for (const [key, value] of Object.entries({
        rate_num: rate.num,
        rate_den: rate.den,
        start_ns: startNs,
      }))
        group.create_attribute(key, BigInt64Array.of(BigInt(Math.round(value))), [], '<q');
      const pair = width === 2 ? [2] : [];
      // Made empty and then longer: the library would ask for all of it at once.
      const values = group.create_dataset({
        name: 'values',
        data: new Float32Array(0),
        shape: [0, ...pair],
        maxshape: [null, ...pair],
        chunks: [Math.max(1, Math.min(SOME, length)), ...pair],
        dtype: '<f',
        ...(packed && { compression: 4 }),
      });
      if (length > 0) values.resize([length, ...pair]);
      text(values, { unit });
      for (let at = 0; at < length; at += SOME) {
        const n = Math.min(SOME, length - at);
        const rows: [number, number] = [at, at + n];
        values.write_slice(width === 2 ? [rows, [0, 2]] : [rows], signal.read(at, n));
      }
    });
  } finally {
    file.close();
  }
}

/** Words as attributes; what has none is left out: there are no empty texts in some readers. */
function text(of: Group | Dataset, attributes: Record<string, string>): void {
  for (const [key, value] of Object.entries(attributes))
    if (key !== '' && value !== '') of.create_attribute(key.replaceAll('/', '-'), value);
}
