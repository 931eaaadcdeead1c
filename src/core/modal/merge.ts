import { badInput } from '../errors';
import type { Shape } from './shape';

/** A shape as one set-up of sensors saw it: what its responses are called (point and direction, or channel), and the number of each. */
export interface PartShape {
  names: readonly string[];
  shape: Shape;
}

/** One shape out of several set-ups that share some responses: each is brought to the first by the complex factor that makes the shared ones
 *  agree best (least squares, weights all 1), what is seen by several is their mean (post-identification merging; Döhler, Andersen and Mevel, IOMAC 2011).
 *  @throws `bad_input` where one shares nothing with those before it */
export function mergedShape(parts: readonly PartShape[]): PartShape & { factors: [number, number][] } {
  const seen = new Map<string, { re: number; im: number; times: number }>();
  const factors: [number, number][] = [];
  parts.forEach(({ names, shape }, p) => {
    let [fr, fi] = [1, 0];
    if (p > 0) {
      let [re, im, size] = [0, 0, 0];
      names.forEach((name, i) => {
        const other = seen.get(name);
        if (!other) return;
        const [a, b] = [other.re / other.times, other.im / other.times];
        const [x, y] = [shape.re[i], shape.im[i]];
        re += x * a + y * b;
        im += x * b - y * a;
        size += x * x + y * y;
      });
      if (!(size > 0))
        throw badInput(
          'set-ups',
          `number ${p + 1}`,
          'It shares no response that moves with the ones before it: keep some sensors where they are from one set-up to the next.',
        );
      [fr, fi] = [re / size, im / size];
    }
    factors.push([fr, fi]);
    names.forEach((name, i) => {
      const own = seen.get(name) ?? { re: 0, im: 0, times: 0 };
      own.re += shape.re[i] * fr - shape.im[i] * fi;
      own.im += shape.re[i] * fi + shape.im[i] * fr;
      own.times++;
      seen.set(name, own);
    });
  });
  const all = [...seen.entries()];
  return {
    names: all.map(([name]) => name),
    shape: {
      re: Float64Array.from(all, ([, { re, times }]) => re / times),
      im: Float64Array.from(all, ([, { im, times }]) => im / times),
    },
    factors,
  };
}
