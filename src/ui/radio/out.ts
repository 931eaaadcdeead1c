import type { Measure } from '$core/modulation/read';
import { kindOfNumber } from '$contract/kinds/radio';
import { NUMBERS, waysOf } from '$contract/radio-modulation';
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
  const next = placesFor(view, shell);
  const body = wanted.map(({ at, from, to }) => ({
    ...next(`Power at ${round(at)} MHz`),
    kind: 'power in a band',
    settings: { from, to },
  }));
  await call('POST /api/channels', { body });
  await shell.refresh();
  return body.length === 1
    ? `“${body[0].name}” is a channel now.`
    : `${body.length} powers are channels now.`;
}

/** Gives a free terminal for readings and a name that no channel has, again and again. */
function placesFor(view: RadioView, shell: Shell) {
  const { channels } = shell.overview;
  const taken = new Set(channels.filter((c) => c.wire?.unit === view.unit).map((c) => c.wire!.terminal));
  const names = new Set(channels.map((c) => c.name));
  return (wanted: string) => {
    let place = 1;
    while (taken.has(`P/${place}`)) place++;
    let name = wanted;
    for (let n = 2; names.has(name); n++) name = `${wanted}, ${n}`;
    taken.add(`P/${place}`);
    names.add(name);
    return { name, group: view.name, wire: { unit: view.unit, terminal: `P/${place}` } };
  };
}

/** A number of the modulation that is read becomes a channel, read as the page reads it now, with the limit it has there.
 *  @returns what was done, in a sentence */
export async function logNumber(view: RadioView, of: Measure, shell: Shell): Promise<string> {
  const ways = waysOf(view.modulation);
  const kind = kindOfNumber(of);
  const same = shell.overview.channels.find(
    (c) =>
      c.kind === kind &&
      c.wire?.unit === view.unit &&
      Object.entries(ways).every(([key, v]) => JSON.stringify(c.settings[key]) === JSON.stringify(v)),
  );
  if (same) return `It is a channel already: “${same.name}”.`;
  const { name } = NUMBERS[of];
  const place = placesFor(
    view,
    shell,
  )(`${/^[a-z]/.test(name) ? name[0].toUpperCase() + name.slice(1) : name} at ${round(ways.at)} MHz`);
  const settings = { ...ways, ...limitsOf(of, view.modulation.most[of]) };
  await call('POST /api/channels', { body: { ...place, kind, settings } });
  await shell.refresh();
  return `“${place.name}” is a channel now: boards, plans and rules have it.`;
}

/** Of these numbers more is better; of those neither side is. */
export const RISING: readonly Measure[] = ['mer', 'snr', 'rho'];
const BOTH: readonly Measure[] = ['offsetHz', 'imbalance', 'quadrature', 'droop'];
const limitsOf = (of: Measure, limit: number | undefined) => ({
  ...(limit !== undefined && !RISING.includes(of) && { warnAbove: limit }),
  ...(limit !== undefined && RISING.includes(of) && { warnBelow: limit }),
  ...(limit !== undefined && BOTH.includes(of) && { warnBelow: -limit }),
});

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
