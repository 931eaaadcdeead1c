import { randomUUID } from 'node:crypto';
import { Random } from '$core/random';
import { compileConversion } from '$core/conversion/conversion';
import { platinumResistance } from '$core/sensors/platinum';
import { CORE_VERSION } from '$core/version';
import { conversionOf, type Channel } from '$contract/channel';
import { USUAL_DRAWING } from '$contract/drawing';
import { EMPTY_PLAN } from '$contract/plan';
import { jobOf, startJob, takePath, type App } from '$service/app';
import { keepDrawing } from '$service/inspect/drawings';
import { judgeTakes, tagTakes } from '$service/inspect/keep';
import { listed } from '$service/inspect/look-into';
import { addSeries, judgeRow } from '$service/inspect/series';
import { addChannel } from '$service/setup/channels';
import { listChannels, makeJobCurrent } from '$store/entities';
import { TakeWriter } from '$store/take/writer';
import { CHASSIS } from './rig';

export const COUPONS_JOB = { name: 'Lap-shear coupons', place: 'Harrow Quay · bond shop' };
const LOAD = 'Lap shear load';
const TRAVEL = 'Crosshead travel';
const STRAIN = 'Overlap strain';
const TEMPERATURE = 'Bond line temperature';

/** The press, on terminals of the dock’s chassis while the rotor is out of the water. */
const CHANNELS = [
  { name: LOAD, terminal: 'A2/1', kind: 'bridge sensor', settings: { sensitivity: 2, fullScale: 20, unit: 'kN', range: { min: 0, max: 20 }, rateHz: 2000 } },
  { name: TRAVEL, terminal: 'A4/1', kind: 'voltage', settings: { slope: 5, unit: 'mm', range: { min: 0, max: 10 }, rateHz: 100 } },
  { name: STRAIN, terminal: 'A2/3', kind: 'bridge sensor', settings: { sensitivity: 2.5, fullScale: 5000, unit: 'µε', range: { min: 0, max: 5000 }, rateHz: 500 } },
  { name: TEMPERATURE, terminal: 'A1/5', kind: 'platinum sensor', settings: { range: { min: 0, max: 60 }, rateHz: 100 } },
]; // prettier-ignore

/** Specimens of one batch were bonded together: they share the scatter of the batch. */
const BATCHES = [
  { batch: '1', daysAgo: 9, strengthKN: 11.6, celsius: 21.4, operator: 'bond shop' },
  { batch: '2', daysAgo: 8, strengthKN: 11.9, celsius: 22.1, operator: 'bond shop' },
  { batch: '3', daysAgo: 5, strengthKN: 11.3, celsius: 20.6, operator: 'bench' },
  { batch: '4', daysAgo: 4, strengthKN: 11.85, celsius: 22.4, operator: 'bench' },
];
const EACH = 6;
/** The specimen with a flaw in its bond, and the one whose clamp slipped. */
export const FLAWED = 21;
export const SLIPPED = 9;

/** A single-lap specimen in displacement control: the slack of the clamps is taken up, the joint follows its stiffness and softens toward its
 *  strength, then it breaks. */
export function couponModel(number: number, seed = 4100) {
  const random = new Random(seed + 17 * number);
  const batch = BATCHES[Math.floor((number - 1) / EACH)];
  const rateMmS = 0.04 * (1 + 0.004 * random.gauss());
  const slackMm = 0.16 + 0.05 * random.uniform();
  const stiffness = 5.1 * (1 + 0.012 * random.gauss());
  const strength = batch.strengthKN * (1 + 0.014 * random.gauss()) * (number === FLAWED ? 0.64 : 1);
  const plateau = strength * (number === FLAWED ? 2.4 : 1.22);
  const strainPerKN = 117 * (1 + 0.01 * random.gauss());
  const slipAtKN = number === SLIPPED ? 5.2 : Infinity;
  const slipMm = 0.32;
  const softened = (mm: number) => {
    if (mm <= 0) return 0;
    const plain = stiffness * mm;
    return plain / (1 + (plain / plateau) ** 6) ** (1 / 6);
  };
  /** Load at a travel, with what the clamps have slipped so far. */
  const loadAt = (travel: number, slipped: number) => {
    const taken = travel - slackMm - slipped;
    // The slack goes over into the slope within a twentieth of a millimetre.
    const width = 0.05;
    return softened(width * Math.log1p(Math.exp(Math.min(600, taken / width))));
  };
  let slipS = Infinity;
  let breakS = Infinity;
  for (let t = 0; t < 200; t += 0.0005) {
    const load = loadAt(rateMmS * t, t > slipS ? slipMm : 0);
    if (slipS === Infinity && load >= slipAtKN) slipS = t;
    if (load >= strength) {
      breakS = t;
      break;
    }
  }
  const lastsS = Math.ceil(breakS + 3);
  const load = (t: number) => {
    const slipped = t > slipS ? slipMm * (1 - Math.exp(-(t - slipS) / 0.03)) : 0;
    const whole = loadAt(rateMmS * t, slipped);
    if (t < breakS) return whole;
    return 0.06 + (strength - 0.06) * Math.exp(-(t - breakS) / 0.002);
  };
  return {
    batch,
    strength,
    stiffness,
    breakS,
    slipS,
    lastsS,
    load,
    travel: (t: number) => rateMmS * t,
    strain: (t: number) => strainPerKN * load(Math.max(0, t - 0.02)) * (1 + 0.00035 * t),
    celsius: (t: number) => batch.celsius + 0.25 * Math.sin(t / 31 + number) + 0.004 * t,
    random,
  };
}

/** The raw number that the hardware reads at a value, by the channel’s own conversion. */
function rawOf(channel: Channel): (value: number) => number {
  if (channel.kind === 'platinum sensor') return (celsius) => platinumResistance(100, celsius);
  const convert = compileConversion(conversionOf(channel));
  const out = new Float64Array(2);
  convert([0, 1], out, 2);
  return (value) => (value - out[0]) / (out[1] - out[0]);
}

function pull(app: App, channels: Channel[], number: number): string {
  const model = couponModel(number);
  const { batch, lastsS, breakS, slipS, random } = model;
  const within = (number - 1) % EACH;
  const start = new Date(Date.now() - batch.daysAgo * 86_400_000);
  start.setUTCHours(9, 10 + 14 * within, 0, 0);
  const name = `CP-${String(number).padStart(2, '0')}`;
  const id = randomUUID();
  const lengthNs = lastsS * 1e9;
  const head = {
    id,
    jobId: jobOf(app).id,
    job: jobOf(app).name,
    number,
    name,
    state: 'recording' as const,
    startNs: String(BigInt(start.getTime()) * 1_000_000n),
    lengthNs: null,
    facts: { Batch: batch.batch, Coupon: String(within + 1), Operator: batch.operator, Adhesive: 'epoxy EP-7', 'Overlap': '12.5 × 25 mm', 'Bond line': `${(0.19 + 0.004 * (number % 7)).toFixed(3)} mm` }, // prettier-ignore
    plan: EMPTY_PLAN,
    planText: 'Pulled at 2.4 mm a minute until it broke.',
    planName: 'Pull to break',
    folder: `Batch ${batch.batch}`,
    part: null,
    coreVersion: CORE_VERSION,
  };
  const rates = channels.map((c) => Number(c.settings.rateHz));
  const groups = [...new Set(rates)];
  const writer = new TakeWriter(takePath(app, id), {
    by: batch.operator,
    head,
    groups: groups.map((num) => ({ offsetNs: 0, rate: { num, den: 1 } })),
    signals: channels.map((c, k) => ({
      channelId: c.id,
      name: c.name,
      rawUnit: { 'bridge sensor': 'mV/V', voltage: 'V' }[c.kind] ?? 'Ω',
      unit: String(c.settings.unit),
      group: groups.indexOf(rates[k]),
      junction: null,
      conversion: conversionOf(c),
      snapshot: c,
    })),
  });
  const value: Record<string, (t: number) => number> = {
    [LOAD]: (t: number) => model.load(t) + 0.006 * random.gauss(),
    [TRAVEL]: (t: number) => model.travel(t) + 0.0006 * random.gauss(),
    [STRAIN]: (t: number) => model.strain(t) + 2.5 * random.gauss(),
    [TEMPERATURE]: (t: number) => model.celsius(t) + 0.015 * random.gauss(),
  };
  channels.forEach((c, k) => {
    const raw = rawOf(c);
    const samples = Float32Array.from({ length: lastsS * rates[k] }, (_, i) =>
      raw(value[c.name](i / rates[k])),
    );
    writer.append(k, 0, samples);
    writer.commit();
  });
  writer.note(0, 'started', 'Started by hand', batch.operator);
  if (slipS < breakS)
    writer.note(Math.round((slipS + 0.4) * 1e9), 'mark', 'A knock in the clamp', batch.operator);
  writer.note(Math.round((breakS + 0.2) * 1e9), 'mark', 'Broken', batch.operator);
  writer.close('complete', lengthNs);
  listed(app, { ...head, state: 'complete' as never, lengthNs: lengthNs as never }, lastsS * 1000);
  return id;
}

/** Bonded lap-shear specimens of the rotor’s epoxy: 24 pulls in four batches, judged, and a series of the last batch. */
export async function seedCoupons(app: App): Promise<void> {
  const first = jobOf(app);
  startJob(app, COUPONS_JOB.name, COUPONS_JOB.place);
  for (const { name, terminal, kind, settings } of CHANNELS)
    await addChannel(
      app,
      { name, group: 'Press', kind, wire: { unit: CHASSIS.serial, terminal }, settings },
      'bench',
    );
  const channels = listChannels(app.db, jobOf(app).id);
  const ids = Array.from({ length: BATCHES.length * EACH }, (_, k) => pull(app, channels, k + 1));
  const of = (number: number) => ids[number - 1];
  const good = ids.filter((id) => id !== of(FLAWED) && id !== of(SLIPPED));
  judgeTakes(app, good, 'good', '', 'bench');
  judgeTakes(app, [of(FLAWED)], 'doubtful', 'broke early', 'bench');
  judgeTakes(app, [of(SLIPPED)], 'doubtful', 'the clamp slipped at 5 kN', 'bench');
  tagTakes(app, [of(2), of(8), of(14), of(20)], ['for the report'], [], 'bench');
  const drawing = {
    ...USUAL_DRAWING,
    channels: [LOAD, TRAVEL, TEMPERATURE],
    aligned: 'a crossing' as const,
    alignBy: LOAD,
    level: 0.2,
    hysteresis: 0.05,
  };
  keepDrawing(app, 'coupon view', drawing, 'bench');
  keepDrawing(
    app,
    'load over travel',
    { ...USUAL_DRAWING, as: 'a curve against', channels: [LOAD], against: TRAVEL },
    'bench',
  );
  const batch = {
    words: '',
    conditions: [{ kind: 'fact', settings: { fact: 'Batch', test: 'is', value: '4' } }],
  };
  const measure = (title: string, kind: string, settings: Record<string, unknown>) => ({
    of: 'measure' as const,
    title,
    measure: { kind, settings },
  });
  const whole = { from: null, to: null };
  const { id } = addSeries(app, 'Batch 4', {
    filter: batch,
    order: 'name',
    columns: [
      measure('highest load', 'level', { which: 'highest', channel: LOAD, ...whole }),
      measure('travel there', 'there', { read: TRAVEL, which: 'highest', channel: LOAD, ...whole }),
      measure('stiffness', 'slope', { y: LOAD, x: TRAVEL, low: 2, high: 6 }),
      measure('energy', 'area', { y: LOAD, x: TRAVEL, until: 'the break', share: 50 }),
    ],
  }, 'bench'); // prettier-ignore
  judgeRow(app, id, { take: of(FLAWED), counts: false, reason: 'flaw in the bond, seen after' }, 'bench');
  makeJobCurrent(app.db, first.id);
}
