import { CORE_VERSION } from '$core/version';
import type { TrailStep } from '$contract/study';
import { getStudy } from '$store/entities';
import type { App } from '../app';
import { describeSignal, openTake } from '../takes';
import { bodyOf, inputsOf, viewStudy } from './studies';
import { channelThen } from '../channel-then';

/** The trail of a result: study → take → each channel as it was → calibration → sensor. */
export function trailOf(app: App, id: string): TrailStep[] {
  const row = getStudy(app.db, id);
  const { name, madeFrom, takes } = bodyOf(row);
  const inputs = inputsOf(app, row);
  const steps = takes.flatMap((takeId, k): TrailStep[] => {
    const reader = openTake(app, takeId);
    const { head } = reader;
    const facts = Object.entries(head.facts)
      .map(([fact, value]) => `${fact}: ${value}`)
      .join(', ');
    const signals = [...new Set(Object.values(inputs[k]).flat())];
    return [
      {
        what: `Take ${head.name}`,
        says: `${new Date(Number(BigInt(head.startNs) / 1_000_000n)).toISOString()}, ${reader.durationS.toFixed(1)} s. ${facts}. ${head.planText}`,
      },
      ...signals.flatMap((signal): TrailStep[] => {
        const channel = channelThen(signal);
        const described = describeSignal(signal);
        return [
          { what: `Channel ${signal.name}`, says: described.sentence },
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
      }),
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
