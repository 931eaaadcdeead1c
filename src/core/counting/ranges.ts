import type { CycleSink } from './rainflow';

/** Every range between turning points as half a cycle (ASTM E1049-85 (2017), 5.2). */
export class SimpleRanges {
  private last = NaN;
  private at = -1;
  constructor(private readonly sink: CycleSink) {}
  feed(points: ArrayLike<number>, indices: ArrayLike<number>, count: number): void {
    for (let k = 0; k < count; k++) {
      if (this.at >= 0) this.sink(this.last, points[k], this.at, indices[k], 0.5);
      this.last = points[k];
      this.at = indices[k];
    }
  }
  end(): void {
    // a range that is not closed is none
  }
}

/** Range-pair counting of turning points as they come (ASTM E1049-85 (2017), 5.3): a range that the next one covers is a cycle; what is left at the
 *  end is counted from its end backwards, a single range that is left then as half a cycle. */
export class RangePairs {
  private values: number[] = [];
  private places: number[] = [];
  constructor(private readonly sink: CycleSink) {}

  feed(points: ArrayLike<number>, indices: ArrayLike<number>, count: number): void {
    for (let k = 0; k < count; k++) this.push(points[k], indices[k]);
  }
  private push(value: number, index: number): void {
    const { values, places } = this;
    values.push(value);
    places.push(index);
    while (values.length >= 3) {
      const n = values.length;
      const latest = Math.abs(values[n - 1] - values[n - 2]);
      if (latest < Math.abs(values[n - 2] - values[n - 3])) break;
      this.sink(values[n - 3], values[n - 2], places[n - 3], places[n - 2], 1);
      values.splice(n - 3, 2);
      places.splice(n - 3, 2);
    }
  }
  end(): void {
    const [values, places] = [this.values.reverse(), this.places.reverse()];
    [this.values, this.places] = [[], []];
    values.forEach((v, k) => this.push(v, places[k]));
    if (this.values.length === 2)
      this.sink(this.values[0], this.values[1], this.places[0], this.places[1], 0.5);
  }
}
