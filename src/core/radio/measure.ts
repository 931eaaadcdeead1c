import { highestLine, nextPeak, peakAt, peaksOf, type Peak, type Scale } from './peaks';
import { frequencyUncertainty, levelUncertainty, type ReceiverAccuracy } from './uncertainty';
import {
  channelPower,
  channelPowers,
  noiseDensity,
  occupiedWidth,
  widthBelow,
  type Neighbour,
  type Width,
} from './widths';

/** A line over a band, and what is known of how it was heard. */
export interface HeardLine extends Scale {
  /** dBm */
  levels: ArrayLike<number>;
  resolutionHz: number;
  noiseBandwidthHz: number;
  /** Transforms that are averaged in it. */
  transforms: number;
  accuracy: ReceiverAccuracy | null;
}

/** What makes a peak. */
export interface PeakConditions {
  /** dBm */
  least: number;
  /** dB over the ground between it and a higher one. */
  rise: number;
}

/** A pin on a line. */
export interface Pin {
  id: number;
  hz: number;
  /** Stays on its peak as that moves. */
  follows: boolean;
}
export const PINS_MOST = 8;

/** What a pin reads. ± at 95 %; null where the receiver’s accuracy is not known. */
export interface PinReading {
  id: number;
  hz: number;
  level: number;
  expandedHz: number | null;
  expandedDb: number | null;
  /** dBm/Hz */
  density: number;
}

/** How far around a pin its peak is looked for, resolution bandwidths. */
const REACH = 3;
const lineAt = ({ startHz, stepHz }: Scale, hz: number) => Math.round((hz - startHz) / stepHz);

/** The ground: the level that half of the lines stay below. */
export function ground(levels: ArrayLike<number>): number {
  const sorted = Float64Array.from(levels).filter(Number.isFinite).sort();
  return sorted.length ? sorted[sorted.length >> 1] : NaN;
}

/** What a pin reads: its peak between the lines where it stands on one (the highest line within a line of it), else the line at its place.
 *  @returns null outside the band */
export function readPin(line: HeardLine, pin: Pin, floor = ground(line.levels)): PinReading | null {
  const { levels } = line;
  let at = lineAt(line, pin.hz);
  if (at < 0 || at >= levels.length) return null;
  if (pin.follows) {
    const reach = Math.max(1, Math.ceil((REACH * line.resolutionHz) / line.stepHz));
    for (let l = Math.max(0, at - reach), from = at; l <= Math.min(levels.length - 1, from + reach); l++)
      if (levels[l] > levels[at]) at = l;
  }
  const onPeak =
    at > 0 && at < levels.length - 1 && levels[at] >= levels[at - 1] && levels[at] >= levels[at + 1];
  const peak: Peak = onPeak ? peakAt(levels, at, line) : { line: at, hz: pin.hz, level: levels[at] };
  const above = peak.level - floor;
  return {
    id: pin.id,
    hz: peak.hz,
    level: peak.level,
    expandedHz:
      line.accuracy && frequencyUncertainty(line.accuracy.clock, peak.hz, { ...line, aboveNoiseDb: above }),
    expandedDb: line.accuracy && levelUncertainty(line.accuracy, above, line.transforms),
    density: noiseDensity(peak.level, line.noiseBandwidthHz),
  };
}

/** Where a pin goes: onto the highest, or from its place to the next peak. @returns Hz; null where there is none */
export function movePin(
  line: HeardLine,
  conditions: PeakConditions,
  fromHz: number,
  to: 'highest' | 'left' | 'right' | 'lower' | 'higher',
): number | null {
  const { levels } = line;
  if (to === 'highest') {
    const top = highestLine(levels);
    return top < 0 ? null : peakAt(levels, Math.max(1, Math.min(levels.length - 2, top)), line).hz;
  }
  const peaks = peaksOf(levels, conditions);
  // From the peak that it stands on, where it stands on one.
  const at = lineAt(line, fromHz);
  const own = peaks.find((p) => Math.abs(p - at) <= 1) ?? at;
  const next = nextPeak(peaks, levels, own, to);
  return next === null ? null : peakAt(levels, next, line).hz;
}

/** The peaks of a line, between its lines. @param most of them, the highest */
export function listPeaks(
  line: HeardLine,
  conditions: PeakConditions & { order: 'level' | 'frequency' },
  most = 50,
): Peak[] {
  const found = peaksOf(line.levels, conditions)
    .slice(0, most)
    .map((l) => peakAt(line.levels, l, line));
  return conditions.order === 'level' ? found : found.sort((a, b) => a.hz - b.hz);
}

/** Harmonics of a pin within the band: its multiples, and what the line reads there. */
export function harmonicsOf(
  line: HeardLine,
  hz: number,
  most = 10,
): { order: number; hz: number; level: number }[] {
  const found: { order: number; hz: number; level: number }[] = [];
  for (let order = 2; order <= most; order++) {
    const reading = readPin(line, { id: 0, hz: hz * order, follows: true });
    if (reading) found.push({ order, hz: reading.hz, level: reading.level });
  }
  return found;
}

/** What is measured of widths and powers. Frequencies in Hz. */
export interface WidthWish {
  /** Share of the power, 0 to 1. */
  share: number;
  /** dB below the highest at which the width is read; 0 for none. */
  drop: number;
  channel: { centreHz: number; widthHz: number; neighbours: readonly Neighbour[] } | null;
}
export interface WidthsAndPowers {
  occupied: Width;
  below: Width | null;
  /** dBm of the whole line, and of the channel with its neighbours in dB. */
  whole: number;
  channel: ReturnType<typeof channelPowers> | null;
  /** ± at 95 % of the channel’s power, dB; null where the receiver’s levels are not known. */
  channelExpanded: number | null;
}

export function measureWidths(line: HeardLine, wish: WidthWish): WidthsAndPowers {
  const { levels, startHz, stepHz, noiseBandwidthHz } = line;
  const top = highestLine(levels);
  return {
    occupied: occupiedWidth(levels, line, wish.share),
    below: wish.drop > 0 && top >= 0 ? widthBelow(levels, line, top, wish.drop) : null,
    whole: channelPower(
      levels,
      line,
      noiseBandwidthHz,
      startHz - stepHz / 2,
      startHz + (levels.length - 0.5) * stepHz,
    ),
    channel: wish.channel && channelPowers(levels, line, noiseBandwidthHz, wish.channel),
    // As many independent powers as the channel is wider than the noise bandwidth, each as noise.
    channelExpanded:
      wish.channel && line.accuracy
        ? levelUncertainty(
            line.accuracy,
            0,
            line.transforms * Math.max(1, wish.channel.widthHz / noiseBandwidthHz),
          )
        : null,
  };
}

/** Runs of a line above a level: how many, and their share of the band. @param level dBm, or limits at each line */
export function aboveLevel(
  levels: ArrayLike<number>,
  level: number | ArrayLike<number>,
): { runs: number; share: number } {
  let [runs, count, inside] = [0, 0, false];
  for (let l = 0; l < levels.length; l++) {
    const limit = typeof level === 'number' ? level : level[l];
    const above = levels[l] > limit;
    if (above && !inside) runs++;
    if (above) count++;
    inside = above;
  }
  return { runs, share: levels.length ? count / levels.length : 0 };
}

/** A limit over frequency from its table, straight between its points; NaN beyond them. @param points in rising order of frequency, Hz and dBm */
export function limitAt(points: readonly { hz: number; level: number }[], hz: number): number {
  for (let k = 1; k < points.length; k++) {
    const [a, b] = [points[k - 1], points[k]];
    if (hz >= a.hz && hz <= b.hz)
      return b.hz === a.hz
        ? Math.min(a.level, b.level)
        : a.level + ((hz - a.hz) / (b.hz - a.hz)) * (b.level - a.level);
  }
  return NaN;
}
