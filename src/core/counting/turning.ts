/** Told a turning point: its value and the index of its sample. */
export type TurningSink = (value: number, index: number) => void;

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

  /** @param first index of the block's first sample */
  push(block: ArrayLike<number>, first: number): void {
    const { hysteresis, sink } = this;
    let i = 0;
    while (i < block.length && this.direction === 0) this.begin(block[i], first + i++);
    let { extreme, at } = this;
    let rising = this.direction > 0;
    for (; i < block.length; i++) {
      const v = block[i];
      if (rising ? v > extreme : v < extreme) {
        extreme = v;
        at = first + i;
      } else if ((rising ? extreme - v : v - extreme) > hysteresis) {
        sink(extreme, at);
        rising = !rising;
        extreme = v;
        at = first + i;
      }
    }
    [this.extreme, this.at] = [extreme, at];
    if (this.direction !== 0) this.direction = rising ? 1 : -1;
  }

  /** No more samples come: the last running extreme is told. */
  end(): void {
    if (this.at < 0) return;
    if (this.direction !== 0) return this.sink(this.extreme, this.at);
    const [at, value] = this.at > this.lowAt ? [this.at, this.extreme] : [this.lowAt, this.low];
    if (at > this.first) this.sink(value, at);
  }

  private first = -1;
  private begin(v: number, index: number): void {
    if (Number.isNaN(v)) return;
    if (this.first < 0) {
      this.sink(v, index);
      [this.first, this.extreme, this.at, this.low, this.lowAt] = [index, v, index, v, index];
      return;
    }
    if (v > this.extreme) [this.extreme, this.at] = [v, index];
    if (v < this.low) [this.low, this.lowAt] = [v, index];
    const fell = this.extreme - v > this.hysteresis;
    const rose = v - this.low > this.hysteresis;
    if (!fell && !rose) return;
    const [value, at] = fell ? [this.extreme, this.at] : [this.low, this.lowAt];
    if (at > this.first) this.sink(value, at);
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
  const turning = new TurningPoints(hysteresis, (value, index) => {
    values.push(value);
    indices.push(index);
  });
  turning.push(samples, 0);
  turning.end();
  return { values, indices };
}
