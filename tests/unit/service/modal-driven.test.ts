import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { datasetsOf } from '$core/formats/uff/dataset';
import { mac } from '$core/modal/shape';
import { Random } from '$core/random';
import { referenceOf, type SetView } from '$contract/modal';
import type { FrameBody } from '$contract/wireframe';
import { openApp, startJob, type App } from '$service/app';
import { addAnalysis, addSet, changeAnalysis, changeSet, pickModes, viewAnalysis } from '$service/modal/analyses'; // prettier-ignore
import { addFrame } from '$service/modal/frames';
import { driversOf, forcesOf, movingOf } from '$service/modal/inputs';
import { modalFile } from '$service/modal/out';
import type { CorrelationFile } from '$service/modal/tasks';
import { getAnalysis, putAnalysis } from '$store/modal';
import * as t from '$store/modal-tables';
import { recordStruck } from '../../../demo/nacelle';
import { ACCELEROMETERS, TRUE_MODES, nacelleFrame } from '../../../demo/structure';
import { HAMMERS, inTurn, struck, type Strike } from '../../../demo/struck';

// A structure that is struck, from the take to modes: each way, each hit, each change.
const RATE = 512;
const STRIKES: Strike[] = inTurn(4, 5).map((s, k) => ({ ...s, ...(k === 1 && { bounces: 0.1 }) }));
let folder: string;
let app: App;
let take: string;
let still: string;
let id: string;
let began: SetView;
const name = (k: number) => `acc-${k + 1}`;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-driven-'));
  app = openApp(folder);
  startJob(app, 'Struck', 'Harrow Quay');
  const histories = struck(9, 42, RATE, STRIKES, 0.005);
  take = recordStruck(app, (n) => name(ACCELEROMETERS.findIndex((a) => a.name === n)), 'H1', histories);
  still = recordStruck(app, (n) => name(ACCELEROMETERS.findIndex((a) => a.name === n)), 'H2', histories.slice(0, 16)); // prettier-ignore
  const { view, done } = addAnalysis(app, { takes: [take] }, 'bench');
  await done;
  id = view.id;
  began = set();
  await change({ correlate: { factor: 2, lags: 1024 }, fit: { from: 9.2, to: 55, order: 80 } });
}, 120_000);
afterAll(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});
const set = (): SetView => viewAnalysis(app, id).sets[0];
const change = (what: Parameters<typeof changeSet>[3], of = set().id) => changeSet(app, id, of, what, 'bench').done; // prettier-ignore
const file = () => app.modal.results.get<CorrelationFile>(set().correlationsId!);

describe('a take with hammers in it', () => {
  test('is looked at hit by hit from the beginning; its sentence says so, and the advice of references is not asked', () => {
    const { correlate, facts, state, fault, advice, sentence } = set();
    expect([state, fault, advice]).toEqual(['done', null, null]);
    expect(correlate).toMatchObject({ method: 'hit by hit', references: ['hammer-1', 'hammer-2'] });
    expect(correlate.responses).toHaveLength(16);
    expect(facts!.responses.map((r) => r.name)).toEqual(ACCELEROMETERS.map((a) => a.name));
    expect(facts!.forces).toEqual(
      HAMMERS.map((h, k) => ({ id: `hammer-${k + 1}`, name: h.name, unit: 'N' })),
    );
    expect(facts!.references.map((_, q) => referenceOf(facts!, q)!.name)).toEqual(HAMMERS.map((h) => h.name));
    expect(sentence).toMatch(/^Follow .* as they answer Hammer, nacelle and Hammer, blade 2 hit by hit, each from 10 % of the largest on and its force for 0.05 s/); // prettier-ignore
    expect(began.fit.to).toBeLessThanOrEqual(Math.min(...began.facts!.reachHz));
    expect(began.fit.order).toBe(80);
    expect(forcesOf(app, take).map((f) => f.id)).toEqual(['hammer-1', 'hammer-2']);
    expect(movingOf(app, take)).toHaveLength(16);
  });

  test('every hit is there with what speaks against it; one that bounced counts not, nor one that begins while another is followed', () => {
    const { facts } = set();
    expect(facts!.hits.filter((h) => !h.counts).map((h) => [Math.round(h.atS), h.faults])).toEqual([[6, ['struck twice']]]); // prettier-ignore
    expect(facts!.hits).toHaveLength(8);
    expect(facts!.pieces).toBe(7);
    expect(file().driving!.courses).toHaveLength(8);
    // Where the hit begins in its frame the force rises.
    const { courses, ahead } = file().driving!;
    for (const [k, course] of courses.entries()) {
      const peak = course.reduce((best, v, n) => (Math.abs(v) > Math.abs(course[best]) ? n : best), 0);
      expect(Math.abs(peak - ahead), `${k}`).toBeLessThan(6);
    }
  });

  test('modes: suggested, picked, with ± over the hits; none is a harmonic', async () => {
    const picks = set().suggested.map(({ order, index, hz, damping }) => ({ order, index, hz, damping, name: '', out: false })); // prettier-ignore
    const { done } = await pickModes(app, id, set().id, picks);
    await done;
    const { modes } = set();
    expect(modes!.overBlocks).toBe(true);
    expect(modes!.metAll).toBeGreaterThan(0.97);
    TRUE_MODES.forEach((mode, k) => {
      const found = modes!.modes.find((m) => Math.abs(m.hz / mode.hz - 1) < 0.003 && mac({ re: Float64Array.from(m.shape.re), im: Float64Array.from(m.shape.im) }, { re: Float64Array.from(mode.shape), im: new Float64Array(16) }) > 0.9); // prettier-ignore
      expect(found, `${k}: ${mode.hz} Hz among ${modes!.modes.map((m) => m.hz)}`).toBeDefined();
      expect(found!.harmonic).toMatchObject({ is: false, kurtosis: null, multiple: null });
      expect(found!.participation.re).toHaveLength(2);
    });
    expect(set().facts!.coherence).toHaveLength(32);
    for (const c of set().facts!.coherence) expect(c).toBeGreaterThan(0.5);
  });

  test('a hit turned away and back: all follows, the modes stay theirs', async () => {
    const before = { picks: set().picks.length, correlations: set().correlationsId };
    const [front] = set().facts!.hits;
    await change({ correlate: { turned: [front.key] } });
    expect(set().facts!.hits[0]).toMatchObject({ key: front.key, counts: false, faults: [] });
    expect(set().facts!.pieces).toBe(6);
    expect(set().correlationsId).not.toBe(before.correlations);
    expect(set().picks.length).toBeGreaterThanOrEqual(before.picks - 1);
    const twice = set().facts!.hits.find((h) => h.faults.includes('struck twice'))!;
    await change({ correlate: { turned: [twice.key], keepS: 0.2 } });
    expect(set().facts!.pieces).toBe(8);
    await change({ correlate: { turned: [], keepS: 0.05 } });
    expect(set().facts!.pieces).toBe(7);
    // All of one hammer turned away: what to do is said, and nothing is lost.
    const all = set().facts!.hits.filter((h) => h.force === 1).map((h) => h.key); // prettier-ignore
    await change({ correlate: { turned: all } });
    expect(set()).toMatchObject({ state: 'failed' });
    expect(set().fault!.what + set().fault!.next).toMatch(/Hammer, blade 2 counts: 4 left out by hand/);
    expect(set().picks.length).toBeGreaterThanOrEqual(before.picks - 1);
    await change({ correlate: { turned: [] } });
    expect(set().state).toBe('done');
  });

  test('the window’s percentage: hits are windowed anew, and damping stays', async () => {
    const damping = () => set().modes!.modes.map((m) => [m.hz, m.damping]);
    const [before, correlations] = [damping(), set().correlationsId];
    await change({ correlate: { left: 5 } });
    expect(set().correlationsId).not.toBe(correlations);
    for (const [hz, own] of before.slice(0, 3)) {
      const now = damping().find(([f]) => Math.abs(f / hz - 1) < 0.002)!;
      expect(Math.abs(now[1] / own - 1), `${hz} Hz`).toBeLessThan(0.06);
    }
    await change({ correlate: { left: 1 } });
  });

  test('another way and back: references are advised where there is no force, forces where there is', async () => {
    const { set: other, done } = addSet(app, id, set().id, { correlate: { method: 'over the whole span' } }, 'bench'); // prettier-ignore
    await done;
    const second = () => viewAnalysis(app, id).sets.find((s) => s.id === other)!;
    expect(second().correlate.references.length).toBeGreaterThan(0);
    expect(second().correlate.references.every((r) => r.startsWith('acc-'))).toBe(true);
    expect(second().facts).toMatchObject({ forces: [], hits: [], coherence: [] });
    await change({ correlate: { method: 'hit by hit' } }, other);
    expect(second().correlate.references).toEqual(['hammer-1', 'hammer-2']);
    expect(second().facts!.pieces).toBe(7);
    await change({ correlate: { method: 'by segments of a lasting force' } }, other);
    expect(second().facts!.hits).toEqual([]);
    expect(second().facts!.pieces).toBeGreaterThan(5);
    expect(second().facts!.forces).toHaveLength(2);
  });

  test('functions go out as frequency responses with their unit and the force’s own place', async () => {
    const { text } = modalFile(app, id, set().id, 'functions');
    const bytes = new TextEncoder().encode(text);
    const found = datasetsOf({
      name: 'f',
      length: bytes.length,
      read: (at, n) => bytes.subarray(at, at + n),
    });
    expect(found).toHaveLength(32);
    expect(text.split('\n').filter((l) => / to Hammer, (nacelle|blade 2)/.test(l))).toHaveLength(32);
    // Dataset 58, record 6: function type 4 is a frequency response.
    const lines = text.split('\n');
    const kinds = lines.flatMap((l, k) => (/^\s*58\s*$/.test(l) ? [Number(lines[k + 6].slice(0, 5))] : []));
    expect(new Set(kinds)).toEqual(new Set([4]));
    // Without a place of its own a hammer stands nowhere; on the wireframe, at its point along its direction.
    const places = (all: string) => all.split('\n').flatMap((l) => (/^ {4}4 .*NONE .*NONE/.test(l) ? [l.trim().split(/\s+/).slice(-2).map(Number)] : [])); // prettier-ignore
    expect(new Set(places(text).map(String))).toEqual(new Set(['0,0']));
    const base = nacelleFrame((n) => name(ACCELEROMETERS.findIndex((a) => a.name === n)));
    const sensors = [...base.sensors, { channel: 'hammer-1', point: 'N1', direction: [1, 0, 0] as const }];
    const { frame, findings } = await addFrame(app, JSON.parse(JSON.stringify({ ...base, sensors })) as FrameBody, 'me'); // prettier-ignore
    expect(findings.map((f) => f.says).join(' ')).not.toMatch(
      /measures no motion|look along the same line|measure in/,
    );
    changeAnalysis(app, id, { frame: frame.id });
    const placed = places(modalFile(app, id, set().id, 'functions').text);
    expect(new Set(placed.map(String))).toEqual(new Set(['0,0', '1,1']));
    changeAnalysis(app, id, { frame: null });
    const json = JSON.parse(modalFile(app, id, set().id, 'json').text);
    expect(json.forces).toHaveLength(2);
  });

  test('what is no force, a take without one, and none at all are refused', async () => {
    expect(() => addSet(app, id, set().id, { correlate: { references: ['acc-1'] } }, 'bench')).toThrow(/It is no force/); // prettier-ignore
    expect(() => addSet(app, id, set().id, { correlate: { references: [] } }, 'bench')).toThrow(/Choose a force/); // prettier-ignore
    expect(driversOf(app, take, 512)).toEqual({ ids: ['hammer-1', 'hammer-2'], strike: true });
    expect(driversOf(app, take, 160)).toEqual({ ids: [], strike: false });
    const { view, done } = addAnalysis(app, { takes: [still] }, 'bench');
    await done;
    expect(view.sets[0].correlate.method).toBe('over the whole span');
    expect(() => changeSet(app, view.id, view.sets[0].id, { correlate: { method: 'hit by hit' } }, 'bench')).toThrow(/H2 holds no channel of force/); // prettier-ignore
    expect(viewAnalysis(app, view.id).sets[0].correlate.method).toBe('over the whole span');
  });

  test('a load that lasts drives nothing by itself: the take is looked at in its own work, until somebody says otherwise', async () => {
    const random = new Random(4);
    const load = Float32Array.from({ length: 42 * RATE }, (_, k) => 800 + 60 * Math.sin(k / 3000) + 3 * random.gauss()); // prettier-ignore
    const loaded = recordStruck(app, (n) => name(ACCELEROMETERS.findIndex((a) => a.name === n)), 'H3', [...struck(9, 42, RATE, STRIKES, 0.005).slice(0, 16), load]); // prettier-ignore
    expect(driversOf(app, loaded, RATE)).toEqual({ ids: ['hammer-1'], strike: false });
    const { view, done } = addAnalysis(app, { takes: [loaded] }, 'bench');
    await done;
    const own = () => viewAnalysis(app, view.id).sets[0];
    expect(own().correlate.method).toBe('over the whole span');
    expect(own().correlate.responses).not.toContain('hammer-1');
    await changeSet(app, view.id, own().id, { correlate: { method: 'hit by hit' } }, 'bench').done;
    expect(own().correlate.references).toEqual(['hammer-1']);
    expect(own()).toMatchObject({ state: 'failed' });
    expect(own().fault!.next).toMatch(/segments where the force lasts/);
    await changeSet(app, view.id, own().id, { correlate: { method: 'by segments of a lasting force', factor: 4, lags: 256 }, fit: { from: 8, to: 55, order: 20 } }, 'bench').done; // prettier-ignore
    expect(own()).toMatchObject({ state: 'done', fault: null });
    // It explains next to nothing, which is said as a number.
    expect(Math.max(...own().facts!.coherence)).toBeLessThan(0.6);
  });

  test('a set that was kept before there were forces is read as one without', () => {
    const row = getAnalysis(app.db, id);
    const old = JSON.parse(JSON.stringify(row.body)) as typeof row.body;
    for (const s of old.sets) {
      for (const key of ['keepS', 'level', 'turned'] as const) delete (s.correlate as Partial<typeof s.correlate>)[key]; // prettier-ignore
      for (const key of ['forces', 'hits', 'reachHz', 'coherence', 'notes'] as const) delete (s.facts as Partial<typeof s.facts & object>)?.[key]; // prettier-ignore
    }
    app.db.update(t.modal).set({ body: old }).where(eq(t.modal.id, id)).run();
    const [front] = getAnalysis(app.db, id).body.sets;
    expect(front.correlate).toMatchObject({ keepS: 0.05, level: 10, turned: [] });
    expect(front.facts).toMatchObject({ forces: [], hits: [], notes: [] });
    expect(() => viewAnalysis(app, id)).not.toThrow();
    putAnalysis(app.db, row);
  });
});
