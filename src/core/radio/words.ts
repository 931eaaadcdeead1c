import { fixed } from '../readings';

/** A frequency or width in the unit in which it is read: 868.012 MHz, 742 kHz. @param decimals of the unit; as many as its size needs without it */
export function hertzText(hz: number, decimals?: number): string {
  const size = Math.abs(hz);
  const [by, unit] =
    size >= 1e9 ? [1e9, 'GHz'] : size >= 1e6 ? [1e6, 'MHz'] : size >= 1e3 ? [1e3, 'kHz'] : [1, 'Hz'];
  const value = hz / by;
  if (decimals !== undefined) return `${fixed(value, decimals)} ${unit}`;
  const text = fixed(value, Math.max(0, 2 - Math.floor(Math.log10(Math.max(1, Math.abs(value))))));
  return `${text.replace(/\.0+$/, '')} ${unit}`;
}

/** Decimals of MHz that a line spacing deserves. */
export const megahertzDecimals = (stepHz: number): number =>
  Math.max(0, Math.min(6, 7 - Math.ceil(Math.log10(stepHz) + 0.3)));

/** A duration: 31 µs, 1.15 ms, 13 s. */
export function secondsText(s: number): string {
  const [by, unit] = s < 1e-3 ? [1e-6, 'µs'] : s < 1 ? [1e-3, 'ms'] : [1, 's'];
  return `${Number((s / by).toPrecision(3))} ${unit}`;
}
