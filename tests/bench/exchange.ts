import { closeSync, mkdirSync, openSync, rmSync, statSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { bytesOf } from '$core/formats/zipped';
import { formatKind } from '$core/formats/registry';
import type { Recording } from '$core/formats/format';
import type { Sampled } from '$core/samples/sampled';
import { NEW_SPREADSHEET } from '$contract/spreadsheet';
import { closeApp, openApp, takePath } from '$service/app';
import { importTake } from '$service/exchange';
import { printed } from '../unit/made';
import { addReport, viewReport, writeReport } from '$service/report/reports';
import { writeBook } from '$service/sheets/book';
import { numbers } from '$service/sheets/sheet';
import { writeSheets } from '$service/sheets/write';
import { makeTake, onDisk } from '../unit/takes';
import { report } from './report';

const MB = 1e6;

/** A signal that costs nothing to read: what is measured is the writing. */
function cheap(length: number): Sampled {
  const block = Float32Array.from({ length: 1 << 20 }, (_, i) => Math.sin(i / 50) * 40 + (i % 7));
  return { id: 'a', name: 'Tie rod load', quantity: 'force', unit: 'kN', rate: { num: 51_200, den: 1 }, startNs: 0, width: 1, length, read: (_, n) => block.subarray(0, n) }; // prettier-ignore
}
const recording = (length: number): Recording => ({ name: 'Long', start: null, facts: [], signals: [cheap(length)] }); // prettier-ignore

function write(path: string, pieces: Iterable<Uint8Array>): { seconds: number; bytes: number } {
  const began = performance.now();
  const file = openSync(path, 'w');
  for (const piece of pieces) for (let done = 0; done < piece.length;) done += writeSync(file, piece, done);
  closeSync(file);
  const seconds = (performance.now() - began) / 1000;
  const bytes = statSync(path).size;
  rmSync(path);
  return { seconds, bytes };
}
/** The same bytes from memory. */
const plainly = (path: string, bytes: number) => {
  const piece = new Uint8Array(1 << 20).fill(65);
  return write(
    path,
    (function* () {
      for (let left = bytes; left > 0; left -= piece.length)
        yield piece.subarray(0, Math.min(left, piece.length));
    })(),
  );
};

/** What goes out and comes in as files. @param samples of the large recordings */
export async function exchange(folder: string, samples: number): Promise<void> {
  const own = join(folder, 'exchange');
  mkdirSync(own, { recursive: true });
  for (const [kind, length] of [
    ['hdf5', samples],
    ['parquet', samples],
    ['csv', 5_000_000],
  ] as const) {
    const format = formatKind(kind);
    await format.prepare?.();
    const made = write(join(own, kind), bytesOf(format.writing!.write(recording(length), format.writing!.defaults as never))); // prettier-ignore
    const plain = plainly(join(own, 'plain'), made.bytes);
    report({ name: `${kind} of ${length / 1e6} million samples`, value: made.bytes / MB / made.seconds, unit: 'MB/s', reference: `writing the same ${Math.round(made.bytes / MB)} MB from memory, ${Math.round(plain.bytes / MB / plain.seconds)} MB/s`, ratio: plain.seconds / made.seconds }); // prettier-ignore
  }
  await sheets(own);
  await papers(own);
}

async function sheets(own: string): Promise<void> {
  const data = join(own, 'data');
  mkdirSync(data);
  const app = openApp(data);
  const to = join(own, 'a.xlsx');
  const began = performance.now();
  function* rows() {
    for (let i = 0; i < 100_000; i++) yield Array.from({ length: 10 }, (_, k) => i * k * 0.1);
  }
  await writeBook(to, [{ title: 'Million', columns: Array.from({ length: 10 }, (_, k) => numbers(`c${k}`)), rows: rows() }], () => undefined); // prettier-ignore
  const seconds = (performance.now() - began) / 1000;
  report({ name: 'XLSX of a million cells', value: seconds, unit: 's', reference: 'the goal of 8 s', ratio: seconds / 8 }); // prettier-ignore

  const values = Float32Array.from({ length: 60 * 1000 }, (_, i) => Math.sin(i / 40));
  const takes = Array.from({ length: 24 }, (_, k) => makeTake(app, { name: `Pull ${k + 1}`, signals: ['Load', 'Slip', 'Strain'].map((name) => ({ name, unit: 'kN', hz: 1000, values })) })); // prettier-ignore
  const series = performance.now();
  const done = await writeSheets({ wanted: NEW_SPREADSHEET, takes: takes.map((id, k) => ({ path: takePath(app, id), name: `Pull ${k + 1}`, startMs: 0 })), tables: [], to: join(own, 'series.xlsx') }, { progress: () => undefined, signal: { aborted: false } }); // prettier-ignore
  if ('fault' in done) throw new Error(done.fault.what);
  const all = (performance.now() - series) / 1000;
  report({ name: 'XLSX of 24 takes of 60 s, 3 channels on a step of 20 ms', value: all, unit: 's', reference: 'the goal of 10 s', ratio: all / 10 }); // prettier-ignore

  const lines = Array.from({ length: 600_000 }, (_, i) => `${(i / 1000).toFixed(3)};${(i % 977) / 7};${i % 31}`); // prettier-ignore
  const text = Buffer.from(`Time [s];Load [kN];Slip [mm]\n${lines.join('\n')}\n`);
  const coming = performance.now();
  await importTake(app, onDisk('long.csv', text), {}, 'bench');
  const speed = text.length / MB / ((performance.now() - coming) / 1000);
  report({ name: 'CSV brought in as a take', value: speed, unit: 'MB/s', reference: 'the goal of 20 MB/s', ratio: speed / 20 }); // prettier-ignore
  await closeApp(app);
  app.db.$client.close();

  // A query over a folder of 200 takes by an engine of its own.
  const { prepare, writing } = formatKind('parquet');
  await prepare?.();
  const lake = join(own, 'lake');
  for (let k = 0; k < 200; k++)
    for (const piece of writing!.write({ ...recording(60_000), name: `Pull ${k}`, job: 'Quay' }, {} as never))
      if (typeof piece === 'object' && 'file' in piece) {
        mkdirSync(join(lake, piece.file, '..'), { recursive: true });
        writeFileSync((at = join(lake, piece.file)), '');
      } else writeFileSync(at, piece, { flag: 'a' });
  const instance = await DuckDBInstance.create(':memory:');
  const connection = await instance.connect();
  const asked = performance.now();
  const rowsBack = await connection.runAndReadAll(`SELECT take, max(value), avg(value) FROM read_parquet('${lake}/*/*/*/*.parquet', hive_partitioning = true) WHERE "time" > 0.5 GROUP BY take`); // prettier-ignore
  if (rowsBack.currentRowCount !== 200) throw new Error(`${rowsBack.currentRowCount} takes`);
  const query = (performance.now() - asked) / 1000;
  report({ name: 'query over a Parquet folder of 200 takes, 12 million rows', value: query, unit: 's', reference: 'one second', ratio: query }); // prettier-ignore
  connection.closeSync();
}
let at = '';

async function papers(own: string): Promise<void> {
  const data = join(own, 'papers');
  mkdirSync(data);
  const app = openApp(data);
  const values = Float32Array.from({ length: 200_000 }, (_, i) => Math.sin(i / 400) + (i % 13) / 40);
  const make = (k: number) => makeTake(app, { name: `Spin ${k}`, signals: ['Speed', 'Torque', 'Power'].map((name) => ({ name, unit: 'kN', hz: 1000, values })) }); // prettier-ignore
  const take = make(0);
  const { id } = addReport(app, { template: 'summary' }, 'bench');
  const { version, about, now, ...body } = viewReport(app, id);
  void [about, now];
  const [chart] = body.pages[0].blocks.filter((b) => b.kind === 'chart');
  const pages = Array.from({ length: 20 }, (_, p) => ({ id: `p${p}`, name: `Page ${p + 1}`, blocks: [0, 1, 2].map((k) => ({ ...chart, id: `${p} ${k}`, y: 15 + k * 85, h: 80 })) })); // prettier-ignore
  const { id: _id, ...plain } = body as typeof body & { id: string };
  void _id;
  writeReport(app, id, version, { ...plain, pages });
  await printed(app, id, [take]); // fonts are opened
  const began = performance.now();
  await printed(app, id, [take]);
  const seconds = (performance.now() - began) / 1000;
  report({ name: 'PDF of 20 pages with 60 charts', value: seconds, unit: 's', reference: 'the goal of 4 s', ratio: seconds / 4 }); // prettier-ignore
  const many = Array.from({ length: 200 }, (_, k) => make(k + 1));
  const single = addReport(app, { template: 'summary' }, 'bench').id;
  const before = process.memoryUsage().rss;
  let most = 0;
  const all = performance.now();
  await printed(app, single, many, () => (most = Math.max(most, process.memoryUsage().rss)));
  most = Math.max(most, process.memoryUsage().rss);
  report({ name: 'PDF of a one-page summary over 200 takes, memory', value: (most - before) / MB, unit: 'MB', reference: `the goal of 400 MB; it took ${((performance.now() - all) / 1000).toFixed(1)} s`, ratio: (most - before) / MB / 400 }); // prettier-ignore
  await closeApp(app);
  app.db.$client.close();
}
