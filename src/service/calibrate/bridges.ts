import type { BridgesRun } from '$contract/api/calibrate';
import { FarrierError, badInput } from '$core/errors';
import { Moments } from '$core/statistics/moments';
import { contribution, type Contribution } from '$core/uncertainty/budget';
import { BridgeRun, type BridgeReading, type BridgeRow, type ModuleShunt } from '$contract/bridge-check';
import { fitAxis } from '$contract/calibration';
import type { Calibration } from '$contract/calibration-record';
import { channelKind, commonOf, type Channel } from '$contract/channel';
import { isBridge } from '$contract/proof';
import { valueOf } from '$contract/calibration';
import { getChannel, insertCalibration, listSensors } from '$store/entities';
import { log, type App } from '../app';
import { check } from '../check';
import { judgeBridge } from './bridge-verdict';
import { change, idle } from '../setup/change';
import { dueAfter, keep, recordOf } from './keep';

/** Time for the switch, the module's filter and the blocks on their way. */
const SETTLE_S = 0.5;
const MONTHS = 12;
/** Tolerance of a module's shunt resistor and of the resistance of a gauge, shares (half widths). */
const SHUNT_SHARE = 0.001;
const RESISTANCE_SHARE = 0.003;
/** Expanded uncertainty of a gauge factor by its data sheet, k = 2. */
const GAUGE_FACTOR_SHARE = 0.01;

const pause = (seconds: number) => new Promise((done) => setTimeout(done, seconds * 1000));

const LONGEST_LAG_S = 10;
/** Switches shunts and waits until readings of so many seconds have arrived that were all taken after it: by the engine's clock, since what
 *  arrives here may lag. */
async function readAfter(
  app: App,
  bridges: { channel: Channel }[],
  on: boolean,
  seconds: number,
): Promise<void> {
  const terminals = bridges.map(({ channel }) => channel.wire!);
  const switchedMs = (await app.engine.command({ do: 'shunt', terminals, on })) as number;
  const enoughMs = switchedMs + (SETTLE_S + seconds) * 1000;
  await pause(SETTLE_S + seconds);
  const [{ channel }] = bridges;
  // Where a step of the engine covers more than the time asked for, the next may be shorter.
  const there = () => app.live.timeMs >= enoughMs && app.live.rawMeans(channel.id, seconds - 0.05).length > 0;
  for (let late = 0; late < LONGEST_LAG_S && !there(); late += 0.05) await pause(0.05);
}

/** The shunt of a bridge's module. @throws `not_allowed` where there is none, `unavailable` when its unit is gone */
function shuntOf(app: App, channel: Channel): ModuleShunt {
  const unit = app.live.status.units.find((u) => u.description.serial === channel.wire?.unit);
  if (!unit?.answering)
    throw new FarrierError('unavailable', {
      what: `${channel.name} is not measured now.`,
      where: channel.name,
      why: 'Its unit does not answer.',
      next: 'See on the rig what is wrong with it.',
    });
  const at = unit.description.modules
    .flatMap((m) => m.terminals)
    .find((t) => t.id === channel.wire!.terminal);
  if (!at?.shunt)
    throw new FarrierError('not_allowed', {
      what: 'Its module has no shunt resistor.',
      where: `${channel.name}, ${channel.wire!.terminal}`,
      next: 'Calibrate it by points, or wire it to a module with a shunt.',
    });
  return at.shunt;
}

function readingOf(app: App, channelId: string, seconds: number): BridgeReading {
  const m = new Moments();
  m.push(app.live.rawMeans(channelId, seconds));
  return {
    mean: m.count ? m.mean : NaN,
    noise: m.count > 1 ? m.standardDeviation : NaN,
    samples: m.count,
  };
}

/** Reads zero, and with `shunt` the step of the module's shunt, of all these bridges at once; judges each; keeps what it found.
 *  Nothing of the channels' values is changed.
 *  @throws `conflict` while a take is armed or recorded, `bad_input` */
export async function checkBridges(
  app: App,
  channelIds: string[],
  settings: unknown,
  by: string,
): Promise<BridgesRun> {
  idle(app);
  const run = check(BridgeRun, settings);
  const began = performance.now();
  const { bridges, refused } = sorted(app, channelIds);
  const terminals = bridges.map(({ channel }) => channel.wire!);
  await readAfter(app, bridges, false, run.seconds);
  const zeros = bridges.map(({ channel }) => readingOf(app, channel.id, run.seconds));
  let shunted: BridgeReading[];
  try {
    await readAfter(app, bridges, true, run.seconds);
    shunted = bridges.map(({ channel }) => readingOf(app, channel.id, run.seconds - 0.05));
  } finally {
    // Whatever happens, no bridge is left under its shunt.
    await app.engine.command({ do: 'shunt', terminals, on: false }).catch(() => undefined);
  }
  const sensors = new Map(listSensors(app.db).map((s) => [s.serial, s]));
  const rows = bridges.map(({ channel, shunt }, k) => {
    const lost = ['lost', 'not measured'].includes(app.live.state(channel.id));
    if (lost || shunted[k].samples === 0)
      throw new FarrierError('unavailable', {
        what: `${channel.name} was lost while its bridge was read.`,
        where: channel.name,
        why: 'Its unit stopped answering.',
        next: 'Plug it in again and repeat: nothing was changed.',
      });
    const open = app.live.state(channel.id) === 'open';
    return judgeBridge(channel, sensors.get(channel.sensorSerial), shunt, zeros[k], shunted[k], run, open);
  });
  await keepChecks(
    app,
    bridges.map((b) => b.channel),
    rows,
    by,
  );
  return { rows, refused, tookS: (performance.now() - began) / 1000 };
}

function sorted(app: App, channelIds: string[]) {
  if (channelIds.length === 0) throw badInput('bridges', 'none', 'Choose at least one.');
  const bridges: { channel: Channel; shunt: ModuleShunt }[] = [];
  const refused: BridgesRun['refused'] = [];
  for (const id of channelIds) {
    const channel = getChannel(app.db, id);
    try {
      if (!isBridge(channel)) throw badInput('channel', channel.name, 'It is no bridge.');
      bridges.push({ channel, shunt: shuntOf(app, channel) });
    } catch (error) {
      const { what, why, next } = (error as FarrierError).text;
      refused.push({ channelId: id, name: channel.name, says: [what, why, next].filter(Boolean).join(' ') });
    }
  }
  if (bridges.length === 0)
    throw new FarrierError('not_allowed', {
      what: refused.length === 1 ? refused[0].says : 'None of these bridges can be shunted.',
      where: refused
        .map((r) => r.name)
        .slice(0, 4)
        .join(', '),
      next: 'Calibrate them by points, or wire them to a module with a shunt.',
    });
  return { bridges, refused };
}

/** A check is evidence: it is kept whatever it found, and is a channel's proof where nothing better is in force. */
export async function keepChecks(
  app: App,
  channels: Channel[],
  rows: BridgeRow[],
  by: string,
): Promise<void> {
  const records = rows.map((row, k) => checkRecord(channels[k], row, by));
  const proven = channels.flatMap((channel, k) =>
    rows[k].finding === 'right' && !channel.calibration?.applies
      ? [{ channel, calibration: records[k] }]
      : [],
  );
  const count = (finding: BridgeRow['finding']) => rows.filter((r) => r.finding === finding);
  const bad = rows.filter((r) => r.finding !== 'right');
  const says = `Shunt check of ${rows.length} bridge${rows.length === 1 ? '' : 's'}: ${count('right').length} right${bad
    .slice(0, 5)
    .map((r) => `; ${r.name} ${r.finding}`)
    .join('')}${bad.length > 5 ? ` and ${bad.length - 5} more` : ''}.`;
  if (proven.length) await keep(app, proven, says, by);
  else log(app, 'calibration', says, { by });
  app.db.transaction(() =>
    records
      .filter((r) => !proven.some((p) => p.calibration === r))
      .forEach((r) => insertCalibration(app.db, r)),
  );
}

function checkRecord(channel: Channel, row: BridgeRow, by: string): Calibration {
  const finite = (label: string, value: number, unit: string) =>
    Number.isFinite(value) ? [{ label, value, unit }] : [];
  const { slope, offset } = presentLine(channel);
  return recordOf(
    channel,
    {
      method: 'by shunt',
      slope,
      offset,
      applies: false,
      finding: row.finding,
      note: row.says,
      due: row.finding === 'right' ? dueAfter(MONTHS) : '',
      budget: row.finding === 'right' ? shuntBudget(channel, row) : [],
      asFound: Number.isFinite(row.value) ? Math.abs(row.value - row.expectedValue) : null,
      measured: [
        ...finite('Zero', row.zero, 'mV/V'),
        ...finite('Step under the shunt', row.step, 'mV/V'),
        ...finite('Step by the circuit', row.expectedStep, 'mV/V'),
        ...finite('The step as read', row.value, row.unit),
        ...finite('The step as it should read', row.expectedValue, row.unit),
      ],
    },
    by,
  );
}

/** What a shunt leaves uncertain: its resistor, the gauge's resistance and factor, the noise of both readings. */
function shuntBudget(channel: Channel, row: BridgeRow): Contribution[] {
  const perUnit = Math.abs(row.expectedValue / row.expectedStep);
  return [
    contribution({ name: 'Shunt resistor', type: 'B', distribution: 'rectangular', relative: SHUNT_SHARE }),
    contribution({
      name: 'Resistance of the gauge',
      type: 'B',
      distribution: 'rectangular',
      relative: RESISTANCE_SHARE,
    }),
    ...(channelKind(channel.kind).bridge?.byGaugeFactor
      ? [contribution({ name: 'Gauge factor', type: 'B', relative: GAUGE_FACTOR_SHARE, coverage: 2 })]
      : []),
    contribution({ name: 'Noise of zero and shunt', type: 'A', halfWidth: row.noise * perUnit, dof: 30 }),
  ];
}

/** Takes the present output of these bridges as their zero, all at once. Those that do not rest are refused, with the reason.
 *  @throws `conflict` while a take is armed or recorded */
export async function balance(
  app: App,
  channelIds: string[],
  settings: unknown,
  by: string,
): Promise<BridgesRun> {
  idle(app);
  const run = check(BridgeRun, settings);
  const began = performance.now();
  if (channelIds.length === 0) throw badInput('bridges', 'none', 'Choose at least one.');
  const channels = channelIds.map((id) => getChannel(app.db, id));
  await pause(run.seconds + 0.1);
  const none: ModuleShunt = { ohm: Infinity, arm: 1 };
  const rows = channels.map((channel) => {
    const open = app.live.state(channel.id) === 'open';
    return judgeBridge(channel, undefined, none, readingOf(app, channel.id, run.seconds), null, run, open);
  });
  const good = channels.flatMap((channel, k) =>
    rows[k].finding === 'right' ? [balanced(channel, rows[k].zero)] : [],
  );
  const refused = rows
    .filter((r) => r.finding !== 'right')
    .map(({ channelId, name, says }) => ({ channelId, name, says }));
  if (good.length)
    await change(
      app,
      { channels: good },
      'calibration',
      good.length === 1 ? good[0].id : '',
      `Balanced ${good.length} bridge${good.length === 1 ? '' : 's'}${refused.length ? `; not ${refused.map((r) => r.name).join(', ')}` : ''}.`,
      by,
    );
  return { rows, refused, tookS: (performance.now() - began) / 1000 };
}

/** A bridge whose present output reads 0: its zero is set, or where a calibration counts from the raw reading the value is taken off. */
function balanced(channel: Channel, zero: number): Channel {
  const { calibration } = channel;
  if (calibration?.applies)
    return { ...channel, tare: Number((channel.tare + valueOf(channel, zero)).toPrecision(9)) };
  return { ...channel, tare: 0, settings: { ...channel.settings, zero: Number(zero.toPrecision(6)) } };
}

/** Puts a value right that a check found wrong: from zero and step of its last check to what the circuit gives.
 *  @throws `not_found` when no check with a sound step is there */
export async function derive(
  app: App,
  channelId: string,
  last: Calibration | undefined,
  by: string,
): Promise<Calibration> {
  const channel = getChannel(app.db, channelId);
  const of = (label: string) => last?.measured.find((m) => m.label === label)?.value ?? NaN;
  const [zero, step, value] = [of('Zero'), of('Step under the shunt'), of('The step as it should read')];
  if (!last || last.method !== 'by shunt' || ![zero, step, value].every(Number.isFinite))
    throw new FarrierError('not_found', {
      what: 'There is no shunt reading to derive a value from.',
      where: channel.name,
      next: 'Check its shunt first.',
    });
  if (last.finding !== 'wrong value' && last.finding !== 'right')
    throw new FarrierError('not_allowed', {
      what: `The gauge itself is ${last.finding}: a value made from it would be wrong.`,
      where: channel.name,
      next: 'Mend the gauge or its wires, then check again.',
    });
  const [x0, x1] = [fitAxis(channel, zero), fitAxis(channel, zero + step)];
  const slope = value / (x1 - x0);
  const { unit } = commonOf(channel);
  const row = { noise: 0, expectedValue: value, expectedStep: step } as BridgeRow;
  const calibration = recordOf(
    channel,
    {
      method: 'by shunt',
      slope,
      offset: -slope * x0,
      fromRaw: channelKind(channel.kind).linear,
      budget: shuntBudget(channel, row),
      due: dueAfter(MONTHS),
      asFound: last.asFound,
      measured: last.measured,
      note: 'Derived from zero and shunt.',
    },
    by,
  );
  await keep(
    app,
    [{ channel: { ...channel, tare: 0 }, calibration }],
    `${channel.name} calibrated by its shunt: ${Number(slope.toPrecision(6))} ${unit}/${calibration.rawUnit}, zero at ${zero.toPrecision(4)} mV/V.`,
    by,
  );
  return calibration;
}

/** Present slope and offset from raw to the channel's unit, for a linear kind; what a new calibration is compared with. */
export function presentLine(channel: Channel): { slope: number; offset: number } {
  const offset = valueOf(channel, 0);
  return { slope: valueOf(channel, 1) - offset, offset };
}
