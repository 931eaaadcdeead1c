import { describe, expect, test } from 'vitest';
import { FITS } from '$core/modal/fits';
import { fitted, prepared, solved, type FitSettings } from '$core/modal/analysis';
import { gathered } from '$core/modal/gather';
import { harmonicOf } from '$core/modal/harmonics';
import { mac, type Shape } from '$core/modal/shape';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';
import { ACCELEROMETERS, shaken, TRUE_MODES, TURNS_HZ, WEAK } from '../../../../demo/structure';

const RATE = 128;
const GO_ON = { aborted: false };
const REFERENCES = [
  'Nacelle fore–aft',
  'Nacelle side, front',
  'Blade 1 tip, flap',
  'Blade 2 tip, flap',
  'Blade 3 tip, edge',
];
const SETTINGS: FitSettings = {
  band: { fromHz: 9, toHz: 55 },
  order: 60,
  method: FITS[0],
  residuals: 'both residuals',
  tolerances: { frequency: 0.005, damping: 0.2, shape: 0.95 },
  normalised: 'largest is 1',
};
const truth = (k: number): Shape => ({
  re: Float64Array.from(TRUE_MODES[k].shape),
  im: new Float64Array(ACCELEROMETERS.length),
});

function correlated(seed: number, seconds = 1800) {
  const histories = shaken(seed, seconds, RATE);
  const responses = histories.map((values, i) =>
    sampledOf(
      {
        id: `a${i}`,
        name: ACCELEROMETERS[i].name,
        quantity: 'acceleration',
        unit: 'm/s²',
        rate: rateFromHz(RATE),
        startNs: 0,
        width: 1,
      },
      values,
    ),
  );
  const references = REFERENCES.map((name) => ACCELEROMETERS.findIndex((a) => a.name === name));
  const got = gathered(
    [{ name: 'shaken', responses, fromS: 0, toS: null }],
    { references, lags: 1024, factor: 1, detrend: 'its mean', method: 'over the whole span' },
    () => undefined,
    GO_ON,
  );
  return { got, references };
}

describe('the nacelle and its blades in turbulent flow', () => {
  test.each(Array.from({ length: 20 }, (_, k) => k + 1))(
    'seed %i: both fits find the modes, and no harmonic is called one',
    (seed) => {
      const { got, references } = correlated(seed);
      const basis = { set: got.set, references, left: 0.02, powers: got.powers };
      const ready = prepared(basis);
      for (const method of FITS.slice(0, 2)) {
        const settings = { ...SETTINGS, method };
        const fit = fitted(ready, references, settings);
        const found = solved(
          basis,
          ready,
          fit,
          settings,
          fit.clusters.map((c) => c.best),
          TURNS_HZ,
        );
        const modes = found.modes.filter((m) => !m.harmonic.is);
        const report = modes
          .map((m) => `${m.pole.hz.toFixed(3)} Hz ${(100 * m.pole.damping).toFixed(2)} %`)
          .join(', ');
        TRUE_MODES.forEach((mode, k) => {
          const says = `${mode.seenAs} at ${mode.hz} Hz by ${method}: ${report}`;
          const near = modes.filter(
            (m) => Math.abs(m.pole.hz / mode.hz - 1) < 0.004 && mac(m.shape, truth(k)) > 0.8,
          );
          expect(near.length, says).toBe(1);
          expect(mac(near[0].shape, truth(k)), says).toBeGreaterThan(0.95);
          // The weak one is found, too, but what little shakes it leaves its numbers less sure.
          const sure = k !== WEAK;
          expect(Math.abs(near[0].pole.hz / mode.hz - 1), says).toBeLessThan(sure ? 0.001 : 0.002);
          expect(Math.abs(near[0].pole.damping / mode.damping - 1), says).toBeLessThan(sure ? 0.1 : 0.2);
          expect(near[0].realness).toBeGreaterThan(0.9);
        });
        expect(found.metAll).toBeGreaterThan(0.98);
        for (const multiple of [1, 3])
          expect(modes.filter((m) => Math.abs(m.pole.hz - multiple * TURNS_HZ) < 0.1)).toEqual([]);
        // The third harmonic stands in the band: it is recognised by itself, and its multiple named.
        const steady = found.modes.filter((m) => m.harmonic.is);
        expect(steady.map((m) => m.harmonic.multiple)).toEqual([3]);
        expect(harmonicOf(steady[0].pole, got.powers, null)).toMatchObject({ is: true, multiple: null });
        expect(steady[0].harmonic.kurtosis).toBeLessThan(1.8);
        for (const m of modes) expect(m.harmonic.kurtosis).toBeGreaterThan(2.4);
      }
    },
  );
});
