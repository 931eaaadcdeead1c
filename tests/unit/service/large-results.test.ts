import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { decode } from 'cbor2';
import Papa from 'papaparse';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { placeAt, type Figure, type LineMark } from '$core/figures/figure';
import { heatColumns, heatRows } from '$core/figures/heat';
import { thinFigure } from '$core/figures/thin';
import { resultTables, type StudyResult } from '$core/studies/study';
import { closeApp, openApp, type App } from '$service/app';
import { makeReport } from '$service/report/report';
import { removeStudy, resultFile, resultTable, startStudy, viewStudy } from '$service/study/studies';
import { makeTake } from '../takes';

// A result that is too large to be sent whole: its extremes are drawn, files hold all of it.
const axis = { label: 'x', unit: 's', scale: 'linear' } as const;
const figure = (marks: Figure['marks']): Figure => ({
  title: 'F',
  x: axis,
  y: { ...axis, label: 'y' },
  marks,
});
const value = fc.oneof({ weight: 9, arbitrary: fc.double({ min: -1e6, max: 1e6, noNaN: true }) }, { weight: 1, arbitrary: fc.constant(NaN) }); // prettier-ignore

describe('a figure that is thinned', () => {
  test('keeps the extremes and their places, the order, and no more than asked', () => {
    fc.assert(
      fc.property(
        fc.array(value, { minLength: 1, maxLength: 400 }),
        fc.integer({ min: 4, max: 60 }),
        (y, most) => {
          const [mark] = thinFigure(figure([{ mark: 'line', name: 'a', x: { from: 3, step: 0.5, length: y.length }, y }]), most).marks as LineMark[]; // prettier-ignore
          const all = y.filter((v) => v === v);
          const kept = Array.from(mark.y).filter((v) => v === v);
          expect(mark.y.length).toBeLessThanOrEqual(Math.max(most, 0) >= y.length ? y.length : most);
          expect(kept.length > 0).toBe(all.length > 0);
          if (all.length) {
            expect(Math.max(...kept)).toBe(Math.max(...all));
            expect(Math.min(...kept)).toBe(Math.min(...all));
          }
          for (let i = 0; i < mark.x.length; i++) {
            const at = (placeAt(mark.x, i) - 3) / 0.5;
            expect(Object.is(y[at], mark.y[i]) || y[at] === mark.y[i]).toBe(true);
            if (i) expect(placeAt(mark.x, i)).toBeGreaterThan(placeAt(mark.x, i - 1));
          }
        },
      ),
    );
  });
  test('a gap as wide as a stretch stays a gap', () => {
    const y = Float64Array.from({ length: 1000 }, (_, i) => (i >= 400 && i < 600 ? NaN : i % 7));
    const [mark] = thinFigure(figure([{ mark: 'line', name: 'a', x: { from: 0, step: 1, length: 1000 }, y }]), 100).marks as LineMark[]; // prettier-ignore
    const inside = Array.from(mark.y).filter((_, i) => placeAt(mark.x, i) >= 400 && placeAt(mark.x, i) < 600);
    expect(inside.length).toBeGreaterThan(0);
    expect(inside.every(Number.isNaN)).toBe(true);
  });
  test('a band keeps its lowest and highest; points keep what reaches through them', () => {
    const n = 500;
    const x = Float64Array.from({ length: n }, (_, i) => i);
    const [band, points] = thinFigure(
      figure([
        { mark: 'band', name: 'b', x, low: x.map((i) => (i === 123 ? -9 : 0)), high: x.map((i) => (i === 321 ? 9 : 1)) }, // prettier-ignore
        { mark: 'points', name: 'p', x, y: x.map((i) => Math.sin(i)), reach: x.map((i) => i / 1000) },
      ]),
      40,
    ).marks;
    if (band.mark !== 'band' || points.mark !== 'points') throw new Error('other marks');
    expect(Math.min(...Array.from(band.low))).toBe(-9);
    expect(Math.max(...Array.from(band.high))).toBe(9);
    expect(points.reach).toHaveLength(points.y.length);
    Array.from(points.reach!).forEach((r, i) => expect(r).toBe(placeAt(points.x, i) / 1000));
  });
  test('a heat picture keeps its highest cell where it is, its edges, and no more cells than asked', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 4, max: 20 }),
        fc.nat(),
        (nx, ny, most, where) => {
          const z = new Float64Array(nx * ny).fill(1);
          const hot = where % z.length;
          z[hot] = 7;
          const heat = { mark: 'heat', name: 'h', x: { from: 10, step: 2, length: nx + 1 }, y: { from: 0, step: 1, length: ny + 1 }, z } as const; // prettier-ignore
          const [out] = thinFigure(figure([heat]), most).marks;
          if (out.mark !== 'heat') throw new Error('another mark');
          const [cx, cy] = [heatColumns(out), heatRows(out)];
          expect(cx * cy).toBe(out.z.length);
          expect(cx * cy).toBeLessThanOrEqual(Math.max(most * 40, 1));
          expect([placeAt(out.x, 0), placeAt(out.x, cx), placeAt(out.y, 0), placeAt(out.y, cy)]).toEqual([10, 10 + 2 * nx, 0, ny]); // prettier-ignore
          const found = Array.from(out.z).indexOf(7);
          const middle = { x: 10 + 2 * (hot % nx) + 1, y: Math.floor(hot / nx) + 0.5 };
          expect(placeAt(out.x, found % cx)).toBeLessThan(middle.x);
          expect(placeAt(out.x, (found % cx) + 1)).toBeGreaterThan(middle.x);
          expect(placeAt(out.y, Math.floor(found / cx))).toBeLessThan(middle.y);
          expect(placeAt(out.y, Math.floor(found / cx) + 1)).toBeGreaterThan(middle.y);
        },
      ),
    );
  });
  test('what is small is not touched, not even copied', () => {
    const small = figure([{ mark: 'line', name: 'a', x: [1, 2], y: [3, 4] }]);
    expect(thinFigure(small, 4)).toBe(small);
  });
});

describe('a result that is too large to be sent whole', () => {
  let folder: string;
  let app: App;
  let take: string;
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'farrier-large-'));
    app = openApp(folder);
    take = makeTake(app, {
      name: 'Long',
      signals: Array.from({ length: 9 }, (_, k) => ({
        name: `Flap ${k}`,
        unit: 'µε',
        hz: 1000,
        values: Float32Array.from({ length: 1_100_000 }, (_, i) => Math.sin(i / (5 + k)) + (i % 7) / 50),
      })),
    });
  });
  afterAll(async () => {
    await closeApp(app);
    app.db.$client.close();
    rmSync(folder, { recursive: true });
  });

  test('is drawn by its extremes, saved whole as a table, fits a report, and goes with its study', async () => {
    // Segments of a million samples: half a million lines of each channel.
    const { view, done } = startStudy(
      app,
      { kind: 'spectrum', takeId: take, settings: { length: 1_048_576, channels: [] } },
      'Ada',
    );
    await done;
    const study = viewStudy(app, view.id);
    expect(study.state).toBe('done');
    const whole = app.results.get<StudyResult>(study.resultId!);
    expect(app.results.read(study.resultId!).length).toBeGreaterThan(35e6);
    const sent = resultFile(app, study.id);
    expect(sent.length).toBeLessThan(5e6);
    const { result } = decode<{ result: StudyResult }>(sent);
    expect(result.thinned).toBe(true);
    expect(result.findings).toEqual(whole.findings);
    const lines = (r: StudyResult) => r.figures.flatMap((f) => f.marks) as LineMark[];
    const highest = ({ x, y }: LineMark) => {
      let most = 0;
      for (let i = 1; i < y.length; i++) if (y[i] > y[most]) most = i;
      return [placeAt(x, most), y[most]];
    };
    expect(lines(result)).toHaveLength(9);
    expect(lines(result).map(highest)).toEqual(lines(whole).map(highest));

    const tables = resultTables(whole);
    const at = tables.findIndex((t) => t.length > 500_000);
    const { name, open } = await resultTable(app, study.id, at);
    expect(name).toBe(`${tables[at].title}.csv`);
    const file = open();
    let text = '';
    for await (const piece of file) text += String(piece);
    const { data } = Papa.parse<string[]>(text.replace('\ufeff', '').trimEnd());
    expect(data).toHaveLength(tables[at].length + 1);
    for (const row of [0, 317_283, tables[at].length - 1])
      expect(data[row + 1].map(Number)).toEqual(tables[at].row(row));
    await new Promise<void>((resolve) => setImmediate(resolve));
    if (!file.closed) await new Promise<void>((resolve) => file.once('close', () => resolve()));
    expect(existsSync(String(file.path))).toBe(false);
    await expect(resultTable(app, study.id, 99)).rejects.toThrow('table of the result');

    expect((await makeReport(app, take, { signals: [], studies: [study.id] } as never)).pdf.length).toBeGreaterThan(1000); // prettier-ignore
    expect(readdirSync(join(folder, 'results'))).toHaveLength(2);
    removeStudy(app, study.id, 'Ada');
    app.results.remove(study.resultId!);
    expect(readdirSync(join(folder, 'results'))).toHaveLength(0);
  }, 120_000);
});
