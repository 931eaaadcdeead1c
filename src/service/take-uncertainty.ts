import { readChannel } from '$contract/channel';
import type { Sensor } from '$contract/sensor';
import { Uncertainties } from '$contract/uncertainty';
import type { TakeReader } from '$store/take/reader';

/** Uncertainties of a take's channels as they were (or were corrected). @param sensors the drawer: what certificates say where a channel
 *  has no calibration of its own */
export function takeUncertainties(reader: TakeReader, sensors: Sensor[]): Uncertainties {
  const bySerial = new Map(sensors.map((s) => [s.serial, s]));
  return new Uncertainties(
    reader.signals.flatMap((s) => {
      if (!s.channelId || !s.snapshot) return [];
      const channel = readChannel(s.snapshot);
      return [{ channel, sensor: bySerial.get(channel.sensorSerial) }];
    }),
  );
}
