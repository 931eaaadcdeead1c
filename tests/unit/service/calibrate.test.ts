import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { USUAL_BRIDGE_RUN } from '$contract/bridge-check';
import { valueOf } from '$contract/calibration';
import { benchChassis } from '$engine/units/bench-chassis/driver';
import { bridgeRack } from '$engine/units/bridge-rack/driver';
import { balance, checkBridges, derive } from '$service/calibrate/bridges';
import { acceptComparison, compareChannels, showComparison } from '$service/calibrate/comparison';
import { historyCsv } from '$service/calibrate/history';
import { dueAfter } from '$service/calibrate/keep';
import { calibrationsDue, lastShuntCheck, proofs, uncertaintiesNow } from '$service/calibrate/overview';
import { acceptCalibration, steadiness } from '$service/calibrate/points';
import { acceptSheet, readSheet } from '$service/calibrate/sheet';
import { correctTakes, takesWith } from '$service/calibrate/takes';
import { tare } from '$service/calibrate/tare';
import { acceptTone, readTone } from '$service/calibrate/tone';
import { armTake, endTake, startTake } from '$service/record';
import { certificatePdf } from '$service/report/certificate';
import { putSensor } from '$service/sensors';
import { undo } from '$service/setup/change';
import { addChannel, addChannels, editChannel } from '$service/setup/channels';
import { editPlan } from '$service/setup/plan';
import { startStudy, viewStudies, viewStudy } from '$service/study/studies';
import { openTake, uncertaintiesAt, valuesAt, viewTake } from '$service/takes';
import { getChannel, listCalibrations } from '$store/entities';
import { listTakes } from '$store/takes';
import { listLog } from '$store/logbook';
import { jobOf } from '$service/app';
import { NEW_SENSOR } from '$contract/sensor';
import { LiveApp } from '../live-app';
import { START_NS } from '../rig';

const SERIAL = 'S-1';
let live: LiveApp;
const open = (driver: typeof bridgeRack) => {
  const known = {
    serial: SERIAL,
    kind: driver.kind,
    name: driver.kind,
    config: { settings: {}, sources: [], database: null },
  };
  live = new LiveApp(
    driver.open(known, () => START_NS),
    known,
  );
};
afterEach(() => live.close());

const add = (name: string, kind: string, terminal: string, settings: Record<string, unknown> = {}) =>
  addChannel(live.app, { name, kind, wire: { unit: SERIAL, terminal }, settings }, 'bench');
const now = (id: string) => getChannel(live.app.db, id);

describe('bridges', () => {
  beforeEach(() => open(bridgeRack));
  const gauge = (name: string, terminal: string, settings = {}) =>
    add(name, 'strain bridge', terminal, { range: { min: -1500, max: 1500 }, rateHz: 500, ...settings });
  const run = { ...USUAL_BRIDGE_RUN, seconds: 1 };

  test('each of 64 is judged in one run of two readings; a broken gauge and a wrong value are told apart', async () => {
    const channels = await addChannels(
      live.app,
      Array.from({ length: 64 }, (_, k) => ({
        name: `G${k + 1}`,
        kind: 'strain bridge',
        wire: { unit: SERIAL, terminal: `C${Math.floor(k / 4) + 1}/${(k % 4) + 1}` },
        settings: { arrangement: k % 4 === 3 ? 'full, bending' : 'quarter', rateHz: 100 },
      })),
      'bench',
    );
    await acceptSheet(live.app, channels[7].id, { line: { slope: 1923, offset: 0 } }, 'bench');
    await live.pass(2);
    const { rows } = await live.during(
      checkBridges(
        live.app,
        channels.map((c) => c.id),
        run,
        'bench',
      ),
    );
    const finding = (name: string) => rows.find((r) => r.name === name)!.finding;
    expect(rows).toHaveLength(64);
    expect(finding('G8')).toBe('wrong value');
    expect(rows[7].off).toBeCloseTo(3, 1); // four times as much
    expect(finding('G7')).toBe('dead');
    expect(finding('G10')).toBe('pegged');
    expect(rows.filter((r) => r.finding === 'right')).toHaveLength(61);
    expect(
      proofs(live.app)
        .slice(0, 3)
        .map((p) => p.verdict),
    ).toEqual(['broken', 'broken', 'off']);
    // No bridge is left under its shunt, and no value was changed by looking.
    expect(live.unit.probe('C1/1', null).shunt).toBe(false);
    expect(now(channels[0].id).settings.zero).toBe(0);
    expect(now(channels[0].id).calibration).toMatchObject({ method: 'by shunt', applies: false });
  });

  test('a wrong value is put right from zero and shunt: the bridge reads what is felt, in one change that undo takes back', async () => {
    const c = await gauge('Edge', 'C1/4', { arrangement: 'full, bending' });
    await acceptSheet(live.app, c.id, { line: { slope: 1923, offset: 0 } }, 'bench');
    await live.pass(2);
    await live.during(checkBridges(live.app, [c.id], run, 'bench'));
    await derive(live.app, c.id, lastShuntCheck(live.app, c.id), 'bench');
    live.hand('strain', 700);
    await live.pass(3);
    // The gauge has 3 µε of play, felt from below.
    expect(Math.abs(live.app.live.value(c.id) - 700)).toBeLessThan(5);
    await undo(live.app, 'bench');
    expect(now(c.id).calibration).toMatchObject({ method: 'by sheet', slope: 1923 });
    expect(listCalibrations(live.app.db, c.id)).toHaveLength(3); // kept for ever
  });

  test('balance takes the zero of those that rest and refuses one that somebody touches', async () => {
    const c = await gauge('Root', 'C1/1');
    await live.pass(2);
    await live.during(balance(live.app, [c.id], run, 'bench'));
    await live.pass(1);
    expect(Math.abs(live.app.live.value(c.id))).toBeLessThan(1.5);
    live.hand('touched', 1);
    await live.pass(2);
    const touched = await live.during(balance(live.app, [c.id], run, 'bench'));
    expect(touched.refused[0].says).toMatch(/somebody touches it/);
  });

  test('a step that is that of another resistance is named; a lost unit, a module without shunt and a running take are refused', async () => {
    const c = await gauge('Other', 'C1/2', { resistance: 120 });
    await live.pass(2);
    const { rows } = await live.during(checkBridges(live.app, [c.id], run, 'bench'));
    expect(rows[0].says).toMatch(/that of 350 Ω, not of 120 Ω/);
    await expect(derive(live.app, c.id, lastShuntCheck(live.app, c.id), 'bench')).rejects.toThrow(
      /would be wrong/,
    );
    const lost = checkBridges(live.app, [c.id], run, 'bench');
    lost.catch(() => undefined);
    await live.pass(0.5);
    live.hand('plugged', 0);
    await expect(live.during(lost)).rejects.toThrow(/does not answer|was lost/);
    await live.pass(1);
    await expect(live.during(checkBridges(live.app, [c.id], run, 'bench'))).rejects.toThrow(
      /does not answer/,
    );
  });

  test('a module without a shunt is said with the way out, and a plan that asks for shunts is not armed', async () => {
    const { describe: whole } = live.unit;
    live.unit.describe = () => {
      const described = whole();
      return {
        ...described,
        modules: described.modules.map((m) => ({
          ...m,
          terminals: m.terminals.map((t) => ({ ...t, shunt: undefined })),
        })),
      };
    };
    const c = await gauge('Root', 'C1/1');
    await live.pass(2);
    await expect(checkBridges(live.app, [c.id], run, 'bench')).rejects.toThrow(/no shunt resistor/);
    await editPlan(live.app, { shunts: 'before', facts: [] }, 'bench');
    await expect(
      armTake(live.app, {}, { by: 'bench', reason: 'nothing is proven on this rig' }),
    ).rejects.toThrow(/No bridge of the plan has a shunt/);
    expect(live.app.live.status.state).toBe('Watching');
  });

  test('shunts before and after stand in the take: raw samples, steps by the circuit, no drift', async () => {
    await gauge('One', 'C1/1');
    await gauge('Full', 'C1/4', { arrangement: 'full, bending' });
    await editPlan(live.app, { shunts: 'before and after', shuntSeconds: 1, before: 0, facts: [] }, 'bench');
    await live.pass(1);
    const { id } = await armTake(live.app, {}, { by: 'bench', reason: 'nothing is proven on this rig' });
    await live.pass(1);
    expect(live.app.live.status.proving).toMatchObject({ moment: 'before' });
    await expect(startTake(live.app)).rejects.toThrow(/Wait \d s/);
    await live.pass(3);
    await startTake(live.app);
    await live.pass(2);
    await endTake(live.app);
    await live.pass(4);
    const view = viewTake(live.app, id);
    expect(view.head.state).toBe('complete');
    expect(view.head.lengthNs! / 1e9).toBeCloseTo(2, 1);
    const [one, full] = view.proofs;
    expect(one.stepBefore).toBeCloseTo(-1676.8, -1);
    expect(full.stepBefore).toBeCloseTo(-420, -1);
    for (const p of [one, full]) expect(Math.abs(p.stepMoved!)).toBeLessThan(0.002);
    expect(openTake(live.app, id).proofs()[0].raw).toHaveLength(500);
    expect(view.notes.map((n) => n.says).join()).toMatch(/Since before the take the zero moved most at/);
  });
});

describe('sensors of every kind', () => {
  beforeEach(() => open(benchChassis));

  test('by points against weights, up and down: hysteresis is found, and the reading comes with its uncertainty', async () => {
    putSensor(
      live.app,
      null,
      {
        ...NEW_SENSOR,
        serial: 'W-1',
        kind: 'reference',
        unit: 'kN',
        goodToShare: 0.02,
        calibratedUntil: '2030-01-01',
      },
      'bench',
    );
    const cell = await add('Cell', 'bridge sensor', 'B1/3', {
      unit: 'kN',
      fullScale: 10,
      sensitivity: 2,
      range: { min: 0, max: 10 },
      rateHz: 100,
    });
    await live.pass(1);
    const points = [];
    for (const [k, target] of [0, 2.5, 5, 7.5, 10, 7.5, 5, 2.5, 0].entries()) {
      live.hand('B1/3', target);
      await live.pass(6);
      const { raw, noise, samples, steady } = steadiness(live.app, cell.id, 0.005, 2);
      expect(steady).toBe(true);
      points.push({ target, raw, noise, samples, going: k < 5 ? ('up' as const) : ('down' as const) });
    }
    const made = await acceptCalibration(
      live.app,
      cell.id,
      { points, budget: { reference: 'W-1' } },
      'bench',
    );
    // 2.003 mV/V at 10 kN; 12 N of play make that much between up and down.
    expect(made.slope).toBeCloseTo(10 / 2.003, 2);
    expect(made.hysteresis).toBeCloseTo(0.012, 3);
    expect(made.asFound!).toBeGreaterThan(made.largestResidual);
    expect(made.reference).toMatchObject({ serial: 'W-1', due: '2030-01-01' });
    expect(made.due).toBe(dueAfter(12));
    live.hand('B1/3', 6);
    await live.pass(4);
    const { [cell.id]: expanded } = uncertaintiesNow(live.app, [cell.id]);
    expect(Math.abs(live.app.live.value(cell.id) - 6)).toBeLessThan(expanded);
    expect(expanded).toBeLessThan(0.05);
    const [row] = proofs(live.app);
    expect(row).toMatchObject({ verdict: 'proven', method: 'by points' });
    expect(historyCsv(live.app, cell.id).text.split('\r\n')).toHaveLength(11);
    const { pdf } = await live.during(certificatePdf(live.app, made.id));
    expect(pdf.toString('latin1')).toMatch(/^%PDF-[^]*\/Count 1\b/); // one page
    // Another bridge supply: what was proven is another one now.
    await editChannel(live.app, cell.id, { settings: { excitation: 10 } }, 'bench');
    expect(proofs(live.app)[0]).toMatchObject({
      verdict: 'changed since',
      why: 'Its excitation was 5 then, now 10.',
    });
    expect(calibrationsDue(live.app, { channels: [] }).map((d) => d.name)).toEqual(['Cell']);
  });

  test('by a tone: the sensitivity from the tone alone, refused where there is none', async () => {
    const c = await add('Shaker', 'vibration', 'B3/1', { sensitivity: 10, rateHz: 2560 });
    await live.pass(1);
    const tone = await live.during(readTone(live.app, c.id, 10, 159.15));
    expect(tone.sensitivity).toBeCloseTo(10.2, 2);
    expect(tone.distortion).toBeCloseTo(0.006, 3);
    expect(tone.off).toBeCloseTo(0.02, 3);
    await acceptTone(live.app, c.id, {}, 'bench');
    expect(valueOf(now(c.id), 10.2)).toBeCloseTo(1, 3);
    live.hand('B3/1', 0);
    await live.pass(1);
    await expect(live.during(readTone(live.app, c.id, 10, 159.15))).rejects.toThrow(/no tone near 159.15 Hz/);
    await expect(readTone(live.app, c.id, 0, 159.15)).rejects.toThrow(/above 0/);
  });

  test('a full bridge with a quarter bridge’s value is doubted, not refused; a table must go one way', async () => {
    for (const k of [1, 2, 3])
      await add(`Full ${k}`, 'strain bridge', `B1/${k}`, { arrangement: 'full, bending' });
    const c = await add('Full 4', 'strain bridge', 'B1/4', { arrangement: 'full, bending' });
    const { warning } = readSheet(live.app, c.id, { line: { slope: 1923, offset: 0 } }, 'bench');
    expect(warning).toMatch(
      /3 others of this kind have about 4 times less: as a full bridge with a quarter bridge’s value/,
    );
    expect(readSheet(live.app, c.id, { line: { slope: 485, offset: 0 } }, 'bench').warning).toBeNull();
    const volts = await add('Volts', 'voltage', 'B4/1', {
      unit: 'mm',
      slope: 10,
      range: { min: 0, max: 100 },
    });
    expect(() =>
      readSheet(
        live.app,
        volts.id,
        {
          table: [
            { raw: 1, value: 0 },
            { raw: 1, value: 5 },
          ],
        },
        'bench',
      ),
    ).toThrow(/different raw values/);
    await acceptSheet(
      live.app,
      volts.id,
      {
        table: [
          { raw: 0, value: 0 },
          { raw: 2, value: 30 },
          { raw: 5, value: 50 },
        ],
        goodTo: 0.1,
        due: '2020-01-01',
      },
      'bench',
    );
    expect(valueOf(now(volts.id), 3.5)).toBeCloseTo(40, 9);
    expect(proofs(live.app).find((p) => p.channelId === volts.id)).toMatchObject({
      verdict: 'expired',
      expanded: expect.closeTo(0.098, 3),
    });
  });

  test('by comparison: the line where both feel the same, refused where they do not or nothing moves', async () => {
    const reference = await add('Reference', 'potentiometer', 'B6/1', {
      unit: 'mm',
      low: 0,
      high: 150,
      range: { min: 0, max: 150 },
      rateHz: 100,
    });
    const other = await add('Other', 'voltage', 'B4/1', {
      unit: 'mm',
      slope: 1,
      range: { min: 0, max: 150 },
      rateHz: 100,
    });
    await live.pass(21);
    expect(() => compareChannels(live.app, other.id, reference.id, 20)).toThrow(
      /moved over 0\.\d % of the range/,
    );
    for (let k = 0; k < 80; k++) {
      const mm = 75 + 60 * Math.sin(k / 12);
      live.hand('B6/1', mm);
      live.hand('B4/1', mm / 25);
      await live.pass(0.25);
    }
    const found = showComparison(live.app, other.id, reference.id, 20);
    expect(found.slope).toBeCloseTo(25, 0);
    expect(found.coherence).toBeGreaterThan(0.9);
    // Whatever happens after it was looked at: what was seen is what is kept, and a second click keeps it once.
    live.hand('B4/1', 9);
    await live.pass(5);
    const kept = await acceptComparison(live.app, found.id, {}, 'bench');
    expect(kept).toMatchObject({ slope: found.slope, offset: found.offset, method: 'by comparison' });
    expect((await acceptComparison(live.app, found.id, {}, 'bench')).id).toBe(kept.id);
    expect(now(other.id).calibration!.id).toBe(kept.id);
    expect(listCalibrations(live.app.db, other.id)).toHaveLength(1);
    await expect(acceptComparison(live.app, 'another', {}, 'bench')).rejects.toThrow(/not kept any more/);
    for (let k = 0; k < 80; k++) {
      live.hand('B6/1', 75 + 60 * Math.sin(k / 4));
      live.hand('B4/1', 3 + 2 * Math.sin(k * k));
      await live.pass(0.25);
    }
    const apart = showComparison(live.app, other.id, reference.id, 20);
    await expect(acceptComparison(live.app, apart.id, {}, 'bench')).rejects.toThrow(/do not feel the same/);
  });

  test('a tare is taken off and given back, follows the unit, and refuses what is a load', async () => {
    const c = await add('Pressure', 'current loop', 'B5/1', {
      low: 0,
      high: 16,
      unit: 'bar',
      range: { min: 0, max: 16 },
      rateHz: 100,
    });
    await live.pass(2);
    await tare(live.app, [c.id], true, 'bench');
    await live.pass(1);
    expect(Math.abs(live.app.live.value(c.id))).toBeLessThan(0.02);
    await editChannel(live.app, c.id, { settings: { unit: 'kPa' } }, 'bench');
    expect(now(c.id).tare).toBeCloseTo(600, 0);
    await tare(live.app, [c.id], false, 'bench');
    expect(now(c.id).tare).toBe(0);
    live.hand('B5/1', 12);
    await live.pass(3);
    await expect(tare(live.app, [c.id], true, 'bench')).rejects.toThrow(/more than half of its range/);
  });

  test('corrected takes: a new reading with its reason, what is computed follows, samples and the old reading stay, studies are out of date', async () => {
    const volts = await add('Volts', 'voltage', 'B4/1', {
      unit: 'mm',
      slope: 10,
      range: { min: 0, max: 100 },
      rateHz: 100,
    });
    await addChannel(
      live.app,
      {
        name: 'Twice',
        kind: 'computed',
        wire: null,
        settings: { formula: '"Volts" * 2', unit: 'mm' },
      },
      'bench',
    );
    await editPlan(live.app, { before: 0, facts: [] }, 'bench');
    await live.pass(1);
    const { id } = await armTake(live.app, {}, { by: 'bench', reason: 'nothing is proven on this rig' });
    await startTake(live.app);
    await live.pass(5);
    await endTake(live.app);
    const study = startStudy(live.app, { kind: 'statistics', takeId: id }, 'bench');
    await live.during(study.done);
    expect(viewStudy(live.app, study.view.id).outOfDate).toBe(false);
    const signalOf = (name: string) => openTake(live.app, id).signals.find((s) => s.name === name)!;
    const at = (meaning: 'as recorded' | 'as corrected' = 'as corrected') =>
      valuesAt(live.app, id, [signalOf('Volts').id, signalOf('Twice').id], 2, meaning);
    const rawBefore = openTake(live.app, id).raw(signalOf('Twice').id, 0, 100).slice();
    expect(at()[0]).toBeCloseTo(50, 0);
    await acceptSheet(live.app, volts.id, { line: { slope: 12, offset: 1 }, goodTo: 0.2 }, 'bench');
    expect(takesWith(live.app, volts.id)[0]).toMatchObject({ differs: true, revision: 1 });
    expect(() => correctTakes(live.app, volts.id, [id], '', 'bench')).toThrow(/Say why/);
    const outcome = correctTakes(live.app, volts.id, [id], 'slope of another sensor', 'bench');
    expect(outcome).toEqual({ takes: 1, recomputed: ['Twice'], left: [] });
    expect(at()[0]).toBeCloseTo(61, 0);
    expect(at()[1]).toBeCloseTo(122, 0);
    // The sheet is good to 0.2 mm with k = 2; what is twice the value is twice as uncertain.
    const [own, twice] = uncertaintiesAt(live.app, id, [signalOf('Volts').id, signalOf('Twice').id], 2);
    expect(own).toBeCloseTo(0.196, 3);
    expect(twice! / own!).toBeCloseTo(2, 3);
    expect(at('as recorded')[0]).toBeCloseTo(50, 0);
    expect(at('as recorded')[1]).toBeCloseTo(100, 0);
    const recorded = openTake(live.app, id, 'as recorded');
    expect(recorded.raw(recorded.signals.find((s) => s.name === 'Twice')!.id, 0, 100)).toEqual(rawBefore);
    expect(viewTake(live.app, id).signals[0].corrected).toMatch(/slope of another sensor/);
    expect(viewStudies(live.app)[0].outOfDate).toBe(true);
    expect(takesWith(live.app, volts.id)[0]).toMatchObject({ differs: false, revision: 2 });
    expect(
      listLog(live.app.db, jobOf(live.app).id, 20).some((l) => l.says.includes('slope of another sensor')),
    ).toBe(true);
    expect(listTakes(live.app.db, jobOf(live.app).id)).toHaveLength(1);
  });

  test('over range, open and too short a look are told, each in its words', async () => {
    const c = await add('Volts', 'voltage', 'B4/1', {
      unit: 'V',
      slope: 1,
      range: { min: 0, max: 10 },
      rateHz: 100,
    });
    expect(() => steadiness(live.app, c.id, 0.1, 2)).toThrow(/gives no reading/);
    await live.pass(1);
    expect(steadiness(live.app, c.id, 0.1, 2)).toMatchObject({ steady: false, says: 'settling' });
    live.hand('B4/1', 60);
    await live.pass(3);
    expect(() => steadiness(live.app, c.id, 0.1, 2)).toThrow(/over its range/);
    live.unit.setFault!('B4/1', 'open wire');
    await live.pass(1);
    expect(() => steadiness(live.app, c.id, 0.1, 2)).toThrow(/gives no reading/);
    live.unit.setFault!('B4/1', 'none');
    live.hand('plugged', 0);
    await live.pass(1);
    expect(() => steadiness(live.app, c.id, 0.1, 2)).toThrow(/Its unit is lost/);
  });
});
