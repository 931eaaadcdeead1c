import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { datasetsOf } from '$core/formats/uff/dataset';
import { readStructure } from '$core/formats/uff/structure';
import { mac } from '$core/modal/shape';
import type { Block } from '$contract/report';
import type { PickedMode, SetView } from '$contract/modal';
import { openApp, startJob, type App } from '$service/app';
import {
  addAnalysis,
  addRuns,
  addSet,
  bootstrap,
  cancelSet,
  changeAnalysis,
  changeSet,
  pickModes,
  refreshSet,
  removeAnalysis,
  removeSet,
  viewAnalyses,
  viewAnalysis,
} from '$service/modal/analyses';
import {
  addFrame,
  frameChannels,
  frameFile,
  framesOf,
  putFrame,
  readFrame,
  removeFrame,
} from '$service/modal/frames';
import { modalFile } from '$service/modal/out';
import { tidyModal } from '$service/modal/tidy';
import { paintReport } from '$service/report/pages';
import { addReport, viewReport, writeReport } from '$service/report/reports';
import { redo, undo } from '$service/setup/change';
import { exportSetup } from '$service/setup/travel';
import { importSetup } from '$service/setup/travel-import';
import { currentJob, listJobs, makeJobCurrent } from '$store/entities';
import { listTakes } from '$store/takes';
import { NACELLE_JOB, seedNacelle } from '../../../demo/nacelle';
import { ACCELEROMETERS, TRUE_MODES, TURNS_HZ, WEAK } from '../../../demo/structure';

let folder: string;
let app: App;
let id: string;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-modal-'));
  app = openApp(folder);
  await seedNacelle(app);
  makeJobCurrent(app.db, listJobs(app.db).find((j) => j.name === NACELLE_JOB.name)!.id);
  id = viewAnalyses(app)[0].id;
}, 120_000);
afterAll(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});
const sets = (): SetView[] => viewAnalysis(app, id).sets;
const first = (): SetView => sets()[0];
const take = () => listTakes(app.db, currentJob(app.db)!.id).find((t) => t.name === 'BW2-M-1')!.id;
const plain = (set: SetView): PickedMode[] => set.picks.map((p) => ({ ...p }));
const files = () => readdirSync(join(folder, 'modal'));
const truth = (k: number) => ({ re: Float64Array.from(TRUE_MODES[k].shape), im: new Float64Array(16) });
const shapeOf = (m: { shape: { re: number[]; im: number[] } }) => ({ re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) }); // prettier-ignore

describe('the demo’s recording in the flow', () => {
  test('its modes are those of the model, each within three times its ±, and named', () => {
    const { modes } = first();
    const strong = TRUE_MODES.filter((_, k) => k !== WEAK);
    expect(modes!.modes.length).toBeGreaterThanOrEqual(strong.length);
    for (const mode of strong) {
      const found = modes!.modes.find((m) => m.name === mode.seenAs)!;
      expect(found, mode.seenAs).toBeDefined();
      expect(Math.abs(found.hz - mode.hz), mode.seenAs).toBeLessThan(
        1.5 * found.expanded.hz! + 1e-4 * mode.hz,
      );
      expect(Math.abs(found.damping - mode.damping), mode.seenAs).toBeLessThan(1.5 * found.expanded.damping!);
      expect(mac(shapeOf(found), truth(TRUE_MODES.indexOf(mode)))).toBeGreaterThan(0.97);
      expect(found.harmonic.is).toBe(false);
    }
    expect(modes!.overBlocks).toBe(true);
    expect(modes!.metAll).toBeGreaterThan(0.98);
  });

  test('what turns is kept apart, by its kurtosis and as three times the speed', () => {
    const [tone] = first().modes!.tones;
    expect(tone.hz).toBeCloseTo(3 * TURNS_HZ, 2);
    expect(tone).toMatchObject({ multiple: 3 });
    expect(tone.kurtosis).toBeLessThan(1.8);
  });

  test('references were advised from each part that moves apart', () => {
    const { advice } = first();
    const names = advice!.advised.map((i) => advice!.names[i]);
    for (const blade of ['Blade 1', 'Blade 2', 'Blade 3']) expect(names.some((n) => n.startsWith(blade)), blade).toBe(true); // prettier-ignore
    expect(names.some((n) => /side|edge/.test(n))).toBe(true);
    advice!.coherence.forEach((row, i) => expect(row[i]).toBeCloseTo(1, 6));
  });

  test('its sentence says all of it', () => {
    expect(first().sentence).toMatch(/^Correlate 16 channels with 5 references over the whole span.*1024 lags \(6\.4 s, 0\.15625 Hz\).*die to 2 %.*Fit 9\.2 Hz to 55 Hz with up to 80 poles/); // prettier-ignore
  });
});

describe('a link of the chain is changed', () => {
  test('the window: damping does not move, and the picks are found again with their names', async () => {
    const before = first();
    await changeSet(app, id, before.id, { correlate: { left: 20 } }, 'me').done;
    const after = first();
    expect(after.correlationsId).toBe(before.correlationsId); // the window is put on later
    expect(after.polesId).not.toBe(before.polesId);
    expect(after.picks.map((p) => p.name)).toEqual(before.picks.map((p) => p.name));
    after.modes!.modes.forEach((m, k) => {
      const was = before.modes!.modes[k];
      expect(Math.abs(m.hz - was.hz)).toBeLessThan(was.expanded.hz! + 0.02);
      expect(Math.abs(m.damping - was.damping), m.name).toBeLessThan(was.expanded.damping! + 3e-4);
    });
    await changeSet(app, id, before.id, { correlate: { left: 2 } }, 'me').done;
    first().modes!.modes.forEach((m, k) => expect(Math.abs(m.hz - before.modes!.modes[k].hz)).toBeLessThan(before.modes!.modes[k].expanded.hz!)); // prettier-ignore
  }, 60_000);

  test('another running speed: what is suggested as its multiple follows', async () => {
    const multiples = () =>
      first()
        .suggested.filter((s) => s.harmonic.is)
        .map((s) => s.harmonic.multiple);
    expect(multiples()).toEqual([3]);
    await changeSet(app, id, first().id, { correlate: { speedHz: 5 } }, 'me').done;
    // Still a steady tone, by its kurtosis, but no multiple of five turns a second.
    expect(multiples()).toEqual([null]);
    expect(first().modes!.tones.map((t) => t.multiple)).toEqual([null]);
    await changeSet(app, id, first().id, { correlate: { speedHz: TURNS_HZ } }, 'me').done;
    expect(multiples()).toEqual([3]);
  }, 60_000);

  test('the resolution gives the nearest number of lags', async () => {
    const before = first();
    const { view, set, done } = addSet(app, id, before.id, { correlate: { resolution: 0.3 } }, 'me');
    expect(view.sets.at(-1)!.correlate.lags).toBe(512);
    await done;
    const made = sets().find((s) => s.id === set)!;
    expect(made.facts).toMatchObject({ lags: 512, rateHz: 160 });
    expect(made.picks.map((p) => p.name)).toEqual(before.picks.map((p) => p.name));
    removeSet(app, id, set);
  }, 60_000);

  test('one sample of two: the rate halves, the modes below it stay', async () => {
    const before = first();
    const { set, done } = addSet(app, id, before.id, { correlate: { factor: 2, lags: 512 }, fit: { to: 36 } }, 'me'); // prettier-ignore
    await done;
    const made = sets().find((s) => s.id === set)!;
    expect(made.facts!.rateHz).toBe(80);
    expect(made.facts!.notes.join()).toMatch(/low-pass without delay/);
    for (const m of made.modes!.modes) {
      const was = before.modes!.modes.find((o) => o.name === m.name)!;
      expect(Math.abs(m.hz / was.hz - 1), m.name).toBeLessThan(0.001);
      expect(mac(shapeOf(m), shapeOf(was))).toBeGreaterThan(0.97);
    }
    expect(made.modes!.modes.length).toBe(before.modes!.modes.filter((m) => m.hz < 35).length);
    expect(made.lost.some((p) => p.name === 'blades swing in their plane')).toBe(true);
    expect(made.lost.every((p) => p.hz > 36)).toBe(true);
    removeSet(app, id, set);
  }, 60_000);

  test('the other fit, in another set: alike mode by mode', async () => {
    const { set, done } = addSet(
      app,
      id,
      first().id,
      { fit: { method: 'the subspace fit', order: 60 } },
      'me',
    );
    await done;
    const made = sets().find((s) => s.id === set)!;
    expect(made.fault).toBeNull();
    first().modes!.modes.forEach((m) => {
      const other = made.modes!.modes.find((o) => o.name === m.name)!;
      expect(Math.abs(other.hz / m.hz - 1), m.name).toBeLessThan(0.0015);
      expect(mac(shapeOf(other), shapeOf(m))).toBeGreaterThan(0.95);
    });
    removeSet(app, id, set);
  }, 60_000);

  test('a quick look at singular values: frequencies to a line', async () => {
    const { set, done } = addSet(app, id, first().id, { fit: { method: 'a quick look at singular values' } }, 'me'); // prettier-ignore
    await done;
    const made = sets().find((s) => s.id === set)!;
    expect(made.fault).toBeNull();
    for (const m of made.modes!.modes) {
      const was = first().modes!.modes.find((o) => o.name === m.name)!;
      expect(Math.abs(m.hz - was.hz), m.name).toBeLessThan(0.16);
    }
    removeSet(app, id, set);
  }, 60_000);

  test('an edge on a peak is warned of', async () => {
    const before = first();
    await changeSet(app, id, before.id, { fit: { from: 12.5 } }, 'me').done;
    expect(first().says.join()).toMatch(/beginning stands on a peak at 12\.5/);
    await changeSet(app, id, before.id, { fit: { from: 9.2 } }, 'me').done;
    expect(first().says.join()).not.toMatch(/peak/);
    // What left the band was let go: it is picked again.
    const again = first().suggested.find((s) => Math.abs(s.hz - 12.5) < 0.1)!;
    await (await pickModes(app, id, before.id, [...plain(first()).filter((p) => Math.abs(p.hz - 12.5) > 0.5), { order: again.order, index: again.index, hz: again.hz, damping: again.damping, name: 'nacelle nods', out: false }])).done; // prettier-ignore
    expect(first().picks[0].name).toBe('nacelle nods');
  }, 60_000);
});

describe('picking', () => {
  test('twice the same is once; one that is not there is refused; others go with what they were', async () => {
    const before = plain(first());
    await pickModes(app, id, first().id, [...before, before[0]]);
    expect(first().picks.length).toBe(before.length);
    await expect(pickModes(app, id, first().id, [{ ...before[0], index: 999 }])).rejects.toThrow(
      /no such pole/,
    );
    expect(first().picks.length).toBe(before.length);
  });

  test('a mode that is left out no longer takes part: its pairs are met less', async () => {
    const before = first();
    await pickModes(app, id, before.id, plain(before).map((p, k) => ({ ...p, out: k === 0 }))); // prettier-ignore
    const after = first();
    expect(after.modes!.metAll).toBeLessThan(before.modes!.metAll - 0.05);
    expect(after.modes!.modes.length).toBe(before.modes!.modes.length);
    await pickModes(app, id, before.id, plain(before));
    expect(first().modes!.metAll).toBeCloseTo(before.modes!.metAll, 9);
  });

  test('± from drawn blocks is of the size of that from left-out ones', async () => {
    const before = first().modes!.modes;
    const { view, done } = bootstrap(app, id, first().id, 30);
    expect(view.sets[0].state).toBe('fitting');
    expect(() => bootstrap(app, id, first().id, 30)).toThrow(/being computed/);
    await done;
    expect(first().state).toBe('done');
    first().modes!.modes.forEach((m, k) => {
      expect(m.expanded.hz! / before[k].expanded.hz!).toBeGreaterThan(0.25);
      expect(m.expanded.hz! / before[k].expanded.hz!).toBeLessThan(4);
    });
  }, 120_000);
});

test('± by drawing can be stopped; what was known stays', async () => {
  const before = first().modes;
  const { done } = bootstrap(app, id, first().id, 200);
  cancelSet(app, first().id);
  await done;
  expect(first()).toMatchObject({ state: 'done', modes: before });
}, 60_000);

describe('refused, with what to do', () => {
  const refused = (change: Parameters<typeof changeSet>[3]) => () =>
    changeSet(app, id, first().id, change, 'me');
  test.each<[string, Parameters<typeof changeSet>[3], RegExp]>([
    ['an end before the beginning', { fit: { from: 30, to: 20 } }, /end has to lie above its beginning/],
    ['a band above half the rate', { fit: { to: 200 } }, /at most 80 Hz/],
    [
      'a channel that is not there',
      { correlate: { responses: ['nobody', 'acc-1'] } },
      /no such channel any more/,
    ],
    ['one response alone', { correlate: { responses: ['acc-1'], references: ['acc-1'] } }, /two at least/],
    ['lags that are no power of two', { correlate: { lags: 1000 } }, /power of two/],
    ['a window of nothing', { correlate: { left: 0 } }, /At least 0.001/],
    ['no take', { spans: [] }, /Choose a take/],
  ])('%s', (_, change, words) => expect(refused(change)).toThrow(words));

  test('a span too short for its lags, and an order too high for the lines: said in the set, and the former numbers are there again', async () => {
    const before = first();
    const { set, done } = addSet(app, id, before.id, { spans: [{ take: take(), from: 0, to: 15 }] }, 'me');
    await done;
    expect(sets().find((s) => s.id === set)).toMatchObject({ state: 'failed', fault: { next: expect.stringMatching(/longer span or fewer lags/) } }); // prettier-ignore
    await changeSet(app, id, set, { spans: before.spans, fit: { from: 12, to: 14, order: 60 } }, 'me').done;
    expect(sets().find((s) => s.id === set)!.fault!.next).toMatch(/lines, which carry no more than/);
    await changeSet(app, id, set, { fit: { from: before.fit.from, to: before.fit.to, order: before.fit.order } }, 'me').done; // prettier-ignore
    expect(sets().find((s) => s.id === set)!.fault).toBeNull();
    removeSet(app, id, set);
    expect(() => removeSet(app, id, first().id)).toThrow(/only set/);
  }, 60_000);

  test('a run that is cancelled says so, and is computed when it is asked for', async () => {
    const { set, done } = addSet(app, id, first().id, { correlate: { lags: 256 } }, 'me');
    cancelSet(app, set);
    await done;
    expect(sets().find((s) => s.id === set)!.state).toBe('cancelled');
    expect(() => cancelSet(app, set)).toThrow(/Nothing of it/);
    await refreshSet(app, id, set, 'me').done;
    expect(sets().find((s) => s.id === set)!.state).toBe('done');
    removeSet(app, id, set);
  }, 60_000);

  test('changed twice in a row: the later one counts', async () => {
    const before = first();
    const one = changeSet(app, id, before.id, { correlate: { lags: 256 } }, 'me').done;
    const two = changeSet(app, id, before.id, { correlate: { lags: 1024 } }, 'me').done;
    await Promise.all([one, two]);
    expect(first()).toMatchObject({ state: 'done', facts: { lags: 1024 } });
    expect(first().picks.length).toBe(before.picks.length);
  }, 60_000);
});

test('the same for other runs: each mode is found again where its run has it', async () => {
  const before = sets().length;
  const others = listTakes(app.db, currentJob(app.db)!.id)
    .filter((t) => /^BW2-M-[23]$/.test(t.name))
    .map((t) => t.id);
  expect(others.length).toBe(2);
  const { view, done } = addRuns(app, id, first().id, [...others, take()], 'me');
  expect(view.sets.length).toBe(before + 2); // the one that is there is not done twice
  await done;
  for (const [name, stretch] of [
    ['BW2-M-2', 0.985],
    ['BW2-M-3', 0.993],
  ] as const) {
    const run = sets().find((s) => s.takes[0] === name)!;
    expect(run).toMatchObject({ state: 'done', fault: null, about: { Operator: 'bench' } });
    const flap = run.modes!.modes.find((m) => m.name === 'blades flap together')!;
    expect(Math.abs(flap.hz / (24.2 * stretch) - 1), name).toBeLessThan(0.002);
    removeSet(app, id, run.id);
  }
  expect(() => addRuns(app, id, first().id, ['nobody'], 'me')).toThrow(/no take/);
}, 60_000);

describe('out, and in again', () => {
  test('shapes on their nodes', () => {
    const { text, name } = modalFile(app, id, first().id, 'shapes');
    expect(name).toMatch(/\.unv$/);
    const bytes = new TextEncoder().encode(text);
    const back = readStructure({ name, length: bytes.length, read: (at, n) => bytes.subarray(at, at + n) });
    expect(back.points.length).toBe(41);
    expect(back.shapes.map((s) => s.hz.toFixed(3))).toEqual(first().modes!.modes.map((m) => m.hz.toFixed(3)));
    // The first mode nods: the hub goes fore and aft, x, as its sensor says.
    const hub = framesOf(app)[0].frame.points.findIndex((p) => p.name === 'H') + 1;
    const at = back.shapes[0].nodes.indexOf(String(hub));
    const sensor = ACCELEROMETERS.findIndex((a) => a.point === 'H');
    expect(back.shapes[0].shape.re[3 * at]).toBeCloseTo(first().modes!.modes[0].shape.re[sensor], 4);
  });
  test('functions: all pairs, at their nodes and directions', () => {
    const { text } = modalFile(app, id, first().id, 'functions');
    const bytes = new TextEncoder().encode(text);
    const found = datasetsOf({
      name: 'f',
      length: bytes.length,
      read: (at, n) => bytes.subarray(at, at + n),
    });
    expect(found.length).toBe(16 * 5);
    expect(found[0]).toMatchObject({ functionType: 3, abscissa: 18, values: 513, width: 2, response: { node: 1, direction: 1 } }); // prettier-ignore
    expect(found[0].step).toBeCloseTo(0.15625, 6);
  });
  test('table and numbers', () => {
    const rows = modalFile(app, id, first().id, 'csv').text.trim().split('\r\n');
    expect(rows[0]).toMatch(/^mode,"frequency, Hz",± Hz,"damping, %"/);
    expect(rows.length).toBe(first().picks.length + 1);
    const json = JSON.parse(modalFile(app, id, first().id, 'json').text) as {
      modes: { hz: number }[];
      says: string;
    };
    expect(json.modes.map((m) => m.hz)).toEqual(first().modes!.modes.map((m) => m.hz));
    expect(json.says).toBe(first().sentence);
  });
  test('without modes there is nothing to write', async () => {
    const { set, done } = addSet(app, id, first().id, {}, 'me');
    await done;
    await pickModes(app, id, set, []);
    expect(() => modalFile(app, id, set, 'csv')).toThrow(/Pick poles first/);
    removeSet(app, id, set);
  }, 60_000);
});

describe('wireframes', () => {
  const bare = (name: string) => ({ name, parts: [], points: [{ name: 'a', part: '', at: [0, 0, 0] as [number, number, number] }], lines: [], surfaces: [], sensors: [], held: [], follows: [] }); // prettier-ignore
  test('a change is one that can be undone and done again', async () => {
    const { frame } = await addFrame(app, bare('mast'), 'me');
    await putFrame(app, frame.id, { ...bare('mast'), points: [] }, 'a taken away', 'me');
    expect(framesOf(app).find((f) => f.frame.id === frame.id)!.frame.points).toEqual([]);
    await undo(app, 'me');
    expect(framesOf(app).find((f) => f.frame.id === frame.id)!.frame.points.length).toBe(1);
    await redo(app, 'me');
    expect(framesOf(app).find((f) => f.frame.id === frame.id)!.frame.points).toEqual([]);
    await expect(addFrame(app, bare('mast'), 'me')).rejects.toThrow(/already/);
    await removeFrame(app, frame.id, 'me');
    expect(framesOf(app).length).toBe(1);
  });
  test('channels of the take can sit on it, and nothing is wrong with the demo’s', () => {
    expect(frameChannels(app, null).filter((c) => c.from === 'BW2-M-1').length).toBe(16);
    expect(framesOf(app)[0].findings).toEqual([]);
  });
  test('it travels with the set-up', async () => {
    const text = JSON.stringify(exportSetup(app));
    const home = currentJob(app.db)!.id;
    startJob(app, 'Elsewhere', 'Pier');
    await importSetup(app, text, { mapping: {} }, 'me');
    const [there] = framesOf(app);
    expect(there.frame.points.length).toBe(41);
    expect(there.frame.sensors.length).toBe(16);
    makeJobCurrent(app.db, home);
  });
  test('universal files come in, and others are refused', () => {
    const { text } = frameFile(app, framesOf(app)[0].frame.id);
    const back = readFrame(new TextEncoder().encode(text), 'nacelle.unv');
    expect([back.name, back.points.length, back.lines.length]).toEqual(['nacelle', 41, 54]);
    expect(() => readFrame(new TextEncoder().encode('hello'), 'x.unv')).toThrow(/no nodes/);
  });
  test('an analysis whose wireframe goes away shows its responses in a row', async () => {
    const { frame } = await addFrame(app, bare('soon gone'), 'me');
    const before = viewAnalysis(app, id).frame;
    changeAnalysis(app, id, { frame: frame.id });
    await removeFrame(app, frame.id, 'me');
    expect(modalFile(app, id, first().id, 'shapes').text).toMatch(/Responses in a row/);
    changeAnalysis(app, id, { frame: before });
    expect(() => changeAnalysis(app, id, { frame: 'nobody' })).toThrow(/no wireframe/);
  });
});

test('files of an analysis go with it, and what nothing names is put in order', async () => {
  const { view, done } = addAnalysis(app, { takes: [take()] }, 'me');
  await done;
  const mine = viewAnalysis(app, view.id).sets[0];
  expect(mine).toMatchObject({ state: 'done', picks: [] });
  expect(mine.suggested.length).toBeGreaterThan(4);
  expect(mine.fit.from).toBeGreaterThan(0);
  const names = [mine.correlationsId!, mine.polesId!];
  expect(names.every((n) => files().some((f) => f.startsWith(n)))).toBe(true);
  tidyModal(app.db, app.modal.results);
  expect(names.every((n) => files().some((f) => f.startsWith(n)))).toBe(true);
  removeAnalysis(app, view.id, 'me');
  expect(names.some((n) => files().some((f) => f.startsWith(n)))).toBe(false);
  expect(() => viewAnalysis(app, view.id)).toThrow(/no analysis/);
}, 60_000);

describe('in a report', () => {
  const page = async (
    kind: 'modes' | 'stabilization' | 'shapes' | 'alike',
    settings: Block['settings'],
    size: Partial<Block> = {},
  ) => {
    // prettier-ignore
    const { id: report, version, about, now, ...body } = viewReport(app, addReport(app, {}, 'me').id);
    void about;
    const block = { id: 'b', kind, x: 15, y: 15, w: 180, h: 110, settings, ...size } as Block;
    const view = writeReport(app, report, version, {
      ...body,
      pages: [{ ...body.pages[0], blocks: [block] }],
    });
    const blocks = (await paintReport(app, view, null, now)).pages.flatMap((p) => p.blocks);
    return blocks[0];
  };
  const wordsOf = (svg: string) => svg.replace(/<[^>]+>/g, '\n').replace(/\n+/g, '\n');
  test('the table has the numbers of the page, and says how they were found', async () => {
    const { svg } = await page('modes', {
      analysis: 'Nacelle and blades, in the flow',
      set: 1,
      sentence: 'shown',
    });
    const words = wordsOf(svg);
    for (const m of first().modes!.modes) expect(words).toContain(m.hz.toFixed(3));
    expect(words).toContain('nacelle nods');
    expect(words.replace(/\s+/g, ' ')).toMatch(/Kept apart as harmonics: 20\.70 Hz \(3 times the speed\)/);
  });
  test('without a name it is the last analysis: of the rotor that was struck, whose sentence tells of the hammers', async () => {
    const words = wordsOf((await page('modes', { analysis: '', set: 1, sentence: 'shown' })).svg).replace(
      /\s+/g,
      ' ',
    );
    expect(words).toContain('as they answer Hammer, nacelle and Hammer, blade 2 hit by hit');
    expect(words).not.toContain('Kept apart as harmonics');
    const { modes } = viewAnalysis(app, viewAnalyses(app).at(-1)!.id).sets[0];
    expect(modes!.modes).toHaveLength(7);
    for (const m of modes!.modes) expect(words).toContain(m.hz.toFixed(3));
  });
  test('a report of a set begins with its modes, diagram, shapes and how alike they are', async () => {
    const { id: report, pages, takes } = addReport(app, { template: 'modes', take: take(), settings: Object.fromEntries(['modes', 'stabilization', 'shapes', 'alike'].map((k) => [k, { analysis: 'Nacelle and blades, in the flow', set: 1 }])) }, 'me'); // prettier-ignore
    expect(takes).toEqual([take()]);
    const blocks = pages.flatMap((p) => p.blocks).filter((b) => 'analysis' in (b.settings as object));
    expect(blocks.map((b) => b.kind)).toEqual(['modes', 'stabilization', 'shapes', 'alike']);
    for (const b of blocks)
      expect(b.settings).toMatchObject({ analysis: 'Nacelle and blades, in the flow', set: 1 });
    const drawn = await paintReport(app, viewReport(app, report), take(), viewReport(app, report).now);
    const words = wordsOf(drawn.pages.flatMap((p) => p.blocks).map((b) => b.svg).join('')); // prettier-ignore
    for (const m of first().modes!.modes) expect(words).toContain(m.hz.toFixed(3));
    expect(words).not.toMatch(/There is no modal analysis/);
  });
  test('the diagram has a mark for each pole that is at rest, and a ring for each pick', async () => {
    const { svg, says } = await page('stabilization', {
      analysis: 'Nacelle and blades, in the flow',
      set: 1,
    });
    expect(says).toBeFalsy();
    expect((svg.match(/a1\.6,1\.6 0 1 0/g) ?? []).length).toBeGreaterThan(60);
    expect((svg.match(/a3\.6,3\.6 0 1 0 7\.2/g) ?? []).length).toBe(first().picks.length);
  });
  test('shapes: each on all lines of the wireframe, at rest and moved', async () => {
    const { svg } = await page('shapes', { analysis: '', set: 1, most: 3 });
    expect((svg.match(/<line /g) ?? []).length).toBe(3 * 2 * 54);
    expect(wordsOf(svg)).toContain('nacelle nods');
  });
  test('alike: one on the diagonal', async () => {
    const words = wordsOf((await page('alike', { analysis: '', set: 1 })).svg);
    expect(words.match(/\n1\.00\n/g)!.length).toBeGreaterThanOrEqual(first().picks.length - 1);
  });
  test('what is not there is said', async () => {
    expect((await page('modes', { analysis: 'nobody', set: 1, sentence: 'shown' })).says).toMatch(/no modal analysis “nobody”/); // prettier-ignore
    expect((await page('alike', { analysis: '', set: 9 })).says).toMatch(/There is no modal analysis/);
  });
});
