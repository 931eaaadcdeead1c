import { mac, type Pole, type Shape } from './shape';

/** Modes of one run, and where it stands: a speed, a flow, a temperature. */
export interface RunModes {
  at: number;
  modes: (Pole & { name: string; shape: Shape })[];
}
/** A mode followed from run to run. */
export interface Track {
  name: string;
  /** In the order of the runs’ places: which run, and which of its modes; how alike it is to the one before (1 for the first). */
  points: { run: number; mode: number; at: number; hz: number; damping: number; mac: number }[];
}

/** How far a frequency may move from one run to the next, as a share. */
const REACH = 0.2;

/** Follows modes through runs in the order of where they stand: each run’s modes go to the tracks whose last shape they are most alike, the most alike
 *  pair first; what is alike to none begins a track of its own.
 *  @param least MAC @param shapes go over the same responses in all runs */
export function tracksOf(runs: readonly RunModes[], least = 0.6): Track[] {
  const tracks: (Track & { last: Shape })[] = [];
  const order = [...runs.keys()].sort((a, b) => runs[a].at - runs[b].at);
  for (const run of order) {
    const { at, modes } = runs[run];
    const pairs = tracks
      .flatMap(
        (track, t) =>
        modes.map((mode, m) => ({ t, m, mac: mac(track.last, mode.shape), far: Math.abs(mode.hz / track.points.at(-1)!.hz - 1) })), // prettier-ignore
      )
      .filter((p) => p.mac >= least && p.far <= REACH)
      .sort((a, b) => b.mac - a.mac);
    const [gone, taken] = [new Set<number>(), new Set<number>()];
    const put = (t: number, m: number, alike: number) => {
      const { hz, damping, shape, name } = modes[m];
      tracks[t].points.push({ run, mode: m, at, hz, damping, mac: alike });
      tracks[t].last = shape;
      tracks[t].name ||= name;
      gone.add(t);
      taken.add(m);
    };
    for (const p of pairs) if (!gone.has(p.t) && !taken.has(p.m)) put(p.t, p.m, p.mac);
    modes.forEach((mode, m) => {
      if (taken.has(m)) return;
      tracks.push({ name: mode.name, points: [], last: mode.shape });
      put(tracks.length - 1, m, 1);
    });
  }
  return tracks.map(({ name, points }) => ({ name, points })).sort((a, b) => a.points[0].hz - b.points[0].hz);
}

/** The number that a fact of a take says: “2.4 m/s” is 2.4 in m/s; null where it says none. */
export function numberOfFact(text: string): { value: number; unit: string } | null {
  const m = /^\s*([−+-]?\d+(?:[.,]\d+)?)\s*(.*)$/.exec(text);
  if (!m) return null;
  return { value: Number(m[1].replace('−', '-').replace(',', '.')), unit: m[2].trim() };
}
