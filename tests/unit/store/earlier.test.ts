import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { openApp } from '$service/app';
import { chainText } from '$service/logbook';
import { listChannels, listJobs, listRules, jobPlan } from '$store/entities';
import { addSignals } from '$store/take/make';
import { correctTake } from '$store/take/correct';
import { TakeReader } from '$store/take/reader';
import { recoverTake } from '$store/take/recover';
import { TakeWriter, type TakeSetup } from '$store/take/writer';
import { channel } from '../rig';

// Files as earlier versions left them: takes of versions 1 and 2, job databases before each migration.
let folder: string;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'farrier-earlier-'))));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const setup: TakeSetup = {
  by: 'test',
  head: {
    id: 'x',
    jobId: 'j',
    job: 'J',
    number: 1,
    name: 'T',
    state: 'recording',
    startNs: '1790000000000000000',
    lengthNs: null,
    facts: { Operator: 'Ada' },
    plan: EMPTY_PLAN,
    planText: '',
    planName: '',
    folder: '',
    part: null,
    coreVersion: 1,
  },
  groups: [{ offsetNs: 0, rate: { num: 1000, den: 1 } }],
  signals: [
    { channelId: 'c', name: 'S', rawUnit: 'V', unit: 'V', group: 0, junction: null, conversion: IDENTITY, snapshot: null },
  ], // prettier-ignore
};
const VALUES = Float32Array.from({ length: 5000 }, (_, i) => Math.sin(i / 37) * i);
let files = 0;

/** A take as a version wrote it: what later versions added is taken out of the file again. */
function takeOf(version: 1 | 2 | 3 | 4 | 5, closed: boolean): string {
  const path = join(folder, `${files++}.take`);
  const writer = new TakeWriter(path, setup);
  writer.append(0, 0, VALUES.slice(0, 2000));
  writer.append(0, 3000, VALUES.slice(3000));
  writer.note(1e9, 'mark', 'Here', 'Ada');
  writer.commit();
  if (closed) writer.close('complete', 5e9);
  else writer.abandon();
  const db = new Sqlite(path);
  db.exec('ALTER TABLE signal DROP COLUMN made');
  if (version < 5)
    db.exec(`DROP TABLE judgement;
    ALTER TABLE note DROP COLUMN replaces;
    ALTER TABLE note DROP COLUMN written;
    ALTER TABLE note DROP COLUMN until_ns;
    ALTER TABLE conversion DROP COLUMN mends;
    ALTER TABLE conversion DROP COLUMN plain;
    ALTER TABLE conversion DROP COLUMN name;`);
  if (version < 4) db.exec('ALTER TABLE signal DROP COLUMN width');
  if (version < 3) db.exec('DROP TABLE timing; DROP TABLE seal;');
  if (version < 2)
    db.exec(`DROP TABLE proof;
      ALTER TABLE conversion DROP COLUMN source;
      ALTER TABLE conversion DROP COLUMN snapshot;`);
  db.pragma(`user_version = ${version}`);
  db.close();
  return path;
}
const DOUBLED = { ...IDENTITY, correction: { slope: 2, offset: 0 } };

describe.each([1, 2, 3, 4, 5] as const)('a take of version %d', (version) => {
  test('opens and gives back every sample, gap and note; what it did not keep is empty', () => {
    const take = new TakeReader(takeOf(version, true));
    expect(take.head).toMatchObject({ name: 'T', state: 'complete', facts: { Operator: 'Ada' } });
    expect(take.raw(0, 0, 2000)).toEqual(VALUES.slice(0, 2000));
    expect(take.raw(0, 3000, 2000)).toEqual(VALUES.slice(3000));
    const gap = take.raw(0, 2000, 1000);
    expect(gap).toHaveLength(1000);
    expect(gap.every(Number.isNaN)).toBe(true);
    expect(take.notes().map((n) => n.says)).toContain('Here');
    expect(take.timing()).toEqual([]);
    expect(take.proofs()).toEqual([]);
    expect(take.judgements()).toEqual([]);
    take.close();
  });

  test('can be corrected: it is given the tables it lacks, both meanings are read, samples stay as they are', () => {
    const path = takeOf(version, true);
    correctTake(
      path,
      [{ signal: 0, unit: 'V', conversion: DOUBLED, snapshot: channel('S', 'voltage', 'A1/1') }],
      'Found wrong',
      'Ada',
    );
    const [now, then] = [new TakeReader(path), new TakeReader(path, 'as recorded')];
    expect(now.values(0, 100, 1)[0]).toBeCloseTo(2 * VALUES[100], 4);
    expect(then.values(0, 100, 1)[0]).toBeCloseTo(VALUES[100], 4);
    expect(now.raw(0, 100, 1)[0]).toBe(VALUES[100]);
    now.close();
    then.close();
  });

  test('takes a signal that is made of it, beside what it has', () => {
    const path = takeOf(version, true);
    const made = { making: { kind: 'filter', settings: {} }, part: 0, says: 'S smoothed.', from: [{ signal: 0, revision: 1 }], at: 1, by: 'Ada' }; // prettier-ignore
    const samples = [{ first: 0, values: new Float32Array(10).fill(3) }];
    addSignals(path, [{ channelId: 'made-1', name: 'S smooth', unit: 'V', rate: { num: 2, den: 1 }, startNs: 0, length: 10, made, samples }]); // prettier-ignore
    const take = new TakeReader(path);
    expect(take.signals.map((s) => [s.name, s.made?.says ?? null, s.length])).toEqual([
      ['S', null, 5000],
      ['S smooth', 'S smoothed.', 10],
    ]);
    expect(take.values(take.signals[1].id, 4, 1)[0]).toBe(3);
    expect(take.raw(0, 100, 1)[0]).toBe(VALUES[100]);
    expect(take.sealState().state).toBe(version < 3 ? 'not sealed' : 'sealed');
    take.close();
  });

  test('that was cut off is found and closed with all that was committed', () => {
    const path = takeOf(version, false);
    recoverTake(path, 'The server was killed.');
    const take = new TakeReader(path);
    expect(take.head.state).toBe('interrupted');
    expect(take.signals[0].length).toBe(5000);
    expect(take.raw(0, 4999, 1)[0]).toBe(VALUES[4999]);
    take.close();
  });
});

test('a take of a later version, and a file that is none, are refused with the next step', () => {
  const path = takeOf(3, true);
  const db = new Sqlite(path);
  db.pragma('user_version = 7');
  db.close();
  expect(() => new TakeReader(path)).toThrow(/has version 7, this program reads up to 6/);
  const other = join(folder, 'other.take');
  new Sqlite(other).exec('CREATE TABLE t (x)').close();
  expect(() => new TakeReader(other)).toThrow(/no take/);
});

const MIGRATIONS = [
  '0000_init',
  '0001_rig',
  '0002_calibrations',
  '0003_record',
  '0004_hosts',
  '0005_redo',
  '0006_inspect',
  '0007_recipes',
  '0008_reports',
  '0009_exchange',
  '0010_reports_gone',
  '0011_field',
  '0012_stations',
  '0013_radio_kept',
  '0014_wireframes',
];
const journal = JSON.parse(readFileSync('drizzle/meta/_journal.json', 'utf8')) as {
  entries: { tag: string; when: number }[];
};

/** A data folder with a job database as it was after so many migrations, with a job in it. */
function databaseAfter(steps: number): string {
  const data = mkdtempSync(join(folder, 'data-'));
  const db = new Sqlite(join(data, 'farrier.db'));
  db.exec(
    'CREATE TABLE __drizzle_migrations (id SERIAL PRIMARY KEY, hash text NOT NULL, created_at numeric)',
  );
  for (const tag of MIGRATIONS.slice(0, steps)) {
    const text = readFileSync(`drizzle/${tag}.sql`, 'utf8');
    db.exec(text.replaceAll('--> statement-breakpoint', ''));
    db.prepare('INSERT INTO __drizzle_migrations (hash, created_at) VALUES (?, ?)').run(
      createHash('sha256').update(text).digest('hex'),
      journal.entries.find((e) => e.tag === tag)!.when,
    );
  }
  const body = channel('Flow', 'current loop', 'A4/2');
  const { id, name } = body;
  db.prepare(
    "INSERT INTO jobs (id, name, place, created_at, current) VALUES ('j', 'Old job', 'Quay', 1, 1)",
  ).run();
  db.prepare('INSERT INTO channels (id, job_id, position, name, body) VALUES (?, ?, 0, ?, ?)').run(id, 'j', name, JSON.stringify(body)); // prettier-ignore
  db.prepare("INSERT INTO plans (id, job_id, name, body) VALUES ('p', 'j', 'Spin', ?)").run(
    JSON.stringify({ ...EMPTY_PLAN, longest: 60 }),
  );
  db.prepare(
    "INSERT INTO logbook (at, job_id, kind, says, by) VALUES (2, 'j', 'note', 'From before', 'Ada')",
  ).run();
  db.close();
  return data;
}

test('the migrations are all tried here', () => {
  expect(MIGRATIONS).toEqual(journal.entries.map((e) => e.tag));
});

test.each(MIGRATIONS.map((tag, k) => [k + 1, tag] as const))(
  'a job database of %d migrations (up to %s) opens with its job, channels, plan and logbook, and a second time',
  (steps) => {
    const data = databaseAfter(steps);
    for (let times = 0; times < 2; times++) {
      const app = openApp(data);
      try {
        expect(listJobs(app.db).map((j) => j.name)).toEqual(['Old job']);
        expect(listChannels(app.db, 'j')).toMatchObject([{ name: 'Flow', kind: 'current loop' }]);
        expect(jobPlan(app.db, 'j')).toMatchObject({ name: 'Spin', plan: { longest: 60 } });
        expect(listRules(app.db, 'j')).toEqual([]);
        expect(chainText(app).whole).toBe(true);
        const { says } = app.db.$client.prepare('SELECT says FROM logbook ORDER BY id').get() as {
          says: string;
        };
        expect(says).toBe('From before');
      } finally {
        app.db.$client.close();
      }
    }
  },
);
