/** One measure as one line of JSON: the ratio to a reference taken in the same run is what can be compared between machines. */
export interface Measure {
  name: string;
  value: number;
  unit: string;
  reference: string;
  ratio: number;
}

export function report(measure: Measure): void {
  const round = (v: number) => Number(v.toPrecision(4));
  console.log(JSON.stringify({ ...measure, value: round(measure.value), ratio: round(measure.ratio) }));
}

/** Shortest of some runs in ms: the others were disturbed. */
export function shortest(runs: number, work: () => void): number {
  let best = Infinity;
  for (let i = 0; i < runs; i++) {
    const began = performance.now();
    work();
    best = Math.min(best, performance.now() - began);
  }
  return best;
}
