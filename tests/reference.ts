import { readFileSync } from 'node:fs';
import { expect } from 'vitest';

/** A reference case: definitions, inputs, expected numbers and their tolerances (tests/fixtures). */
export interface ReferenceCase {
  // The cases have a shape of their own each; the test that reads one knows it.
  /* eslint-disable-next-line @typescript-eslint/no-explicit-any */
  inputs: any;
  /* eslint-disable-next-line @typescript-eslint/no-explicit-any */
  expected: any;
  tolerance: Record<string, Limit>;
}
interface Limit {
  abs?: number;
  rel?: number;
  rel_to_max?: number;
}

export const referenceCase = (name: string): ReferenceCase =>
  JSON.parse(readFileSync(new URL(`./fixtures/${name}.json`, import.meta.url), 'utf8'));

/** Expects a number within the case's tolerance for the field (or its default). */
export function within(
  got: number,
  expected: number | null,
  { tolerance }: ReferenceCase,
  field: string,
  max = 0,
): void {
  if (expected === null) return expect(got).toBeNaN();
  const { abs = 0, rel = 0, rel_to_max = 0 } = tolerance[field] ?? tolerance.default;
  const limit = abs + rel * Math.abs(expected) + rel_to_max * max;
  expect(
    Math.abs(got - expected),
    `${field}: got ${got}, expected ${expected}, limit ${limit}`,
  ).toBeLessThanOrEqual(limit);
}

interface Term {
  kind: string;
  [key: string]: number | string | Recipe;
}
interface Recipe {
  fs: number;
  n: number;
  terms: Term[];
}

/** Samples of a generator recipe, terms summed in their order. */
export function recipeSamples({ fs, n, terms }: Recipe): Float64Array {
  const out = new Float64Array(n);
  for (const term of terms) {
    const t = term as unknown as Record<string, number>;
    const fed = term.kind === 'fir' ? recipeSamples(term.of as Recipe) : null;
    const next = term.kind === 'uniform' || term.kind === 'gauss12' ? generator(term) : () => 0;
    for (let i = 0; i < n; i++) {
      const time = i / fs;
      switch (term.kind) {
        case 'const':
          out[i] += t.value;
          break;
        case 'linear':
          out[i] += t.slope * time;
          break;
        case 'step':
          out[i] += time >= t.at ? t.value : 0;
          break;
        case 'sine':
          out[i] += t.amplitude * Math.sin(2 * Math.PI * t.frequency * time + t.phase);
          break;
        case 'chirp':
          out[i] += t.amplitude * Math.sin(2 * Math.PI * (t.f0 * time + 0.5 * t.rate * time ** 2) + t.phase);
          break;
        case 'decay':
          out[i] +=
            t.amplitude * Math.exp(-time / t.tau) * Math.sin(2 * Math.PI * t.frequency * time + t.phase);
          break;
        case 'uniform':
          out[i] += t.amplitude * (2 * next() - 1);
          break;
        case 'gauss12': {
          let sum = 0;
          for (let k = 0; k < 12; k++) sum += next();
          out[i] += t.sigma * (sum - 6);
          break;
        }
        case 'fir':
          (term.taps as unknown as number[]).forEach((tap, j) => (out[i] += j <= i ? tap * fed![i - j] : 0));
          break;
        default:
          throw new Error(`recipe term ${term.kind} is not known here`);
      }
    }
  }
  return out;
}

function generator(term: Term): () => number {
  let x = Number(term.seed) >>> 0;
  return () => {
    if (term.rng === 'lcg32') x = (Math.imul(1664525, x) + 1013904223) >>> 0;
    else {
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      x >>>= 0;
    }
    return x / 4294967296;
  };
}
