import { badInput } from '../errors';

/** A frequency by counting the turns of its phase: mixed to zero, averaged over a bandwidth, and a straight line through its phase. In noise this comes
 *  close to the bound of Cramér and Rao (Tretter, IEEE Trans. IT-31, 1985).
 *  @param iq I and Q in turn @param offsetHz of the carrier from the centre, to within a quarter of the bandwidth @param bandwidthHz in which it is alone
 *  @returns Hz from the centre, and ± at 95 % from the scatter about the line @throws `bad_input` for less than eight periods of the bandwidth */
export function countedFrequency(
  iq: Float32Array,
  sampleRateHz: number,
  offsetHz: number,
  bandwidthHz: number,
): { hz: number; expandedHz: number } {
  const each = Math.max(1, Math.floor(sampleRateHz / bandwidthHz));
  const n = Math.floor(iq.length / 2 / each);
  if (n < 8)
    throw badInput(
      'samples',
      iq.length / 2,
      `Counting in ${bandwidthHz} Hz needs ${8 * each} samples or more.`,
    );
  const turn = (2 * Math.PI * offsetHz) / sampleRateHz;
  const phases = new Float64Array(n);
  let former = NaN;
  for (let k = 0; k < n; k++) {
    let [re, im] = [0, 0];
    for (let i = k * each; i < (k + 1) * each; i++) {
      const [c, s] = [Math.cos(turn * i), Math.sin(turn * i)];
      re += iq[2 * i] * c + iq[2 * i + 1] * s;
      im += iq[2 * i + 1] * c - iq[2 * i] * s;
    }
    const angle = Math.atan2(im, re);
    phases[k] = k === 0 ? angle : former + near(angle - former);
    former = phases[k];
  }
  const middle = (n - 1) / 2;
  const mean = phases.reduce((a, p) => a + p, 0) / n;
  let [sxy, sxx] = [0, 0];
  for (let k = 0; k < n; k++) {
    sxy += (k - middle) * (phases[k] - mean);
    sxx += (k - middle) ** 2;
  }
  const slope = sxy / sxx;
  let rest = 0;
  for (let k = 0; k < n; k++) rest += (phases[k] - mean - slope * (k - middle)) ** 2;
  const perSample = sampleRateHz / each / (2 * Math.PI);
  return { hz: offsetHz + slope * perSample, expandedHz: 2 * Math.sqrt(rest / (n - 2) / sxx) * perSample };
}

const near = (angle: number) => angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));
