import { badInput, cancelled } from '../errors';
import { Powers, Spectra } from './answers';
import { Decimator } from './decimator';
import type { Collected, Tools } from './driving';
import { commonSpan, watch } from './gather';

/** Segments of twice the lags under a Hann window, half overlapping, shared out into groups one after the other in time. */
export function lasting(
  { records, scales, l, m, options, signal, health, progress }: Tools,
  parts: number,
): Collected {
  const { lags, factor } = options;
  const size = 2 * lags;
  const hann = Float64Array.from({ length: size }, (_, k) => 0.5 - 0.5 * Math.cos((2 * Math.PI * k) / size));
  const spectra = new Spectra(size);
  const frames: { record: number; from: number }[] = [];
  const thin = records.map((record) => Math.max(0, Math.floor((commonSpan(record).count - 2 * new Decimator(factor).reach - 1) / factor) + 1)); // prettier-ignore
  thin.forEach((n, record) => {
    for (let from = 0; from + size <= n; from += lags) frames.push({ record, from });
  });
  if (frames.length === 0)
    throw badInput('span', `${Math.max(...thin)} samples`, `A segment needs ${size}: choose a longer span, or follow the answers for fewer samples.`); // prettier-ignore
  const groups = Array.from({ length: Math.min(parts, frames.length) }, () => new Powers(l, m, lags + 1));
  let [taken, skipped] = [0, 0];
  const moves = new Float64Array(m);
  frames.forEach(({ record, from }, at) => {
    if (signal.aborted) throw cancelled('correlating');
    const { first } = commonSpan(records[record]);
    const { reach } = new Decimator(factor);
    const values = records[record].responses.map((s, i) => {
      const read = s.read(first[i] + from * factor, (size - 1) * factor + 2 * reach + 1);
      const own = new Decimator(factor).push(Float64Array.from(read, (v) => v * scales[record][i]));
      const mean = own.reduce((a, v) => a + v, 0) / size;
      const bare = own.map((v) => v - mean);
      if (i < l) watch(health[i], read, bare);
      else if (bare[0] === bare[0]) moves[i - l] += bare.reduce((a, v) => a + v * v, 0);
      return bare;
    });
    progress((0.85 * at) / frames.length);
    if (values.some((v) => v.some((x) => x !== x))) return void skipped++;
    taken++;
    const all = values.map((v) => spectra.of(v.map((x, k) => x * hann[k])));
    groups[Math.floor((at * groups.length) / frames.length)].together(all.slice(0, l), all.slice(l));
  });
  const dead = moves.findIndex((p) => !(p > 0));
  if (taken > 0 && dead >= 0)
    throw badInput('forces', records[0].responses[l + dead].name, 'It does not act at all: mend the sensor, or choose another.'); // prettier-ignore
  if (taken <= m)
    throw badInput('span', `${taken} whole segments`, `${m === 1 ? 'A force needs' : `${m} forces need`} more than ${m}${skipped ? ` (${skipped} have a gap)` : ''}: choose a longer span.`); // prettier-ignore
  return { groups: groups.filter((g) => g.frames[0] > 0), hits: [], taken, skipped, ahead: 0, says: [] };
}
