import { readingText } from '$core/readings';
import type { RecorderState } from '$core/field/recorder/state';

/** Something about a recorder that belongs into the list of alarms. */
interface News {
  /** What it is of: it is told once. */
  key: string;
  level: 'warning' | 'alarm';
  says: string;
}
const LOW = 0.1;

/** What is to be told of a recorder that has just been read, beside what was told already. */
export function newsOf({ name, serial, run, setup, alarms, battery, breaks }: RecorderState, raised: readonly string[]): News[] {
  const who = name || serial;
  const news: News[] = [];
  for (const [side, says] of [['high', 'above'], ['low', 'below']] as const) // prettier-ignore
    if (alarms[side] !== null && setup?.[side]) news.push({ key: `${run} ${side}`, level: 'alarm', says: `${who} was ${says} ${readingText(setup[side].at, { digits: 2 })} °C` }); // prettier-ignore
  if (battery.share < LOW) news.push({ key: `${run} battery`, level: 'warning', says: `The battery of ${who} is low: ${battery.volts.toFixed(2)} V` }); // prettier-ignore
  for (const { at, why } of breaks) news.push({ key: `${run} break ${at}`, level: 'warning', says: `${who}: ${why}` });
  return news.filter((n) => !raised.includes(n.key));
} // prettier-ignore
