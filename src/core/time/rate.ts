/** Exact sample rate num/den in samples a second. */
export interface Rate {
  num: number;
  den: number;
}

const SECOND = 1_000_000_000n;

/** A rate from samples a second; decimals down to 1e-6 are kept exactly. */
export function rateFromHz(hz: number): Rate {
  if (Number.isInteger(hz)) return { num: hz, den: 1 };
  const num = Math.round(hz * 1e6);
  const divisor = gcd(num, 1_000_000);
  return { num: num / divisor, den: 1_000_000 / divisor };
}

export const hz = (rate: Rate) => rate.num / rate.den;

/** The instant of a sample, computed from its index, never accumulated. @returns ns, UTC when startNs is */
export const sampleTimeNs = (startNs: bigint, rate: Rate, index: number) =>
  startNs + (BigInt(index) * BigInt(rate.den) * SECOND) / BigInt(rate.num);

/** Number of samples whose instant lies before startNs + elapsed: the index of the first sample at or after it. */
export function samplesBefore(rate: Rate, elapsedNs: bigint): number {
  if (elapsedNs <= 0n) return 0;
  const per = BigInt(rate.den) * SECOND;
  return Number((elapsedNs * BigInt(rate.num) + per - 1n) / per);
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b);
}
