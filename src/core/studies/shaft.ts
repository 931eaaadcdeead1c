import { convertUnit } from '../quantities/quantities';
import { shaftOfSpeed, type Shaft } from '../rotation/shaft';
import { rateHz, sampleS, type Sampled } from '../samples/sampled';
import { spanOf } from './span';
import type { CancelSignal, Progress } from './study';
import { readWhole } from './whole';

/** The shaft whose speed a channel tells over a span. @throws `bad_input` for a span without samples, a shaft that does not turn */
export function shaftOfSpeedChannel(
  speed: Sampled,
  settings: { from: number; to: number | null },
  progress: Progress,
  signal: CancelSignal,
): Shaft {
  const span = spanOf(speed, settings);
  const values = readWhole(speed, span, progress, signal);
  const factor = convertUnit(1, speed.unit, 'rpm');
  return shaftOfSpeed(
    values.map((v) => v * factor),
    sampleS(speed, span.first),
    1 / rateHz(speed),
  );
}
