import { CORE_VERSION } from '$core/version';
import type { TrailStep } from '$contract/study';
import { getStudy } from '$store/entities';
import type { TakeReader } from '$store/take/reader';
import type { StoredSignal } from '$store/take/signals';
import type { App } from '../app';
import { describeSignal, openTake } from '../takes';
import { bodyOf, inputsOf } from './inputs';
import { viewStudy } from './studies';
import { channelThen } from '../channel-then';

/** The trail of a result: study → take → each channel as it was → calibration → sensor. */
export function trailOf(app: App, id: string): TrailStep[] {
  const row = getStudy(app.db, id);
  const { name, madeFrom } = bodyOf(row);
  const inputs = inputsOf(app, row);
  const steps = inputs.flatMap(({ take, roles }): TrailStep[] => {
    const reader = openTake(app, take);
    const { head } = reader;
    const facts = Object.entries(head.facts)
      .map(([fact, value]) => `${fact}: ${value}`)
      .join(', ');
    const signals = [...new Set(Object.values(roles).flat())];
    return [
      {
        what: `Take ${head.name}`,
        says: `${new Date(Number(BigInt(head.startNs) / 1_000_000n)).toISOString()}, ${reader.durationS.toFixed(1)} s. ${facts}. ${head.planText}`,
      },
      ...signals.flatMap((signal) => channelSteps(reader, signal)),
    ];
  });
  return [
    {
      what: `Study ${name}`,
      says: `${viewStudy(app, id).says} Computed with core version ${madeFrom?.coreVersion ?? CORE_VERSION}.`,
    },
    ...steps,
  ];
}

/** From a channel to its sensor; of one that was made, by way of what it is made from. */
function channelSteps(reader: TakeReader, signal: StoredSignal): TrailStep[] {
  const channel = channelThen(signal);
  const described = describeSignal(signal);
  const own = { what: `Channel ${signal.name}`, says: described.sentence };
  if (signal.made) {
    const sources = signal.made.from.flatMap((f) => reader.signals.filter((s) => s.id === f.signal));
    return [own, ...sources.flatMap((s) => channelSteps(reader, s))];
  }
  return [
    own,
    {
      what: 'Calibration',
      says: `${described.calibration}${described.corrected ? `; ${described.corrected}` : ''}`,
    },
    {
      what: 'Sensor',
      says: channel?.wire
        ? `${channel.sensorSerial ? `serial ${channel.sensorSerial}, ` : ''}wired to ${channel.wire.terminal} of unit ${channel.wire.unit}`
        : 'none: computed',
    },
  ];
}
