import type { Section } from './design';

/** Samples that all sections work on before the next ones: they stay in the nearest cache. */
const BLOCK = 4096;

/** Second-order sections one after the other, each in transposed direct form II; what they hold goes on from call to call. */
export class Cascade {
  private readonly held: Float64Array;

  constructor(private readonly sections: readonly Section[]) {
    this.held = new Float64Array(2 * sections.length);
  }

  /** As if a constant had come in for ever. */
  settle(constant: number): void {
    let x = constant;
    this.sections.forEach(({ b0, b1, b2, a1, a2 }, k) => {
      const y = (x * (b0 + b1 + b2)) / (1 + a1 + a2);
      this.held[2 * k + 1] = b2 * x - a2 * y;
      this.held[2 * k] = b1 * x - a1 * y + this.held[2 * k + 1];
      x = y;
    });
  }

  /** Filters [from, to) in place. */
  run(values: Float64Array, from = 0, to = values.length): void {
    for (let at = from; at < to; at += BLOCK) this.block(values, at, Math.min(to, at + BLOCK), 1);
  }

  /** Filters [from, to) in place, from its end to its begin. */
  runBack(values: Float64Array, from = 0, to = values.length): void {
    for (let at = to; at > from; at -= BLOCK) this.block(values, at - 1, Math.max(from, at - BLOCK) - 1, -1);
  }

  private block(values: Float64Array, from: number, to: number, step: 1 | -1): void {
    const { held, sections } = this;
    let k = 0;
    // Two at a time: the one’s arithmetic fills the time in which the other’s waits.
    for (; k + 1 < sections.length; k += 2) {
      const p = sections[k];
      const q = sections[k + 1];
      const { b0, b1, b2, a1, a2 } = p;
      const { b0: d0, b1: d1, b2: d2, a1: c1, a2: c2 } = q;
      let s1 = held[2 * k];
      let s2 = held[2 * k + 1];
      let t1 = held[2 * k + 2];
      let t2 = held[2 * k + 3];
      for (let i = from; i !== to; i += step) {
        const x = values[i];
        const y = b0 * x + s1;
        s1 = b1 * x - a1 * y + s2;
        s2 = b2 * x - a2 * y;
        const z = d0 * y + t1;
        t1 = d1 * y - c1 * z + t2;
        t2 = d2 * y - c2 * z;
        values[i] = z;
      }
      held[2 * k] = s1;
      held[2 * k + 1] = s2;
      held[2 * k + 2] = t1;
      held[2 * k + 3] = t2;
    }
    if (k === sections.length) return;
    const { b0, b1, b2, a1, a2 } = sections[k];
    let s1 = held[2 * k];
    let s2 = held[2 * k + 1];
    for (let i = from; i !== to; i += step) {
      const x = values[i];
      const y = b0 * x + s1;
      s1 = b1 * x - a1 * y + s2;
      s2 = b2 * x - a2 * y;
      values[i] = y;
    }
    held[2 * k] = s1;
    held[2 * k + 1] = s2;
  }
}

/** Samples by which a record is continued at both its ends, turned about its end values, before it is filtered both ways. */
export const endSamples = (sections: readonly Section[]): number => {
  const order = 2 * sections.length;
  const passing = Math.min(
    sections.filter((s) => s.b2 === 0).length,
    sections.filter((s) => s.a2 === 0).length,
  );
  return 3 * (order + 1 - passing);
};

/** Forward and backward, so that nothing is delayed and the magnitude counts twice (Gustafsson’s start by steady states on an oddly
 *  continued record). Works on the record in place. @param values no NaN @param ends samples of continuation, fewer than there are values */
export function bothWays(
  sections: readonly Section[],
  values: Float64Array,
  ends = Math.min(endSamples(sections), values.length - 1),
): void {
  const n = values.length;
  if (n === 0) return;
  const before = Float64Array.from({ length: ends }, (_, i) => 2 * values[0] - values[ends - i]);
  const after = Float64Array.from({ length: ends }, (_, i) => 2 * values[n - 1] - values[n - 2 - i]);
  const forward = new Cascade(sections);
  forward.settle(ends ? before[0] : values[0]);
  forward.run(before);
  forward.run(values);
  forward.run(after);
  const back = new Cascade(sections);
  back.settle(ends ? after[ends - 1] : values[n - 1]);
  back.runBack(after);
  back.runBack(values);
}
