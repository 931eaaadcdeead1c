/** A value with its ±, no more digits than that allows; without one, four digits. */
export function digitsFor(value: number, expanded: number | null): string {
  if (expanded === null || !(expanded > 0)) return value.toPrecision(4).replace('-', '−');
  const decimals = Math.max(0, Math.min(6, 1 - Math.floor(Math.log10(expanded))));
  // The first digit of ± alone, two where it begins with 1.
  const short = decimals - (expanded / 10 ** Math.floor(Math.log10(expanded)) >= 2 ? 1 : 0);
  const to = Math.max(0, short);
  return `${value.toFixed(to)} ± ${expanded.toFixed(to)}`.replace('-', '−');
}
export const frequencyText = (hz: number, expanded: number | null): string =>
  expanded === null || !(expanded > 0) ? hz.toFixed(2) : digitsFor(hz, expanded);
export const percentText = (share: number): string => `${(100 * share).toFixed(share < 0.1 ? 2 : 1)} %`;
