import { randomUUID } from 'node:crypto';
import { IDENTITY } from '$core/conversion/conversion';
import { CORE_VERSION } from '$core/version';
import type { PickedMode } from '$contract/modal';
import { EMPTY_PLAN } from '$contract/plan';
import type { FrameBody } from '$contract/wireframe';
import { jobOf, startJob, takePath, type App } from '$service/app';
import { listed } from '$service/inspect/look-into';
import { addAnalysis, changeSet, pickModes, viewAnalysis } from '$service/modal/analyses';
import { addFrame } from '$service/modal/frames';
import { makeJobCurrent } from '$store/entities';
import { TakeWriter } from '$store/take/writer';
import { ACCELEROMETERS, nacelleFrame, shaken, TRUE_MODES, TURNS_HZ, type Run } from './structure';
import { HAMMERS, inTurn, struck, type Strike } from './struck';

export const NACELLE_JOB = { name: 'Brinewheel II in the flow', place: 'Harrow Quay · rotor 2 of 3' };
const RATE = 160;
/** Struck it is recorded faster: a hit is short. */
const RATE_STRUCK = 512;
const STRUCK_S = 132;
/** Two hammers, eight hits each; one bounces, one is too hard. */
const STRIKES: Strike[] = inTurn(8, 8).map((s, k) => ({ ...s, ...(k === 3 && { bounces: 0.11 }), ...(k === 12 && { newtons: 700 }) })); // prettier-ignore

/** A recording of the rotor in turbulent flow at a steady speed, as the rack of the flow hall brought it in. */
const flow = (
  app: App,
  idOf: (name: string) => string,
  number: number,
  name: string,
  facts: Record<string, string>,
  { seconds, ...run }: Run & { seconds: number },
): string => {
  const signals = ACCELEROMETERS.map((a) => ({ id: idOf(a.name), name: a.name, unit: 'm/s²' }));
  const says = {
    planText: `${seconds / 60} minutes in the flow at a steady speed.`,
    planName: 'In the flow',
  };
  return recorded(app, { number, hoursAgo: 12 - number, name, facts, seconds, rate: RATE, signals, ...says }, shaken(38 + number, seconds, RATE, run)); // prettier-ignore
};

/** A take that was recorded by hand. */
function recorded(
  app: App,
  own: {
    number: number;
    hoursAgo: number;
    name: string;
    facts: Record<string, string>;
    seconds: number;
    rate: number;
    signals: { id: string; name: string; unit: string }[];
    planText: string;
    planName: string;
  },
  histories: Float32Array[],
): string {
  const { number, name, facts, seconds, planText, planName } = own;
  const id = randomUUID();
  const start = Date.now() - own.hoursAgo * 3_600_000;
  const head = {
    id,
    jobId: jobOf(app).id,
    job: jobOf(app).name,
    number,
    name,
    state: 'recording' as const,
    startNs: String(BigInt(Math.floor(start / 1000)) * 1_000_000_000n),
    lengthNs: null,
    facts: { ...facts, Operator: 'bench' },
    plan: EMPTY_PLAN,
    planText,
    planName,
    folder: '',
    part: null,
    coreVersion: CORE_VERSION,
  };
  const writer = new TakeWriter(takePath(app, id), {
    by: 'bench',
    head,
    groups: [{ offsetNs: 0, rate: { num: own.rate, den: 1 } }],
    signals: own.signals.map(({ id: channelId, name: called, unit }) => ({
      channelId,
      name: called,
      rawUnit: unit,
      unit,
      group: 0,
      junction: null,
      conversion: IDENTITY,
      snapshot: null,
    })),
  });
  histories.forEach((values, k) => {
    writer.append(k, 0, values);
    writer.commit();
  });
  writer.note(0, 'started', 'Started by hand', 'bench');
  const lengthNs = seconds * 1e9;
  writer.close('complete', lengthNs);
  listed(app, { ...head, state: 'complete' as never, lengthNs: lengthNs as never }, seconds * 1000);
  return id;
}

/** The nacelle and its blades as a wireframe with 16 accelerometers, a recording in the flow, and its modes. */
export async function seedNacelle(app: App): Promise<void> {
  const first = jobOf(app);
  startJob(app, NACELLE_JOB.name, NACELLE_JOB.place);
  const id = (name: string) => `acc-${ACCELEROMETERS.findIndex((a) => a.name === name) + 1}`;
  // Faster flow stiffens the blades and makes the pylon a little softer.
  const runs = [
    { name: 'BW2-M-2', flow: 1.6, turnsHz: 4.9, stretched: [1.012, 1.008, 0.985, 0.98, 0.98, 1.005, 0.99] },
    { name: 'BW2-M-3', flow: 2, turnsHz: 5.9, stretched: [1.006, 1.004, 0.993, 0.99, 0.99, 1.002, 0.995] },
    { name: 'BW2-M-1', flow: 2.4, turnsHz: TURNS_HZ, stretched: [] },
  ];
  const takes = runs.map(
    ({ name, flow: speed, turnsHz, stretched }, k) =>
    flow(app, id, k + 1, name, { 'Flow': `${speed} m/s`, 'Shaft speed': `${Math.round(60 * turnsHz)} rpm` }, { turnsHz, stretched, seconds: name === 'BW2-M-1' ? 1200 : 600 }), // prettier-ignore
  );
  const take = takes[2];
  const frame = JSON.parse(JSON.stringify(nacelleFrame(id))) as FrameBody;
  const { frame: kept } = await addFrame(app, frame, 'bench');
  const { view, done } = addAnalysis(app, { takes: [take], name: 'Nacelle and blades, in the flow', frame: kept.id }, 'bench'); // prettier-ignore
  await done;
  const [set] = view.sets;
  const references = ['Nacelle fore–aft', 'Nacelle side, front', 'Blade 1 tip, flap', 'Blade 2 tip, flap', 'Blade 3 tip, edge'].map(id); // prettier-ignore
  const change = {
    correlate: { references, lags: 1024, left: 2, speedHz: TURNS_HZ },
    fit: { from: 9.2, to: 55 },
  };
  await changeSet(app, view.id, set.id, change, 'bench').done;
  const { suggested } = viewAnalysis(app, view.id).sets[0];
  const picks = suggested
    .filter((s) => !s.harmonic.is)
    .map(({ order, index, hz, damping }): PickedMode => {
      const truth = TRUE_MODES.reduce((a, b) => (Math.abs(b.hz - hz) < Math.abs(a.hz - hz) ? b : a));
      return { order, index, hz, damping, name: truth.seenAs, out: false };
    });
  await (
    await pickModes(app, view.id, set.id, picks)
  ).done;
  await seedStruck(app, id, kept.id);
  makeJobCurrent(app.db, first.id);
}

/** A recording of the rotor struck, at a standstill. @param histories of the accelerometers, then of the hammers that were connected */
export function recordStruck(
  app: App,
  idOf: (name: string) => string,
  name: string,
  histories: Float32Array[],
): string {
  const signals = [
    ...ACCELEROMETERS.map((a) => ({ id: idOf(a.name), name: a.name, unit: 'm/s²' })),
    ...HAMMERS.map((h, k) => ({ id: `hammer-${k + 1}`, name: h.name, unit: 'N' })),
  ].slice(0, histories.length);
  const seconds = histories[0].length / RATE_STRUCK;
  const facts = { Flow: 'none', Rotor: 'locked' };
  const says = {
    planText: 'Eight hits of each hammer, eight seconds apart, rotor locked.',
    planName: 'Struck',
  };
  return recorded(
    app,
    { number: 4, hoursAgo: 14, name, facts, seconds, rate: RATE_STRUCK, signals, ...says },
    histories,
  );
}

/** The rotor struck with two hammers, and its modes from that. */
async function seedStruck(app: App, idOf: (name: string) => string, frame: string): Promise<void> {
  const take = recordStruck(app, idOf, 'BW2-M-H', struck(51, STRUCK_S, RATE_STRUCK, STRIKES, 0.005));
  // What it begins with is not waited for: the change takes its place.
  const { view, done } = addAnalysis(app, { takes: [take], name: 'Nacelle and blades, struck', frame }, 'bench'); // prettier-ignore
  const [set] = view.sets;
  const change = { correlate: { factor: 2, lags: 1024 as const }, fit: { from: 9.2, to: 55, order: 80 } };
  await Promise.all([done, changeSet(app, view.id, set.id, change, 'bench').done]);
  const picks = viewAnalysis(app, view.id).sets[0].suggested.map(
    ({ order, index, hz, damping }): PickedMode => {
      const truth = TRUE_MODES.reduce((a, b) => (Math.abs(b.hz - hz) < Math.abs(a.hz - hz) ? b : a));
      return { order, index, hz, damping, name: truth.seenAs, out: false };
    },
  );
  await (
    await pickModes(app, view.id, set.id, picks)
  ).done;
}
