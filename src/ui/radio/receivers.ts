import type { Shell } from '../shell/shell.svelte';

let known = '';
/** Calls back when receivers come, go, answer or are tuned otherwise than when it was called last. To be called within an effect: it follows what units say of themselves. */
export function whenReceivers(shell: Shell, changed: () => void): void {
  const now = JSON.stringify(
    shell.feed.status.units.flatMap(({ description: d, answering }) =>
      d.receiver ? [[d.serial, d.name, answering, d.receiver.centreHz, d.receiver.sampleRateHz]] : [],
    ),
  );
  if (now === known) return;
  known = now;
  changed();
}
