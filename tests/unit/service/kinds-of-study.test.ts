import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { paintFigure } from '$core/figures/paper';
import { rowsOf } from '$core/figures/table';
import { STUDY_KINDS } from '$core/studies/registry';
import { resultTables, type StudyResult } from '$core/studies/study';
import { PAPER_INK } from '$contract/palette';
import { closeApp, openApp, type App } from '$service/app';
import { makeReport } from '$service/report/report';
import { changeStudy, startStudy, viewStudy } from '$service/study/studies';
import { trailOf } from '$service/study/trail';
import { openTake } from '$service/takes';
import { recipeSamples } from '../../reference';
import { makeTake, type MadeSignal } from '../takes';

// Every kind of study through the whole house: from a take on disk to a result that is kept, tabulated and painted.
let folder: string;
let app: App;
let take: string;
const HZ = 1000;
const SECONDS = 20;
const noise = recipeSamples({ fs: 1, n: HZ * SECONDS, terms: [{ kind: 'gauss12', sigma: 0.2, seed: 77, rng: 'xorshift32' }] }); // prettier-ignore
const made = (of: (t: number, i: number) => number, hz = HZ) =>
  Float32Array.from({ length: hz * SECONDS }, (_, i) => of(i / hz, i));
/** A shaft that runs up, what it shakes, a gate that opens now and then. */
const rich = (): MadeSignal[] => [
  { name: 'Casing', unit: 'm/s²', hz: HZ, values: made((t, i) => 2 * Math.sin(2 * Math.PI * (5 * t + 0.2 * t * t)) + noise[i]) }, // prettier-ignore
  { name: 'Deck', unit: 'm/s²', hz: HZ, values: made((t, i) => Math.sin(2 * Math.PI * (5 * t + 0.2 * t * t) - 0.4) + 0.3 * noise[(i * 7) % noise.length]) }, // prettier-ignore
  { name: 'Shaft', unit: 'rpm', hz: 100, values: made((t) => 300 + 24 * t, 100) },
  { name: 'Gate', unit: 'V', hz: HZ, values: made((t) => (t % 2 >= 0.5 && t % 2 < 1 ? 5 : 0)) },
];
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-kinds-'));
  app = openApp(folder);
  take = makeTake(app, { name: 'Rich', signals: rich() });
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true, force: true });
});

const channelOf = (id: string, name: string) =>
  openTake(app, id).signals.find((s) => s.name === name)!.channelId!;
/** What one looks at when a kind is wanted, so that its first result is of use. */
const LOOKED: Record<string, string> = { pulses: 'Gate', events: 'Gate' };
async function run(kind: string, takeId: string, shown: string[], settings: Record<string, unknown> = {}) {
  const { view, done } = startStudy(app, { kind, takeId, shown, settings }, 'Ada');
  await done;
  return viewStudy(app, view.id);
}
const resultOf = (id: string) => app.results.get<StudyResult>(viewStudy(app, id).resultId!);
const KINDS = STUDY_KINDS.map((k) => [k.kind, k] as const);

describe('with what it chooses by itself', () => {
  test.each(KINDS)('%s brings a result that can be quoted, tabulated, painted and traced', async (kind) => {
    const study = await run(kind, take, [channelOf(take, LOOKED[kind] ?? 'Casing')]);
    expect(study.fault).toBeNull();
    expect(study).toMatchObject({ state: 'done', outOfDate: false });
    expect(study.says).not.toMatch(/removed|undefined|…/);
    const result = resultOf(study.id);
    expect(result.findings.length).toBeGreaterThan(0);
    for (const f of result.findings) {
      expect(Number.isFinite(f.value), `${f.label}: ${f.value}`).toBe(true);
      expect(f.note ?? '').not.toMatch(/NaN|undefined|Infinity/);
    }
    expect(new Set(result.findings.map((f) => f.label)).size).toBe(result.findings.length);
    const tables = resultTables(result);
    expect(tables.length).toBeGreaterThan(0);
    for (const table of tables)
      for (const row of rowsOf(table, 0, 50)) {
        expect(row).toHaveLength(table.columns.length);
        row.forEach((cell, k) => {
          if (typeof cell === 'number') expect(Number.isFinite(cell)).toBe(true);
          if (cell !== null) expect(typeof cell === 'number').toBe(table.columns[k].numeric);
        });
      }
    for (const figure of result.figures) {
      const svg = paintFigure(figure, PAPER_INK, { width: 480, height: 260 });
      expect(svg).toMatch(/^<svg/);
      expect(svg).not.toMatch(/NaN|Infinity|undefined/);
    }
    const trail = trailOf(app, study.id);
    expect(trail.length).toBeGreaterThan(1);
    expect(trail.map((s) => s.what).join(' ')).toContain('Take Rich');
  });

  test('all of them together make a report that another program reads', async () => {
    const { pdf } = await makeReport(app, take, { signals: null, studies: [] });
    const path = join(folder, 'all.pdf');
    writeFileSync(path, pdf);
    const read = spawnSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8' });
    expect(read.status, read.stderr).toBe(0);
    for (const { title } of STUDY_KINDS) expect(read.stdout).toContain(title);
    expect(read.stdout).not.toMatch(/NaN|undefined/);
  });
});

describe('with what is no use', () => {
  /** Whatever is wrong is said with a way out, and no study is lost: what failed is there to be mended in its sentence. */
  const poor: Record<string, () => MadeSignal[]> = {
    'one sample': () => rich().map((s) => ({ ...s, values: s.values instanceof Float32Array ? s.values.slice(0, 1) : s.values })), // prettier-ignore
    'nothing but gaps': () => rich().map((s) => ({ ...s, values: new Float32Array(s.values.length).fill(NaN) })), // prettier-ignore
    'signals that stand still': () => rich().map((s) => ({ ...s, values: new Float32Array(s.values.length).fill(3) })), // prettier-ignore
    'a gap in the middle': () =>
      rich().map((s) => {
        const values = Float32Array.from(s.values);
        values.fill(NaN, Math.floor(values.length * 0.4), Math.floor(values.length * 0.45));
        return { ...s, values };
      }),
    'infinite readings': () =>
      rich().map((s) => {
        const values = Float32Array.from(s.values);
        values[10] = Infinity;
        return { ...s, values };
      }),
  };
  describe.each(Object.keys(poor))('%s', (name) => {
    let id: string;
    beforeAll(() => void (id = makeTake(app, { name, signals: poor[name]() })));
    test.each(KINDS)('%s computes, or says what is wrong and what to do', async (kind) => {
      const study = await run(kind, id, [channelOf(id, LOOKED[kind] ?? 'Casing')]);
      expect(['done', 'failed']).toContain(study.state);
      if (study.state === 'failed') {
        expect(study.fault!.what).not.toMatch(/undefined|NaN of|is not a function|Cannot read|Invalid/);
        expect(study.fault!.next, study.fault!.what).toBeTruthy();
        return;
      }
      for (const f of resultOf(study.id).findings) expect(f.label).toBeTruthy();
      for (const figure of resultOf(study.id).figures)
        expect(paintFigure(figure, PAPER_INK, { width: 480, height: 260 })).not.toMatch(/NaN|Infinity|undefined/); // prettier-ignore
    });
  });

  test('a span beyond the take is refused by every kind, and mended in its sentence', async () => {
    // What reads nothing of the take has no span in it.
    for (const { kind } of STUDY_KINDS.filter((k) => k.roles.length > 0)) {
      const study = await run(kind, take, [channelOf(take, LOOKED[kind] ?? 'Casing')], {
        from: 500,
        to: 600,
      });
      expect(study.state, kind).toBe('failed');
      expect(study.fault!.next, kind).toBeTruthy();
      await changeStudy(app, study.id, { from: 0, to: null }, 'Ada').done;
      expect(viewStudy(app, study.id).state, kind).toBe('done');
    }
  });
});
