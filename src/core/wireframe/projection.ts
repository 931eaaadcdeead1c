/** Where the eye stands, as seen from the structure: before it, to its left, a little above. */
const EYE = [-1, -1.35, 0.75] as const;

/** Points seen askew, parallel, x to the right and y downward, in the unit of the points.
 *  @param at shape [points·3] @returns shape [points] each */
export function askew(at: ArrayLike<number>): { x: Float64Array; y: Float64Array } {
  const long = Math.hypot(...EYE);
  const [ex, ey, ez] = EYE.map((v) => v / long);
  const flat = Math.hypot(ex, ey);
  // To the right: across the eye’s direction and the upright axis; up: across both.
  const right = [-ey / flat, ex / flat, 0];
  const up = [-(ez * ex) / flat, -(ez * ey) / flat, flat];
  const n = at.length / 3;
  const along = (axis: readonly number[], i: number) =>
    at[3 * i] * axis[0] + at[3 * i + 1] * axis[1] + at[3 * i + 2] * axis[2];
  return {
    x: Float64Array.from({ length: n }, (_, i) => along(right, i)),
    y: Float64Array.from({ length: n }, (_, i) => -along(up, i)),
  };
}
