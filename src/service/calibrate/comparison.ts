import type { Comparison } from '$contract/comparison';
import { randomUUID } from 'node:crypto';
import { FarrierError, badInput, conflict } from '$core/errors';
import { fitLine } from '$core/fit/line';
import { crossSpectrum } from '$core/spectrum/cross';
import { commonContributions, fitAxis, lineContributions, valueOf } from '$contract/calibration';
import type { Calibration } from '$contract/calibration-record';
import { canCalibrate, channelKind, commonOf, conversionOf, type Channel } from '$contract/channel';
import { convertUnit, quantityOf } from '$core/quantities/quantities';
import { getChannel } from '$store/entities';
import type { App } from '../app';
import { channelAsReference } from './points';
import { budgetInputs, dueAfter, keep, recordOf, tareText } from './keep';

const RATE_HZ = 20;
const SEGMENT = 64;
const SHORTEST_S = 10;
/** Below this the two do not feel the same. */
const LEAST_COHERENCE = 0.9;

/** Compares a channel with a calibrated one over the last seconds of a varying signal: regression, and coherence as the check that both
 *  feel the same. Means of 50 ms are compared, so differences in their filters do not matter.
 *  @throws `bad_input` for channels that do not go together, `unavailable` for too little or too still a signal */
export function compareChannels(
  app: App,
  channelId: string,
  referenceId: string,
  seconds: number,
): Comparison {
  const channel = getChannel(app.db, channelId);
  const reference = getChannel(app.db, referenceId);
  if (channel.id === reference.id) throw badInput('reference', reference.name, 'Choose another channel.');
  if (!canCalibrate(channelKind(channel.kind)))
    throw badInput('channel', channel.name, `A channel of kind “${channel.kind}” has nothing to calibrate.`);
  const { unit, range } = commonOf(channel);
  const own = commonOf(reference).unit;
  if (quantityOf(own) !== quantityOf(unit))
    throw badInput(
      'reference',
      `${reference.name} in ${own}`,
      `It has to measure the same, in a unit like ${unit}.`,
    );
  if (!(seconds >= SHORTEST_S && seconds <= 60)) throw badInput('time', `${seconds} s`, 'Give 10 to 60 s.');
  const [a, b] = [app.live.rawMeans(channelId, seconds), app.live.rawMeans(referenceId, seconds)];
  const n = Math.min(a.length, b.length);
  const x: number[] = [];
  const y: number[] = [];
  for (let i = 0; i < n; i++) {
    const [raw, ref] = [a[a.length - n + i], b[b.length - n + i]];
    if (!Number.isFinite(raw) || !Number.isFinite(ref)) continue;
    x.push(fitAxis(channel, raw));
    y.push(convertUnit(valueOf(reference, ref), own, unit));
  }
  if (x.length < SHORTEST_S * RATE_HZ - 5)
    throw new FarrierError('unavailable', {
      what: `Only ${(x.length / RATE_HZ).toFixed(0)} s of both channels are there.`,
      where: channel.name,
      why: 'One of them is open, lost, or was set up a moment ago.',
      next: `Wait until both have read for ${SHORTEST_S} s.`,
    });
  const covered = (Math.max(...y) - Math.min(...y)) / (range.max - range.min);
  if (covered < 0.02)
    throw new FarrierError('unavailable', {
      what: `The reference moved over ${(100 * covered).toFixed(1)} % of the range only.`,
      where: reference.name,
      next: 'Vary the signal while comparing: the more of the range, the better.',
    });
  const fit = fitLine(x, y);
  const coherence = bandCoherence(x, y);
  return {
    channelId,
    referenceId,
    seconds,
    meaning: meaningOf(channel, reference),
    x,
    y,
    dof: y.length - 2,
    placed: 1 / y.length,
    about: {
      mean: y.reduce((a, b) => a + b) / y.length,
      spread: Math.abs(fit.slope) * Math.sqrt(fit.sxx),
    },
    slope: fit.slope,
    offset: fit.offset,
    residualStd: fit.residualStd,
    standardErrorSlope: fit.standardErrorSlope,
    coherence,
    covered,
    asFound: Math.max(...x.map((v, i) => Math.abs(readsAs(channel, v) - y[i]))),
    warnings: [
      ...(coherence < LEAST_COHERENCE
        ? [`Coherence ${coherence.toFixed(2)}: the two do not feel the same. Look at mounting and wiring.`]
        : []),
      ...(covered < 0.3 ? [`Only ${(100 * covered).toFixed(0)} % of the range was covered.`] : []),
    ],
  };
}

const readsAs = (channel: Channel, axis: number) =>
  channelKind(channel.kind).linear ? valueOf({ ...channel, tare: 0 }, axis) : correct(channel, axis);
function correct(channel: Channel, value: number): number {
  const c = channel.calibration;
  return c?.applies ? c.slope * value + c.offset : value;
}

/** Coherence weighted by the reference's power: what matters is where it moves. */
function bandCoherence(x: number[], y: number[]): number {
  const { coherence, pyy } = crossSpectrum(x, y, {
    sampleRateHz: RATE_HZ,
    segmentLength: SEGMENT,
    window: 'Hann',
  });
  let sum = 0;
  let weight = 0;
  for (let k = 1; k < coherence.length; k++) {
    if (!Number.isFinite(coherence[k])) continue;
    sum += coherence[k] * pyy[k];
    weight += pyy[k];
  }
  return weight > 0 ? sum / weight : NaN;
}

/** Compares and keeps what was found for a while, by its id. @throws as compareChannels */
export function showComparison(
  app: App,
  channelId: string,
  referenceId: string,
  seconds: number,
): Comparison & { id: string } {
  const found = compareChannels(app, channelId, referenceId, seconds);
  const id = randomUUID();
  app.proving.comparisons.set(id, { found, accepted: null });
  return { ...found, id };
}

/** Accepts the line of a comparison as it was shown; accepting it twice keeps it once.
 *  @throws `not_found` for one that is not kept any more, `not_allowed` when the coherence is too low, `conflict` when the channel was set up otherwise since */
export async function acceptComparison(
  app: App,
  id: string,
  budget: Record<string, unknown>,
  by: string,
): Promise<Calibration> {
  const kept = app.proving.comparisons.get(id);
  if (!kept)
    throw new FarrierError('not_found', {
      what: 'This comparison is not kept any more.',
      where: 'comparison',
      next: 'Compare again, then accept what you see.',
    });
  if (kept.accepted) return kept.accepted;
  const { found } = kept;
  const channel = getChannel(app.db, found.channelId);
  const reference = getChannel(app.db, found.referenceId);
  if (found.meaning !== meaningOf(channel, reference))
    throw conflict(
      channel.name,
      'It or its reference was set up otherwise since they were compared.',
      'Compare again.',
    );
  if (!(found.coherence >= LEAST_COHERENCE))
    throw new FarrierError('not_allowed', {
      what: found.warnings[0],
      where: channel.name,
      next: 'Compare again once both are moved by the same thing.',
    });
  const { unit } = commonOf(channel);
  const inputs = budgetInputs(unit, budget);
  const used = channelAsReference(app, reference.id, unit);
  const calibration = recordOf(
    channel,
    {
      method: 'by comparison',
      slope: found.slope,
      offset: found.offset,
      fromRaw: channelKind(channel.kind).linear,
      largestResidual: found.residualStd,
      budget: [...lineContributions(found), ...commonContributions(inputs, used)],
      asFound: found.asFound,
      reference: used,
      environment: inputs.environment,
      due: dueAfter(inputs.months),
      measured: [
        { label: 'Coherence', value: found.coherence, unit: '' },
        { label: 'Range covered', value: 100 * found.covered, unit: '%' },
        { label: 'Compared over', value: found.seconds, unit: 's' },
      ],
      note: `Against the channel ${reference.name}.`,
    },
    by,
  );
  await keep(
    app,
    [{ channel: { ...channel, tare: 0 }, calibration }],
    `${channel.name} calibrated by comparison: slope ${found.slope.toPrecision(6)} ${unit}/${calibration.rawUnit}, coherence ${found.coherence.toFixed(3)}.${tareText(channel)}`,
    by,
  );
  kept.accepted = calibration;
  return calibration;
}

/** What a comparison stands on, as text. */
const meaningOf = (channel: Channel, reference: Channel) =>
  JSON.stringify([channel, reference].map((c) => [c.wire, commonOf(c).unit, conversionOf(c)]));
