import { spawnSync } from 'node:child_process';
import FFT from 'fft.js';
import { BandListener } from '$core/radio/band';
import { LevelDensity } from '$core/radio/density';
import { dbm } from '$core/radio/levels';
import { LineKeeper, levelsOf } from '$core/radio/lines';
import { planBand } from '$core/radio/resolution';
import { Waterfall } from '$core/radio/waterfall';
import { Catcher } from '$core/radio/catching';
import { Air, AIR_CONTROLS } from '$engine/units/receiver/air';
import { report, shortest } from './report';

const RATE = 4e6;
const N = 4096;
const NUMPY = `
import numpy, time
x = numpy.random.default_rng(1).standard_normal(${N})
best = 1e9
for _ in range(5):
    t = time.perf_counter()
    for _ in range(500): numpy.fft.rfft(x)
    best = min(best, time.perf_counter() - t)
print(best / 500 * 1e6)
`;

/** Listening to a band: every sample in all detectors, six lines, density and waterfall; one channel over time; the stand-in’s own cost. */
export function radio(): void {
  const hand = (id: string) => AIR_CONTROLS.find((c) => c.id === id)!.value;
  const air = new Air(RATE, 7, hand);
  const tuned = { centreHz: 868.6e6, gainDb: 20 };
  const step = RATE / 20;
  const blocks = Array.from({ length: 20 }, (_, k) => air.read(k * step, step, tuned));
  const made = shortest(3, () => blocks.forEach((_, k) => air.read((20 + k) * step, step, tuned)));
  report({ name: 'the stand-in receiver’s air, 4 MS/s', value: made / 1000, unit: 'cores', reference: 'real time', ratio: made / 1000 }); // prettier-ignore

  const receiver = { centreHz: 868.6e6, sampleRateHz: RATE };
  const plan = planBand({ centreHz: 868.6e6, spanHz: 3.2e6, resolutionHz: (1.9 * RATE) / N, smoothingHz: null, shape: 'Blackman-Harris' }, receiver); // prettier-ignore
  if (plan.transformLength !== N) throw new Error(`transforms of ${plan.transformLength}`);
  const density = new LevelDensity(plan.lines, 480, 120, -20, 1);
  const listener = new BandListener(plan, (levels) => density.push(levels));
  const keepers = (['now', 'highest', 'lowest', 'now', 'highest'] as const).map(
    (shows) => new LineKeeper({ shows }),
  );
  keepers.push(new LineKeeper({ shows: 'average', of: 50, on: 'power' }));
  const falls = new Waterfall(plan.lines);
  let next = 0;
  const heard = shortest(3, () =>
    blocks.forEach((iq) => {
      listener.push(iq, next);
      next += step;
      const picture = listener.look()!;
      for (const keeper of keepers) keeper.push(picture, 'rms', 0);
      levelsOf(keepers);
      falls.push(picture.powers.highest.map(dbm), next / RATE, (next + step) / RATE);
      density.shares();
      density.fade(0.995);
    }),
  );
  report({ name: 'a band of 4 MS/s: half overlap at 4096 points, all detectors, six lines, density, waterfall', value: heard / 1000, unit: 'cores', reference: 'the goal of one core', ratio: heard / 1000 }); // prettier-ignore
  report({ name: 'the same from a recording, as fast as it goes', value: RATE / heard / 1000, unit: 'MS/s', reference: 'the goal of 8 MS/s', ratio: (8 * heard) / 4000 }); // prettier-ignore

  const catcher = new Catcher({ centreHz: 868.9e6, widthHz: 400_000, lengthS: 0.06, beforeS: 0.002, begins: { by: 'itself' } }, receiver); // prettier-ignore
  let at = 0;
  const caught = shortest(3, () =>
    blocks.forEach((iq) => (catcher.push(iq, at, () => undefined), (at += step))),
  );
  report({ name: 'one channel of 400 kHz out of 4 MS/s, held over time', value: caught / 1000, unit: 'cores', reference: 'real time', ratio: caught / 1000 }); // prettier-ignore

  // The transform alone: what the house uses, and numpy’s real one of the same length.
  const fft = new FFT(N);
  const [input, output] = [
    Float64Array.from({ length: 2 * N }, (_, i) => Math.sin(i)),
    new Float64Array(2 * N),
  ];
  const one = (shortest(5, () => { for (let k = 0; k < 500; k++) fft.transform(output, input); }) / 500) * 1000; // prettier-ignore
  const python = spawnSync('python3', ['-c', NUMPY], { encoding: 'utf8', env: { ...process.env, OMP_NUM_THREADS: '1' } }); // prettier-ignore
  const rfft = python.status === 0 ? Number(python.stdout) : NaN;
  report({ name: 'complex transform of 4096 points', value: one, unit: 'µs', reference: Number.isNaN(rfft) ? 'numpy is not here' : `numpy.fft.rfft, half of the work, ${rfft.toFixed(0)} µs`, ratio: one / (2 * rfft) }); // prettier-ignore
  const share = ((2 * RATE) / (N * 1e6)) * one;
  report({ name: 'all that listening costs over its transforms alone', value: heard / 1000, unit: 'cores', reference: `transforms, ${share.toFixed(2)} cores`, ratio: heard / 1000 / share }); // prettier-ignore
}
