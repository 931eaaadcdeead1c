import { readFileSync } from 'node:fs';
import { Key, Origin, type WebDriver } from 'selenium-webdriver';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { AnalysisView } from '$contract/modal';
import type { NamedFrame } from '$contract/wireframe';
import { readStructure } from '$core/formats/uff/structure';
import { NACELLE_JOB } from '../../demo/nacelle';
import { TRUE_MODES } from '../../demo/structure';
import { Person, openBrowser, removeFolder, seedDemo, startServer, type RunningServer } from './world';

// Modal analysis as its users meet it: from a take to named modes whose numbers are held against the model they come from.
let driver: WebDriver;
let server: RunningServer;
let p: Person;
beforeAll(async () => {
  server = await startServer(seedDemo('modal'));
  driver = await openBrowser();
  p = new Person(driver, server.base);
  await p.go('/study');
  const { parts } = await p.api<{ parts: { jobs: { id: string; name: string }[] } }>('GET', '/api/overview?parts=jobs'); // prettier-ignore
  await p.api('POST', '/api/jobs', { id: parts.jobs.find((j) => j.name === NACELLE_JOB.name)!.id });
});
afterAll(async () => {
  await driver?.quit();
  const code = await server?.stop();
  removeFolder();
  expect(code).toBe(0);
});

const analyses = () => p.api<{ id: string; name: string }[]>('GET', '/api/modal');
const view = (id: string) => p.api<AnalysisView>('GET', `/api/modal/${id}`);
const settled = (id: string, set = 0) =>
  p.until('computed', async () => (await view(id)).sets[set].state === 'done', 90_000);
const DIAGRAM = '[aria-label="Stabilization diagram"]';
/** What modes are seen as on the page. */
const named = async () => Promise.all((await driver.findElements({ css: `${rows} input.name` })).map((e) => e.getAttribute('value'))); // prettier-ignore
const rows = '[aria-label="Modes"] tbody tr';
/** Where a frequency and a share of the height lie on the diagram, from its middle. */
async function placeOf(id: string, hz: number): Promise<{ x: number; wide: number; tall: number }> {
  const { fit } = (await view(id)).sets[0];
  const { width, height } = await (await p.find(DIAGRAM)).getRect();
  const wide = fit.to - fit.from;
  const [from, to] = [Math.max(0, fit.from - 0.16 * wide), Math.min(80, fit.to + 0.16 * wide)];
  const x = 44 + ((hz - from) / (to - from)) * (width - 44 - 14);
  return { x: Math.round(x - width / 2), wide: width, tall: height };
}

test('from a take to named modes: what is suggested is taken, a pole is picked by a drag, and the numbers are those of the model', async () => {
  await p.go('/study');
  await p.press('How structures move');
  await p.untilText('h1', 'How structures move');
  await p.press('Begin an analysis');
  await p.untilText('h1', 'Modes of BW2-M-1');
  const id = (await driver.getCurrentUrl()).split('/').at(-1)!;
  await settled(id);
  await p.edit('to', '55');
  await p.until('the band is wider', async () => (await view(id)).sets[0].fit.to === 55);
  await settled(id);
  await p.until('suggestions', async () => /take all \d/.test(await p.text('[aria-label="Modes"]')));
  await p.press('take all');
  await p.until('modes', async () => (await driver.findElements({ css: rows })).length >= 5);
  // One is let go, and picked again by a drag over its column.
  const before = (await view(id)).sets[0].picks;
  const third = before.findIndex((m) => Math.abs(m.hz - 24.2) < 0.1);
  await p.clickAt(`${rows}:nth-child(${third + 1}) .number`);
  await p.clickAt(`[aria-label="Let mode ${third + 1} go"]`);
  await p.until('it is gone', async () => (await view(id)).sets[0].picks.length === before.length - 1);
  const at = await placeOf(id, 24.2);
  const diagram = await p.find(DIAGRAM);
  await driver
    .actions()
    .move({ origin: diagram, x: at.x - 12, y: 40 })
    .press()
    .move({ origin: diagram, x: at.x + 12, y: 40, duration: 120 })
    .release()
    .perform();
  await p.until('it is picked', async () => (await view(id)).sets[0].picks.length === before.length);
  const name = `${rows}:nth-child(${third + 1}) input`;
  await p.typeInto(name, 'blades flap together', Key.ENTER);
  await p.until('it is named', async () => (await view(id)).sets[0].picks[third].name === 'blades flap together'); // prettier-ignore
  const { modes } = (await view(id)).sets[0];
  for (const [k, truth] of TRUE_MODES.entries()) {
    const found = modes!.modes.find((m) => Math.abs(m.hz / truth.hz - 1) < 0.002);
    // The sixth is hardly shaken: it may or may not have been suggested.
    if (k === 5 && !found) continue;
    expect(found, truth.seenAs).toBeDefined();
    if (k !== 5) expect(Math.abs(found!.damping / truth.damping - 1), truth.seenAs).toBeLessThan(0.2);
  }
  expect(await p.text('[aria-label="Modes"]')).toMatch(/Kept apart as .*20\.70 Hz/);
  expect(await p.text(`${rows}:nth-child(1)`)).toContain('12.4');
});

test('struck with hammers: what speaks against a hit leaves it out, a press turns it, and the modes are those of the model', async () => {
  const { id } = (await analyses()).find((a) => a.name === 'Nacelle and blades, struck')!;
  await p.go(`/study/modal/${id}`);
  await p.untilText('h1', 'struck');
  await p.press('Hits');
  await p.untilText('.below', '14 of 16 hits count');
  const HITS = '[aria-label="Hits"]';
  expect(await p.text(HITS)).toMatch(/Hammer, nacelle to \d+ Hz, coherent to 0\.9\d/);
  const faults = async () => (await driver.findElements({ css: `${HITS} tr.out` })).length;
  expect(await faults()).toBe(2);
  expect(await p.text(HITS)).toMatch(/25\.00 s 197 N struck twice left out/);
  expect(await p.text(HITS)).toContain('over range left out');
  const { modes } = (await view(id)).sets[0];
  for (const truth of TRUE_MODES) {
    const found = modes!.modes.find((m) => m.name === truth.seenAs)!;
    expect(Math.abs(found.hz / truth.hz - 1), truth.seenAs).toBeLessThan(0.001);
    expect(Math.abs(found.damping / truth.damping - 1), truth.seenAs).toBeLessThan(0.1);
  }
  // By keys from hit to hit; a press turns the first away, the chain follows, another brings it back.
  await p.clickAt('.force [role=group]');
  await p.type(Key.ARROW_DOWN);
  await p.until('the second is shown', async () => (await p.text(`${HITS} tr.here`)).startsWith('9.00 s'));
  await p.clickAt(`${HITS} tr:nth-child(2) .does button`);
  await p.untilText('.below', '13 of 16 hits count');
  await settled(id);
  expect((await view(id)).sets[0]).toMatchObject({
    correlate: { turned: ['0@1.00'] },
    facts: { pieces: 13 },
  });
  expect(await named()).toContain('nacelle yaws');
  await p.clickAt(`${HITS} tr:nth-child(2) .does button`);
  await p.untilText('.below', '14 of 16 hits count');
  await settled(id);
  await p.press('Pairs');
  await p.untilText('.below', /Nacelle fore–aft to Hammer, nacelle\D+coherence 0\.9\d/);
  // A level so high that the weaker ones are no hits any more: what is left is counted.
  await p.edit('level', '45');
  await settled(id);
  await p.press('Hits');
  await p.until('fewer', async () => Number(/ of (\d+) hits/.exec(await p.text('.below'))?.[1]) < 16);
  await p.edit('level', '10');
  await settled(id);
});

test('a window that leaves more: the damping stays what it was', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  await p.untilText('h1', 'Nacelle and blades');
  const before = (await view(id)).sets[0].modes!.modes;
  await p.edit('left', '10');
  await p.until('the window is another', async () => (await view(id)).sets[0].correlate.left === 10);
  await settled(id);
  const after = (await view(id)).sets[0].modes!.modes;
  expect(after.map((m) => m.name)).toEqual(before.map((m) => m.name));
  after.forEach((m, k) => expect(Math.abs(m.damping - before[k].damping), m.name).toBeLessThan(before[k].expanded.damping! + 2e-4)); // prettier-ignore
  // The page shows what was fitted anew.
  await p.until('the page shows them', async () => (await named()).includes('nacelle nods'));
  await p.edit('left', '2');
  await settled(id);
});

test('the band’s edge is dragged onto a peak with Alt, which is warned of, and snaps back into a valley without', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  const diagram = await p.find(DIAGRAM);
  await p.until('modes', async () => (await named()).includes('nacelle nods'));
  const drag = async (from: number, to: number, alt: boolean) => {
    const [a, b] = [await placeOf(id, from), await placeOf(id, to)];
    const y = Math.round(a.tall / 2 - 30);
    const actions = driver.actions();
    if (alt) actions.keyDown(Key.ALT);
    actions.move({ origin: diagram, x: a.x, y }).press().move({ origin: diagram, x: b.x, y, duration: 150 }).release(); // prettier-ignore
    if (alt) actions.keyUp(Key.ALT);
    await actions.perform();
  };
  await drag(9.2, 12.5, true);
  await p.until('the edge moved', async () => Math.abs((await view(id)).sets[0].fit.from - 12.5) < 0.4);
  await p.untilText('main', /The band’s beginning stands on a peak/);
  await settled(id);
  await drag((await view(id)).sets[0].fit.from, 9.6, false);
  await p.until('back in a valley', async () => (await view(id)).sets[0].fit.from < 11.5);
  await settled(id);
  await p.until('no warning', async () => !(await p.text('main')).includes('stands on a peak'));
  // The first mode left the band and came back: it is picked again by its suggestion.
  await p.press('take');
  await p.until('the mode is back', async () => (await view(id)).sets[0].picks.some((m) => Math.abs(m.hz - 12.5) < 0.1)); // prettier-ignore
});

test('another set by the other fit, compared: mode by mode alike', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  await p.press('Another set');
  await p.until('two sets', async () => (await view(id)).sets.length === 2);
  await settled(id, 1);
  await p.choose('method', 'the subspace fit', '.chain > :nth-child(2) ');
  await p.until('the other fit', async () => (await view(id)).sets[1].fit.method === 'the subspace fit');
  await settled(id, 1);
  await p.press('Compare sets');
  await p.untilText('[aria-label="Modes of both"]', /0\.9\d\d|1\.000/);
  const words = await p.text('[aria-label="Modes of both"]');
  expect((words.match(/\b(0\.9[5-9]\d|1\.000)\b/g) ?? []).length).toBeGreaterThanOrEqual(5);
  // A square of the picture says its value.
  const square = await p.find('[aria-label="Modal assurance criterion of set A against set B"] tbody td');
  await driver.actions().move({ origin: square }).perform();
  await p.untilText('[aria-label="Alike"] [role=status]', /A 1 · B 1: (0\.9\d\d|1\.000)/);
  await p.press('One set alone');
});

test('the same for two more runs: frequencies over the flow', async () => {
  const id = (await analyses()).find((a) => a.name === 'Modes of BW2-M-1')!.id;
  await p.go(`/study/modal/${id}`);
  await p.press('More');
  await p.press('Do the same for more takes');
  for (const name of ['BW2-M-2', 'BW2-M-3'])
    await driver.findElement({ xpath: `//li[normalize-space(.)="${name}"]//input` }).click();
  await p.press('do the same for these 2');
  await p.until('three sets', async () => (await view(id)).sets.length === 3);
  await settled(id, 1);
  await settled(id, 2);
  await p.press('Compare sets');
  await p.press('All over a fact');
  await p.untilText('main table', /1\.6 m\/s/);
  const row = (await p.text('main table')).split('\n').find((r) => r.startsWith('blades flap together'))!;
  // Named in one run, followed into the others: softer where the flow is slow.
  const [slow, usual, fast] = row.match(/\d\d\.\d\d/g)!.map(Number);
  expect(slow / fast).toBeCloseTo(0.985, 2);
  expect(usual).toBeGreaterThan(slow);
  expect(fast).toBeGreaterThan(usual);
});

test('put together again, pair by pair by keys; a mode that is left out is missed', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  await p.untilText('[aria-label="Believe"]', /all to \d+\.\d %/);
  const all = async () => Number(/all to (\d+\.\d) %/.exec(await p.text('[aria-label="Believe"]'))![1]);
  expect(await all()).toBeGreaterThan(98);
  const pair = await p.text('[aria-label="Believe"] .says');
  await p.typeInto('[aria-label^="Measured and put together again"]', Key.ARROW_DOWN);
  await p.until('the next pair', async () => (await p.text('[aria-label="Believe"] .says')) !== pair);
  await p.clickAt(`${rows}:nth-child(1) .number`);
  await p.press('leave out');
  await p.until('it is missed', async () => (await all()) < 97);
  await p.press('put back');
  await p.until('it is met again', async () => (await all()) > 98);
});

test('put in a report: its pages tell of this set, with the numbers of the page', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  await p.untilText('[aria-label="Believe"]', /all to \d+/);
  // How complex a shape is, beside it.
  await p.press('turn and save');
  await driver
    .findElement({ xpath: '//label[contains(normalize-space(.), "sizes and phases")]/input' })
    .click();
  await p.type(Key.ESCAPE);
  await p.untilText('figure', /realness 1\.00, mean phase −?\d°/);
  await p.press('Put in report');
  await p.until('the report', async () => /\/report\/[\w-]+/.test(await driver.getCurrentUrl()));
  const { modes } = (await view(id)).sets[0];
  await p.until('its pages', async () => {
    const words = await p.text('main');
    return modes!.modes.every((m) => words.includes(m.hz.toFixed(3)));
  });
});

test('shapes go out with their nodes, and the wireframe of that file comes in again', async () => {
  const [{ id }] = await analyses();
  await p.go(`/study/modal/${id}`);
  await p.press('More');
  await p.press('Shapes on their nodes');
  const text = readFileSync(await p.downloaded('.unv'));
  const back = readStructure({ name: 'shapes.unv', length: text.length, read: (at, n) => text.subarray(at, at + n) }); // prettier-ignore
  expect(back.points.length).toBe(41);
  const { modes } = (await view(id)).sets[0];
  expect(back.shapes.map((s) => s.hz.toFixed(2))).toEqual(modes!.modes.map((m) => m.hz.toFixed(2)));
});

test('a wireframe typed from empty: points pasted, a line drawn, a channel dragged onto a point and turned', async () => {
  await p.go('/study/modal');
  await p.press('A new wireframe');
  await p.untilText('[aria-label="The wireframe in space"]', /No point yet/);
  const id = new URL(await driver.getCurrentUrl()).pathname.split('/').at(-1)!;
  const frame = async () => (await p.api<{ frame: NamedFrame }>('GET', `/api/wireframes/${id}`)).frame;
  await p.press('paste rows');
  await p.typeInto('dialog[open] textarea', 'base 0 0 0\ntop 0 0 nonsense');
  await p.press('Take them over');
  await p.untilText('dialog[open] [role=alert]', /row 2/);
  await p.typeInto('dialog[open] textarea', Key.chord(Key.CONTROL, 'a'), 'base 0 0 0\ntop 0 0 2\nmid 0 0 1');
  await p.press('Take them over');
  await p.until('three points', async () => (await frame()).points.length === 3);
  await p.press('Lines');
  await p.press('paste rows');
  await p.typeInto('dialog[open] textarea', 'base mid top');
  await p.press('Take them over');
  await p.until('two lines', async () => (await frame()).lines.length === 2);
  await p.press('Sensors');
  await p.clickAt('.channel[data-channel="acc-1"]');
  const chip = await p.find('.channel[data-channel="acc-1"]');
  const picture = await p.find('[aria-label^="Wireframe"] canvas');
  // The middle of the mast is the middle of the picture.
  await driver.actions().move({ origin: chip, x: -20 }).press().move({ origin: picture, duration: 300 }).move({ origin: Origin.POINTER, x: 1, y: 1, duration: 60 }).release().perform(); // prettier-ignore
  await p.until('it sits there', async () => (await frame()).sensors.some((s) => s.channel === 'acc-1' && s.point === 'mid')); // prettier-ignore
  await p.clickAt('[aria-label="Direction of Nacelle fore–aft"] option:nth-child(2)');
  await p.until(
    'it looks the other way',
    async () => (await frame()).sensors[0].direction.join() === '-1,0,0',
  );
  // Undo takes the last step back.
  await p.api('POST', '/api/undo', { steps: 1 });
  await p.until('undone', async () => (await frame()).sensors[0]?.direction.join() !== '-1,0,0');
});
