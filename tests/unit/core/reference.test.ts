import { describe, expect, test } from 'vitest';
import { fitLine } from '$core/fit/line';
import {
  bridgeFactor,
  bridgeOutput,
  bridgeStrain,
  shuntOutput,
  type BridgeArrangement,
} from '$core/sensors/bridge';
import { platinumResistance, platinumTemperature } from '$core/sensors/platinum';
import {
  thermocoupleEmf,
  thermocoupleInverse,
  thermocoupleTemperature,
  type ThermocoupleType,
} from '$core/sensors/thermocouple';
import { minMaxBuckets } from '$core/signal/envelope';
import { coherentGain, noiseBandwidthBins, spectralWindow, type WindowName } from '$core/spectrum/windows';
import { welch } from '$core/spectrum/welch';
import { Moments } from '$core/statistics/moments';
import { recipeSamples, referenceCase, within } from '../../reference';

const WINDOW: Record<string, WindowName> = {
  boxcar: 'rectangular',
  hann: 'Hann',
  hamming: 'Hamming',
  flattop: 'flat top',
  blackmanharris: 'Blackman-Harris',
};

describe('statistics meet the reference cases', () => {
  const reference = referenceCase('01_statistics_basic');
  reference.inputs.signals.forEach(
    (signal: { name: string; samples?: number[]; recipe?: never }, k: number) => {
      test.each([1e9, 7, 1])(`${signal.name}, fed in blocks of %d`, (size) => {
        const samples = signal.samples ?? Array.from(recipeSamples(signal.recipe!));
        const m = new Moments();
        for (let i = 0; i < samples.length; i += size) m.push(samples.slice(i, i + size));
        const expected = reference.expected.signals[k];
        const got = {
          mean: m.mean,
          rms: m.rms,
          std_ddof1: m.standardDeviation,
          min: m.min,
          max: m.max,
          peak_to_peak: m.peakToPeak,
          crest_factor: m.crestFactor,
        };
        for (const [name, value] of Object.entries(got)) within(value, expected[name], reference, name);
        within(samples[m.maxIndex], expected.max, reference, 'max');
      });
    },
  );
});

test('a straight line meets the reference cases: slope, offset, their standard errors, residuals', () => {
  const reference = referenceCase('01_linear_regression');
  reference.inputs.datasets.forEach(({ x, y }: { x: number[]; y: number[] }, k: number) => {
    const expected = reference.expected.datasets[k];
    const fit = fitLine(x, y);
    const got = {
      slope: fit.slope,
      offset: fit.offset,
      standard_error_slope: fit.standardErrorSlope,
      standard_error_offset: fit.standardErrorOffset,
      residual_std: fit.residualStd,
      max_abs_residual: fit.largestResidual,
      r_squared: fit.rSquared,
    };
    for (const [name, value] of Object.entries(got)) within(value, expected[name], reference, name);
    fit.residuals.forEach((r, i) => within(r, expected.residuals[i], reference, 'residuals'));
  });
});

test('windows meet the reference cases: samples, coherent gain, equivalent noise bandwidth', () => {
  const reference = referenceCase('02_windows');
  const known = reference.expected.windows.filter((w: { name: string }) => WINDOW[w.name]);
  expect(known).toHaveLength(5);
  for (const expected of known) {
    spectralWindow(WINDOW[expected.name], reference.inputs.N).forEach((w, i) =>
      within(w, expected.periodic[i], reference, 'periodic'),
    );
    const long = spectralWindow(WINDOW[expected.name], reference.inputs.N_figures);
    within(coherentGain(long), expected.coherent_gain, reference, 'coherent_gain');
    within(noiseBandwidthBins(long), expected.enbw_bins, reference, 'enbw_bins');
  }
});

describe('averaged spectra meet the reference cases', () => {
  const reference = referenceCase('02_welch_psd');
  let run = 0;
  reference.inputs.configs.forEach((config: never, k: number) => {
    const { signal, window, nperseg, noverlap, detrend } = config as {
      signal: never;
      window: { name: string };
      nperseg: number;
      noverlap: number;
      detrend: unknown;
    };
    // Ours takes powers of two and its own windows only; the rest of the set is out of its promise.
    if (!Number.isInteger(Math.log2(nperseg)) || !WINDOW[window.name]) return;
    run++;
    test(`${window.name}, ${nperseg}, overlap ${noverlap}, detrend ${detrend}`, () => {
      const expected = reference.expected.configs[k];
      const samples = recipeSamples(signal);
      const got = welch(samples, {
        sampleRateHz: (signal as { fs: number }).fs,
        segmentLength: nperseg,
        window: WINDOW[window.name],
        overlap: noverlap / nperseg,
        removeMean: detrend === 'constant',
      });
      expect(got.segments).toBe(expected.segments);
      const max = Math.max(...expected.psd);
      got.density.forEach((d, i) => within(d, expected.psd[i], reference, 'psd', max));
    });
  });
  test('at least two of them were run', () => expect(run).toBeGreaterThanOrEqual(2));
});

describe('thermocouples meet ITS-90', () => {
  test('table values and reference functions of all eight letter types', () => {
    const reference = referenceCase('05_thermocouple_reference');
    for (const set of ['table_mv', 'function_mv'])
      for (const [type, points] of Object.entries(reference.expected[set]))
        for (const { t, mv } of points as { t: number; mv: number }[])
          within(thermocoupleEmf(type as ThermocoupleType, t), mv, reference, set);
  });
  test('temperature from emf', () => {
    const reference = referenceCase('05_thermocouple_inverse');
    for (const [type, points] of Object.entries(reference.expected.temperatures))
      for (const { mv, t } of points as { t: number; mv: number }[])
        within(thermocoupleInverse(type as ThermocoupleType)(mv), t, reference, 'temperatures');
  });
  test('the junction is compensated in emf, not in temperature', () => {
    const reference = referenceCase('05_cold_junction');
    reference.inputs.items.forEach(
      (item: { type: ThermocoupleType; measured_mv: number; reference_junction_degc: number }, k: number) =>
        within(
          thermocoupleTemperature(item.type, item.measured_mv, item.reference_junction_degc),
          reference.expected.items[k].t,
          reference,
          't',
        ),
    );
  });
});

test('platinum sensors meet IEC 60751 in both directions', () => {
  const reference = referenceCase('05_rtd_platinum');
  for (const { t, r } of reference.expected.table_ohm)
    within(platinumResistance(100, t), r, reference, 'table_ohm');
  for (const { r0, t, r } of reference.expected.forward)
    within(platinumResistance(r0, t), r, reference, 'forward');
  for (const { r0, r, t } of reference.expected.inverse)
    within(platinumTemperature(r0, r), t, reference, 'inverse');
});

test('bridges of all arrangements meet the circuit, and their inverse gives the strain back', () => {
  const reference = referenceCase('06_half_full_bridge');
  const arrangement: Record<string, BridgeArrangement> = {
    quarter: 'quarter',
    half_bending: 'half, bending',
    half_axial_poisson: 'half, axial with transverse gauge',
    half_axial_opposite: 'half, opposite arms',
    full_bending: 'full, bending',
    full_bending_poisson: 'full, bending with transverse gauges',
    full_axial_poisson: 'full, axial with transverse gauges',
    full_torsion: 'full, torsion',
  };
  reference.inputs.items.forEach(
    (
      item: { configuration: string; gauge_factor: number; poisson: number; microstrain: number },
      k: number,
    ) => {
      const expected = reference.expected.items[k];
      const kind = arrangement[item.configuration];
      const output = bridgeOutput(kind, item.gauge_factor, item.poisson, item.microstrain * 1e-6);
      within(bridgeFactor(kind, item.poisson), expected.bridge_factor, reference, 'bridge_factor');
      within(output, expected.exact_mv_per_v, reference, 'exact_mv_per_v');
      within(
        bridgeStrain(kind, item.gauge_factor, item.poisson, output) * 1e6,
        expected.exact_inverse_microstrain,
        reference,
        'exact_inverse_microstrain',
      );
    },
  );
});

test('a shunted bridge reads what the circuit says', () => {
  const reference = referenceCase('06_shunt_calibration');
  reference.inputs.items.forEach((item: { gauge_resistance: number; shunt_resistance: number }, k: number) =>
    within(
      shuntOutput(item.gauge_resistance, item.shunt_resistance),
      reference.expected.items[k].bridge_output_mv_per_v,
      reference,
      'bridge_output_mv_per_v',
    ),
  );
});

test('thinning to extremes meets the reference cases, gaps included', () => {
  const reference = referenceCase('13_min_max_envelope');
  let checked = 0;
  reference.inputs.items.forEach(
    (
      item: {
        recipe?: never;
        samples?: (number | null)[];
        missing: { from: number; to_exclusive: number }[];
      },
      k: number,
    ) => {
      const samples = Float32Array.from(
        item.recipe ? recipeSamples(item.recipe) : item.samples!.map((v) => v ?? NaN),
      );
      for (const gap of item.missing ?? []) samples.fill(NaN, gap.from, gap.to_exclusive);
      for (const expected of reference.expected.items[k].results) {
        const got = minMaxBuckets(samples, samples, expected.buckets);
        for (const side of ['min', 'max'] as const)
          expected[side].forEach((value: number | null, b: number) => {
            checked++;
            if (value === null) expect(got[side][b]).toBeNaN();
            else expect(got[side][b]).toBeCloseTo(value, 5); // samples are kept with 24 bits
          });
      }
    },
  );
  expect(checked).toBeGreaterThan(100);
});
