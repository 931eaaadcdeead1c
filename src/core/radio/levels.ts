/** Complex samples are the rms voltage of the envelope over this resistance: |z|²/50 Ω is the power, whatever the phase. */
const OHM = 50;
/** mW of |z|² = 1 V². */
export const MW_PER_V2 = 1000 / OHM;

/** Level of a power, dBm. @param mw mW, ≥ 0; 0 gives −∞ */
export const dbm = (mw: number): number => 10 * Math.log10(mw);
/** Power at a level, mW. @param level dBm */
export const mw = (level: number): number => 10 ** (level / 10);
/** Envelope at a level, V rms over 50 Ω. @param level dBm */
export const voltsAt = (level: number): number => Math.sqrt(mw(level) / MW_PER_V2);

/** kT at 290 K, dBm/Hz (k = 1.380649e-23 J/K, SI 2019). */
const KT_DBM_PER_HZ = 10 * Math.log10(1.380649e-23 * 290 * 1000);

/** Level of the noise in a bandwidth, dBm: kTB at 290 K and the noise figure. @param noiseFigure dB */
export const noiseOf = (bandwidthHz: number, noiseFigure: number): number =>
  KT_DBM_PER_HZ + noiseFigure + 10 * Math.log10(bandwidthHz);

const MANTISSA_BITS = 12;
const MANTISSA = (1 << MANTISSA_BITS) - 1;
const mantissas = Float32Array.from(
  { length: 1 << MANTISSA_BITS },
  (_, k) => 10 * Math.log10(1 + (k + 0.5) / (1 << MANTISSA_BITS)),
);
const EXPONENT_DB = 10 * Math.log10(2);

/** 10·log10 of positive numbers by their bits, to ±0.0006 dB: eight million a second of them are drawn. 0 gives less than −380 dB.
 *  @param powers shape [n], at the begin of a buffer of its own @param levels shape [n], gets them in dB */
export function quickLevels(powers: Float32Array, levels: Float32Array): void {
  const bits = new Uint32Array(powers.buffer, powers.byteOffset, powers.length);
  for (let i = 0; i < bits.length; i++) {
    const b = bits[i];
    levels[i] = ((b >>> 23) - 127) * EXPONENT_DB + mantissas[(b >>> (23 - MANTISSA_BITS)) & MANTISSA];
  }
}
