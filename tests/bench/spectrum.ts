import { spawnSync } from 'node:child_process';
import { welch } from '$core/spectrum/welch';
import { report, shortest } from './report';

const SAMPLES = 5_000_000;
const LENGTH = 4096;

const SCIPY = `
import numpy, scipy.signal, time
x = numpy.sin(numpy.arange(${SAMPLES}) / 7.0) + 0.1 * numpy.random.default_rng(1).standard_normal(${SAMPLES})
best = 1e9
for _ in range(5):
    t = time.perf_counter(); scipy.signal.welch(x, 51200, 'hann', ${LENGTH}, ${LENGTH / 2}); best = min(best, time.perf_counter() - t)
print(best * 1000)
`;

/** Welch's method over five million samples against scipy's, where that is there. */
export function spectra(): void {
  const signal = Float64Array.from({ length: SAMPLES }, (_, i) => Math.sin(i / 7) + 0.1 * Math.sin(i * i));
  const ms = shortest(5, () =>
    welch(signal, { sampleRateHz: 51_200, segmentLength: LENGTH, window: 'Hann' }),
  );
  const python = spawnSync('python3', ['-c', SCIPY], {
    encoding: 'utf8',
    env: { ...process.env, OMP_NUM_THREADS: '1' },
  });
  const reference = python.status === 0 ? Number(python.stdout) : NaN;
  report({
    name: 'Welch PSD of 5 million samples',
    value: ms,
    unit: 'ms',
    reference: Number.isNaN(reference)
      ? 'scipy is not here'
      : `scipy.signal.welch, ${reference.toFixed(0)} ms`,
    ratio: ms / reference,
  });
}
