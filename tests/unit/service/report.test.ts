import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { IDENTITY } from '$core/conversion/conversion';
import { newFact } from '$contract/fact';
import { EMPTY_PLAN } from '$contract/plan';
import { acceptCalibration, steadiness } from '$service/calibrate/points';
import { jobOf, openApp, takePath, type App } from '$service/app';
import { armTake } from '$service/record';
import type { Figure } from '$core/figures/figure';
import { paintFigure, paintStack } from '$core/figures/paper';
import type { StudyResult } from '$core/studies/study';
import { PAPER_INK } from '$contract/palette';
import { makeReport } from '$service/report/report';
import { addChannel } from '$service/setup/channels';
import { redo, undo } from '$service/setup/change';
import { editPlan } from '$service/setup/plan';
import { listLog } from '$store/logbook';
import {
  cancelStudy,
  changeStudy,
  removeStudy,
  startStudy,
  viewStudy,
  viewStudies,
} from '$service/study/studies';
import { trailOf } from '$service/study/trail';
import { exportTake } from '$service/exchange';
import { takeWindow, valuesAt, viewTake } from '$service/takes';
import { getChannel } from '$store/entities';
import { putTake } from '$store/takes';
import { TakeWriter } from '$store/take/writer';
import { channel } from '../rig';

let folder: string;
let app: App;
const TAKE = 'take-1';
const flow = channel('Flow', 'current loop', 'A4/2');

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
  app = openApp(folder);
  const head = {
    id: TAKE,
    jobId: jobOf(app).id,
    job: 'Job',
    number: 1,
    name: 'Take-1',
    state: 'recording' as const,
    startNs: '1790000000000000000',
    lengthNs: null,
    facts: { Operator: 'bench' },
    plan: EMPTY_PLAN,
    planText: 'Record all channels.',
    planName: '',
    folder: '',
    part: null,
    coreVersion: 1,
  };
  const signals = [
    {
      channelId: flow.id,
      name: 'Flow',
      rawUnit: 'mA',
      unit: 'm/s',
      group: 0,
      junction: null,
      conversion: IDENTITY,
      snapshot: flow,
    },
  ];
  const writer = new TakeWriter(takePath(app, TAKE), {
    by: 'bench',
    head,
    groups: [{ offsetNs: 0, rate: { num: 100, den: 1 } }],
    signals,
  });
  writer.append(
    0,
    0,
    Float32Array.from({ length: 6000 }, (_, i) => 2 + Math.sin((2 * Math.PI * i) / 50)),
  );
  writer.note(5e9, 'mark', 'Stall <begins> & "ends"', 'bench');
  writer.close('complete', 60e9);
  putTake(app.db, { ...head, state: 'complete', lengthNs: 60e9 }, 60_000);
});
afterAll(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

describe('a take', () => {
  test('says itself: duration, channels as they were, marks', () => {
    const view = viewTake(app, TAKE);
    expect(view.durationS).toBe(60);
    expect(view.signals[0]).toMatchObject({
      name: 'Flow',
      unit: 'm/s',
      rate: { num: 100, den: 1 },
      length: 6000,
    });
    expect(view.signals[0].sentence).toContain('A 4–20 mA transmitter');
    expect(view.notes[0]).toMatchObject({ atS: 5, kind: 'mark' });
    expect(() => viewTake(app, 'other')).toThrow(/no take “other”/);
  });
  test('gives windows and single values, and refuses spans that are none', () => {
    const [part] = takeWindow(app, TAKE, [0], 10, 20, 100);
    expect(part.min.length).toBe(100);
    expect(part.fromS).toBeCloseTo(10, 9);
    expect(part.stepS).toBeCloseTo(0.1, 2);
    expect(Math.max(...part.max)).toBeCloseTo(2 + Math.sin((2 * Math.PI * 12) / 50), 5); // the sample nearest the crest
    expect(valuesAt(app, TAKE, [0], 0.125)[0]).toBeCloseTo(2 + Math.sin((2 * Math.PI * 12) / 50), 5);
    expect(valuesAt(app, TAKE, [0], 61)).toEqual([null]);
    expect(() => takeWindow(app, TAKE, [0], 20, 10, 100)).toThrow(/end has to come after/);
    expect(() => takeWindow(app, TAKE, [9], 0, 10, 100)).toThrow(/no signal of the take/);
    expect(() => takeWindow(app, TAKE, [0], 0, 10, 1e9)).toThrow(/1 to 4000/);
  });
  test('is exported by its name, and a wrong step is said before anything is sent', async () => {
    const { name, body } = await exportTake(app, TAKE, { format: 'csv', options: { stepS: 1 } });
    expect(name).toBe('Take-1.csv');
    expect((await new Response(body).text()).trimEnd().split('\r\n')).toHaveLength(62);
    await expect(exportTake(app, TAKE, { format: 'csv', options: { stepS: 1e-6 } })).rejects.toThrow(/rows/);
  });
});

const resultOf = (id: string) => app.results.get<StudyResult>(viewStudy(app, id).resultId!);

describe('studies', () => {
  test('run, are kept, say their method, and lead back to the sensor', async () => {
    const { view, done } = startStudy(
      app,
      {
        kind: 'statistics',
        takeId: TAKE,
        settings: { from: 10, to: 20 },
      },
      'bench',
    );
    await done;
    const study = viewStudy(app, view.id);
    expect(study).toMatchObject({
      state: 'done',
      outOfDate: false,
      says: 'Statistics of all channels from 10 s to 20 s.',
    });
    expect(resultOf(view.id).tables[0].rows[0][2]).toBeCloseTo(2, 6);
    expect(trailOf(app, view.id).map((s) => s.what)).toEqual([
      'Study Statistics of a span',
      'Take Take-1',
      'Channel Flow',
      'Calibration',
      'Sensor',
    ]);
    expect(() => cancelStudy(app, view.id)).toThrow(/is not running/);
    const changed = changeStudy(app, view.id, { to: 15 }, 'bench');
    await changed.done;
    expect(resultOf(view.id).tables[0].rows[0][12]).toBe(500);
  });
  test('a study that is removed or changed comes back by undo as it was, with its result and who did it', async () => {
    const { view, done } = startStudy(
      app,
      { kind: 'statistics', takeId: TAKE, settings: { from: 1, to: 2 } },
      'Ada',
    );
    await done;
    const whole = viewStudy(app, view.id);
    const wholeResult = resultOf(view.id);
    await changeStudy(app, view.id, { to: 9 }, 'Grace').done;
    expect(viewStudy(app, view.id).says).toContain('from 1 s to 9 s');
    removeStudy(app, view.id, 'Grace');
    expect(() => viewStudy(app, view.id)).toThrow(/no study/);
    // Undo takes back the removal, then the change; neither asks anything of the engine.
    const { engine } = app;
    app.engine = { command: () => Promise.reject(new Error('the engine was asked')) };
    await undo(app, 'Ada');
    expect(resultOf(view.id).tables[0].rows[0][12]).toBe(800);
    await undo(app, 'Ada');
    await vi.waitFor(() => expect(viewStudy(app, view.id).state).toBe('done'));
    expect(viewStudy(app, view.id)).toMatchObject({
      says: whole.says,
      findings: whole.findings,
      outOfDate: false,
    });
    expect(resultOf(view.id)).toEqual(wholeResult);
    await redo(app, 'Ada');
    await redo(app, 'Ada');
    expect(() => viewStudy(app, view.id)).toThrow(/no study/);
    app.engine = engine;
    const by = listLog(app.db, jobOf(app).id, 20, { kind: 'study' }).map((e) => e.by);
    expect(new Set(by)).toEqual(new Set(['Ada', 'Grace', 'bench']));
    expect(listLog(app.db, jobOf(app).id, 1)[0]).toMatchObject({ kind: 'setup', by: 'Ada' });
  });
  test('what suits no input fails with its reason and is kept as failed', async () => {
    const { view, done } = startStudy(
      app,
      { kind: 'spectrum', takeId: TAKE, settings: { length: 65536 } },
      'bench',
    );
    await done;
    expect(viewStudy(app, view.id)).toMatchObject({ state: 'failed' });
    expect(viewStudy(app, view.id).fault!.next).toMatch(
      /One segment needs 65536 samples in a row \(655\.4 s at 100 S\/s\)/,
    );
    expect(() =>
      startStudy(app, { kind: 'spectrum', takeId: TAKE, settings: { length: 1000 } }, 'bench'),
    ).toThrow(/Choose one of 256/);
    expect(() => startStudy(app, { kind: 'magic', takeId: TAKE }, 'bench')).toThrow(
      /no kind of study “magic”/,
    );
    removeStudy(app, view.id, 'bench');
    expect(viewStudies(app).map((s) => s.id)).not.toContain(view.id);
  });
});

describe('reports', () => {
  test('are PDF files with embedded fonts and no path from a request', async () => {
    const warned: unknown[] = [];
    for (const channel of ['log', 'warn', 'error'] as const)
      vi.spyOn(console, channel).mockImplementation((...said) => void warned.push(said.join(' ')));
    const { name, pdf } = await makeReport(app, TAKE, { signals: [0], studies: [] });
    vi.restoreAllMocks();
    expect(warned).toEqual([]); // no font fell back, also none within a drawing
    // Three fonts are embedded and no other.
    const fonts = new Set(
      pdf
        .toString('latin1')
        .match(/\/BaseFont \/[\w+-]+/g)!
        .map((f) => f.replace(/.*\+/, '')),
    );
    expect([...fonts].sort()).toEqual([
      'Commissioner-Regular',
      'Commissioner-SemiBold',
      'JetBrainsMono-Regular',
    ]);
    expect(name).toBe('Take-1.pdf');
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
    expect(pdf.toString('latin1')).toMatch(/FontFile2|FontFile3/);
    await expect(makeReport(app, TAKE, { signals: [0, 0, 0, 0, 0, 0, 0], studies: [] })).rejects.toThrow(
      /up to 6/,
    );
    expect(existsSync(takePath(app, '../../etc/passwd'))).toBe(false);
    expect(takePath(app, '../../etc/passwd')).toBe(join(folder, 'takes', 'etcpasswd.take'));
  });
  test('strips break at gaps, escape names, and put ticks at round values', () => {
    const strip: Figure = {
      title: 'A',
      x: { label: 'Time', unit: 's', scale: 'time' },
      y: { label: 'A', unit: 'V', scale: 'linear' },
      marks: [
        {
          mark: 'band',
          name: 'A <b> & "c"',
          solid: true,
          x: { from: 0.5, step: 1, length: 5 },
          low: Float32Array.from([0, 1, NaN, 1, 0]),
          high: Float32Array.from([1, 2, NaN, 2, 1]),
        },
      ],
    };
    const svg = paintStack([strip], PAPER_INK, { width: 500 }, [0, 5], [2]);
    expect(svg).toContain('A &lt;b&gt; &amp; &quot;c&quot;');
    expect(svg.match(/Z/g)).toHaveLength(2); // one closed shape on each side of the gap
    expect(svg).not.toContain('NaN');
  });
  test('a logarithmic figure leaves out what has no logarithm', () => {
    const svg = paintFigure(
      {
        title: 't',
        x: { label: 'f', unit: 'Hz', scale: 'linear' },
        y: { label: 'd', unit: 'V²/Hz', scale: 'logarithmic' },
        marks: [{ mark: 'line', name: 's', unit: 'V', x: [0, 1, 2, 3], y: [0, 1e-3, 0, 1e-5] }],
      },
      PAPER_INK,
      { width: 500, height: 190 },
    );
    expect(svg).not.toMatch(/NaN|Infinity/);
    expect(svg).toContain('>−5<');
  });
});

describe('calibration by points, as a service', () => {
  test('steady is judged against the tolerance, and accepting is one change in force at once', async () => {
    const c = await addChannel(
      app,
      {
        name: 'Wire',
        kind: 'voltage',
        wire: { unit: 'U', terminal: 'A4/1' },
        settings: { unit: 'mm', slope: 40, range: { min: 0, max: 200 } },
      },
      'bench',
    );
    app.live.setup([c.id]);
    let timeMs = 0;
    const push = (raw: number, n: number) => {
      for (let i = 0; i < n; i++)
        app.live.push({
          sequence: i,
          timeMs: (timeMs += 50),
          min: Float32Array.of(0),
          max: Float32Array.of(0),
          last: Float32Array.of(0),
          mean: Float32Array.of(0),
          square: Float32Array.of(0),
          raw: Float32Array.of(raw + i * 0),
          state: Uint8Array.of(0),
        });
    };
    expect(() => steadiness(app, c.id, 0.1, 2)).toThrow(/gives no reading/);
    push(1, 20);
    push(2, 20);
    expect(steadiness(app, c.id, 0.1, 2)).toMatchObject({ steady: false });
    push(2.5, 40);
    expect(steadiness(app, c.id, 0.1, 2)).toMatchObject({ steady: true, raw: 2.5, value: 100, noise: 0 });
    expect(() => steadiness(app, c.id, 0, 2)).toThrow(/tolerance above 0/);
    const points = [
      { target: 0, raw: 0.1, noise: 0, samples: 40 },
      { target: 200, raw: 5.1, noise: 0, samples: 40 },
    ];
    const made = await acceptCalibration(app, c.id, { points }, 'bench');
    expect([made.slope, made.offset]).toEqual([expect.closeTo(40, 9), expect.closeTo(-4, 9)]);
    expect(getChannel(app.db, c.id).calibration!.id).toBe(made.id);
    await expect(acceptCalibration(app, c.id, { points: points.slice(1) }, 'bench')).rejects.toThrow(
      /at least two points/,
    );
  });
});

test('a take is armed only with every fact the plan asks for, and named from them', async () => {
  await editPlan(
    app,
    { facts: ['Operator', 'Blade set'].map(newFact), naming: 'BW-{blade set}-{number}' },
    'bench',
  );
  await expect(armTake(app, { Operator: 'x' }, { by: 'bench' })).rejects.toThrow(/“Blade set” is not given/);
  expect(
    await armTake(app, { Operator: 'x', 'Blade set': ' A ' }, { by: 'bench', reason: 'no rig in this test' }),
  ).toMatchObject({
    name: 'BW-A-2',
    number: 2,
    facts: { 'Blade set': 'A' },
  });
});
