import { hertzText } from '$core/radio/words';
import type { UnitState } from './unit';

/** What receivers do, in the line under the place’s name. */
export function radioSays(units: readonly UnitState[]): { says: string; urgent: boolean } {
  const receivers = units.filter((u) => u.description.receiver);
  if (receivers.length === 0) return { says: 'no receiver yet', urgent: false };
  const [first] = receivers;
  const silent = receivers.filter((u) => !u.answering);
  if (silent.length) return { says: `${silent[0].description.name} is silent`, urgent: true };
  return {
    says:
      receivers.length > 1
        ? `${receivers.length} receivers`
        : `hears ${hertzText(first.description.receiver!.centreHz, 1)}`,
    urgent: false,
  };
}
