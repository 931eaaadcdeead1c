import { spawnSync } from 'node:child_process';
import { compileConversion, linearConversion, type Conversion } from '$core/conversion/conversion';
import { compileExpression } from '$core/expression/expression';
import { report, shortest } from './report';

const N = 1_000_000;
const BLOCK = 2560; // 50 ms at 51.2 kS/s

const NUMPY = `
import numpy as np, time
a = (np.arange(${N}) % 5000 / 100).astype(np.float32); b = a + 1; c = a + 2
out = np.empty_like(a)
def best(f):
    t = 1e9
    for _ in range(7):
        s = time.perf_counter(); f(); t = min(t, time.perf_counter() - s)
    return t * 1000
x = np.linspace(0, 50, 2000); y = x * 24.0
print(best(lambda: a * np.float32(1.0001) + np.float32(0.5)), best(lambda: np.interp(a, x, y)), best(lambda: a * b * np.float32(np.pi / 30) + c))
`;

/** Conversions and formulas on one core, block by block as the engine does it; beside them numpy over the whole. */
export function conversions(): void {
  const python = spawnSync('python3', ['-c', NUMPY], {
    encoding: 'utf8',
    env: { ...process.env, OMP_NUM_THREADS: '1' },
  });
  const [linear, table, three] =
    python.status === 0 ? python.stdout.trim().split(' ').map(Number) : [NaN, NaN, NaN];
  const raw = Float32Array.from({ length: N }, (_, i) => (i % 5000) / 100);
  const out = new Float32Array(N);
  const say = (name: string, ms: number, reference: string, referenceMs: number) =>
    report({
      name,
      value: N / ms / 1000,
      unit: 'MS/s',
      reference: Number.isNaN(referenceMs)
        ? 'numpy is not here'
        : `${reference}, ${(N / referenceMs / 1000).toFixed(0)} MS/s`,
      ratio: referenceMs / ms,
    });
  const blocks = (work: (from: number, n: number) => void) =>
    shortest(7, () => {
      for (let from = 0; from < N; from += BLOCK) work(from, Math.min(BLOCK, N - from));
    });
  const conversion = (c: Conversion) => {
    const convert = compileConversion(c);
    return blocks((from, n) => convert(raw.subarray(from, from + n), out.subarray(from, from + n), n));
  };
  const direct = { correction: { slope: 1, offset: 0 }, unit: { factor: 1, offset: 0 } };
  say('linear conversion', conversion(linearConversion(1.0001, 0.5)), 'numpy a·x + b', linear);
  say(
    'thermocouple K inverse',
    conversion({ ...direct, law: { kind: 'thermocouple', type: 'K' } }),
    'numpy interpolation in a table',
    table,
  );
  const xs = Array.from({ length: 2000 }, (_, k) => (k * 50) / 1999);
  say(
    'table of 2000 points',
    conversion({ ...direct, law: { kind: 'table', xs, ys: xs.map((x) => x * 24) } }),
    'numpy interpolation',
    table,
  );
  const formula = (text: string) => {
    const run = compileExpression(text).start(51_200);
    const inputs = [raw, raw, raw];
    return blocks((from, n) =>
      run(
        inputs.map((x) => x.subarray(from, from + n)),
        out.subarray(from, from + n),
        n,
      ),
    );
  };
  say('formula of three channels', formula('"a" * "b" * pi / 30 + "c"'), 'numpy, the same', three);
  say(
    'formula with a window and a filter',
    formula('mean("a", 0.01) + lowpass("b", 100)'),
    'numpy, three channels',
    three,
  );
}
