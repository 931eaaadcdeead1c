import { existsSync, mkdirSync, rmSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { randomUUID } from 'node:crypto';
import { Acquisition } from '$engine/acquisition';
import { newSlot } from '$engine/slots';
import { DRAW_WIRE_MM_PER_V } from '$engine/units/dock-chassis/signals';
import { canBus } from '$engine/units/bus/driver';
import { openDockChassis } from '$engine/units/dock-chassis/driver';
import { CORE_VERSION } from '$core/version';
import { planText, takeName } from '$contract/plan';
import { ruleText } from '$contract/rule';
import { USUAL_BRIDGE_RUN } from '$contract/bridge-check';
import { judgeBridge } from '$service/calibrate/bridge-verdict';
import type { Channel } from '$contract/channel';
import { isBridge } from '$contract/proof';
import { Random } from '$core/random';
import { Moments } from '$core/statistics/moments';
import { keepChecks } from '$service/calibrate/bridges';
import { acceptSheet } from '$service/calibrate/sheet';
import { acceptCalibration } from '$service/calibrate/points';
import { jobOf, log, openApp, startJob, takePath, type App } from '$service/app';
import { namesOf } from '$service/setup/patch';
import { addChannel } from '$service/setup/channels';
import { addBoard, changeBoard } from '$service/boards';
import { addPlan, choosePlan, editPlan, editRule } from '$service/setup/plan';
import { putSensor } from '$service/sensors';
import { seedReport } from './reports';
import { startStudy } from '$service/study/studies';
import { addUnit, editUnit } from '$service/units';
import { jobPlan, makeJobCurrent, listChannels, listRules, listUnits } from '$store/entities';
import { listed } from '$service/inspect/look-into';
import { nextTakeNumber } from '$store/takes';
import { seedCoupons } from './coupons';
import { seedNacelle } from './nacelle';
import { seedRadio } from './radio';
import {
  CHANNELS,
  CHASSIS,
  DRAW_WIRE_HISTORY,
  JOB,
  PITCH,
  PLAN_NAME,
  RACK,
  RECEIVER,
  ROOTS,
  ROOTS_JOB,
  SENSORS,
  EARLIER_TAKES,
  TAKES,
  WRONG_RESISTANCE,
  WRONG_VALUE,
  BOARD,
  MORE_PLANS,
  type RotorTake,
  plan,
  rules,
} from './rig';

const STEP_NS = 250_000_000n; // faster than the engine's beat; the samples are the same
const SECOND = 1_000_000_000n;

/** Fills an empty data folder with the demo's world: the rig's set-up through the services, then takes recorded by the same pipeline
 *  and rotor model that run live, faster than real time. */
async function seed(folder: string): Promise<void> {
  const app = openApp(folder, JOB);
  await addUnit(app, CHASSIS.kind, 'bench');
  const { serial: bus } = await addUnit(app, PITCH.kind, 'bench');
  await editUnit(app, bus, { name: PITCH.name }, 'bench');
  const { serial: ears } = await addUnit(app, RECEIVER.kind, 'bench');
  await editUnit(app, ears, { name: RECEIVER.name }, 'bench');
  for (const s of SENSORS) putSensor(app, null, s, 'bench');
  for (const c of CHANNELS) {
    await addChannel(
      app,
      {
        name: c.name,
        group: c.group,
        kind: c.kind,
        wire: c.terminal === null ? null : { unit: c.onBus ? bus : CHASSIS.serial, terminal: c.terminal },
        sensorSerial: c.sensorSerial,
        settings: c.settings,
      },
      'bench',
    );
  }
  const channels = () => listChannels(app.db, jobOf(app).id);
  const id = (name: string) => channels().find((c) => c.name === name)!.id;
  await editPlan(app, { ...plan(id), name: PLAN_NAME }, 'bench');
  const first = jobPlan(app.db, jobOf(app).id)!.id;
  for (const more of MORE_PLANS(id)) {
    const added = await addPlan(app, { name: more.name }, 'bench');
    await editPlan(app, more.plan, 'bench', added.id);
  }
  choosePlan(app, first, 'bench');
  const { name, views } = BOARD(id);
  changeBoard(app, addBoard(app, name).id, { put: views });
  for (const rule of rules(id)) await editRule(app, null, rule, 'bench');
  await calibrateDrawWire(app, id('Tip draw-wire'));
  await checkFlaps(app);
  for (const take of [...EARLIER_TAKES, ...TAKES]) record(app, channels(), take);
  const [last] = app.db.$client.prepare('SELECT id FROM takes ORDER BY number DESC').all() as {
    id: string;
  }[];
  await startStudy(
    app,
    {
      kind: 'statistics',
      takeId: last.id,
      name: 'Steady load, statistics',
      settings: {
        channels: [
          'Blade 1 flap, root',
          'Blade 3 flap, root',
          'Shaft torque',
          'Shaft speed',
          'Power',
          'Flow',
        ].map(id),
        from: 120,
        to: 200,
      },
    },
    'bench',
  ).done;
  await startStudy(
    app,
    {
      kind: 'spectrum',
      takeId: last.id,
      name: 'Nacelle vibration at 1.8 A',
      settings: {
        channels: ['Nacelle, fore–aft', 'Nacelle, side'].map(id),
        from: 120,
        to: 200,
        length: 8192,
        upTo: 250,
      },
    },
    'bench',
  ).done;
  await seedRadio(app, ears);
  seedReport(app, last.id, id);
  await seedRoots(app);
  await seedCoupons(app);
  await seedNacelle(app);
  app.db.$client.close();
}

/** The draw-wire was calibrated every autumn with the gauge rule, going up and down. */
async function calibrateDrawWire(app: App, channelId: string): Promise<void> {
  const random = new Random(77);
  const lately = {
    day: new Date(Date.now() - 12 * 86_400_000).toISOString().slice(0, 10),
    mmPerV: DRAW_WIRE_MM_PER_V,
    spread: 0.001,
  };
  for (const { day, mmPerV, spread } of [...DRAW_WIRE_HISTORY, lately]) {
    const up = [0, 50, 100, 150, 200];
    const points = [...up, ...up.slice(0, -1).reverse()].map((target, k) => ({
      target,
      going: k < up.length ? ('up' as const) : ('down' as const),
      raw:
        0.027 +
        target / mmPerV +
        0.004 * Math.sin((target / 200) * Math.PI) +
        (k < up.length ? -0.001 : 0.001) +
        spread * random.gauss(),
      noise: 0.0002,
      samples: 40,
    }));
    const budget = { reference: 'GR-2', resolution: 0.01, environment: '21 °C, dock hall' };
    await acceptCalibration(app, channelId, { points, budget, at: Date.parse(`${day}T09:30:00Z`) }, 'bench');
  }
}

/** The bridges of the rotor as their shunts were checked before the takes, with the rotor out of the water. */
async function checkFlaps(app: App): Promise<void> {
  const unit = openDockChassis(CHASSIS.serial, CHASSIS.name, 0n, {
    faults: { 'A2/2': 'open wire' },
    lifted: true,
  });
  const bridges = listChannels(app.db, jobOf(app).id).filter(isBridge);
  const terminals = unit.describe().modules.flatMap((m) => m.terminals);
  let nowNs = 0n;
  const rows = bridges.map((channel) => {
    const { terminal } = channel.wire!;
    const read = (on: boolean) => {
      const begin = nowNs;
      unit.shunt!(terminal, on);
      unit.start(
        [{ terminal, rateHz: 2000, channelId: channel.id, kind: channel.kind, settings: channel.settings }],
        begin,
      );
      unit.poll(begin + SECOND / 2n); // the switch settles
      nowNs = begin + (3n * SECOND) / 2n;
      const [block] = unit.poll(nowNs);
      const m = new Moments();
      m.push(block.columns[0]);
      return { mean: m.count ? m.mean : NaN, noise: m.count ? m.standardDeviation : NaN, samples: m.count };
    };
    const shunt = terminals.find((t) => t.id === terminal)!.shunt!;
    const sensor = SENSORS.find((s) => s.serial === channel.sensorSerial);
    const open = terminal === 'A2/2';
    return judgeBridge(channel, sensor, shunt, read(false), read(true), USUAL_BRIDGE_RUN, open);
  });
  await keepChecks(app, bridges, rows, 'bench');
}

/** The second job: a rack of root bridges, some of them wrong, to be found. */
async function seedRoots(app: App): Promise<void> {
  const first = jobOf(app);
  startJob(app, ROOTS_JOB.name, ROOTS_JOB.place);
  const { serial } = await addUnit(app, RACK.kind, 'bench');
  await editUnit(app, serial, { name: RACK.name }, 'bench');
  for (const { name, terminal, arrangement } of ROOTS)
    await addChannel(
      app,
      {
        name,
        group: name.split(' root')[0],
        kind: 'strain bridge',
        wire: { unit: serial, terminal },
        settings: {
          arrangement,
          gaugeFactor: 2.08,
          resistance: name === WRONG_RESISTANCE ? 120 : 350,
          range: { min: -1500, max: 1500 },
          rateHz: 500,
        },
      },
      'bench',
    );
  const wrong = listChannels(app.db, jobOf(app).id).find((c) => c.name === WRONG_VALUE)!;
  await acceptSheet(
    app,
    wrong.id,
    {
      line: { slope: 1923, offset: 0 },
      note: 'copied from the list of the gauges',
    },
    'bench',
  );
  makeJobCurrent(app.db, first.id);
}

function record(app: App, channels: Channel[], take: RotorTake): void {
  const start = new Date(Date.now() - take.daysAgo * 86_400_000);
  const [h, m] = take.at.split(':').map(Number);
  start.setUTCHours(h, m, 0, 0);
  const originNs = BigInt(start.getTime()) * 1_000_000n;
  const unit = openDockChassis(CHASSIS.serial, CHASSIS.name, originNs, {
    seed: take.seed,
    tidePhaseS: take.tidePhaseS,
    faults: { 'A2/2': 'open wire' },
  });
  const known = listUnits(app.db).find((u) => u.kind === PITCH.kind)!;
  const slots = [
    newSlot(unit, CHASSIS.serial, CHASSIS.name),
    newSlot(
      canBus.open(known, () => originNs),
      known.serial,
      known.name,
    ),
  ];
  const job = jobOf(app);
  const named = jobPlan(app.db, job.id)!.plan;
  const names = namesOf(channels);
  const acquisition = new Acquisition(slots, {
    frame: () => undefined,
    waves: () => undefined,
    call: () => undefined,
    changed: () => undefined,
    take: (head) => listed(app, head, (head.lengthNs ?? 0) / 1e6),
    note: (kind, says, takeId, atNs, by) =>
      log(app, kind, says, { takeId, by, atMs: Number(atNs / 1_000_000n) }),
  });
  const setupRules = listRules(app.db, job.id).map(({ id, rule }) => ({
    id,
    rule,
    says: ruleText(rule, names),
  }));
  acquisition.configure({ units: [], channels, rules: setupRules }, originNs);
  let nowNs = originNs;
  const runTo = (seconds: number) => {
    while (nowNs < originNs + BigInt(Math.round(seconds * 10)) * (SECOND / 10n))
      acquisition.step((nowNs += STEP_NS));
  };
  runTo(5);
  const number = nextTakeNumber(app.db, job.id);
  const takeId = randomUUID();
  acquisition.arm({
    head: {
      id: takeId,
      jobId: job.id,
      job: job.name,
      number,
      name: takeName(named.naming, take.facts, number),
      state: 'recording',
      startNs: '0',
      lengthNs: null,
      facts: take.facts,
      plan: named,
      planText: planText(named, names),
      planName: PLAN_NAME,
      folder: takeName(named.folder, take.facts, number),
      part: null,
      coreVersion: CORE_VERSION,
    },
    plan: named,
    path: takePath(app, takeId),
    by: 'bench',
  });
  const brake = channels.find((c) => c.name === 'Brake current')!.id;
  const actions = [
    ...take.brake.map(([at, value]) => ({ at, act: () => acquisition.setOutput(brake, value) })),
    ...take.marks.map(([at, says]) => ({ at, act: () => acquisition.note('mark', says, 'bench') })),
  ];
  for (const { at, act } of actions.sort((a, b) => a.at - b.at)) {
    runTo(5 + at);
    act();
  }
  for (let t = 5 + actions.at(-1)!.at; acquisition.status.state === 'Recording' && t < 700; t += 5) runTo(t);
  if (acquisition.status.state !== 'Watching')
    throw new Error(`demo take ${number} did not end: ${acquisition.status.state}`);
}

const folder = resolve(process.argv[2] ?? 'data');
if (existsSync(join(folder, 'farrier.db')) && !process.argv.includes('--anew')) {
  console.log(`${folder} holds data already; the demo goes on with it.`);
} else {
  rmSync(folder, { recursive: true, force: true });
  mkdirSync(folder, { recursive: true });
  const began = Date.now();
  await seed(folder);
  console.log(
    `Demo data made in ${((Date.now() - began) / 1000).toFixed(1)} s: ${EARLIER_TAKES.length + TAKES.length} takes of the rotor, 24 of coupons, ${CHANNELS.length} channels.`,
  );
}
