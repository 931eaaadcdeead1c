import { badInput } from '../errors';
import { dbm, mw } from './levels';
import type { Scale } from './peaks';

/** A band of a line, Hz. */
export interface Width {
  lowHz: number;
  highHz: number;
  widthHz: number;
  centreHz: number;
}
const width = (lowHz: number, highHz: number): Width => ({
  lowHz,
  highHz,
  widthHz: highHz - lowHz,
  centreHz: (lowHz + highHz) / 2,
});

/** Occupied bandwidth: what holds a share of the power of a span, with half of the rest on each side. The power of each line fills a cell one line wide.
 *  Source: ITU-R SM.443 (β/2 method). @param levels dBm, shape [lines] @param share 0 to 1 */
export function occupiedWidth(levels: ArrayLike<number>, { startHz, stepHz }: Scale, share: number): Width {
  if (!(share > 0 && share < 1))
    throw badInput('share of the power', share, 'Give a share between 0 and 100 %.');
  let total = 0;
  for (let i = 0; i < levels.length; i++) total += mw(levels[i]);
  const reach = (wanted: number) => {
    let sum = 0;
    for (let i = 0; i < levels.length; i++) {
      const p = mw(levels[i]);
      if (sum + p >= wanted) return startHz + (i - 0.5 + (p > 0 ? (wanted - sum) / p : 0)) * stepHz;
      sum += p;
    }
    return startHz + (levels.length - 0.5) * stepHz;
  };
  const rest = (1 - share) / 2;
  return width(reach(rest * total), reach((1 - rest) * total));
}

/** Where a line has fallen by so many dB on both sides of a peak, between the lines linear in dB; NaN where it does not. @param line of the peak */
export function widthBelow(
  levels: ArrayLike<number>,
  { startHz, stepHz }: Scale,
  line: number,
  dropDb: number,
): Width {
  const limit = levels[line] - dropDb;
  const side = (way: 1 | -1) => {
    for (let i = line + way; i >= 0 && i < levels.length; i += way)
      if (levels[i] <= limit) {
        const inner = levels[i - way];
        return startHz + (i - way * ((limit - levels[i]) / (inner - levels[i]))) * stepHz;
      }
    return NaN;
  };
  return width(side(-1), side(1));
}

/** Power in a channel: powers of its lines, each a noise bandwidth wide though a line wide apart; lines at its edges count by the part of their cell
 *  inside. @returns dBm; NaN where the channel reaches beyond the line */
export function channelPower(
  levels: ArrayLike<number>,
  { startHz, stepHz }: Scale,
  noiseBandwidthHz: number,
  fromHz: number,
  toHz: number,
): number {
  const [from, to] = [(fromHz - startHz) / stepHz + 0.5, (toHz - startHz) / stepHz + 0.5];
  if (!(to > from) || from < -1e-6 || to > levels.length + 1e-6) return NaN;
  let sum = 0;
  for (let i = Math.max(0, Math.floor(from)); i < Math.min(levels.length, Math.ceil(to)); i++)
    sum += mw(levels[i]) * (Math.min(to, i + 1) - Math.max(from, i));
  return dbm((sum * stepHz) / noiseBandwidthHz);
}

/** A channel beside the main one: how far its centre lies from the main one’s, on either side, and how wide it is, Hz. */
export interface Neighbour {
  offsetHz: number;
  widthHz: number;
}
export const NEIGHBOURS_MOST = 5;

export interface ChannelPowers {
  /** dBm */
  main: number;
  /** Of each neighbour below and above, dB to the main one. */
  neighbours: { below: number; above: number }[];
}

/** Powers in a channel and its neighbours. NaN for one that reaches beyond the line. */
export function channelPowers(
  levels: ArrayLike<number>,
  scale: Scale,
  noiseBandwidthHz: number,
  channel: { centreHz: number; widthHz: number; neighbours: readonly Neighbour[] },
): ChannelPowers {
  const power = (centreHz: number, widthHz: number) =>
    channelPower(levels, scale, noiseBandwidthHz, centreHz - widthHz / 2, centreHz + widthHz / 2);
  const main = power(channel.centreHz, channel.widthHz);
  return {
    main,
    neighbours: channel.neighbours.map(({ offsetHz, widthHz }) => ({
      below: power(channel.centreHz - offsetHz, widthHz) - main,
      above: power(channel.centreHz + offsetHz, widthHz) - main,
    })),
  };
}

/** Density of noise at a level, dBm/Hz. */
export const noiseDensity = (level: number, noiseBandwidthHz: number): number =>
  level - 10 * Math.log10(noiseBandwidthHz);
