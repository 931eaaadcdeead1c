import { CrossingFinder } from './crossings';

/** One turn of y over x. */
interface Loop {
  /** Samples at which it begins and ends, between two where x passes the level. */
  from: number;
  to: number;
  /** ∮ y dx, positive where it turns clockwise: work that is lost, of a force over a way. */
  area: number;
}

/** Loops of one signal over another, from one rise of x through a level to the next: the area of each by trapezoids, closed at both ends by the
 *  values between the samples. A loop with a gap is left out. @param hysteresis by how far x has to go below the level for a new loop */
export function loopAreas(
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  level: number,
  hysteresis: number,
): Loop[] {
  const passes: number[] = [];
  new CrossingFinder(level, hysteresis, 'rising').push(x, (at) => void passes.push(at));
  const between = (of: ArrayLike<number>, at: number) => {
    const i = Math.min(Math.floor(at), of.length - 1);
    const rest = at - i;
    return rest < 1e-9 ? of[i] : of[i] + rest * (of[i + 1] - of[i]);
  };
  return passes.slice(1).flatMap((to, k): Loop[] => {
    const from = passes[k];
    let [px, py] = [between(x, from), between(y, from)];
    let area = 0;
    const step = (nx: number, ny: number) => {
      area += ((py + ny) / 2) * (nx - px);
      [px, py] = [nx, ny];
    };
    for (let i = Math.floor(from) + 1; i <= Math.floor(to); i++) step(x[i], y[i]);
    step(between(x, to), between(y, to));
    // Back to where it began: the ends of a loop that has moved do not meet.
    step(between(x, from), between(y, from));
    return Number.isNaN(area) ? [] : [{ from, to, area }];
  });
}
