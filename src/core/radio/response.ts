import { noiseBandwidthBins, spectralWindow, type WindowName } from '../spectrum/windows';

/** Shapes of the resolution filter that a band can be heard with: windows whose far side lobes lie 60 dB down or more. */
export const FILTER_SHAPES = [
  'flat top',
  'Blackman-Harris',
  'Kaiser β 8.6',
  'Kaiser β 14',
  'Hann',
] as const satisfies readonly WindowName[];
export type FilterShape = (typeof FILTER_SHAPES)[number];

/** Widths of a window’s response, in bins of its own length (sample rate / length). */
interface ShapeWidths {
  /** Between the places 3 and 6 dB down, and between those beyond which it stays 60 dB down. */
  at3: number;
  at6: number;
  at60: number;
  /** Equivalent noise bandwidth. */
  noise: number;
}

/** Long enough that the response does not change with the length any more. */
const LENGTH = 256;

/** Response of a window away from a tone, dB below it (Harris, Proc. IEEE 66(1), 1978). @param bins of the window’s own length */
function response(window: Float64Array, bins: number): number {
  let [re, im, all] = [0, 0, 0];
  for (let i = 0; i < window.length; i++) {
    const phase = (2 * Math.PI * bins * i) / window.length;
    re += window[i] * Math.cos(phase);
    im += window[i] * Math.sin(phase);
    all += window[i];
  }
  return 20 * Math.log10(Math.hypot(re, im) / all);
}

const widths = new Map<FilterShape, ShapeWidths>();

/** Widths of a filter shape by its response between the lines. The ratio of 60 to 6 dB, by which a weak neighbour is still told apart, is at60 / at6. */
export function shapeWidths(shape: FilterShape): ShapeWidths {
  const done = widths.get(shape);
  if (done) return done;
  const window = spectralWindow(shape, LENGTH);
  const step = 1 / 32;
  const down = Float64Array.from({ length: Math.round(40 / step) }, (_, k) => response(window, k * step));
  const place = (k: number, level: number) =>
    (k - 1 + (down[k - 1] - level) / (down[k - 1] - down[k])) * step;
  const first = (level: number) => 2 * place(down.findIndex((v) => v < level), level); // prettier-ignore
  let last = down.length - 1;
  while (down[last] < -60) last--;
  const found = {
    at3: first(-10 * Math.log10(2)),
    at6: first(-20 * Math.log10(2)),
    at60: 2 * place(last + 1, -60),
    noise: noiseBandwidthBins(window),
  };
  widths.set(shape, found);
  return found;
}

/** How a tone between two lines is found: what the lines beside the highest one differ by, dB, and how far below the tone the highest one reads, for
 *  shifts from −½ to ½ of a line. */
interface BetweenLines {
  difference: Float64Array;
  loss: Float64Array;
}
const tables = new Map<string, BetweenLines>();
const SHIFTS = 64;

function betweenLines(shape: FilterShape, binsPerLine: number): BetweenLines {
  const key = `${shape} ${binsPerLine.toFixed(4)}`;
  const done = tables.get(key);
  if (done) return done;
  const window = spectralWindow(shape, LENGTH);
  const at = (lines: number) => response(window, lines * binsPerLine);
  const over = (of: (shift: number) => number) =>
    Float64Array.from({ length: SHIFTS + 1 }, (_, k) => of(k / SHIFTS - 0.5));
  const table = { difference: over((s) => at(1 - s) - at(-1 - s)), loss: over(at) };
  if (tables.size > 50) tables.clear();
  tables.set(key, table);
  return table;
}

/** Where a steady tone stands between the lines, by the known response of the filter: inverted from what the lines on both sides differ by.
 *  @param before, top, after levels of three lines, dB, the middle one highest @param binsPerLine window length / transform length
 *  @returns shift in lines, −½ to ½, and the tone’s level */
export function toneBetween(
  { shape, binsPerLine }: { shape: FilterShape; binsPerLine: number },
  before: number,
  top: number,
  after: number,
): { shift: number; level: number } {
  const { difference, loss } = betweenLines(shape, binsPerLine);
  const wanted = after - before;
  let k = 0;
  while (k < SHIFTS - 1 && difference[k + 1] < wanted) k++;
  const part = Math.max(0, Math.min(1, (wanted - difference[k]) / (difference[k + 1] - difference[k])));
  return { shift: (k + part) / SHIFTS - 0.5, level: top - (loss[k] + part * (loss[k + 1] - loss[k])) };
}
