import type { CancelSignal, Progress } from '../studies/study';
import { windowDecay, windowed } from './correlations';
import { gathered, type ModalRecord } from './gather';
import { halfSpectra } from './half-spectra';

/** What speaks for some responses being references. */
export interface Advice {
  /** Mean coherence of each with each over the lines, by their power. */
  coherence: number[][];
  /** Which of them are advised, the one with the most power first. */
  advised: number[];
}

/** Lags that advice looks at. */
const LAGS = 256;
/** A response that one of the advised knows as well as this needs no reference of its own. */
const KNOWN = 0.55;
const MOST = 5;

/** Advises references: the response with the most power (each against the others’ median), then the one that those before it know least of, until all
 *  are known, one from each part that moves apart. @throws `bad_input` as `gathered` does, `cancelled` */
export function advised(
  record: ModalRecord,
  factor: number,
  progress: Progress,
  signal: CancelSignal,
): Advice {
  const n = record.responses.length;
  const { set } = gathered(
    [record],
    { references: record.responses.map((_, i) => i), lags: LAGS, factor, detrend: 'its mean', method: 'by averaged segments' }, // prettier-ignore
    progress,
    signal,
  );
  const { hz, re, im } = halfSpectra(windowed(set, windowDecay(0.01, set.lags, set.dtS)));
  const lines = hz.length;
  const coherence = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  const power = new Float64Array(n);
  for (let a = 0; a < n; a++) {
    for (let k = 1; k < lines; k++) power[a] += Math.max(0, 2 * re[(a * n + a) * lines + k]);
    for (let b = 0; b <= a; b++) {
      let [sum, weights] = [0, 0];
      for (let k = 1; k < lines; k++) {
        const [p, q] = [2 * re[(a * n + a) * lines + k], 2 * re[(b * n + b) * lines + k]];
        if (!(p > 0 && q > 0)) continue;
        const [x, y] = [(a * n + b) * lines + k, (b * n + a) * lines + k];
        const both = Math.min(1, ((re[x] + re[y]) ** 2 + (im[x] - im[y]) ** 2) / (p * q));
        const weight = Math.sqrt(p * q);
        sum += weight * both;
        weights += weight;
      }
      coherence[a][b] = coherence[b][a] = weights > 0 ? sum / weights : 0;
    }
  }
  const alive = [...power.keys()].filter((i) => power[i] > 0);
  const chosen = alive.length ? [alive.reduce((a, b) => (power[b] > power[a] ? b : a))] : [];
  while (chosen.length < Math.min(MOST, alive.length)) {
    const known = (i: number) => Math.max(...chosen.map((c) => coherence[i][c]));
    const next = alive.reduce((a, b) => (known(b) < known(a) ? b : a));
    if (chosen.includes(next) || known(next) > KNOWN) break;
    chosen.push(next);
  }
  return { coherence, advised: chosen };
}
