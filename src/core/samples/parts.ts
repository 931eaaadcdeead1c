import type { Sampled } from './sampled';

/** A complex signal as two real ones of the same grid of times, in phase and in quadrature; a real one as it is. */
export function realParts(signal: Sampled): Sampled[] {
  if (signal.width === 1) return [signal];
  return ['in phase', 'in quadrature'].map((part, k) => ({
    ...signal,
    id: `${signal.id} ${part}`,
    name: `${signal.name}, ${part}`,
    width: 1,
    read: (first, count) => {
      const both = signal.read(first, count);
      return Float32Array.from({ length: both.length / 2 }, (_, i) => both[2 * i + k]);
    },
  }));
}
