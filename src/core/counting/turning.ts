/** Told turning points in their order, some at a time: their values and the indices of their samples, the first `count` of each array. The arrays are
 *  used again. */
export type TurningSink = (values: Float64Array, indices: Float64Array, count: number) => void;

/** Turning points of a signal that comes in blocks. An extreme is told when the signal has moved back from it by more than the hysteresis; the first
 *  sample and the last running extreme are told, too. A plateau counts at its first sample; missing samples (NaN) are passed over.
 *  Source: ASTM E1049-85 (2017), 3.1 and 5.1 (reversals), with a dead band. */
export class TurningPoints {
  private direction: -1 | 0 | 1 = 0;
  private extreme = NaN;
  private at = -1;
  /** Before the direction is known the lowest sample is a candidate, too. */
  private low = NaN;
  private lowAt = -1;

  /** @param hysteresis in the unit of the signal, 0 or more */
  constructor(
    private readonly hysteresis: number,
    private readonly sink: TurningSink,
  ) {}

  private values = new Float64Array(64);
  private places = new Float64Array(64);
  private found = 0;
  private tell(value: number, index: number): void {
    this.values[this.found] = value;
    this.places[this.found++] = index;
  }
  private flush(): void {
    if (this.found) this.sink(this.values, this.places, this.found);
    this.found = 0;
  }

  /** @param first index of the block's first sample */
  push(block: ArrayLike<number>, first: number): void {
    if (this.values.length < block.length + 2) {
      this.values = new Float64Array(block.length + 2);
      this.places = new Float64Array(block.length + 2);
    }
    let i = 0;
    while (i < block.length && this.direction === 0) this.begin(block[i], first + i++);
    if (this.direction !== 0) this.follow(block, i, first);
    this.flush();
  }
  private follow(block: ArrayLike<number>, from: number, first: number): void {
    const { hysteresis, values, places } = this;
    let found = this.found;
    // A falling signal is looked at upside down; places count from the block’s first sample.
    let sign: number = this.direction;
    let extreme = this.extreme * sign;
    let at = this.at - first;
    for (let i = from; i < block.length; i++) {
      const v = block[i] * sign;
      if (v > extreme) {
        extreme = v;
        at = i;
      } else if (extreme - v > hysteresis) {
        values[found] = extreme * sign;
        places[found++] = first + at;
        sign = -sign;
        extreme = -v;
        at = i;
      }
    }
    this.extreme = extreme * sign;
    this.at = first + at;
    this.found = found;
    this.direction = sign > 0 ? 1 : -1;
  }

  /** No more samples come: the last running extreme is told. */
  end(): void {
    if (this.at < 0) return;
    if (this.direction !== 0) this.tell(this.extreme, this.at);
    else {
      const [at, value] = this.at > this.lowAt ? [this.at, this.extreme] : [this.lowAt, this.low];
      if (at > this.first) this.tell(value, at);
    }
    this.flush();
  }

  private first = -1;
  private begin(v: number, index: number): void {
    if (Number.isNaN(v)) return;
    if (this.first < 0) {
      this.tell(v, index);
      [this.first, this.extreme, this.at, this.low, this.lowAt] = [index, v, index, v, index];
      return;
    }
    if (v > this.extreme) [this.extreme, this.at] = [v, index];
    if (v < this.low) [this.low, this.lowAt] = [v, index];
    const fell = this.extreme - v > this.hysteresis;
    const rose = v - this.low > this.hysteresis;
    if (!fell && !rose) return;
    const [value, at] = fell ? [this.extreme, this.at] : [this.low, this.lowAt];
    if (at > this.first) this.tell(value, at);
    this.direction = fell ? -1 : 1;
    [this.extreme, this.at] = [v, index];
  }
}

/** Turning points of numbers that lie in memory. */
export function turningPoints(
  samples: ArrayLike<number>,
  hysteresis = 0,
): { values: number[]; indices: number[] } {
  const [values, indices]: [number[], number[]] = [[], []];
  const turning = new TurningPoints(hysteresis, (some, places, count) => {
    for (let k = 0; k < count; k++) {
      values.push(some[k]);
      indices.push(places[k]);
    }
  });
  turning.push(samples, 0);
  turning.end();
  return { values, indices };
}
