/** UTC in ns from a clock that never jumps: the wall clock is read once, at the start. */
export function steadyClock(): () => bigint {
  const offset = BigInt(Date.now()) * 1_000_000n - process.hrtime.bigint();
  return () => process.hrtime.bigint() + offset;
}
