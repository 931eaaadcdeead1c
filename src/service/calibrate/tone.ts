import type { ToneReading } from '$contract/api/calibrate';
import { FarrierError, badInput, notFound } from '$core/errors';
import { measureTone } from '$core/signal/tone';
import { contribution } from '$core/uncertainty/budget';
import { commonContributions, valueOf } from '$contract/calibration';
import type { Calibration } from '$contract/calibration-record';
import { channelKind, commonOf, type Channel } from '$contract/channel';
import { hearsTones } from '$contract/proof';
import type { Reading } from '$contract/engine';
import { getChannel, listCalibrations } from '$store/entities';
import type { App } from '../app';
import { idle } from '../setup/change';
import { budgetInputs, dueAfter, keep, recordOf, referenceOf } from './keep';

const SECONDS = 2;
/** Beyond these a calibrator is badly coupled or worn. */
const MOST_DISTORTION = 0.03;
const MOST_INSTABILITY = 0.005;

/** Measures a calibrator's tone at a channel. @param level rms of the calibrator, in the channel's unit
 *  @throws `bad_input` for another kind of channel or a tone that its rate cannot carry, `unavailable` when the tone is not there */
export async function readTone(app: App, channelId: string, level: number, hz: number): Promise<ToneReading> {
  const channel = getChannel(app.db, channelId);
  if (!hearsTones(channel))
    throw badInput('channel', channel.name, 'Calibrators are for vibration and sound.');
  if (!(level > 0)) throw badInput('level', level, 'Give the rms level of the calibrator, above 0.');
  const rate = app.live.status.actualRates[channelId] ?? commonOf(channel).rateHz;
  const state = app.live.state(channelId);
  if (state === 'open' || state === 'short' || state === 'lost')
    throw new FarrierError('unavailable', {
      what: `${channel.name} is ${state}.`,
      where: channel.name,
      next: 'See on the rig what its terminal reads.',
    });
  const samples = Math.min(200_000, Math.ceil(rate * SECONDS));
  const [reading] = (await app.engine.command({
    do: 'read',
    channelIds: [channelId],
    samples,
    raw: true,
  })) as Reading[];
  const tone = measureTone(reading.values, reading.rateHz, hz);
  const presentSlope = valueOf(channel, 1) - valueOf(channel, 0);
  const slope = level / tone.rms;
  const last = listCalibrations(app.db, channelId).find((c) => c.method === 'by reference tone');
  const found: ToneReading = {
    ...tone,
    channelId,
    reads: tone.rms * Math.abs(presentSlope),
    level,
    slope,
    presentSlope,
    sensitivity: tone.rms / level,
    off: (tone.rms * Math.abs(presentSlope)) / level - 1,
    lastSlope: last?.slope ?? null,
    warnings: [
      ...(tone.distortion > MOST_DISTORTION
        ? [
            `Distortion of ${(100 * tone.distortion).toFixed(1)} %: tighten the sensor on the calibrator, or look at its range.`,
          ]
        : []),
      ...(tone.instability > MOST_INSTABILITY
        ? [
            `The level sways by ${(100 * tone.instability).toFixed(2)} %: hold it still, check the calibrator’s battery.`,
          ]
        : []),
      ...(last && Math.abs(slope / last.slope - 1) > 0.02
        ? [
            `${(100 * Math.abs(slope / last.slope - 1)).toFixed(1)} % from last time: has the sensor been dropped?`,
          ]
        : []),
    ],
  };
  app.proving.tones.set(channelId, { tone: found, hz });
  return found;
}

/** Accepts the sensitivity that the last measured tone gives. @throws `not_found` before one was measured, `bad_input`, `conflict` while a take runs */
export async function acceptTone(
  app: App,
  channelId: string,
  budget: Record<string, unknown>,
  by: string,
): Promise<Calibration> {
  idle(app);
  const measured = app.proving.tones.get(channelId);
  if (!measured) throw notFound('measured tone', channelId);
  const { tone, hz } = measured;
  const channel: Channel = getChannel(app.db, channelId);
  const { unit } = commonOf(channel);
  const { rawUnit } = channelKind(channel.kind);
  const inputs = budgetInputs(unit, budget);
  const reference = referenceOf(app, inputs.reference, unit);
  const calibration = recordOf(
    channel,
    {
      method: 'by reference tone',
      slope: Math.sign(tone.presentSlope || 1) * tone.slope,
      offset: 0,
      fromRaw: true,
      budget: [
        contribution({
          name: 'Level stability',
          type: 'A',
          relative: tone.standardError,
          dof: tone.parts - 1,
        }),
        contribution({
          name: 'Distortion',
          type: 'B',
          distribution: 'rectangular',
          relative: tone.distortion ** 2 / 2,
        }),
        ...commonContributions(inputs, reference),
      ],
      asFound: Math.abs(tone.reads - tone.level),
      reference,
      environment: inputs.environment,
      due: dueAfter(inputs.months),
      measured: [
        { label: 'Level', value: tone.level, unit: `${unit} rms` },
        { label: 'Frequency', value: tone.frequencyHz, unit: 'Hz' },
        { label: 'Tone', value: tone.rms, unit: `${rawUnit} rms` },
        { label: 'Sensitivity', value: tone.sensitivity, unit: `${rawUnit}/(${unit})` },
        { label: 'Distortion', value: 100 * tone.distortion, unit: '%' },
        { label: 'Level stability', value: 100 * tone.instability, unit: '%' },
      ],
      note: `Calibrator at ${hz} Hz.`,
    },
    by,
  );
  await keep(
    app,
    [{ channel: { ...channel, tare: 0 }, calibration }],
    `${channel.name} calibrated by a tone of ${tone.level} ${unit} at ${tone.frequencyHz.toFixed(2)} Hz: ${tone.sensitivity.toPrecision(5)} ${rawUnit}/(${unit}), ${(100 * tone.off).toFixed(2)} % off before.`,
    by,
  );
  return calibration;
}
