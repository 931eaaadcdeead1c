import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { ReportBody } from '$contract/report';
import { BLOCK_KINDS } from '$contract/report-blocks';
import { AXES } from '$contract/report-chart';
import { CHART_FORMS } from '$core/figures/forms';
import { sentenceText } from '$core/sentence/sentence';
import { closeApp, openApp, type App } from '$service/app';
import { paintReport } from '$service/report/pages';
import { addReport, viewReport, writeReport } from '$service/report/reports';
import { writeNote } from '$service/inspect/keep';
import { openTake } from '$service/takes';
import { updateReport } from '$store/reports';
import { makeTake } from '../takes';

// Charts of a page: what they draw is what the take holds, in each form.
let folder: string;
let app: App;
let take: string;
const HZ = 50;
const of = (value: (t: number) => number) => Float32Array.from({ length: 40 * HZ }, (_, i) => value(i / HZ));
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-charts-'));
  app = openApp(folder);
  take = makeTake(app, {
    name: 'Spin',
    signals: [
      { name: 'Speed', unit: 'rpm', hz: HZ, values: of((t) => 100 * Math.floor(t / 10)) },
      { name: 'Torque', unit: 'kN·m', hz: HZ, values: of((t) => (t < 20 ? 2 : NaN)) },
      { name: 'Travel', unit: 'mm', hz: HZ, values: of((t) => Math.cos((2 * Math.PI * t) / 40)) },
      { name: 'Force', unit: 'kN', hz: HZ, values: of((t) => Math.sin((2 * Math.PI * t) / 40)) },
    ],
    notes: [{ atS: 12, says: 'brake set to 2' }],
  });
  writeNote(app, take, { atS: 20, untilS: 30, says: 'gust', replaces: null }, 'Ada');
});
afterAll(async () => {
  await closeApp(app);
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});
const ids = (...names: string[]) => names.map((n) => openTake(app, take).signals.find((s) => s.name === n)!.channelId!); // prettier-ignore
async function drawn(settings: Record<string, unknown>) {
  const report: ReportBody = { ...viewReport(app, addReport(app, {}, 'Ada').id) };
  const block = { id: 'b', kind: 'chart', x: 15, y: 15, w: 180, h: 90, settings };
  const { pages } = await paintReport(app, { ...report, pages: [{ id: 'p', name: 'P', blocks: [block] }] }, take, []); // prettier-ignore
  return pages[0].blocks[0];
}
const texts = (svg: string) => [...svg.matchAll(/<text[^>]*>([^<]*)</g)].map((m) => m[1]);
const rects = (svg: string) => [...svg.matchAll(/<rect x="([-\d.]+)" y="([-\d.]+)" width="([-\d.]+)" height="([-\d.]+)" fill="#[^"]+" fill-opacity="0.80"/g)].map((m) => m.slice(1).map(Number)); // prettier-ignore

describe('forms', () => {
  test('every form draws what it is asked for, says no fault, and its sentence names it', async () => {
    for (const form of CHART_FORMS) {
      const { svg, says } = await drawn({ channels: ids('Speed', 'Torque'), form });
      expect(says, form).toBeNull();
      expect(svg, form).not.toMatch(/NaN|undefined|Infinity/);
      const { kind } = { kind: BLOCK_KINDS.chart };
      expect(sentenceText(kind.sentence, { ...kind.defaults, form }), form).toContain(form);
    }
  });
  test('bars are as high as the mean, the highest or the lowest of their part, and a part without samples has none', async () => {
    const heights = async (what: string, channel: string) =>
      rects((await drawn({ channels: ids(channel), form: 'bars', parts: 4, of: what, names: 'left out', marks: 'left out', looks: { [ids(channel)[0]]: { from: 0, to: 300 } } })).svg); // prettier-ignore
    const speed = await heights('mean', 'Speed');
    expect(speed).toHaveLength(4);
    const [zero, one, two, three] = speed.map(([, , , h]) => h);
    expect(zero).toBeCloseTo(0, 1);
    expect(two / one).toBeCloseTo(2, 2);
    expect(three / one).toBeCloseTo(3, 2);
    const halves = (what: string) =>
      drawn({ channels: ids('Speed'), form: 'bars', parts: 2, of: what, names: 'left out', marks: 'left out', looks: { [ids('Speed')[0]]: { from: 0, to: 300 } } }).then(({ svg }) => rects(svg).map(([, , , h]) => h)); // prettier-ignore
    const whole = three;
    expect((await halves('mean')).map((h) => (h / whole) * 300)).toEqual([expect.closeTo(50, 0), expect.closeTo(250, 0)]); // prettier-ignore
    expect((await halves('highest')).map((h) => (h / whole) * 300)).toEqual([expect.closeTo(100, 0), expect.closeTo(300, 0)]); // prettier-ignore
    expect((await halves('lowest')).map((h) => (h / whole) * 300)).toEqual([expect.closeTo(0, 0), expect.closeTo(200, 0)]); // prettier-ignore
    expect(await heights('mean', 'Torque')).toHaveLength(2);
  });
  test('against the first: a circle stays round, its axis says what lies across; alone it says what is missing', async () => {
    const looks = Object.fromEntries(ids('Travel', 'Force').map((id) => [id, { from: -1.5, to: 1.5 }]));
    const { svg } = await drawn({ channels: ids('Travel', 'Force'), form: 'against the first of them', names: 'left out', looks }); // prettier-ignore
    expect(texts(svg)).toContain('Travel, mm');
    const path = /<path d="M([^"]+)" fill="none"/.exec(svg)![1];
    const places = path.split('L').map((p) => p.split(',').map(Number));
    const [xs, ys] = [places.map((p) => p[0]), places.map((p) => p[1])];
    const middle = (all: number[]) => (Math.min(...all) + Math.max(...all)) / 2;
    const reach = (all: number[]) => (Math.max(...all) - Math.min(...all)) / 2;
    for (const [x, y] of places) expect(Math.hypot((x - middle(xs)) / reach(xs), (y - middle(ys)) / reach(ys))).toBeCloseTo(1, 1); // prettier-ignore
    expect((await drawn({ channels: ids('Travel'), form: 'against the first of them' })).says).toBe('Only Travel is there: choose what it is to be drawn against.'); // prettier-ignore
  });
  test('rows of colour name their channels, the first one on top', async () => {
    const { svg } = await drawn({ channels: ids('Speed', 'Force'), form: 'rows of colour', parts: 40 });
    const at = (name: string) => Number(new RegExp(`<text x="[\\d.]+" y="([\\d.]+)"[^>]*>${name}<`).exec(svg)![1]); // prettier-ignore
    expect(at('Speed')).toBeLessThan(at('Force'));
    expect(texts(svg)).toContain('Each from its lowest to its highest');
  });
});

describe('readings', () => {
  const read = async (settings: Record<string, unknown>) => {
    const report: ReportBody = { ...viewReport(app, addReport(app, {}, 'Ada').id) };
    const block = { id: 'b', kind: 'readings', x: 15, y: 15, w: 180, h: 90, settings };
    const { pages } = await paintReport(app, { ...report, pages: [{ id: 'p', name: 'P', blocks: [block] }] }, take, []); // prettier-ignore
    return { says: pages[0].blocks[0].says, words: texts(pages[0].blocks[0].svg) };
  };
  test('at marks stand beside what was said there, with the values of the samples there', async () => {
    const { words, says } = await read({ channels: ids('Speed', 'Torque') });
    expect(says).toBeNull();
    expect(words).toEqual(expect.arrayContaining(['brake set to 2', 'gust', 'Speed, rpm']));
    // 12 s: the second step; at 20 s the torque has gone.
    expect(words).toEqual(expect.arrayContaining(['100.0', '2.000', '200.0', '–']));
  });
  test('at chosen times, by point or comma; what is no time, or lies outside, is said', async () => {
    const { words } = await read({ channels: ids('Speed'), when: 'at chosen times', times: '5; 15,5;35' });
    expect(words).toEqual(expect.arrayContaining(['0.000', '100.0', '300.0'].map((t) => (t === '0.000' ? '0' : t)))); // prettier-ignore
    const fault = async (times: string) => (await read({ channels: ids('Speed'), when: 'at chosen times', times })).says; // prettier-ignore
    expect(await fault('')).toBe('No time is chosen.');
    expect(await fault('5; soon')).toContain('“soon” is no time');
    expect(await fault('5; 400')).toContain('At 400 s nothing');
    expect((await read({ channels: ids('Speed'), most: 1 })).says).toMatch(/left out/);
  });
});

describe('looks', () => {
  test('an axis has the ends and the name that are asked for; on one axis the widest of them', async () => {
    const [speed, torque] = ids('Speed', 'Torque');
    const looks = { [speed]: { label: 'Rotor', from: -100, to: 400 }, [torque]: { from: 0, to: 10 } };
    const { svg } = await drawn({ channels: [speed, torque], looks });
    expect(texts(svg)).toEqual(expect.arrayContaining(['Rotor', '400', '10']));
    const together = texts((await drawn({ channels: [speed, torque], axes: AXES[3], looks: { [speed]: { to: 400 }, [torque]: { from: -200 } } })).svg); // prettier-ignore
    expect(together).toEqual(expect.arrayContaining(['-200', '400'].map((t) => t.replace('-', '−'))));
  });
  test('names at the lines, none, or above; letters of another size are larger everywhere by as much', async () => {
    const names = async (how: string) => texts((await drawn({ channels: ids('Speed', 'Torque'), names: how })).svg).filter((t) => t === 'Speed' || t === 'Torque').length; // prettier-ignore
    expect([await names('shown'), await names('at the lines'), await names('left out')]).toEqual([2, 2, 0]);
    const scale = async (text: number) => /scale\(([\d.]+)\)/.exec((await drawn({ channels: ids('Speed'), text })).svg)?.[1]; // prettier-ignore
    expect([await scale(7.5), await scale(15)]).toEqual([undefined, '2']);
  });
  test('a span that was marked is filled from its start to its end, a moment is a dotted line', async () => {
    const { svg } = await drawn({ channels: ids('Speed') });
    const [x, , width] = /<rect x="([\d.]+)" y="([\d.]+)" width="([\d.]+)" height="[\d.]+" fill="[^"]+" fill-opacity="0.16"/.exec(svg)!.slice(1).map(Number); // prettier-ignore
    const tick = (name: string) => Number(new RegExp(`<text x="([\\d.]+)" y="[\\d.]+"[^>]*>${name}<`).exec(svg)![1]); // prettier-ignore
    const second = (tick('40') - tick('0')) / 40;
    expect((x - tick('0')) / second).toBeCloseTo(20, 1);
    expect(width / second).toBeCloseTo(10, 1);
    expect(svg).toContain('stroke-dasharray="0.8 2.4"');
    expect((await drawn({ channels: ids('Speed'), marks: 'left out' })).svg).not.toContain('0.8 2.4');
  });
  test('a report that was kept before these could be said draws as it did, and says its sentence', async () => {
    const report = addReport(app, {}, 'Ada');
    const old = { channels: [], from: 0, to: null, axes: AXES[0], scale: 'linear', grid: 'none', marks: 'shown', names: 'shown', caption: '' }; // prettier-ignore
    const { id, version, about, now, ...body } = report;
    void [about, now];
    updateReport(app.db, id, version, { ...body, pages: [{ id: 'p', name: 'P', blocks: [{ id: 'b', kind: 'chart', x: 15, y: 15, w: 180, h: 90, settings: old }] }] }); // prettier-ignore
    const view = viewReport(app, id);
    expect(view.pages[0].blocks[0].settings).toMatchObject({ form: 'lines', text: 7.5, looks: {} });
    expect((await paintReport(app, view, take, [])).pages[0].blocks[0].says).toBeNull();
    const again = { ...body, pages: view.pages };
    expect(writeReport(app, id, view.version, again).version).toBe(view.version + 1);
  });
});
