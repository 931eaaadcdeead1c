import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { noiseFrequencies, NOISE_DEFAULTS, NOISE, NoiseSettings } from '$contract/radio-noise';
import { sentenceText } from '$core/sentence/sentence';
import { changedSince, type Basis } from '$core/noise-figure/own-noise';
import { RadioDesk } from '$service/radio/desk';
import { corrections, noiseSources } from '$service/radio/shelf';
import { QUAY, QUAY_SOURCE, quayDevice } from '$engine/units/receiver/chain';
import { RadioBench, SWITCH, soon } from './radio-bench';

let rx: RadioBench;
let { app, desk, unit, commands } = {} as RadioBench;
beforeEach(() => {
  rx = new RadioBench(1);
  ({ app, desk, unit, commands } = rx);
  noiseSources(app).put({ serial: 'NS-07', points: [...QUAY_SOURCE].reverse() }, 'tester');
});
afterEach(() => rx.close());

const bench = () => desk.noise.views()[0];
const settled = async () => {
  while (bench().running) await soon();
  return bench();
};
const SETTINGS = {
  ...{ points: 7, each: 0.3, resolving: 20, smoothing: 1, sweeps: 16, source: 'NS-07' },
  ...{ room: QUAY.roomK, before: QUAY.before, behind: QUAY.behind },
};
const measure = async (...states: Parameters<RadioDesk['noise']['measure']>[1]) => {
  await desk.noise.measure('RX-1', states, 'tester');
  return settled();
};
const connect = (input: number, on?: number) => {
  unit.setControl!('input', input);
  if (on !== undefined) unit.setControl!('source', on);
};
/** Both states by hand. */
const byHand = async (where: 'own' | 'through') => {
  connect(where === 'own' ? 1 : 2, 1);
  await measure(`${where} on`);
  connect(where === 'own' ? 1 : 2, 0);
  return measure(`${where} off`);
};

describe('noise figure', () => {
  test('from the first step to the table: the device comes back as it is, within what is stated', async () => {
    desk.noise.change('RX-1', SETTINGS);
    desk.noise.changeDevice('RX-1', 'LNA-02');
    await byHand('own');
    const own = bench().own!;
    expect(own.hz).toHaveLength(7);
    // 6 dB of the first stage and 22 behind 30 dB of gain.
    expect(own.middle.figureDb).toBeCloseTo(6.16, 0);
    expect(bench().stale).toEqual([]);
    const done = await byHand('through');
    expect(done.says).toBe('');
    expect(done.points.map((p) => p.findings)).toEqual(done.points.map(() => []));
    for (const p of done.points) {
      const truth = quayDevice(p.hz);
      expect(Math.abs(p.figureDb! - truth.figureDb)).toBeLessThan(Math.min(0.35, p.figureExpanded));
      expect(Math.abs(p.gainDb! - truth.gainDb)).toBeLessThan(Math.min(0.5, p.gainExpanded));
      expect(p.figureExpanded).toBeLessThan(0.6);
    }
    const [kept] = desk.noise.results();
    expect(kept).toMatchObject({ device: 'LNA-02', roomK: QUAY.roomK, id: done.kept });
    expect(kept.points).toHaveLength(7);
  });

  test('a driven source is switched by the steps, and off at the end', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 3, drive: SWITCH });
    connect(1);
    await measure('own on', 'own off');
    connect(2);
    const done = await measure('through off', 'through on');
    expect(commands.filter((c) => c.do === 'output').map((c) => c.value)).toEqual([1, 0, 0, 0, 1, 0]);
    expect(done.points.every((p) => Math.abs(p.figureDb! - quayDevice(p.hz).figureDb) < 0.4)).toBe(true);
    // A second device needs no new calibration; the first stays as it was kept.
    desk.noise.changeDevice('RX-1', 'LNA-03');
    expect(bench().done).toMatchObject({ 'own on': 3, 'through on': 0 });
    await measure('through off', 'through on');
    expect(desk.noise.results().map((r) => r.device)).toEqual(['Device without a name', 'LNA-03']);
    expect(desk.noise.results().every((r) => r.ownAtMs === bench().own!.atMs)).toBe(true);
  });

  test('own noise goes stale by what it stands on, and says by which; results that stood on it stay', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 3, drive: SWITCH });
    connect(1);
    await measure('own on', 'own off');
    connect(2);
    await measure('through off', 'through on');
    const before = JSON.stringify(desk.noise.results());
    desk.noise.change('RX-1', { resolving: 25 });
    expect(bench().stale).toEqual(['widths']);
    await expect(desk.noise.measure('RX-1', ['through on'], 'tester')).rejects.toMatchObject({
      code: 'conflict',
      text: { what: 'It no longer holds: widths changed.' },
    });
    desk.noise.change('RX-1', { resolving: 20 });
    expect(bench().stale).toEqual([]);
    desk.noise.change('RX-1', { room: QUAY.roomK + 4 });
    expect(bench().stale).toEqual(['the room, by +4.0 K']);
    desk.noise.change('RX-1', { room: QUAY.roomK + 1, points: 4 });
    expect(bench().stale).toEqual(['points']);
    desk.noise.change('RX-1', { points: 3, room: QUAY.roomK });
    desk.noise.changeForNow('RX-1', [{ hz: 5e8, enr: 15, expanded: 0.1 }]);
    expect(bench()).toMatchObject({ stale: ['the source'], changedForNow: true });
    // The table that is kept was not touched, and holds again.
    expect(noiseSources(app).find('NS-07')!.points).toHaveLength(QUAY_SOURCE.length);
    desk.noise.changeForNow('RX-1', null);
    expect(bench()).toMatchObject({ stale: [], changedForNow: false });
    expect(JSON.stringify(desk.noise.results())).toBe(before);
  });

  test('without own noise, without a source, with a bad list: refused with what to do', async () => {
    expect(bench().fault).toContain('Choose the noise source');
    await expect(desk.noise.measure('RX-1', ['own on'], 'x')).rejects.toMatchObject({ code: 'bad_input' });
    desk.noise.change('RX-1', SETTINGS);
    await expect(desk.noise.measure('RX-1', ['through on'], 'x')).rejects.toMatchObject({
      text: { what: 'It was not taken yet.' },
    });
    desk.noise.change('RX-1', { span: 'at', list: '500; 7oo' });
    expect(bench().fault).toBe('“7oo” is no frequency in MHz.');
    desk.noise.change('RX-1', { list: '7000' });
    expect(bench().fault).toContain('does not reach');
    desk.noise.change('RX-1', { list: '500', each: 5 });
    expect(bench().fault).toContain('more than is received');
    noiseSources(app).drop('NS-07', 'x');
    expect(bench().fault).toContain('not kept any more');
  });

  test('a source that was left on is recognised; its powers are not taken for the own noise', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 5 });
    connect(1, 1);
    await measure('own on');
    await measure('own off');
    expect(bench().own).toBe(null);
    expect(bench().says).toContain('same noise');
    // Swapped: the one step again is enough.
    connect(1, 0);
    await measure('own on');
    expect(bench().says).toContain('swapped');
    connect(1, 1);
    await measure('own on');
    connect(1, 0);
    await measure('own off');
    expect(bench().own).not.toBe(null);
    expect(bench().says).toBe('');
  });

  test('cancelled, what is there stays; measured again, it is whole', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 200, sweeps: 4 });
    connect(1, 1);
    await desk.noise.measure('RX-1', ['own on'], 'tester');
    await expect(desk.noise.measure('RX-1', ['own on'], 'tester')).rejects.toMatchObject({
      code: 'conflict',
    });
    expect(() => desk.noise.change('RX-1', { points: 3 })).toThrow('being measured');
    while (bench().done['own on'] < 5) await soon();
    desk.noise.stop('RX-1');
    const stopped = await settled();
    expect(stopped.says).toBe('Stopped: what was measured stays.');
    expect(stopped.done['own on']).toBeGreaterThanOrEqual(5);
    expect(stopped.done['own on']).toBeLessThan(200);
    // The receiver is back where it was tuned.
    expect(unit.describe().receiver!.centreHz).toBe(868e6);
    desk.noise.stop('RX-1'); // nothing to stop any more
    expect((await measure('own on')).done['own on']).toBe(200);
  });

  test('samples that are lost make a step begin anew; a receiver that falls silent is said', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 40, smoothing: 0.2 });
    connect(1, 1);
    await desk.noise.measure('RX-1', ['own on'], 'tester');
    for (let k = 0; k < 5; k++) {
      await soon();
      rx.lose(0.8);
    }
    const done = await settled();
    expect(done).toMatchObject({ says: '', done: { 'own on': 40 } });
    // An engine that begins anew knows nothing of it.
    await desk.noise.measure('RX-1', ['own on'], 'tester');
    desk.gatherings.again();
    expect((await settled()).says).toContain('the engine began anew');
  });

  test('two who begin at once: the first measures, the second is told, and nothing of the first is lost', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 5 });
    connect(1, 1);
    const both = await Promise.allSettled([
      desk.noise.measure('RX-1', ['own on'], 'Ada'),
      desk.noise.measure('RX-1', ['own on'], 'Ben'),
    ]);
    expect(both.map((b) => b.status)).toEqual(['fulfilled', 'rejected']);
    expect(bench().running).not.toBe(null);
    expect(await settled()).toMatchObject({ says: '', done: { 'own on': 5 } });
  });

  test('a loss by table is added to the one that is stated', async () => {
    corrections(app).put(
      {
        name: 'pier cable',
        kind: 'cable loss',
        points: [
          { hz: 1e9, db: 0.15 },
          { hz: 4e8, db: 0.15 },
        ],
      },
      'tester',
    );
    desk.noise.change('RX-1', {
      ...SETTINGS,
      points: 3,
      drive: SWITCH,
      before: 0.05,
      beforeBy: 'pier cable',
    });
    connect(1);
    await measure('own on', 'own off');
    connect(2);
    const done = await measure('through off', 'through on');
    for (const p of done.points) expect(Math.abs(p.figureDb! - quayDevice(p.hz).figureDb)).toBeLessThan(0.4);
    const first = done.points.map((p) => p.figureDb!);
    corrections(app).drop('pier cable', 'tester');
    bench().points.forEach((p, k) => expect(p.figureDb! - first[k]).toBeCloseTo(0.15, 1));
  });

  test('outside the source’s table it is said', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, span: 'at', list: '20 5', drive: SWITCH });
    connect(1);
    await measure('own on', 'own off');
    connect(2);
    const { points } = await measure('through off', 'through on');
    expect(points[1].findings).toEqual([]);
    expect(points[0].findings).toEqual([
      { says: expect.stringContaining('outside the source’s table'), leaves: false },
    ]);
  });

  test('settings, device and own noise outlive the server', async () => {
    desk.noise.change('RX-1', { ...SETTINGS, points: 3, drive: SWITCH });
    desk.noise.changeDevice('RX-1', 'LNA-02');
    connect(1);
    await measure('own on', 'own off');
    const { own } = bench();
    const next = new RadioDesk(app);
    const view = next.noise.views()[0];
    expect(view).toMatchObject({ device: 'LNA-02', stale: [] });
    expect(view.settings.points).toBe(3);
    expect(view.own!.powers).toEqual(own!.powers);
    next.close();
  });
});

describe('the sentence', () => {
  test('says what is measured', () => {
    expect(sentenceText(NOISE, { ...NOISE_DEFAULTS, source: 'NS-07' })).toBe(
      'Measure 61 points from 400 MHz to 1000 MHz, each over 1 MHz resolved to 50 kHz smoothed 1 kHz, the mean of 16 sweeps; source NS-07 switched by hand, room at 290 K as stated, loss before the device 0 dB and no table, after it 0 dB and no table.',
    );
  });
  test('its frequencies: ends, around, a list in any order', () => {
    const of = (s: object) => noiseFrequencies(NoiseSettings.parse({ ...NOISE_DEFAULTS, ...s }));
    expect(of({ from: 400, to: 600, points: 3 })).toEqual([4e8, 5e8, 6e8]);
    expect(of({ span: 'around', around: 500, wide: 100, points: 2 })).toEqual([4.5e8, 5.5e8]);
    expect(of({ span: 'at', list: '900, 100 500;100' })).toEqual([1e8, 5e8, 9e8]);
    expect(of({ from: 600, to: 400 })).toEqual({ fault: 'The last frequency has to lie above the first.' });
    expect(of({ span: 'at', list: ' ' })).toEqual({ fault: 'The list names no frequency.' });
    expect(of({ span: 'around', around: 10, wide: 100 })).toHaveProperty('fault');
  });
  test('every part of the basis is named when it changes', () => {
    const basis: Basis = { receiver: 'a', gainDb: 20, sampleRateHz: 1, points: 'p', widths: 'w', source: 's', roomK: 290 }; // prettier-ignore
    expect(changedSince(basis, { ...basis, roomK: 293 })).toEqual([]);
    const other: Basis = { receiver: 'b', gainDb: 30, sampleRateHz: 2, points: 'q', widths: 'v', source: 't', roomK: 280 }; // prettier-ignore
    expect(changedSince(basis, other)).toEqual(['the receiver', 'its gain', 'its rate', 'points', 'widths', 'the source', 'the room, by −10.0 K']); // prettier-ignore
  });
});
