import { FarrierError, asFarrierError, badInput, type ErrorText } from '$core/errors';
import { Moments } from '$core/statistics/moments';
import {
  commonContributions,
  fitAxis,
  fitPoints,
  pointContributions,
  valueOf,
  type PointInput,
  type Steadiness,
} from '$contract/calibration';
import { CalibrationPoint, type Calibration, type Channel, channelKind, commonOf } from '$contract/channel';
import type { FitForm } from '$core/fit/forms';
import { uncertaintyAt } from '$core/uncertainty/budget';
import { getChannel, getLayout, putLayout } from '$store/entities';
import { jobOf, type App } from '../app';
import { budgetInputs, dueAfter, keep, recordOf, referenceOf, tareText } from './keep';

const MIN_READINGS = 10;

/** Looks at the last seconds of a channel. Steady: the mean of the second half of the hold is within the tolerance of the first, and the
 *  mean itself is known to a third of it.
 *  @param tolerance in the channel's unit @throws `bad_input`, `unavailable` when it is not measured or over its range */
export function steadiness(app: App, channelId: string, tolerance: number, holdS: number): Steadiness {
  // A tare is left aside: what is looked at is the sensor.
  const channel = { ...getChannel(app.db, channelId), tare: 0 };
  if (!(tolerance > 0)) throw badInput('tolerance', tolerance, 'Give a tolerance above 0.');
  if (!(holdS >= 0.5 && holdS <= 30)) throw badInput('hold', holdS, 'Give 0.5 to 30 s.');
  const state = app.live.state(channelId);
  if (state === 'over range')
    throw new FarrierError('unavailable', {
      what: `${channel.name} is over its range.`,
      where: channel.name,
      why: 'The input is driven past what its module can read.',
      next: 'Take the reference back, or choose a wider range of the input.',
    });
  const means = app.live.rawMeans(channelId, holdS);
  const m = new Moments();
  m.push(means);
  if (m.count < MIN_READINGS || m.missing > m.count || state === 'lost' || state === 'open')
    throw new FarrierError('unavailable', {
      what: `${channel.name} gives no reading.`,
      where: channel.name,
      why: state === 'lost' ? 'Its unit is lost.' : 'Its input is open, or it has just been set up.',
      next: 'See on the rig what its terminal reads; what was measured is kept.',
    });
  const half = Math.floor(means.length / 2);
  const [first, second] = [new Moments(), new Moments()];
  first.push(means.subarray(0, half));
  second.push(means.subarray(half));
  const { unit } = commonOf(channel);
  const value = valueOf(channel, m.mean);
  const drift = valueOf(channel, second.mean) - valueOf(channel, first.mean);
  const scatter =
    Math.abs(valueOf(channel, m.mean + m.standardDeviation) - value) / Math.sqrt(Math.max(1, m.count));
  const whole = means.length >= Math.round(holdS * 20) - 1 && m.missing === 0;
  const drifts = Math.abs(drift) > tolerance;
  const noisy = scatter > tolerance / 3;
  return {
    channelId,
    raw: m.mean,
    noise: m.standardDeviation,
    samples: m.count,
    value,
    drift,
    steady: whole && !drifts && !noisy,
    says: !whole
      ? 'settling'
      : drifts
        ? `drifting ${drift.toPrecision(2).replace('-', '−')} ${unit} in ${holdS} s`
        : noisy
          ? `noisy: the mean is known to ±${(2 * scatter).toPrecision(2)} ${unit} only`
          : 'steady',
  };
}

/** Steadiness of several channels; the fault of one is told in its place. */
export function steadinessOf(
  app: App,
  channelIds: string[],
  tolerance: number,
  holdS: number,
): (Steadiness | { channelId: string; fault: ErrorText })[] {
  return channelIds.map((channelId) => {
    try {
      return steadiness(app, channelId, tolerance, holdS);
    } catch (error) {
      return { channelId, fault: asFarrierError(error, channelId).text };
    }
  });
}

export interface PointsAccepted {
  points: PointInput[];
  form?: FitForm;
  budget?: Record<string, unknown>;
  /** A calibrated channel that gave the values. */
  against?: string | null;
  /** When it was made, where that is not now (ms). */
  at?: number;
}

/** Accepts a calibration by points: kept for ever, in force at once, one change that undo takes back.
 *  @throws `bad_input` as fitPoints, `conflict` while a take runs */
export const acceptCalibration = async (
  app: App,
  channelId: string,
  accepted: PointsAccepted,
  by: string,
): Promise<Calibration> => (await acceptPoints(app, [{ channelId, ...accepted }], by))[0];

/** Accepts calibrations of several channels that were measured together: all or none. @throws as acceptCalibration */
export async function acceptPoints(
  app: App,
  runs: (PointsAccepted & { channelId: string })[],
  by: string,
): Promise<Calibration[]> {
  const pairs = runs.map(({ channelId, points, form = 'straight line', budget, against, at }) => {
    const tared = getChannel(app.db, channelId);
    const channel = { ...tared, tare: 0 };
    const calibration = byPoints(app, channel, points, form, budget, against ?? null, by, at);
    return { channel, calibration, tared };
  });
  const text = ({ channel, calibration: c, tared }: (typeof pairs)[number]) =>
    `${channel.name} by ${c.points.length} points: slope ${c.slope.toPrecision(6)} ${c.unit}/${c.rawUnit}, offset ${c.offset.toPrecision(5)} ${c.unit}, largest distance ${c.largestResidual.toPrecision(2)} ${c.unit}${tareText(tared).replace(/\.$/, '')}`;
  const kept = await keep(app, pairs, `Calibrated ${pairs.map(text).join('; ')}.`, by);
  for (const { channelId } of runs) keepDraft(app, channelId, null);
  return kept;
}

function byPoints(
  app: App,
  channel: Channel,
  given: PointInput[],
  form: FitForm,
  budget: Record<string, unknown> | undefined,
  against: string | null,
  by: string,
  at = Date.now(),
): Calibration {
  const points = given.map((p) => CalibrationPoint.parse(p));
  const fit = fitPoints(channel, points, form);
  const { unit } = commonOf(channel);
  const inputs = budgetInputs(unit, budget);
  const counted = points.filter((p) => p.dropped === null);
  const reference = against
    ? channelAsReference(app, against, unit)
    : referenceOf(app, inputs.reference, unit);
  const deviations = counted.map((p) => Math.abs(valueOf(channel, p.raw) - p.target));
  const left = iterate(fit.residuals);
  return recordOf(
    channel,
    {
      method: 'by points',
      slope: fit.slope,
      offset: fit.offset,
      form,
      law: fit.law.kind === 'polynomial' || fit.law.kind === 'table' ? fit.law : null,
      fromRaw: channelKind(channel.kind).linear,
      points,
      residuals: points.map((p) => (p.dropped === null ? left() : p.target - alongLine(channel, p, fit))),
      largestResidual: fit.largestResidual,
      rSquared: fit.rSquared,
      linearity: fit.linearity,
      hysteresis: Number.isNaN(fit.hysteresis) ? null : fit.hysteresis,
      budget: [...pointContributions(fit, counted), ...commonContributions(inputs, reference)],
      asFound: Math.max(...deviations),
      reference,
      environment: inputs.environment,
      due: dueAfter(inputs.months, new Date(at)),
    },
    by,
    at,
  );
}

const iterate = (values: Float64Array) => {
  let k = 0;
  return () => values[k++];
};
const alongLine = (channel: Channel, p: CalibrationPoint, fit: { slope: number; offset: number }) =>
  fit.slope * fitAxis(channel, p.raw) + fit.offset;

export function channelAsReference(app: App, channelId: string, unit: string) {
  const channel = getChannel(app.db, channelId);
  const { calibration, sensorSerial } = channel;
  const { max, min } = commonOf(channel).range;
  if (calibration?.budget.length) {
    const [at0, atEnd] = [0, Math.max(Math.abs(min), Math.abs(max))].map(
      (reading) => 2 * uncertaintyAt(calibration.budget, reading).standard,
    );
    return {
      serial: sensorSerial || channel.name,
      name: `channel ${channel.name}`,
      absolute: at0,
      relative: Math.sqrt(Math.max(0, atEnd ** 2 - at0 ** 2)) / Math.max(Math.abs(min), Math.abs(max)),
      due: calibration.due,
    };
  }
  return sensorSerial ? referenceOf(app, sensorSerial, unit) : null;
}

// What was measured is kept until it is accepted or thrown away: a closed page or a lost unit loses nothing.

const draftPage = (channelId: string) => `points:${channelId}`;
/** A run as it stands: its settings and the points measured so far; null clears it. */
export const keepDraft = (app: App, channelId: string, draft: unknown): void =>
  putLayout(app.db, jobOf(app).id, draftPage(channelId), draft ?? false);
export const draftOf = (app: App, channelId: string): unknown =>
  getLayout(app.db, jobOf(app).id, draftPage(channelId)) || null;
