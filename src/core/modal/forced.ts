import { badInput, cancelled } from '../errors';
import { rateHz } from '../samples/sampled';
import type { CancelSignal, Progress } from '../studies/study';
import { Powers, alike, impulses, responsesOf } from './answers';
import { windowDecay, type CorrelationBlock, type Correlations } from './correlations';
import { DECIMATING } from './decimator';
import type { DrivenOptions, Driving } from './driving';
import { commonSpan, conditions, isVelocity, scaleOf, type Health, type ModalRecord } from './gather';
import { lasting } from './lasting';
import { struck } from './struck';

/** Groups of frames from which ± is found. */
const GROUPS = 8;
const HELD = 8e6;

/** Impulse responses of a structure to forces: from hits one by one, each force under its window and all under the same exponential one (whose damping
 *  is thereby added exactly), or from a force that goes on, by segments under a Hann window. What is given back is free of the exponential window.
 *  @throws `bad_input` where rates or units do not fit, no force acts, or nothing is left to count; `cancelled` */
export function driven(
  records: readonly ModalRecord[],
  options: DrivenOptions,
  progress: Progress,
  signal: CancelSignal,
): Driving {
  const { forces: m, lags, factor, method } = options;
  const [front] = records;
  const rate = rateHz(front.responses[0]);
  const l = front.responses.length - m;
  if (m === 0) throw badInput('forces', 'none', 'Choose a channel of force at least.');
  const moving = front.responses.slice(0, l);
  const names = moving.map((s) => s.name);
  const firstOf = (i: number) => front.responses[i < l ? 0 : l];
  const scales = records.map((r) => r.responses.map((s, i) => scaleOf(s, firstOf(i), rate)));
  const dtS = factor / rate;
  const numbers = l * m * lags;
  if (numbers > 2.5e6)
    throw badInput('forces', `${l} responses to ${m} over ${lags} samples`, 'That are too many numbers at once: choose fewer responses, or follow them for fewer samples.'); // prettier-ignore
  const says: string[] = [];
  const notes: string[] = [];
  if (factor > 1) notes.push(`Before one sample of ${factor} was kept: ${DECIMATING}.`);
  const recordings = new Set(records.map((r) => r.name)).size;
  if (recordings > 1)
    notes.push(`${recordings} recordings are averaged, as driven at one place of each force: where one went on to another place between them, make a set of each.`); // prettier-ignore
  const health: Health[] = names.map(() => ({ largest: 0, at: 0, energy: 0 }));
  const tools = { records, scales, l, m, rate, options, signal, health, progress };
  const parts = Math.max(1, Math.min(GROUPS, Math.floor(HELD / numbers)));
  const { groups, hits, taken, skipped, ahead, says: told } = method === 'hit by hit' ? struck(tools, parts) : lasting(tools, parts); // prettier-ignore
  const together = method !== 'hit by hit';
  const lines = groups[0].lines;
  const all = groups.reduce((sum, g) => sum.add(g), new Powers(l, m, lines));
  if (together) toldApart(all, front.responses.slice(l).map((s) => s.name)); // prettier-ignore
  const decay = together ? 0 : windowDecay(options.left, lags, dtS);
  const bare = (powers: Powers) => {
    const found = responsesOf(powers, together);
    const h = impulses(found, lines, lags, dtS);
    for (let k = 0; k < h.length; k++) h[k] *= Math.exp(decay * (k % lags) * dtS);
    return { found, h };
  };
  const { found, h } = bare(all);
  progress(0.9);
  // What a group adds is told by what is without it (pseudo-values; Tukey, 1958): leaving blocks out gives that back.
  const n = groups.length;
  const blocks: CorrelationBlock[] =
    n < 3
      ? [{ values: h, pieces: taken }]
      : groups.map((g) => {
          if (signal.aborted) throw cancelled('correlating');
          const without = bare(all.add(g, -1)).h;
          all.add(g);
          return { values: without.map((v, k) => n * h[k] - (n - 1) * v), pieces: taken / n };
        });
  says.push(...told, ...conditions(names, health, []));
  const every = (lines - 1) / (lags / 2);
  const coherence = Float32Array.from({ length: l * m * (lags / 2 + 1) }, (_, k) => {
    const [pair, line] = [Math.floor(k / (lags / 2 + 1)), k % (lags / 2 + 1)];
    return found.coherence[pair * lines + line * every];
  });
  const reachHz = found.reach.map((k) => k / (2 * (lines - 1) * dtS));
  front.responses.slice(l).forEach((s, q) => {
    if (reachHz[q] < 0.9 * (0.5 / dtS))
      says.push(`${s.name} reaches up to ${reachHz[q].toPrecision(3)} Hz: above, it has less than a hundredth of its largest power, and the answers are mostly noise.`); // prettier-ignore
  });
  progress(1);
  const set: Correlations = {
    ...{ responses: l, references: m, lags, dtS, values: h },
    driven: { resonant: isVelocity(moving[0]) ? 're' : 'im' },
  };
  const powers = { lines: lags / 2 + 1, stepHz: 1 / (lags * dtS), pieces: 0, second: new Float64Array(0), fourth: new Float64Array(0) }; // prettier-ignore
  const samples = records.reduce((sum, r) => sum + commonSpan(r).count, 0);
  return { set, blocks, powers, rateHz: rate / factor, pieces: taken, skipped, samples, units: front.responses.map((s) => s.unit), says, notes, hits, coherence, reachHz, ahead }; // prettier-ignore
}

/** Coherence from which on two forces are taken for one. */
const SAME = 0.98;
/** @throws `bad_input` for forces that act as one */
function toldApart(powers: Powers, names: string[]): void {
  for (let a = 0; a < names.length; a++)
    for (let b = a + 1; b < names.length; b++)
      if (alike(powers, a, b) > SAME)
        throw badInput('forces', `${names[a]} and ${names[b]}`, 'They do the same all the time, so that what each causes cannot be told: take one out, or drive them by signals of their own.'); // prettier-ignore
}
