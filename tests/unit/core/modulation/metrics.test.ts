import { describe, expect, test } from 'vitest';
import fc from 'fast-check';
import { modulatorErrors, rho, slopesOf, symbolErrors, withoutSlopes } from '$core/modulation/metrics';
import { bitErrors, bitsOfSymbols, findPattern, symbolsOfBits } from '$core/modulation/pattern';
import { pulseAt, pulseTaps, PULSES } from '$core/modulation/pulse';
import {
  bitsPerSymbol,
  pointsOf,
  readPoints,
  SCHEMES,
  turnsOf,
  isFrequency,
  type Point,
  type Scheme,
} from '$core/modulation/schemes';
import { referenceCase, within } from '../../../reference';

const CONSTELLATIONS: Record<string, Scheme> = {
  BPSK: '2-PSK',
  QPSK: '4-PSK',
  '8PSK': '8-PSK',
  '16QAM': '16-QAM',
  '64QAM': '64-QAM',
  '2ASK': '2-ASK',
  '4ASK': '4-ASK',
};
const interleaved = (re: number[], im: number[]) => Float64Array.from(re.flatMap((v, k) => [v, im[k]]));

describe('symbol errors against the reference', () => {
  const known = referenceCase('11_symbol_metrics');
  known.inputs.items.forEach(
    (
      item: {
        name: string;
        constellation: string;
        symbols: number[];
        remove_frequency_and_droop: boolean;
        received_re: number[];
        received_im: number[];
      },
      i: number,
    ) =>
      test(item.name, () => {
        const want = known.expected.items[i];
        const points = pointsOf(CONSTELLATIONS[item.constellation]);
        const z = interleaved(item.received_re, item.received_im);
        const meets = (got: ReturnType<typeof symbolErrors>, w: Record<string, number>, loose = false) => {
          const pairs: [number, string][] = [
            [got.evmRms, 'evm_rms_percent'],
            [got.evmPeak, 'evm_peak_percent'],
            [got.magnitudeRms, 'magnitude_error_rms_percent'],
            [got.magnitudePeak, 'magnitude_error_peak_percent'],
            [got.phaseRms, 'phase_error_rms_deg'],
            [got.phasePeak, 'phase_error_peak_deg'],
            [got.gainDb, 'gain_db'],
            [got.gainPhaseDeg, 'gain_phase_deg'],
          ];
          for (const [value, field] of pairs)
            if (loose)
              expect(Math.abs(value - w[field])).toBeLessThanOrEqual(0.001 + 0.05 * Math.abs(w[field]));
            else within(value, w[field], known, field);
          if (w.mer_db > 120) expect(got.mer).toBeGreaterThan(120);
          else if (loose) expect(Math.abs(got.mer - w.mer_db)).toBeLessThan(0.5);
          else within(got.mer, w.mer_db, known, 'mer_db');
          if (w.iq_offset_db === undefined) return;
          if (w.iq_offset_db < -120) expect(got.originDb).toBeLessThan(-120);
          else if (!loose) within(got.originDb, w.iq_offset_db, known, 'iq_offset_db');
        };
        meets(symbolErrors(z, item.symbols, points, false), want.gain_only);
        meets(symbolErrors(z, item.symbols, points, true), want.gain_and_offset);
        const slopes = slopesOf(z, item.symbols, points);
        within(slopes.cycles, want.frequency_error_per_symbol_rate, known, 'frequency_error_per_symbol_rate');
        within(slopes.droopDb, want.droop_db_per_symbol, known, 'droop_db_per_symbol');
        const still = item.remove_frequency_and_droop ? withoutSlopes(z, slopes) : z;
        if (want.frequency_droop_gain_offset_removed)
          meets(
            symbolErrors(still, item.symbols, points, true),
            want.frequency_droop_gain_offset_removed,
            true,
          );
        const { imbalanceDb, quadratureDeg } = modulatorErrors(still, item.symbols, points);
        if (want.gain_imbalance_db === undefined) return expect(imbalanceDb).toBeNaN();
        const limits = item.remove_frequency_and_droop ? [0.1, 0.5] : [1e-5, 1e-4];
        expect(Math.abs(imbalanceDb - want.gain_imbalance_db)).toBeLessThanOrEqual(limits[0]);
        expect(Math.abs(quadratureDeg - want.quadrature_error_deg)).toBeLessThanOrEqual(limits[1]);
      }),
  );
});

describe('pulses', () => {
  const known = referenceCase('11_rrc_taps');
  test('root raised cosine by its closed form, and free of what neighbours leave when it is met by itself', () => {
    known.inputs.items.forEach(
      (item: { alpha: number; samples_per_symbol: number; span_symbols: number }, i: number) => {
        const want = known.expected.items[i];
        const taps = pulseTaps('root raised cosine', item.alpha, item.samples_per_symbol, item.span_symbols);
        expect(taps).toHaveLength(want.taps.length);
        taps.forEach((v, k) => within(v, want.taps[k], known, 'taps'));
        const sps = item.samples_per_symbol;
        const cascade = (lag: number) => taps.reduce((s, v, k) => s + v * (taps[k + lag] ?? 0), 0);
        const centre = cascade(0);
        let most = 0;
        for (let m = 1; m <= item.span_symbols; m++)
          most = Math.max(most, Math.abs(cascade(m * sps)) / centre);
        within(most, want.isi_of_cascade_peak, known, 'isi_of_cascade_peak');
      },
    );
  });
  test('a raised cosine is 1 at its symbol and 0 at all others; every shape is even and integrates to about 1', () => {
    for (let k = -6; k <= 6; k++) expect(pulseAt('raised cosine', k, 0.35)).toBeCloseTo(k === 0 ? 1 : 0, 12);
    for (const shape of PULSES.filter((p) => p !== 'none' && p !== 'own taps')) {
      expect(pulseAt(shape, 0.3, 0.4)).toBe(pulseAt(shape, -0.3, 0.4));
      let sum = 0;
      for (let t = -12; t <= 12; t += 1 / 64) sum += pulseAt(shape, t, 0.4) / 64;
      expect(Math.abs(sum - 1)).toBeLessThan(0.03);
    }
    expect(pulseAt('root raised cosine', 1 / (4 * 0.25), 0.25)).toBeCloseTo(
      pulseAt('root raised cosine', 1 / (4 * 0.25) + 1e-6, 0.25),
      4,
    );
    expect(pulseAt('raised cosine', 1, 0.5)).toBeCloseTo(pulseAt('raised cosine', 1 + 1e-6, 0.5), 4);
  });
});

describe('constellations', () => {
  test('have as many points as they say, of mean power 1, and fall onto themselves as often as they do', () => {
    for (const scheme of SCHEMES.filter((s) => !isFrequency(s) && !s.endsWith('own'))) {
      const points = pointsOf(scheme);
      const count = Number(/^\d+/.exec(scheme)?.[0] ?? 4);
      expect(points).toHaveLength(count);
      expect(bitsPerSymbol(points)).toBe(Math.log2(count));
      if (!scheme.includes('ASK'))
        expect(points.reduce((s, p) => s + p.re ** 2 + p.im ** 2, 0) / count).toBeCloseTo(1, 12);
      expect(turnsOf(points)).toBe(
        scheme.includes('ASK') ? 1 : scheme === '2-PSK' ? 2 : scheme === '8-PSK' ? 8 : 4,
      );
    }
  });
  test('of one’s own: typed, and scaled; what is no constellation says in which line', () => {
    expect(readPoints('1 0\n-1; 0\n0, 1')).toEqual([{ re: 1, im: 0 }, { re: -1, im: 0 }, { re: 0, im: 1 }]); // prettier-ignore
    const own = pointsOf('a constellation of one’s own', [{ re: 3, im: 0 }, { re: -3, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 3 }]); // prettier-ignore
    expect(own.reduce((s, p) => s + p.re ** 2 + p.im ** 2, 0) / 4).toBeCloseTo(1, 12);
    expect(turnsOf(own)).toBe(1);
    expect(readPoints('1 0\nx 1')).toEqual({
      fault: 'Line 2: give two numbers, in phase and in quadrature.',
    });
    expect(readPoints('1 0\n1 0')).toEqual({ fault: 'Line 2: this point is there already.' });
    expect(readPoints('1 0')).toHaveProperty('fault');
  });
});

describe('patterns', () => {
  test('are found where they are, as alike as they are, and nowhere else', () => {
    const known = referenceCase('11_preamble_search');
    known.inputs.items.forEach(
      (
        item: {
          preamble_re: number[];
          preamble_im: number[];
          received_re: number[];
          received_im: number[];
          threshold: number;
        },
        i: number,
      ) => {
        const want = known.expected.items[i];
        const pattern = item.preamble_re.map((re, k): Point => ({ re, im: item.preamble_im[k] }));
        const found = findPattern(interleaved(item.received_re, item.received_im), pattern, item.threshold);
        expect(found.map((m) => m.at)).toEqual(want.positions);
        found.forEach((m, k) =>
          within(m.alike, want.correlation_at_positions[k], known, 'correlation_at_positions'),
        );
      },
    );
  });
  test('nothing is found in silence, or in what is shorter than the pattern', () => {
    const pattern = [{ re: 1, im: 0 }, { re: -1, im: 0 }]; // prettier-ignore
    expect(findPattern(new Float64Array(40), pattern, 0.5)).toEqual([]);
    expect(findPattern(new Float64Array(2), pattern, 0)).toEqual([]);
  });
  test('bits and symbols are the same both ways', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 15 })), (symbols) => {
        expect(symbolsOfBits(bitsOfSymbols(symbols, 4), 4)).toEqual(symbols);
      }),
    );
    expect(symbolsOfBits('10 11 0', 2)).toEqual([2, 3]);
    expect(bitErrors('110011', '10')).toEqual({ errors: 3, of: 6 });
    expect(bitErrors('1', '')).toEqual({ errors: 0, of: 0 });
  });
  test('ρ is 1 for the ideal and falls with what else is there', () => {
    const points = pointsOf('4-PSK');
    const symbols = Array.from({ length: 64 }, (_, k) => (k * 7) % 4);
    const z = Float64Array.from(symbols.flatMap((s) => [points[s].re, points[s].im]));
    expect(rho(z, symbols, points)).toBeCloseTo(1, 12);
    const noisy = z.map((v, i) => v + (i % 3 === 0 ? 0.3 : -0.1));
    expect(rho(noisy, symbols, points)).toBeLessThan(0.97);
  });
});
