import { BandListener } from './band';
import { dbm } from './levels';
import { planBand, USABLE_SHARE, type BandPlan } from './resolution';
import { shapeWidths, type FilterShape } from './response';

const SHAPE: FilterShape = 'Hann';
const LONGEST = 8192;
const SHORTEST = 32;

function listenerOf(sampleRateHz: number, centreHz: number, window: number): BandListener {
  const resolutionHz = (shapeWidths(SHAPE).at3 * sampleRateHz) / window;
  return new BandListener(
    planBand(
      { centreHz, spanHz: sampleRateHz * USABLE_SHARE, resolutionHz, smoothingHz: null, shape: SHAPE },
      { centreHz, sampleRateHz },
    ),
  );
}

/** Spectrum of some samples over time: as fine as they allow, up to 8192 of them a window, the power of several windows averaged.
 *  @param iq V rms over 50 Ω, I and Q in turn @returns dBm; null for fewer than 32 samples */
export function regionSpectrum(
  iq: Float32Array,
  sampleRateHz: number,
  centreHz: number,
): { plan: BandPlan; levels: Float32Array } | null {
  const n = iq.length >> 1;
  if (n < SHORTEST) return null;
  const listener = listenerOf(sampleRateHz, centreHz, Math.min(n, LONGEST));
  listener.push(iq, 0);
  const picture = listener.look();
  return picture && { plan: listener.plan, levels: Float32Array.from(picture.powers.rms, dbm) };
}

/** The same samples as spectra one after the other, for a waterfall. @param rows about how many @returns levels of row r from levels[r · lines], oldest first, dBm */
export function regionFalls(
  iq: Float32Array,
  sampleRateHz: number,
  centreHz: number,
  rows = 64,
): { plan: BandPlan; rows: number; levels: Float32Array } | null {
  const n = iq.length >> 1;
  if (n < 2 * SHORTEST) return null;
  // Windows about two rows long: time and frequency are told apart alike.
  const window = Math.max(SHORTEST, Math.min(1024, Math.floor((2 * n) / rows)));
  const listener = listenerOf(sampleRateHz, centreHz, window);
  const { lines } = listener.plan;
  const found: Float32Array[] = [];
  const step = Math.max(1, Math.floor(n / rows));
  for (let at = 0; at < n; at += step) {
    listener.push(iq.subarray(2 * at, 2 * Math.min(n, at + step)), at);
    const picture = listener.look();
    if (picture) found.push(Float32Array.from(picture.powers.highest, dbm));
  }
  if (found.length === 0) return null;
  const levels = new Float32Array(found.length * lines);
  found.forEach((row, r) => levels.set(row, r * lines));
  return { plan: listener.plan, rows: found.length, levels };
}
