import { limitLevel, type LimitLine } from './limits';

/** Ticks of a logarithmic axis of frequency: decades with 2 and 5, and what is between where few fit. */
export function logTicks(fromHz: number, toHz: number, least: number): { hz: number; major: boolean }[] {
  const out: { hz: number; major: boolean }[] = [];
  for (let e = Math.floor(Math.log10(fromHz)); 10 ** e <= toHz; e++)
    for (let m = 1; m < 10; m++) {
      const hz = m * 10 ** e;
      if (hz >= fromHz * (1 - 1e-9) && hz <= toHz * (1 + 1e-9))
        out.push({ hz, major: m === 1 || m === 2 || m === 5 });
    }
  const majors = out.filter((t) => t.major).length;
  return majors >= least ? out : out.map((t) => ({ ...t, major: true }));
}
/** A frequency at an axis: “150 k”, “30”, the last with its unit. Values in MHz from 1 MHz on. */
export const tickText = (hz: number): string =>
  hz < 1e6 ? `${Number((hz / 1e3).toPrecision(3))} k` : `${Number((hz / 1e6).toPrecision(4))}`;

/** Places of a limit to be drawn: its points, and between those far apart nothing more, as it is straight over the logarithm. */
export const limitCorners = (
  line: LimitLine,
  fromHz: number,
  toHz: number,
): { hz: number; level: number }[] => {
  const inside = line.points.filter((p) => p.hz > fromHz && p.hz < toHz);
  const end = (hz: number) => ({ hz, level: limitLevel(line, hz) });
  return [
    end(Math.max(fromHz, line.points[0].hz)),
    ...inside,
    end(Math.min(toHz, line.points[line.points.length - 1].hz)),
  ].filter((p) => Number.isFinite(p.level));
};

/** Lowest and highest level for each of some columns over a logarithmic axis; NaN where a column has none.
 *  @returns shape [2 · columns], lowest and highest in turn */
export function columnsOf(
  { startHz, stepHz, levels }: { startHz: number; stepHz: number; levels: ArrayLike<number> },
  fromHz: number,
  toHz: number,
  columns: number,
): Float32Array {
  const out = new Float32Array(2 * columns).fill(NaN);
  const per = columns / Math.log(toHz / fromHz);
  for (let l = 0; l < levels.length; l++) {
    const hz = startHz + l * stepHz;
    if (hz < fromHz || hz > toHz) continue;
    const c = Math.min(columns - 1, Math.floor(Math.log(hz / fromHz) * per));
    const v = levels[l];
    if (!(out[2 * c] <= v)) out[2 * c] = v;
    if (!(out[2 * c + 1] >= v)) out[2 * c + 1] = v;
  }
  return out;
}

/** The highest of several looks, range by range; only of ranges that were looked at alike. */
export function highestOf<L extends { startHz: number; stepHz: number; levels: Float32Array }>(
  looks: readonly (readonly L[])[],
): L[] {
  const [first, ...rest] = looks;
  return (first ?? []).map((line) => {
    const same = rest.flatMap(
      (look) =>
        look.find(
          (l) =>
            l.startHz === line.startHz && l.stepHz === line.stepHz && l.levels.length === line.levels.length,
        ) ?? [],
    );
    const levels = line.levels.map((v, k) =>
      same.reduce((top, l) => (l.levels[k] > top || top !== top ? l.levels[k] : top), v),
    );
    return { ...line, levels };
  });
}
