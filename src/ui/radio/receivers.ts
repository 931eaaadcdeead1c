import type { Shell } from '../shell/shell.svelte';

/** Watches receivers for a page. @returns to be called within an effect, as it follows what units say of themselves: calls back when receivers come, go, answer or are tuned
 *  otherwise than when it was called last */
export function watchReceivers(shell: Shell): (changed: () => void) => void {
  let known: string | null = null;
  return (changed) => {
    const now = JSON.stringify(
      shell.feed.status.units.flatMap(({ description: d, answering }) =>
        d.receiver ? [[d.serial, d.name, answering, d.receiver.centreHz, d.receiver.sampleRateHz]] : [],
      ),
    );
    if (now === known) return;
    const first = known === null;
    known = now;
    // A page begins with fresh views; what came before its feed was there is asked for once it is.
    if (!first || now !== '[]') changed();
  };
}
