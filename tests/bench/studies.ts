import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { classesFor } from '$core/counting/classes';
import { TimeAtLevel } from '$core/counting/levels';
import { Rainflow } from '$core/counting/rainflow';
import { TurningPoints } from '$core/counting/turning';
import { bothWays } from '$core/filters/cascade';
import { designFilter } from '$core/filters/design';
import { sampledOf } from '$core/samples/sampled';
import { SpectrumOverTime } from '$core/spectrum/over-time';
import { studyKind } from '$core/studies/registry';
import { report, shortest } from './report';

const SAMPLES = 10_000_000;
const BLOCK = 1 << 16;

/** The same counting as a plain loop in C, over the same numbers. */
const C = `
#include <stdio.h>
#include <stdlib.h>
#include <math.h>
#include <time.h>
static double stack[1 << 20];
int main(void) {
  const int n = ${SAMPLES};
  float *x = malloc(n * sizeof *x);
  for (int i = 0; i < n; i++) x[i] = sin(i / 7.0) + 0.7 * sin(i * 0.9173) + 0.3 * sin(i * 2.31);
  double best = 1e9, sum = 0;
  for (int run = 0; run < 3; run++) {
    struct timespec a, b;
    clock_gettime(CLOCK_MONOTONIC, &a);
    int depth = 0, rising = x[1] > x[0];
    double extreme = x[1];
    sum = 0;
    stack[depth++] = x[0];
    for (int i = 2; i < n; i++) {
      double v = x[i];
      if (rising ? v >= extreme : v <= extreme) { extreme = v; continue; }
      stack[depth++] = extreme;
      rising = !rising;
      extreme = v;
      while (depth >= 4) {
        double p = fabs(stack[depth - 3] - stack[depth - 2]);
        if (p > fabs(stack[depth - 4] - stack[depth - 3]) || p > fabs(stack[depth - 2] - stack[depth - 1])) break;
        sum += p;
        stack[depth - 3] = stack[depth - 1];
        depth -= 2;
      }
    }
    clock_gettime(CLOCK_MONOTONIC, &b);
    double ms = (b.tv_sec - a.tv_sec) * 1e3 + (b.tv_nsec - a.tv_nsec) / 1e6;
    if (ms < best) best = ms;
  }
  printf("%f %f\\n", best, sum);
  return 0;
}`;

const SCIPY = `
import numpy, scipy.signal, time
x = (numpy.sin(numpy.arange(${SAMPLES}) / 7.0) + 0.1 * numpy.random.default_rng(1).standard_normal(${SAMPLES})).astype('float32')
best = 1e9
for _ in range(3):
    t = time.perf_counter(); scipy.signal.spectrogram(x, 51200, 'hann', 1024, 512); best = min(best, time.perf_counter() - t)
print(best * 1000)
`;

const SOSFILTFILT = `
import numpy, scipy.signal, time
x = numpy.sin(numpy.arange(${SAMPLES}) / 7.0)
sos = scipy.signal.butter(8, 1000, fs=51200, output='sos')
best = 1e9
for _ in range(3):
    t = time.perf_counter(); scipy.signal.sosfiltfilt(sos, x); best = min(best, time.perf_counter() - t)
print(best * 1000)
`;

function inC(): { ms: number; sum: number } {
  const folder = mkdtempSync(join(tmpdir(), 'farrier-bench-c-'));
  try {
    writeFileSync(join(folder, 'count.c'), C);
    const built = spawnSync('cc', ['-O2', '-o', join(folder, 'count'), join(folder, 'count.c'), '-lm']);
    if (built.status !== 0) return { ms: NaN, sum: NaN };
    const [ms, sum] = spawnSync(join(folder, 'count'), { encoding: 'utf8' })
      .stdout.trim()
      .split(' ')
      .map(Number);
    return { ms, sum };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const blocksOf = (x: Float32Array, each: (block: Float32Array, at: number) => void) => {
  for (let at = 0; at < x.length; at += BLOCK) each(x.subarray(at, at + BLOCK), at);
};

/** Counting, spectra over time and orders, as the studies compute them. */
export function studies(quick: boolean): void {
  const x = Float32Array.from({ length: SAMPLES }, (_, i) => Math.sin(i / 7) + 0.7 * Math.sin(i * 0.9173) + 0.3 * Math.sin(i * 2.31)); // prettier-ignore
  let sum = 0;
  const rainflow = shortest(3, () => {
    sum = 0;
    const count = new Rainflow((from, to, _a, _b, n) => (sum += Math.abs(to - from) * n));
    const turning = new TurningPoints(0, (v, i, n) => count.feed(v, i, n));
    blocksOf(x, (block, at) => turning.push(block, at));
    turning.end();
    count.end('left out');
  });
  const c = inC();
  // The same work, or the comparison says nothing.
  if (!(Math.abs(sum / c.sum - 1) < 1e-3) && !Number.isNaN(c.ms))
    throw new Error(`other cycles than in C: ${sum} and ${c.sum}`);
  report({ name: 'rainflow of 10 million samples', value: rainflow, unit: 'ms', reference: Number.isNaN(c.ms) ? 'no C compiler is here' : `a plain loop in C, ${c.ms.toFixed(0)} ms`, ratio: rainflow / c.ms }); // prettier-ignore

  const classes = classesFor({ count: 24, width: null, limits: { min: -2.4, max: 2.4 }, open: true }, 0, 0);
  const level = shortest(3, () => {
    const time = new TimeAtLevel(classes);
    for (let run = 0; run < 10; run++) blocksOf(x, (block) => time.push(block));
  });
  const rate = (SAMPLES * 10) / level / 1000;
  report({ name: 'time at level of 100 million samples', value: rate, unit: 'MS/s', reference: 'the goal of 150 MS/s', ratio: 150 / rate }); // prettier-ignore

  const picture = shortest(3, () => {
    const over = new SpectrumOverTime({ sampleRateHz: 51_200, segmentLength: 1024, window: 'Hann', overlap: 0.5, removeMean: true }); // prettier-ignore
    blocksOf(x, (block) => over.push(block));
    over.result();
  });
  const python = spawnSync('python3', ['-c', SCIPY], { encoding: 'utf8', env: { ...process.env, OMP_NUM_THREADS: '1' } }); // prettier-ignore
  const reference = python.status === 0 ? Number(python.stdout) : NaN;
  report({ name: 'spectrum over time of 10 million samples', value: picture, unit: 'ms', reference: Number.isNaN(reference) ? 'scipy is not here' : `scipy.signal.spectrogram, ${reference.toFixed(0)} ms`, ratio: picture / reference }); // prettier-ignore

  // Forward and backward through a Butterworth filter of order 8, in double precision, as scipy does it.
  const sections = designFilter(
    { family: 'butterworth', band: 'low pass', order: 8, edgesHz: [1000] },
    51_200,
  );
  const passed = shortest(3, () => bothWays(sections, Float64Array.from(x)));
  const sos = spawnSync('python3', ['-c', SOSFILTFILT], { encoding: 'utf8', env: { ...process.env, OMP_NUM_THREADS: '1' } }); // prettier-ignore
  const scipy = sos.status === 0 ? Number(sos.stdout) : NaN;
  report({ name: 'Butterworth of order 8 both ways, 10 million samples', value: passed, unit: 'ms', reference: Number.isNaN(scipy) ? 'scipy is not here' : `scipy.signal.sosfiltfilt, ${scipy.toFixed(0)} ms`, ratio: passed / scipy }); // prettier-ignore

  // Sixteen channels, ten minutes at 25.6 kS/s: one after the other, each of the same shaft.
  const minutes = quick ? 1 : 10;
  const hz = 25_600;
  const shaken = Float32Array.from({ length: hz * 60 * minutes }, (_, i) => Math.sin(i / 300) + 0.2 * Math.sin(i / 31)); // prettier-ignore
  const head = { quantity: '', startNs: 0, width: 1 as const };
  const channel = sampledOf(
    { ...head, id: 'a', name: 'Casing', unit: 'm/s²', rate: { num: hz, den: 1 } },
    shaken,
  );
  const speed = sampledOf({ ...head, id: 's', name: 'Speed', unit: 'rpm', rate: { num: 100, den: 1 } }, Float32Array.from({ length: 6001 * minutes }, (_, i) => 1200 + (1800 * i) / (6000 * minutes))); // prettier-ignore
  const kind = studyKind('orders');
  const began = performance.now();
  const channels = quick ? 2 : 16;
  for (let k = 0; k < channels; k++)
    kind.run([{ id: 'x', name: 'x', facts: {}, durationS: 60 * minutes, signals: { channel: [channel], speed: [speed], pulses: [] } }], { ...kind.defaults, speed: 's' }, () => undefined, { aborted: false }); // prettier-ignore
  const seconds = (((performance.now() - began) / 1000) * 16 * 10) / (channels * minutes);
  report({ name: 'orders of 16 channels, ten minutes at 25.6 kS/s, one core', value: seconds, unit: 's', reference: 'the goal of 10 s', ratio: seconds / 10 }); // prettier-ignore
}
