import type { HeardBand, LineWish, RadioView } from '$contract/radio';
import type { Measuring } from '$contract/radio-measuring';
import { call } from '../api';
import { saveText } from '../files/save';
import type { Shell } from '../shell/shell.svelte';
import { lineName } from './words';

/** A line as CSV: frequency in Hz and level in dBm. */
export function saveLine(line: LineWish, all: readonly LineWish[], heard: HeardBand): void {
  const levels = heard.lines.find((l) => l.id === line.id)?.levels;
  if (!levels) return;
  const { startHz, stepHz } = heard.plan;
  const rows = Array.from(levels, (v, l) => `${(startHz + l * stepHz).toFixed(1)},${v.toFixed(2)}`);
  const unit = line.shows === 'difference' ? 'dB' : 'dBm';
  saveText(
    [`frequency (Hz),level (${unit})`, ...rows].join('\r\n') + '\r\n',
    `${lineName(line, all, heard)}.csv`,
    'text/csv',
  );
}

/** Powers of the channel and its neighbours become channels of the rig, which plans record and rules watch. @param middleMHz of a channel without a centre
 *  of its own @returns what was done, in a sentence */
export async function logBand(
  view: RadioView,
  measuring: Measuring,
  middleMHz: number,
  shell: Shell,
): Promise<string> {
  const centre = measuring.centre ?? Number(middleMHz.toFixed(6));
  const bands = [
    { at: centre, wide: measuring.wide },
    ...measuring.neighbours.flatMap((n) =>
      [-1, 1].map((way) => ({ at: centre + (way * n.offset) / 1e3, wide: n.wide })),
    ),
  ].map(({ at, wide }) => ({ at, from: round(at - wide / 2e3), to: round(at + wide / 2e3) }));
  const own = shell.overview.channels.filter((c) => c.wire?.unit === view.unit);
  const wanted = bands.filter(
    (b) =>
      !own.some((c) => c.kind === 'power in a band' && c.settings.from === b.from && c.settings.to === b.to),
  );
  if (wanted.length === 0) return 'These powers are channels already.';
  const names = new Set(shell.overview.channels.map((c) => c.name));
  let place = 0;
  const body = wanted.map(({ at, from, to }) => {
    do place++;
    while (own.some((c) => c.wire!.terminal === `P/${place}`));
    let name = `Power at ${round(at)} MHz`;
    for (let n = 2; names.has(name); n++) name = `Power at ${round(at)} MHz, ${n}`;
    names.add(name);
    return {
      name,
      kind: 'power in a band',
      group: view.name,
      wire: { unit: view.unit, terminal: `P/${place}` },
      settings: { from, to },
    };
  });
  await call('POST /api/channels', { body });
  await shell.refresh();
  return body.length === 1
    ? `“${body[0].name}” is a channel now.`
    : `${body.length} powers are channels now.`;
}

/** Every sample of the band becomes a channel, which plans record. @returns whether it was none before */
export async function recordBand(view: RadioView, shell: Shell): Promise<boolean> {
  const wire = { unit: view.unit, terminal: 'R/iq' };
  if (shell.overview.channels.some((c) => c.wire?.unit === wire.unit && c.wire.terminal === wire.terminal))
    return false;
  const names = new Set(shell.overview.channels.map((c) => c.name));
  let name = `${view.name}, band`;
  for (let n = 2; names.has(name); n++) name = `${view.name}, band ${n}`;
  await call('POST /api/channels', { body: { name, kind: 'radio samples', group: view.name, wire } });
  await shell.refresh();
  return true;
}

const round = (mhz: number) => Number(mhz.toFixed(6));
