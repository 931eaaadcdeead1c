import { turningPoints } from './turning';

/** Told a cycle, or half of one: the turning points it goes between, their samples, and 1 or 0.5. */
export type CycleSink = (from: number, to: number, fromAt: number, toAt: number, count: number) => void;

/** What is done with the turning points that close no cycle: nothing, each range counts as half a cycle, or the history is taken as one that repeats. */
export const RESIDUES = ['left out', 'counted as halves', 'closed by repeating'] as const;
export type Residue = (typeof RESIDUES)[number];

/** Rainflow counting of turning points as they come, by the four-point rule: of four in a row the inner two are a cycle where their range is larger
 *  than neither neighbour’s. With the residue counted as halves it counts what ASTM E1049-85 (2017), 5.4.4 does, with the residue closed by
 *  repeating what 5.4.5 does. */
export class Rainflow {
  private values = new Float64Array(256);
  private places = new Float64Array(256);
  private depth = 0;

  constructor(private readonly sink: CycleSink) {}

  /** Some turning points, the first `count` of the arrays. */
  feed(points: ArrayLike<number>, indices: ArrayLike<number>, count: number): void {
    while (this.depth + count > this.values.length) this.grow();
    const { values, places, sink } = this;
    let n = this.depth;
    for (let i = 0; i < count; i++) {
      values[n] = points[i];
      places[n++] = indices[i];
      while (n >= 4) {
        const b = values[n - 3];
        const c = values[n - 2];
        const inner = Math.abs(b - c);
        if (inner > Math.abs(values[n - 4] - b) || inner > Math.abs(c - values[n - 1])) break;
        sink(b, c, places[n - 3], places[n - 2], 1);
        values[n - 3] = values[n - 1];
        places[n - 3] = places[n - 1];
        n -= 2;
      }
    }
    this.depth = n;
  }

  /** Turning points that closed no cycle so far, in their order. */
  get residue(): { values: Float64Array; indices: Float64Array } {
    return { values: this.values.slice(0, this.depth), indices: this.places.slice(0, this.depth) };
  }

  /** No more come: the residue is treated as said. */
  end(how: Residue): void {
    const { values, indices } = this.residue;
    if (how === 'counted as halves')
      for (let i = 1; i < values.length; i++)
        this.sink(values[i - 1], values[i], indices[i - 1], indices[i], 0.5);
    if (how !== 'closed by repeating') return;
    const twice = turningPoints([...values, ...values]);
    const again = new Rainflow(this.sink);
    again.feed(
      twice.values,
      twice.indices.map((k) => indices[k % values.length]),
      twice.values.length,
    );
  }

  private grow(): void {
    const [values, places] = [this.values, this.places];
    this.values = new Float64Array(values.length * 2);
    this.places = new Float64Array(values.length * 2);
    this.values.set(values);
    this.places.set(places);
  }
}
