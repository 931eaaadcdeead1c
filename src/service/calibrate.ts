import { randomUUID } from 'node:crypto';
import { FarrierError, badInput } from '$core/errors';
import { Moments } from '$core/statistics/moments';
import { fitPoints, valueOf, type Steadiness } from '$contract/calibration';
import {
  canCalibrate,
  channelKind,
  commonOf,
  type Calibration,
  type CalibrationPoint,
  type Channel,
} from '$contract/channel';
import { getChannel, insertCalibration, listCalibrations, listChannels } from '$store/entities';
import { jobOf, type App } from './app';
import { BENCH } from './setup/change';
import { replaceChannel } from './setup/channels';

const MIN_READINGS = 10;

/** Looks at the last seconds of a channel. Steady: the mean of the second half of the hold is within the tolerance of the first.
 *  @param tolerance in the channel's unit @throws `bad_input`, `unavailable` when it is not measured */
export function steadiness(app: App, channelId: string, tolerance: number, holdS: number): Steadiness {
  const channel = getChannel(app.db, channelId);
  if (!(tolerance > 0)) throw badInput('tolerance', tolerance, 'Give a tolerance above 0.');
  if (!(holdS >= 0.5 && holdS <= 30)) throw badInput('hold', holdS, 'Give 0.5 to 30 s.');
  const means = app.live.rawMeans(channelId, holdS);
  const m = new Moments();
  m.push(means);
  if (m.count < MIN_READINGS || m.missing > m.count)
    throw new FarrierError('unavailable', {
      what: `${channel.name} gives no reading.`,
      where: channel.name,
      why: 'Its input is open, its unit is lost, or it has just been set up.',
      next: 'See on the rig what its terminal reads.',
    });
  const half = Math.floor(means.length / 2);
  const [first, second] = [new Moments(), new Moments()];
  first.push(means.subarray(0, half));
  second.push(means.subarray(half));
  const value = valueOf(channel, m.mean);
  const drift = valueOf(channel, second.mean) - valueOf(channel, first.mean);
  const whole = means.length >= Math.round(holdS * 20) - 1;
  const steady = whole && Math.abs(drift) <= tolerance;
  return {
    raw: m.mean,
    noise: m.standardDeviation,
    samples: m.count,
    value,
    drift,
    steady,
    says: steady
      ? 'steady'
      : whole
        ? `drifting ${drift.toPrecision(2)} ${commonOf(channel).unit} in ${holdS} s`
        : 'settling',
  };
}

/** Accepts a calibration by points: kept for ever, in force at once, one change that undo takes back.
 *  @throws `bad_input` as fitPoints, `conflict` while a take runs */
export async function acceptCalibration(
  app: App,
  channelId: string,
  points: CalibrationPoint[],
  by = BENCH,
): Promise<Calibration> {
  const channel = getChannel(app.db, channelId);
  const fit = fitPoints(channel, points);
  const kind = channelKind(channel.kind);
  const { unit } = commonOf(channel);
  const calibration: Calibration = {
    id: randomUUID(),
    channelId,
    method: 'by points',
    at: Date.now(),
    by,
    unit,
    rawUnit: kind.linear ? kind.rawUnit : unit,
    slope: fit.slope,
    offset: fit.offset,
    points,
    residuals: Array.from(fit.residuals),
    largestResidual: fit.largestResidual,
  };
  const said = `Calibrated ${channel.name} by ${points.length} points: slope ${fit.slope.toPrecision(6)} ${unit}/${calibration.rawUnit}, offset ${fit.offset.toPrecision(5)} ${unit}, largest distance ${fit.largestResidual.toPrecision(2)} ${unit}.`;
  await replaceChannel(app, { ...channel, calibration }, said, by);
  insertCalibration(app.db, calibration);
  return calibration;
}

/** Present slope and offset from raw to the channel's unit, for a linear kind; what a new calibration is compared with. */
export function presentLine(channel: Channel): { slope: number; offset: number } {
  const offset = valueOf(channel, 0);
  return { slope: valueOf(channel, 1) - offset, offset };
}

/** Channels that can be calibrated by points; those wired to a displacement or load first, where it is done most. */
export const calibratable = (app: App): Channel[] => {
  const channels = listChannels(app.db, jobOf(app).id).filter((c) => canCalibrate(channelKind(c.kind)));
  const rank = (c: Channel) => ['voltage', 'bridge sensor', 'current loop'].indexOf(c.kind) >>> 0;
  return channels.sort((a, b) => rank(a) - rank(b));
};

export function calibrationPage(app: App, channelId: string) {
  const channel = getChannel(app.db, channelId);
  return {
    channel,
    channels: calibratable(app),
    history: listCalibrations(app.db, channelId),
    present: presentLine(channel),
    linear: channelKind(channel.kind).linear,
  };
}
