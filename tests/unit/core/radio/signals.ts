import { Random } from '$core/random';
import { MW_PER_V2, mw, voltsAt } from '$core/radio/levels';

/** Complex samples of a tone, V rms. @param hz from the centre @param level dBm */
export function tone(n: number, sampleRateHz: number, hz: number, level: number, phase = 0): Float32Array {
  const v = voltsAt(level);
  const out = new Float32Array(2 * n);
  for (let i = 0; i < n; i++) {
    const angle = phase + (2 * Math.PI * hz * i) / sampleRateHz;
    out[2 * i] = v * Math.cos(angle);
    out[2 * i + 1] = v * Math.sin(angle);
  }
  return out;
}

/** White complex noise of a density. @param density dBm/Hz over the whole sample rate */
export function noise(n: number, sampleRateHz: number, density: number, seed: number): Float32Array {
  const random = new Random(seed);
  const s = Math.sqrt((mw(density) * sampleRateHz) / MW_PER_V2 / 2);
  return Float32Array.from({ length: 2 * n }, () => s * random.gauss());
}

export const sum = (...parts: Float32Array[]): Float32Array =>
  parts[0].map((_, i) => parts.reduce((a, p) => a + p[i], 0));
