import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterAll, afterEach, beforeAll, describe, expect, test, vi } from 'vitest';
import { z } from 'zod';
import { IDENTITY } from '$core/conversion/conversion';
import { badInput, cancelled } from '$core/errors';
import { rowsOf } from '$core/figures/table';
import type { FormatKind } from '$core/formats/format';
import { FORMAT_KINDS } from '$core/formats/registry';
import { sampledOf } from '$core/samples/sampled';
import { field } from '$core/sentence/sentence';
import { STUDY_KINDS } from '$core/studies/registry';
import { spanFields } from '$core/studies/span';
import { resultTables, type StudyKind, type StudyResult } from '$core/studies/study';
import { EMPTY_PLAN } from '$contract/plan';
import { closeApp, jobOf, openApp, takePath, type App } from '$service/app';
import { makeReport } from '$service/report/report';
import { undo } from '$service/setup/change';
import { overview } from '$service/overview';
import {
  changeStudy,
  followStudy,
  removeStudy,
  resultFile,
  soon,
  startStudy,
  studyKinds,
  viewStudies,
  viewStudy,
} from '$service/study/studies';
import { trailOf } from '$service/study/trail';
import { exportTake, formats, importTake } from '$service/exchange';
import { TakeLeases } from '$service/take-leases';
import { leaseTake, openTake, sealOf, viewTake } from '$service/takes';
import type { StudyBody } from '$contract/study';
import { getStudy, putStudy } from '$store/entities';
import { listTakes, putTake } from '$store/takes';
import { listRevisions } from '$store/revisions';
import { ResultStore } from '$store/results';
import { TakeWriter } from '$store/take/writer';
import { decode } from 'cbor2';
import { channel } from '../rig';
import { onDisk } from '../takes';

let folder: string;
let app: App;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-sockets-'));
  app = openApp(folder);
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

/** A take with an acceleration at 1000 S/s, its sine `hz` high, and a shaft’s speed at 100 S/s. */
function record(id: string, hz: number): string {
  const head = {
    id,
    jobId: jobOf(app).id,
    job: 'Job',
    number: readdirSync(join(folder, 'takes')).length + 1,
    name: id,
    state: 'recording' as const,
    startNs: '1790000000000000000',
    lengthNs: null,
    facts: { Operator: 'Ada' },
    plan: EMPTY_PLAN,
    planText: '',
    planName: '',
    folder: '',
    part: null,
    coreVersion: 1,
  };
  const signal = (name: string, unit: string, group: number) => {
    const of = channel(name, 'voltage', 'A1/1', { unit });
    return {
      channelId: of.id,
      name,
      rawUnit: 'V',
      unit,
      group,
      junction: null,
      conversion: IDENTITY,
      snapshot: of,
    };
  };
  const writer = new TakeWriter(takePath(app, id), {
    by: 'test',
    head,
    groups: [
      { offsetNs: 0, rate: { num: 1000, den: 1 } },
      { offsetNs: 0, rate: { num: 100, den: 1 } },
    ],
    signals: [signal('Casing', 'm/s²', 0), signal('Deck', 'm/s²', 0), signal('Shaft', 'rpm', 1)],
  });
  const wave = (a: number) =>
    Float32Array.from({ length: 4000 }, (_, i) => a * Math.sin((2 * Math.PI * hz * i) / 1000));
  writer.append(0, 0, wave(1));
  writer.append(1, 0, wave(2));
  writer.append(
    2,
    0,
    Float32Array.from({ length: 400 }, (_, i) => 600 + i),
  );
  writer.close('complete', 4e9);
  putTake(app.db, { ...head, state: 'complete', lengthNs: 4e9 }, 4000);
  return id;
}

/** A study that nobody needs: how strong each block is, over time and take, as a picture, against a speed. */
const schema = z.strictObject({
  speed: field(z.string(), { label: 'Speed', editor: 'channel' }),
  responses: field(z.array(z.string()), { label: 'Responses', editor: 'channels' }),
  blocks: field(z.number().int().min(2).max(64), { label: 'Blocks', editor: 'number' }),
  ...spanFields,
});
let told: number[] = [];
const throwAway: StudyKind<typeof schema> = {
  kind: 'throw-away',
  title: 'Strength by block',
  purpose: 'Shows that a study needs one folder and one line.',
  method: [{ says: 'Peak over rms.', source: 'its definition' }],
  asks: 'How large is it?',
  sketch: { bars: [0.2, 1] },
  sentence: { schema, template: () => 'The strength of {responses} in {blocks} blocks from {from} to {to}, against {speed}.' }, // prettier-ignore
  defaults: { speed: '', responses: [], blocks: 4, from: 0, to: null },
  roles: [
    { key: 'speed', takes: 'one', unit: 'Hz' },
    { key: 'responses', takes: 'several', most: 8, unit: 'm/s²' },
  ],
  takes: { least: 1, most: 5 },
  run(takes, { blocks }, progress, signal) {
    const rows = takes.flatMap((t) => t.signals.responses.map((s) => ({ of: `${t.name} ${s.name}`, s })));
    if (rows.some(({ s }) => s.length < blocks)) throw badInput('blocks', blocks, 'Choose fewer.');
    const z = new Float32Array(blocks * rows.length);
    rows.forEach(({ s }, k) => {
      for (let b = 0; b < blocks; b++) {
        if (signal.aborted) throw cancelled(s.name);
        const n = Math.floor(s.length / blocks);
        z[k * blocks + b] = Math.sqrt(s.read(b * n, n).reduce((sum, v) => sum + v * v, 0) / n);
      }
      progress((k + 1) / rows.length);
      told.push((k + 1) / rows.length);
    });
    const [speed] = takes[0].signals.speed;
    const base = { label: 'Block', unit: '1', scale: 'linear' as const };
    return {
      findings: [{ label: 'Strongest', value: Math.max(...z), unit: 'm/s²' }],
      figures: [
        {
          title: 'Strength',
          x: base,
          y: { label: 'Signal', unit: '1', scale: 'classes', classes: rows.map((r) => r.of) },
          marks: [
            {
              mark: 'heat',
              name: 'Rms',
              unit: 'm/s²',
              x: { from: 0, step: 1, length: blocks + 1 },
              y: { from: -0.5, step: 1, length: rows.length + 1 },
              z,
            },
          ],
        },
      ],
      tables: [
        {
          title: 'Speed',
          columns: [{ label: 'Take', numeric: false }, { label: 'Start', unit: speed.unit, numeric: true }],
          rows: takes.map((t) => [t.name, t.signals.speed[0].read(0, 1)[0]]),
        },
      ],
    }; // prettier-ignore
  },
};

describe('a study of a kind that was added by one line', () => {
  beforeAll(() => void (STUDY_KINDS as StudyKind[]).push(throwAway as unknown as StudyKind));
  afterAll(() => void (STUDY_KINDS as StudyKind[]).pop());
  const begin = async (input: Partial<Parameters<typeof startStudy>[1]> & { takeId: string }) => {
    const { view, done } = startStudy(app, { kind: 'throw-away', ...input }, 'Ada');
    await done;
    return viewStudy(app, view.id);
  };
  const resultOf = (id: string) => app.results.get<StudyResult>(viewStudy(app, id).resultId!);

  test('is listed, chooses its inputs by their units, runs over several takes, and says its method', async () => {
    expect(studyKinds().map((k) => k.kind)).toContain('throw-away');
    const [one, two] = [record('Calm', 20), record('Storm', 50)];
    told = [];
    const study = await begin({ takeId: one, takes: [one, two], shown: ['deck', 'casing'] });
    expect(study).toMatchObject({ state: 'done', outOfDate: false, takeName: 'Calm, Storm', fault: null });
    expect(study.settings).toMatchObject({ speed: 'shaft', responses: ['casing', 'deck'] });
    expect(study.says).toBe('The strength of 2 channels in 4 blocks from 0 s to the end, against Shaft.');
    expect(told.at(-1)).toBe(1);
    // √½ of the larger sine.
    expect(study.findings[0].value).toBeCloseTo(2 / Math.SQRT2, 4);
    expect(trailOf(app, study.id).map((s) => s.what).filter((w) => /Take|Channel/.test(w))).toEqual([
      'Take Calm', 'Channel Shaft', 'Channel Casing', 'Channel Deck',
      'Take Storm', 'Channel Shaft', 'Channel Casing', 'Channel Deck',
    ]); // prettier-ignore
    expect(viewStudies(app).map((s) => s.id)).toContain(study.id);
    expect(overview(app).studies.count).toBe(viewStudies(app).length);
  });

  test('its picture comes back as typed arrays, is tabulated from itself and printed', async () => {
    const [study] = viewStudies(app);
    const result = resultOf(study.id);
    const [heat] = result.figures[0].marks;
    expect(heat.mark === 'heat' && heat.z).toBeInstanceOf(Float32Array);
    const tables = resultTables(result);
    expect(tables.map((t) => t.title)).toEqual(['Speed', 'Strength: Rms']);
    expect(rowsOf(tables[0])).toEqual([['Calm', 600], ['Storm', 600]]); // prettier-ignore
    expect(tables[1].length).toBe(4 * 4);
    expect(tables[1].row(0)[2]).toBeCloseTo(1 / Math.SQRT2, 4);
    // What the browser is sent is the same.
    expect(decode<{ result: StudyResult }>(resultFile(app, study.id)).result).toEqual(result);
    vi.spyOn(console, 'warn').mockImplementation(() => undefined);
    const { pdf } = await makeReport(app, 'Calm', { signals: null, studies: [study.id] });
    const without = await makeReport(app, 'Calm', { signals: null, studies: ['none'] });
    expect(pdf.length).toBeGreaterThan(without.pdf.length + 500);
  });

  test('a take more, one fewer, another setting: each is one change that undo takes back with its result', async () => {
    const three = record('Gale', 70);
    const [study] = viewStudies(app);
    await changeStudy(app, study.id, {}, 'Ada', [...study.takes, three]).done;
    expect(resultTables(resultOf(study.id))[0].length).toBe(3);
    await changeStudy(app, study.id, { blocks: 8 }, 'Ada').done;
    await changeStudy(app, study.id, {}, 'Ada').done; // computed anew, nothing changed
    // Written again as it stands, while it runs or after: its run and its result stay.
    const made = viewStudy(app, study.id).resultId;
    expect(changeStudy(app, study.id, { blocks: 8 }, 'Ada').view).toMatchObject({
      state: 'done',
      resultId: made,
    });
    const again = changeStudy(app, study.id, {}, 'Ada');
    const run = app.studies.get(study.id);
    changeStudy(app, study.id, { blocks: 8 }, 'Ada', again.view.takes);
    expect(app.studies.get(study.id)).toBe(run);
    await again.done;
    expect(viewStudy(app, study.id)).toMatchObject({ state: 'done' });
    expect(viewStudy(app, study.id).resultId).not.toBe(made);
    const revisions = listRevisions(app.db, jobOf(app).id, 9);
    expect(revisions).toHaveLength(2);
    // The history keeps settings, never results.
    for (const { before, after } of revisions)
      expect(JSON.stringify([before, after]).length).toBeLessThan(600);
    await undo(app, 'Ada');
    await undo(app, 'Ada');
    await vi.waitFor(() =>
      expect(viewStudy(app, study.id)).toMatchObject({ state: 'done', outOfDate: false }),
    );
    expect(viewStudy(app, study.id).settings.blocks).toBe(4);
    expect(resultTables(resultOf(study.id))[0].length).toBe(2);
    await expect(
      changeStudy(
        app,
        study.id,
        {},
        'Ada',
        Array.from({ length: 6 }, () => three),
      ).done,
    ).resolves.toBeUndefined();
    expect(viewStudy(app, study.id).fault!.next).toBe('It looks at 1 to 5 takes.');
    await undo(app, 'Ada');
  });

  test('what does not suit is said with its role, and kept as failed', async () => {
    const odd = await begin({ takeId: 'Calm', settings: { speed: 'casing' } });
    expect(odd.state).toBe('failed');
    expect(odd.fault).toMatchObject({ next: expect.stringContaining('measured in Hz') });
    expect(odd.resultId).toBeNull();
    expect(() =>
      startStudy(app, { kind: 'throw-away', takeId: 'Calm', settings: { blocks: 1 } }, 'Ada'),
    ).toThrow(/Blocks/);
    removeStudy(app, odd.id, 'Ada');
  });

  test('what is done in a moment is answered with its result; what runs longer is told as running', async () => {
    const takeId = record('Quick', 20);
    const quick = await soon(app, startStudy(app, { kind: 'throw-away', takeId }, 'Ada'));
    expect(quick).toMatchObject({ state: 'done', outOfDate: false });
    const never = { view: startStudy(app, { kind: 'throw-away', takeId }, 'Ada').view, done: new Promise<void>(() => undefined) }; // prettier-ignore
    const began = performance.now();
    expect((await soon(app, never)).id).toBe(never.view.id);
    expect(performance.now() - began).toBeGreaterThan(100);
  });

  test('one that ran when the server stopped says that it was interrupted, and runs again by one action', async () => {
    const study = await begin({ takeId: record('Cut', 20) });
    const row = getStudy(app.db, study.id);
    putStudy(app.db, { ...row, body: { ...(row.body as StudyBody), state: 'running', resultId: null } });
    expect(viewStudy(app, study.id)).toMatchObject({ state: 'interrupted', outOfDate: false });
    await changeStudy(app, study.id, {}, 'Ada').done;
    expect(viewStudy(app, study.id).state).toBe('done');
  });

  test('a kind that is not known any more is named in its place, and hurts nowhere else', async () => {
    const study = await begin({ takeId: 'Calm' });
    (STUDY_KINDS as StudyKind[]).pop();
    try {
      expect(viewStudy(app, study.id)).toMatchObject({ title: 'throw-away', outOfDate: false });
      expect(viewStudy(app, study.id).fault!.what).toContain('is not known here');
      expect(overview(app).studies.count).toBeGreaterThan(0);
      expect(() => startStudy(app, { kind: 'throw-away', takeId: 'Calm' }, 'Ada')).toThrow(
        /no kind of study/,
      );
    } finally {
      (STUDY_KINDS as StudyKind[]).push(throwAway as unknown as StudyKind);
    }
  });

  test('undoing a change of a study whose take is gone ends nothing: the study says why, what it found is kept', async () => {
    const gone = record('Lost', 10);
    const study = await begin({ takeId: gone });
    await changeStudy(app, study.id, { blocks: 5 }, 'Ada').done;
    app.takes.forget(takePath(app, gone));
    rmSync(takePath(app, gone));
    await undo(app, 'Ada');
    await expect(followStudy(app, study.id, 'Ada')).resolves.toBeUndefined();
    expect(viewStudy(app, study.id)).toMatchObject({ state: 'done', outOfDate: false });
    expect(viewStudy(app, study.id).fault!.where).toContain('the take of');
    removeStudy(app, study.id, 'Ada');
  });

  test('results that no study has any more are taken away at a start; a removed study keeps its own for undo', async () => {
    const files = () => readdirSync(join(folder, 'results')).sort();
    const kept = await begin({ takeId: 'Calm', settings: {} });
    const gone = await begin({ takeId: 'Storm', settings: {} });
    const before = files();
    await changeStudy(app, kept.id, { blocks: 9 }, 'Ada').done;
    expect(files()).toHaveLength(before.length); // the former one went
    removeStudy(app, gone.id, 'Ada');
    writeFileSync(join(folder, 'results', 'stray.result'), 'x');
    writeFileSync(join(folder, 'results', 'half.result.part'), 'x');
    await closeApp(app);
    app.db.$client.close();
    app = openApp(folder);
    expect(files()).not.toContain('stray.result');
    expect(files()).not.toContain('half.result.part');
    expect(viewStudy(app, kept.id)).toMatchObject({ state: 'done', outOfDate: false });
    await undo(app, 'Ada');
    expect(viewStudy(app, gone.id)).toMatchObject({ state: 'done', outOfDate: false });
    expect(resultOf(gone.id).figures).toHaveLength(1);
    // A file that was taken away or damaged by hand is no end of the page.
    const path = join(folder, 'results', `${viewStudy(app, kept.id).resultId}.result`);
    writeFileSync(path, 'damaged');
    expect(() => resultOf(kept.id)).toThrow(/damaged.*Compute the study again/s);
    rmSync(path);
    expect(viewStudy(app, kept.id).outOfDate).toBe(true);
    expect(() => resultFile(app, kept.id)).toThrow(/no result/);
  });
});

describe('takes on lease', () => {
  test('a reader outlives any number of others, and closes when it is given back', async () => {
    app.takes.closeAll();
    app.takes = new TakeLeases(8);
    const held = leaseTake(app, 'Calm');
    const names = Array.from({ length: 14 }, (_, k) => record(`Other ${k}`, 10));
    for (const name of names) expect(openTake(app, name).signals).toHaveLength(3);
    // All fourteen were opened in one turn, and all can be read in it.
    const readers = names.map((name) => openTake(app, name));
    for (const reader of readers) expect(reader.values(0, 0, 10)).toHaveLength(10);
    expect(held.reader.values(0, 0, 10)).toHaveLength(10);
    await new Promise((resolve) => setImmediate(resolve));
    await new Promise((resolve) => setImmediate(resolve));
    expect(app.takes.count).toBe(9); // eight kept warm, one on lease
    expect(held.reader.values(0, 0, 10)).toHaveLength(10);
    held.release();
    held.release();
    expect(app.takes.count).toBe(8);
    expect(() => held.reader.values(0, 0, 10)).toThrow();
  });

  test('an export that streams goes on while dozens of other takes are read, and is whole', async () => {
    const { body } = await exportTake(app, 'Calm', { format: 'csv' });
    const reader = body.getReader();
    let text = new TextDecoder().decode((await reader.read()).value);
    for (let k = 0; k < 14; k++) openTake(app, `Other ${k}`).values(0, 0, 5);
    await new Promise((resolve) => setImmediate(resolve));
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      text += new TextDecoder().decode(value);
    }
    expect(text.trimEnd().split('\r\n')).toHaveLength(4001);
  });

  test('one that nobody wants any more gives its take back', async () => {
    await new Promise((resolve) => setImmediate(resolve));
    const before = app.takes.count;
    const { body } = await exportTake(app, 'Storm', { format: 'csv' });
    await body.cancel();
    app.takes.forget(takePath(app, 'Storm'));
    expect(app.takes.count).toBeLessThanOrEqual(before);
    await expect(exportTake(app, 'Storm', { format: 'csv', options: { stepS: 1e-9 } })).rejects.toThrow(
      /rows/,
    );
    await new Promise((resolve) => setImmediate(resolve));
    app.takes.closeAll();
    expect(app.takes.count).toBe(0);
  });
});

/** A format that nobody needs: one line for each sample, its bytes as text. */
const lines = z.strictObject({
  sign: field(z.enum(['-', '+']), { label: 'Sign', editor: 'choice', options: ['-', '+'] }),
});
const throwAwayFormat: FormatKind<typeof lines, typeof lines> = {
  kind: 'lines',
  title: 'Lines, one a sample',
  extensions: ['lines'],
  mediaType: 'text/plain',
  cannotCarry: 'Everything but the values.',
  writing: {
    sentence: { schema: lines, template: () => 'Lines begin with {sign}.' },
    defaults: { sign: '-' },
    *write({ signals: [s] }, { sign }) {
      yield `lines${sign}\n`;
      for (let i = 0; i < s.length; i++) yield `${s.read(i, 1)[0]}\n`;
    },
  },
  reading: {
    sentence: { schema: lines, template: () => 'Lines begin with {sign}.' },
    defaults: { sign: '-' },
    recognises: (source) => new TextDecoder().decode(source.read(0, 5)) === 'lines',
    read(source, { sign }) {
      const [head, ...rows] = new TextDecoder().decode(source.read(0, source.length)).trim().split('\n');
      if (head !== `lines${sign}`) throw badInput('file', head, 'Choose the other sign.');
      const values = Float32Array.from(rows, Number);
      const of = { id: 'x', name: 'X', quantity: '', unit: 'm/s²', rate: { num: 1000, den: 1 }, startNs: 0, width: 1 as const };
      return { name: '', start: '2026-01-01T00:00:00.000Z', facts: [['Kind', 'lines']], signals: [sampledOf(of, values)] };
    },
  },
}; // prettier-ignore

describe('a format that was added by one line', () => {
  beforeAll(() => void (FORMAT_KINDS as FormatKind[]).push(throwAwayFormat as unknown as FormatKind));
  afterAll(() => void (FORMAT_KINDS as FormatKind[]).pop());
  const bytesOf = async (name: string, options = {}) =>
    new Uint8Array(
      await new Response((await exportTake(app, name, { format: 'lines', options })).body).arrayBuffer(),
    );

  test('is listed, writes, reads what it wrote as a take that is looked at, studied and exported as any', async () => {
    expect(formats().map((f) => [f.kind, f.writes, f.reads])).toContainEqual(['lines', true, true]);
    const content = await bytesOf('Calm');
    const head = await importTake(app, onDisk('../C:\\data\\Far away.lines', content), {}, 'Ada');
    expect(head).toMatchObject({
      name: 'Far away',
      folder: 'Brought in',
      state: 'complete',
      startNs: '1767225600000000000',
    });
    const view = viewTake(app, head.id);
    expect(view.head.facts).toEqual({ 'Brought in from': 'Far away.lines', Kind: 'lines' });
    expect(view.head.planText).toBe('Brought in from Far away.lines (Lines). Lines begin with -.');
    expect(view.signals[0]).toMatchObject({
      name: 'X',
      unit: 'm/s²',
      length: 4000,
      quantity: 'acceleration',
    });
    expect(view.signals[0].sentence).toContain('brought in');
    const [ours, theirs] = [
      openTake(app, 'Calm').values(0, 0, 4000),
      openTake(app, head.id).values(0, 0, 4000),
    ];
    expect(theirs).toEqual(ours);
    expect(await sealOf(app, head.id)).toMatchObject({ state: 'sealed' });
    const { view: study, done } = startStudy(app, { kind: 'statistics', takeId: head.id }, 'Ada');
    await done;
    expect(viewStudy(app, study.id).findings[0]).toMatchObject({ label: 'X, mean', unit: 'm/s²' });
    expect(listTakes(app.db, jobOf(app).id).find((t) => t.id === head.id)!.number).toBeGreaterThan(0);
    const csv = await new Response((await exportTake(app, head.id, { format: 'csv' })).body).text();
    expect(csv).toContain('X [m/s²]');
    vi.spyOn(console, 'warn').mockImplementation(() => undefined);
    expect((await makeReport(app, head.id, { signals: null, studies: [] })).pdf.length).toBeGreaterThan(
      10_000,
    );
  });

  test('what cannot be read leaves nothing behind and says the place; options are checked by their schema', async () => {
    const takes = () => readdirSync(join(folder, 'takes')).filter((name) => name.endsWith('.take')).length;
    const before = takes();
    const content = await bytesOf('Calm', { sign: '+' });
    await expect(importTake(app, onDisk('x.lines', content), {}, 'Ada')).rejects.toThrow(
      /lines\+.*other sign/s,
    );
    await importTake(app, onDisk('x.lines', content), { options: { sign: '+' } }, 'Ada');
    const bring = (options: object) => importTake(app, onDisk('x.lines', content), options, 'Ada');
    await expect(bring({ options: { sign: '?' } })).rejects.toThrow(/Sign/);
    await expect(bring({ options: { more: 1 } })).rejects.toThrow(/more/);
    await expect(bring({ format: 'nope' })).rejects.toThrow(/no format “nope”/);
    await expect(importTake(app, onDisk('x.bin', new Uint8Array(9)), {}, 'Ada')).rejects.toThrow(
      /Choose one of these/,
    );
    await expect(importTake(app, onDisk('x.csv', new Uint8Array(9)), {}, 'Ada')).rejects.toThrow(
      /no rows of numbers/,
    );
    expect(takes()).toBe(before + 1);
    await expect(exportTake(app, 'Calm', { format: 'lines', options: { sign: 3 } })).rejects.toThrow(/Sign/);
  });

  test('a recording of several rates and starts becomes a take with a group for each, gaps as gaps', async () => {
    const content = new TextEncoder().encode('Time [s];Flow [m/s];Oil [°C]\n0;1,5;20\n0,5;2,5;\n2;3,5;22\n');
    const head = await importTake(app, onDisk('log.csv', content), {}, 'Ada');
    const take = openTake(app, head.id);
    expect(take.signals.map((s) => [s.name, s.rate, s.length])).toEqual([
      ['Flow', { num: 2, den: 1 }, 5],
      ['Oil', { num: 2, den: 1 }, 5],
    ]);
    expect([...take.values(0, 0, 5)]).toEqual([1.5, 2.5, NaN, NaN, 3.5]);
    expect([...take.values(1, 0, 5)]).toEqual([20, NaN, NaN, NaN, 22]);
    expect(take.durationS).toBe(2.5);
    expect(new Set(take.signals.map((s) => s.groupId)).size).toBe(1);
  });
});

describe('a data folder of the version before', () => {
  let earlier: string;
  let old: App | undefined;
  afterEach(async () => {
    if (old) await closeApp(old);
    old?.db.$client.close();
    rmSync(earlier, { recursive: true, force: true });
  });

  test('opens with all it had: takes with their exact rates, studies with their results, what was removed', async () => {
    earlier = mkdtempSync(join(tmpdir(), 'farrier-before-'));
    const unpack = (from: string, to: string) => writeFileSync(join(earlier, to), gunzipSync(readFileSync(`tests/fixtures/earlier/${from}.gz`))); // prettier-ignore
    openApp(earlier).db.$client.close(); // makes the folders
    rmSync(join(earlier, 'farrier.db'));
    unpack('farrier.db', 'farrier.db');
    unpack('take-v3.take', 'takes/take-v3.take');
    old = openApp(earlier);
    const take = openTake(old, 'take-v3');
    expect(take.signals.map((s) => [s.name, s.rate, s.startNs, s.width])).toEqual([
      ['Flow', { num: 256, den: 1 }, 0, 1],
      ['Shaft', { num: 10, den: 3 }, 500_000_000, 1],
    ]);
    expect(take.values(0, 4, 1)[0]).toBeCloseTo(2 * Math.sin(Math.PI / 2) + 1, 5);
    expect(take.gaps()).toEqual([]);
    expect(Number.isNaN(take.values(0, 2100, 1)[0])).toBe(true);
    const studies = viewStudies(old);
    expect(studies.map((s) => [s.kind, s.state, s.outOfDate, s.takes])).toEqual([
      ['statistics', 'done', false, ['take-v3']],
      ['spectrum', 'done', false, ['take-v3']],
    ]);
    const [, spectrum] = studies;
    expect(spectrum.findings[0]).toMatchObject({ value: 16, unit: 'Hz' });
    const result = old.results.get<StudyResult>(spectrum.resultId!);
    const [line] = result.figures[0].marks;
    if (line.mark !== 'line') throw new Error('no line');
    // 256 samples at 256 S/s: lines 1 Hz apart, the lowest left out.
    expect([line.x.length, line.y.length]).toEqual([128, 128]);
    expect(Math.max(...Array.from(line.y))).toBe(line.y[15]);
    expect(resultTables(result).map((t) => t.title)).toEqual([
      'Lines and averaging',
      'Power spectral density: Flow',
    ]);
    // Computed anew it is the same.
    await changeStudy(old, spectrum.id, {}, 'Ada').done;
    const again = old.results.get<StudyResult>(viewStudy(old, spectrum.id).resultId!);
    const [now] = again.figures[0].marks;
    if (now.mark !== 'line') throw new Error('no line');
    expect(Array.from(now.y)).toEqual(Array.from(line.y));
    const named = (of: StudyResult) => {
      const [{ columns, row }] = resultTables(of);
      return Object.fromEntries(row(0).map((cell, k) => [columns[k].label, cell]));
    };
    expect(named(again)).toMatchObject(named(result));
    // What was removed comes back by undo, its result in the form of today.
    await undo(old, 'Ada');
    const back = viewStudies(old).find((s) => s.kind === 'statistics' && s.id !== studies[0].id)!;
    expect(back).toMatchObject({ state: 'done', outOfDate: false });
    expect(resultTables(old.results.get<StudyResult>(back.resultId!))[0].length).toBe(2);
  });
});

test('a result that the disk does not take is said with what it needs; no name leads out of the folder', () => {
  const place = mkdtempSync(join(tmpdir(), 'farrier-results-'));
  const store = new ResultStore(place);
  store.put('../../up', ResultStore.bytes({ a: 1 }));
  expect(store.get('../../up')).toEqual({ a: 1 });
  expect(readdirSync(join(place, 'results'))).toEqual(['up.result']);
  rmSync(place, { recursive: true });
  expect(() => store.put('x', ResultStore.bytes({}))).toThrow(/cannot be kept.*Free at least 1 MB/s);
  expect(() => store.get('x')).toThrow(/no result/);
});
