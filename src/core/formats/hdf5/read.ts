import type { Dataset, Entity, Group } from 'h5wasm';
import { FarrierError, badInput, damaged } from '../../errors';
import { sampledOf, type Sampled } from '../../samples/sampled';
import type { Recording, Source } from '../format';
import { isTimeName, signalsOfColumns } from '../grid';
import { hdf5Library, mounted, placeOf } from './place';

/** Numbers that are held in memory at the most, and signals. */
const NUMBERS_MOST = 200e6;
const SIGNALS_MOST = 2000;
/** Groups within groups that are looked into. */
const DEEP = 12;

/** Vectors and columns of an HDF5 file as signals: ours with all that they say, those of other programs by name or all.
 *  @throws `damaged`, `bad_input` naming the dataset */
export function readHdf5(
  source: Source,
  options: { datasets: string | null; rateHz: number | null },
): Recording {
  return mounted(placeOf(source), (path) => {
    let file: InstanceType<ReturnType<typeof hdf5Library>['File']> | null = null;
    try {
      file = new (hdf5Library().File)(path, 'r');
      const name = source.name.replace(/\.[^.]*$/, '');
      return words(file, 'format') === 'farrier-recording'
        ? ours(file, name)
        : foreign(file, source.name, options);
    } catch (error) {
      if (error instanceof FarrierError) throw error;
      throw damaged(source.name, `It cannot be read: ${String((error as Error).message ?? error).slice(0, 200)}.`, 'Write it again, or copy it again.'); // prettier-ignore
    } finally {
      file?.close();
    }
  });
}

function ours(file: Group, usual: string): Recording {
  const facts = groupIn(file, 'facts');
  const signals = groupIn(file, 'signals');
  const room = new Room();
  return {
    name: words(file, 'name') ?? usual,
    start: words(file, 'start') ?? null,
    facts: facts ? Object.keys(facts.attrs).map((key) => [key, words(facts, key) ?? '']) : [],
    signals: (signals?.keys() ?? []).map((key) => {
      const group = groupIn(signals!, key);
      const values = group && datasetIn(group, 'values');
      if (!values) throw damaged(`signals/${key}`, 'It holds no values.', 'Copy the file again.');
      const [num, den] = [whole(group, 'rate_num'), whole(group, 'rate_den')];
      if (!(num > 0 && den > 0)) throw damaged(`signals/${key}`, 'It says no rate.', 'Copy the file again.');
      const width = (values.shape?.length ?? 1) === 2 ? 2 : 1;
      return sampledOf(
        {
          id: key,
          name: words(group, 'name') ?? key,
          unit: words(group, 'unit') ?? '1',
          quantity: words(group, 'quantity') ?? '',
          rate: { num, den },
          startNs: whole(group, 'start_ns') || 0,
          width,
        },
        Float32Array.from(room.numbers(values)),
      );
    }),
  };
}

/** Every vector, and every column of a matrix; one that is named time is the times of those of its length beside it. */
function foreign(
  file: Group,
  fileName: string,
  { datasets, rateHz }: { datasets: string | null; rateHz: number | null },
): Recording {
  const wanted = datasets?.split(',').map((p) => `/${p.trim().replace(/^\/+/, '')}`);
  const found = wanted ? wanted.map((path) => named(file, path)) : vectorsIn(file);
  if (found.length === 0) throw badInput('file', fileName, 'It holds no vectors of numbers.');
  const room = new Room();
  const columns = found.flatMap((dataset) => {
    const [rows, several = 1] = dataset.shape!;
    const all = room.numbers(dataset);
    const unit = words(dataset, 'unit') ?? words(dataset, 'units') ?? '1';
    const own = rateOf(dataset);
    const folder = dataset.path.replace(/\/[^/]*$/, '');
    const name = dataset.path.split('/').at(-1)!;
    return Array.from({ length: several }, (_, k) => ({
      folder,
      name: several > 1 ? `${name} ${k + 1}` : name,
      unit,
      own,
      values: several > 1 ? Float64Array.from({ length: rows }, (_, i) => all[i * several + k]) : all,
    }));
  });
  if (columns.length > SIGNALS_MOST)
    throw badInput('datasets', columns.length, `Up to ${SIGNALS_MOST} are read: name those that are wanted.`);
  const clocks = columns.filter((c) => isTimeName(c.name));
  const taken = new Set<string>();
  const signals = columns
    .filter((c) => !clocks.includes(c))
    .flatMap((column): Sampled[] => {
      const clock = clocks.find((c) => c.folder === column.folder && c.values.length === column.values.length); // prettier-ignore
      const rate = rateHz ?? column.own;
      if (!clock && rate === null)
        throw badInput('Sample rate', `not said by ${column.folder}/${column.name}`, 'Give the sample rate.');
      return signalsOfColumns([column], clock?.values ?? null, clock && rateHz === null ? null : rate);
    });
  for (const s of signals) {
    for (let n = 2, own = s.name; taken.has(s.name); n++) s.name = `${own} ${n}`;
    taken.add(s.name);
    s.id = s.name;
  }
  return { name: fileName.replace(/\.[^.]*$/, ''), start: null, facts: [], signals };
}

/** What others write the rate or the step as. */
function rateOf(dataset: Dataset): number | null {
  for (const key of ['rate', 'sample_rate', 'sampling_rate', 'fs', 'Fs', 'samplerate'])
    if (number(dataset, key) > 0) return number(dataset, key);
  for (const key of ['dt', 'step', 'wf_increment'])
    if (number(dataset, key) > 0) return 1 / number(dataset, key);
  return null;
}

function named(file: Group, path: string): Dataset {
  const entity = file.get(path);
  if (!isDataset(entity) || !isVector(entity))
    throw badInput('datasets', path, 'There is no vector of numbers of this name.');
  return entity;
}

function vectorsIn(group: Group, deep = 0): Dataset[] {
  if (deep > DEEP) return [];
  return group.keys().flatMap((key) => {
    // Links to elsewhere are not followed.
    const entity = group.get(key);
    if (isDataset(entity)) return isVector(entity) ? [entity] : [];
    return isGroup(entity) ? vectorsIn(entity, deep + 1) : [];
  });
}
const isDataset = (entity: Entity | null): entity is Dataset => entity instanceof hdf5Library().Dataset;
const isGroup = (entity: Entity | null): entity is Group => entity instanceof hdf5Library().Group;
/** Numbers in one or two dimensions, two at least. */
function isVector({ metadata, shape }: Dataset): boolean {
  const plain = metadata.type === 0 || metadata.type === 1;
  return plain && !!shape && (shape.length === 1 || shape.length === 2) && shape[0] > 1 && (shape[1] ?? 1) > 0;
} // prettier-ignore

const groupIn = (group: Group, key: string): Group | null => {
  const entity = group.get(key);
  return isGroup(entity) ? entity : null;
};
const datasetIn = (group: Group, key: string): Dataset | null => {
  const entity = group.get(key);
  return isDataset(entity) ? entity : null;
};

/** Numbers of all datasets together are bounded: what a file says of its size costs nothing by itself. */
class Room {
  private left = NUMBERS_MOST;
  numbers(dataset: Dataset): Float64Array {
    const count = (dataset.shape ?? []).reduce((product, n) => product * n, 1);
    this.left -= count;
    if (this.left < 0) throw badInput('datasets', `${count} numbers in ${dataset.path}`, 'Up to 200 million numbers are read: name fewer datasets.'); // prettier-ignore
    const value = dataset.value;
    if (!ArrayBuffer.isView(value)) throw damaged(dataset.path, 'It holds no numbers.', 'Choose another dataset.'); // prettier-ignore
    return Float64Array.from(value as unknown as ArrayLike<number>, Number);
  }
}

const held = (of: Group | Dataset, key: string) => (key in of.attrs ? of.attrs[key].value : null);
function words(of: Group | Dataset, key: string): string | undefined {
  const value = held(of, key);
  return typeof value === 'string' ? value : undefined;
}
const number = (of: Group | Dataset, key: string): number => {
  const value = held(of, key);
  if (typeof value === 'number' || typeof value === 'bigint') return Number(value);
  return ArrayBuffer.isView(value) ? Number((value as unknown as ArrayLike<number>)[0]) : NaN;
};
const whole = (of: Group | Dataset, key: string): number => Math.round(number(of, key));
