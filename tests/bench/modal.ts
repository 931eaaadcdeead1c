import { spawnSync } from 'node:child_process';
import { FITS } from '$core/modal/fits';
import { fitted, prepared, solved, type FitSettings } from '$core/modal/analysis';
import { driven } from '$core/modal/forced';
import { gathered, type Gathered } from '$core/modal/gather';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';
import { displaced, motionOf } from '$core/wireframe/motion';
import { placesOf, type Vec, type Wireframe } from '$core/wireframe/wireframe';
import { ACCELEROMETERS, shaken } from '../../demo/structure';
import { inTurn, struck } from '../../demo/struck';
import { report, shortest } from './report';

const RATE = 512;
const SECONDS = 600;
const LAGS = 2048;
const ORDER = 60;

/** What numpy needs for the linear algebra of the same sizes: eigenvalues with vectors of each order, the least squares of its shapes, and for the
 *  subspace fit the singular values of the block matrix. */
const NUMPY = `
import numpy as np, time, json, sys
s = json.load(sys.stdin)
r = np.random.default_rng(1)
def best(f):
    t = []
    for _ in range(3):
        a = time.perf_counter(); f(); t.append(time.perf_counter() - a)
    return 1000 * min(t)
eig = [r.standard_normal((n, n)) / n**.5 for n in s['eig']]
lst = [(r.standard_normal((s['rows'], k)), r.standard_normal((s['rows'], s['right']))) for k in s['unknowns']]
svd = r.standard_normal(s['block'])
print(json.dumps({
  'eig': best(lambda: [np.linalg.eig(a) for a in eig]),
  'lstsq': best(lambda: [np.linalg.lstsq(a, b, rcond=None) for a, b in lst]),
  'eig2': best(lambda: [np.linalg.eig(r.standard_normal((n, n))) for n in s['eig2']]),
  'svd': best(lambda: np.linalg.svd(svd, full_matrices=False)),
}))`;

/** Frequency responses of 16 answers to two hammers, eight hits each, with ± from groups. */
function hits(): void {
  const responses = struck(1, 132, RATE, inTurn(8, 8)).map(
    (values, i) =>
    sampledOf({ id: `a${i}`, name: `${i}`, quantity: '', unit: i < 16 ? 'm/s²' : 'N', rate: rateFromHz(RATE), startNs: 0, width: 1 }, values), // prettier-ignore
  );
  const options = { ...{ forces: 2, lags: LAGS, factor: 1, left: 0.01, keepS: 0.05, level: 0.1 }, method: 'hit by hit' as const, turned: new Set<string>() }; // prettier-ignore
  const ms = shortest(2, () => driven([{ name: 'struck', responses, fromS: 0, toS: null }], options, () => undefined, { aborted: false })); // prettier-ignore
  report({ name: 'frequency responses of 16 answers to 16 hits of two hammers, 132 s at 512 S/s, 2048 samples', value: ms, unit: 'ms', reference: 'the goal of 2 s for correlations', ratio: ms / 2000 }); // prettier-ignore
}

/** Correlating, fitting and picking on ten minutes of 16 responses and 4 references at 512 S/s. */
export function modal(): void {
  hits();
  const responses = shaken(1, SECONDS, RATE).map(
    (values, i) =>
    sampledOf({ id: `a${i}`, name: ACCELEROMETERS[i].name, quantity: '', unit: 'm/s²', rate: rateFromHz(RATE), startNs: 0, width: 1 }, values), // prettier-ignore
  );
  const references = [0, 1, 8, 14];
  const go = { aborted: false };
  let got: Gathered;
  for (const method of ['over the whole span', 'by averaged segments'] as const) {
    // prettier-ignore
    const ms = shortest(2, () => {
      got = gathered([{ name: 'shaken', responses, fromS: 0, toS: null }], { references, lags: LAGS, factor: 1, detrend: 'its mean', method }, () => undefined, go);
    });
    report({ name: `correlations of 16 responses with 4 references, 10 min at 512 S/s, 2048 lags, ${method}`, value: ms, unit: 'ms', reference: 'the goal of 2 s', ratio: ms / 2000 }); // prettier-ignore
  }
  const basis = { set: got!.set, references, left: 0.01, powers: got!.powers };
  const making = shortest(3, () => prepared(basis));
  report({ name: 'half spectra of 64 pairs under their window', value: making, unit: 'ms', reference: '', ratio: 0 }); // prettier-ignore
  const ready = prepared(basis);
  const settings: FitSettings = {
    band: { fromHz: 9, toHz: 55 },
    order: ORDER,
    method: FITS[0],
    residuals: 'both residuals',
    tolerances: { frequency: 0.01, damping: 0.2, shape: 0.9 },
    normalised: 'largest is 1',
  };
  const lines = Math.round((46 * LAGS) / RATE) + 1;
  const steps = Array.from({ length: ORDER / 4 }, (_, k) => 4 * (k + 1));
  const asked = {
    eig: steps,
    eig2: Array.from({ length: ORDER / 2 }, (_, k) => 2 * (k + 1)),
    rows: 2 * 4 * lines,
    right: 16,
    unknowns: steps.map((n) => n + 16),
    block: [96 * 16, 4 * (Math.ceil((1.25 * ORDER) / 4) + 2)],
  };
  const python = spawnSync('python3', ['-c', NUMPY], { input: JSON.stringify(asked), encoding: 'utf8' });
  const numpy = python.status === 0 ? (JSON.parse(python.stdout) as { eig: number; lstsq: number; eig2: number; svd: number }) : null; // prettier-ignore
  const beside = (ms: number, of: number | undefined, what: string) =>
    of ? { reference: `numpy’s ${what} of the same sizes`, ratio: ms / of } : { reference: 'numpy is not here', ratio: 0 }; // prettier-ignore
  for (const method of FITS.slice(0, 2)) {
    const ms = shortest(2, () => fitted(ready, references, { ...settings, method }));
    const first = method === FITS[0];
    report({ name: `${method} to order ${ORDER} with shapes of all orders`, value: ms, unit: 'ms', ...beside(ms, numpy ? (first ? numpy.eig + numpy.lstsq : numpy.eig2 + numpy.svd) : undefined, first ? 'eig and lstsq' : 'eig and svd') }); // prettier-ignore
  }
  const fit = fitted(ready, references, settings);
  const picks = fit.clusters.map((c) => c.best);
  const picking = shortest(3, () => solved(basis, prepared(basis), fit, settings, picks, null));
  report({ name: `shapes of ${picks.length} picked poles, put together again`, value: picking, unit: 'ms', reference: 'the goal of 300 ms', ratio: picking / 300 }); // prettier-ignore
  const frame = grid(20);
  const motion = motionOf(frame, { re: Float64Array.from({ length: 40 }, Math.sin), im: new Float64Array(40) }, frame.sensors.map((s) => s.channel)); // prettier-ignore
  const places = [...placesOf(frame).values()];
  const moving = shortest(5, () => displaced(places, motion, 1, 0.3));
  report({ name: 'a wireframe of 400 points at a phase (without drawing)', value: moving, unit: 'ms', reference: 'a picture of 30 a second', ratio: moving / (1000 / 30) }); // prettier-ignore
}

/** A net of points with sensors on some. */
function grid(side: number): Wireframe {
  const at = (i: number, k: number) => `${i}.${k}`;
  const all = Array.from({ length: side * side }, (_, n) => [Math.floor(n / side), n % side] as const);
  return {
    name: 'net',
    parts: [],
    points: all.map(([i, k]) => ({ name: at(i, k), part: '', at: [i, k, 0] as Vec })),
    lines: all.flatMap(([i, k]) => [...(i + 1 < side ? [[at(i, k), at(i + 1, k)] as const] : []), ...(k + 1 < side ? [[at(i, k), at(i, k + 1)] as const] : [])]), // prettier-ignore
    surfaces: [],
    sensors: Array.from({ length: 40 }, (_, n) => ({ channel: `c${n}`, point: at((n * 7) % side, (n * 3) % side), direction: [0, 0, 1] as Vec })), // prettier-ignore
    held: [],
    follows: [],
  };
}
