const RADIANS = Math.PI / 180;
const degrees = (east: number, north: number) => (((Math.atan2(east, north) / RADIANS) % 360) + 360) % 360;

/** Wind of several samples. */
export interface Wind {
  /** Of the mean vector: speed, and where it comes from in degrees clockwise from north. */
  speed: number;
  direction: number;
  /** Mean direction, each sample alike whatever its speed. */
  unitDirection: number;
  /** Standard deviation of the direction, degrees (Yamartino, J. Climate Appl. Meteor. 23 (1984) 1362). */
  spread: number;
}

/** Vector mean of wind. A sample with either missing is left out. @param speeds in any unit @param directions degrees clockwise from north, where it comes from
 *  @returns NaN throughout where no sample is whole */
export function windOf(speeds: ArrayLike<number>, directions: ArrayLike<number>): Wind {
  let [n, east, north, sin, cos] = [0, 0, 0, 0, 0];
  for (let i = 0; i < speeds.length; i++) {
    const [v, d] = [speeds[i], directions[i] * RADIANS];
    if (!Number.isFinite(v) || !Number.isFinite(d)) continue;
    n++;
    east += v * Math.sin(d);
    north += v * Math.cos(d);
    sin += Math.sin(d);
    cos += Math.cos(d);
  }
  if (n === 0) return { speed: NaN, direction: NaN, unitDirection: NaN, spread: NaN };
  const e = Math.sqrt(Math.max(0, 1 - (sin / n) ** 2 - (cos / n) ** 2));
  return {
    speed: Math.hypot(east, north) / n,
    direction: degrees(east, north),
    unitDirection: degrees(sin, cos),
    spread: (Math.asin(e) * (1 + (2 / Math.sqrt(3) - 1) * e ** 3)) / RADIANS,
  };
}
