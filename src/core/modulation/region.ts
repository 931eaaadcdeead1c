/** Symbols over which the power is averaged, and the share of what is there all the time below which there is nothing. */
const WINDOW = 16;
const SHARE = 0.35;

/** The longest stretch of a capture in which something is sent, samples: a frame may begin and end within it.
 *  @param iq I and Q in turn @param perSymbol samples a symbol */
export function sentRegion(iq: Float32Array, perSymbol: number): { from: number; to: number } {
  const n = iq.length / 2;
  const wide = Math.max(1, Math.round(WINDOW * perSymbol));
  if (n < 2 * wide) return { from: 0, to: n };
  const step = Math.max(1, Math.floor(perSymbol / 4));
  const count = Math.floor((n - wide) / step) + 1;
  const power = new Float64Array(count);
  let sum = 0;
  let at = 0;
  for (let i = 0; i < n; i++) {
    sum += iq[2 * i] ** 2 + iq[2 * i + 1] ** 2;
    if (i >= wide) sum -= iq[2 * (i - wide)] ** 2 + iq[2 * (i - wide) + 1] ** 2;
    if (i >= wide - 1 && (i - wide + 1) % step === 0 && at < count) power[at++] = sum;
  }
  const order = Float64Array.from(power).sort();
  // What is there for a tenth of the capture at least.
  const least = SHARE * order[Math.floor(0.95 * (count - 1))];
  let best = { from: 0, to: 0 };
  let begun = -1;
  let gone = 0;
  const close = (end: number) => {
    if (begun >= 0 && end - begun > best.to - best.from) best = { from: begun, to: end };
    begun = -1;
  };
  for (let k = 0; k < count; k++) {
    if (power[k] >= least) {
      if (begun < 0) begun = k;
      gone = k;
    } else if (begun >= 0 && (k - gone) * step > wide) close(gone);
  }
  close(gone);
  // A window that is at the edge is full by half: the edge lies so far inside of where it falls below the share.
  const inside = (0.5 - SHARE) * wide;
  const from = best.from === 0 ? 0 : best.from * step + wide / 2 + inside;
  const to = best.to >= count - 1 ? n : best.to * step + wide / 2 - inside;
  return { from: Math.floor(from), to: Math.ceil(to) };
}
