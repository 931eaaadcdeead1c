import { describe, expect, test } from 'vitest';
import { readFrequency } from '$core/modulation/frequency';
import { readModulation, type ModulationRead, type ModulationWish } from '$core/modulation/read';
import { bitsOfSymbols } from '$core/modulation/pattern';
import { pulseTaps } from '$core/modulation/pulse';
import { pointsOf, type Scheme } from '$core/modulation/schemes';
import { Random } from '$core/random';
import { modulated } from './signals';
import { referenceCase } from '../../../reference';

const RATE = 8e6;
const wish = (over: Partial<ModulationWish>): ModulationWish => ({
  scheme: '4-PSK',
  own: [],
  symbolHz: 1e6,
  pulse: 'root raised cosine',
  rollOff: 0.35,
  taps: [],
  tapsPerSymbol: 1,
  matched: true,
  count: 400,
  pattern: '',
  alike: 0.8,
  after: 0,
  expected: '',
  equaliser: null,
  held: null,
  ...over,
});
const read = (iq: Float32Array, over: Partial<ModulationWish> = {}, rate = RATE): ModulationRead => {
  const got = readModulation(iq, rate, wish(over));
  if ('fault' in got) throw new Error(got.fault);
  return got;
};
const LINEAR: Scheme[] = ['2-PSK', '4-PSK', '8-PSK', 'π/4-DQPSK', 'OQPSK', '16-QAM', '32-QAM', '64-QAM', '128-QAM', '256-QAM', '2-ASK', '4-ASK', '8-ASK']; // prettier-ignore

describe('every scheme', () => {
  test.each(LINEAR)(
    '%s: carrier, rate and beat are found; the error vector is what the noise makes it',
    (scheme) => {
      const points = pointsOf(scheme);
      const { iq } = modulated({
        ...{
          points,
          symbols: 460,
          perSymbol: 8.13,
          offset: 0.0043,
          phase: 0.7,
          snr: 34,
          seed: 3,
          slower: 0.001,
        },
        ...{ turnsOn: scheme === 'π/4-DQPSK', staggered: scheme === 'OQPSK' },
      });
      const symbolHz = RATE / 8.13;
      const { numbers } = read(iq, { scheme, symbolHz });
      expect(Math.abs(numbers.offsetHz - 0.0043 * RATE)).toBeLessThan(2e-5 * symbolHz);
      expect(Math.abs(numbers.symbolHz / (symbolHz / 1.001) - 1)).toBeLessThan(3e-5);
      const ideal = 100 * 10 ** (-34 / 20);
      expect(numbers.evmRms / ideal).toBeGreaterThan(0.9);
      expect(numbers.evmRms / ideal).toBeLessThan(1.12);
      expect(Math.abs(numbers.snr - 34)).toBeLessThan(1);
    },
  );

  test.each([10, 14, 20, 30, 40])('the error vector follows the noise, %i dB', (snr) => {
    const { iq } = modulated({
      points: pointsOf('4-PSK'),
      symbols: 1000,
      perSymbol: 8,
      snr,
      seed: snr,
      offset: 0.002,
    });
    const { numbers } = read(iq, { count: 960 });
    expect(Math.abs(numbers.mer - snr)).toBeLessThan(0.5);
    expect(numbers.evm95 / numbers.evmRms).toBeGreaterThan(1.6);
    expect(numbers.evm95 / numbers.evmRms).toBeLessThan(1.9); // √(−ln 0.05) = 1.731 of a Rayleigh
  });
});

describe('the whole chain against the reference', () => {
  const known = referenceCase('11_modulated_waveforms');
  const schemes: Record<string, Scheme> = {
    QPSK: '4-PSK',
    '16QAM': '16-QAM',
    '8PSK': '8-PSK',
    BPSK: '2-PSK',
    '64QAM': '64-QAM',
  };
  const draws = (seed: number) => {
    let x = seed >>> 0;
    return () => {
      x ^= x << 13;
      x ^= x >>> 17;
      x ^= x << 5;
      x >>>= 0;
      return x / 2 ** 32;
    };
  };
  known.inputs.items.forEach(
    (
      item: Record<string, number> & { name: string; constellation: string; check: { length: number } },
      i: number,
    ) =>
      test(item.name, () => {
        const want = known.expected.items[i];
        const points = pointsOf(schemes[item.constellation]);
        const sps = item.samples_per_symbol;
        const raw = pulseTaps('root raised cosine', item.alpha, sps, item.span_symbols);
        const energy = Math.sqrt(raw.reduce((s, v) => s + v * v, 0));
        const taps = raw.map((v) => v / energy);
        const draw = draws(item.symbol_seed);
        const symbols = Array.from({ length: item.symbols }, () => Math.floor(draw() * points.length));
        expect(symbols).toEqual(want.symbols);
        const n = item.check.length;
        const iq = new Float32Array(2 * n);
        const [x, y] = [new Float64Array(n), new Float64Array(n)];
        symbols.forEach((s, k) =>
          taps.forEach((h, t) => {
            const at = item.delay_samples + k * sps + t;
            if (at >= n) return;
            x[at] += h * points[s].re;
            y[at] += h * points[s].im;
          }),
        );
        const gauss = (seed: number) => {
          const u = draws(seed);
          return () => Array.from({ length: 12 }, u).reduce((a, v) => a + v, 0) - 6;
        };
        const [gi, gq] = [gauss(item.seed_i ?? 1), gauss(item.seed_q ?? 2)];
        for (let k = 0; k < n; k++) {
          const angle =
            (item.phase_deg * Math.PI) / 180 + (2 * Math.PI * item.frequency_offset_hz * k) / item.fs;
          const [c, s] = [item.gain * Math.cos(angle), item.gain * Math.sin(angle)];
          const noisy = item.noise_sigma > 0;
          iq[2 * k] = x[k] * c - y[k] * s + (noisy ? item.noise_sigma * gi() : 0);
          iq[2 * k + 1] = x[k] * s + y[k] * c + (noisy ? item.noise_sigma * gq() : 0);
        }
        // The first symbols are the pattern: they tell the turn, and where the others begin.
        const each = Math.log2(points.length);
        const got = read(iq, {
        ...{ scheme: schemes[item.constellation], symbolHz: item.fs / sps, rollOff: item.alpha, count: 300 },
        pattern: bitsOfSymbols(symbols.slice(0, 24), each),
      }, item.fs); // prettier-ignore
        const count = got.symbols.length;
        expect(count).toBeGreaterThan(270);
        expect([...got.symbols]).toEqual(symbols.slice(0, count));
        expect(Math.abs(got.numbers.evmRms - want.evm_rms_percent)).toBeLessThanOrEqual(
          0.5 + 0.1 * want.evm_rms_percent,
        );
        if (item.noise_sigma > 0) expect(Math.abs(got.numbers.mer - want.mer_db)).toBeLessThanOrEqual(1);
        expect(Math.abs(got.numbers.offsetHz - want.frequency_offset_hz)).toBeLessThanOrEqual(
          2e-5 * want.symbol_rate,
        );
      }),
  );
});

describe('what is wrong is read back', () => {
  const points = pointsOf('16-QAM');
  const of = (what: object, count = 800) =>
    read(modulated({ points, symbols: 900, perSymbol: 8, offset: 0.001, snr: 45, seed: 9, ...what }).iq, {
      scheme: '16-QAM',
      count,
    }).numbers;
  // The turn of a square constellation is not known without a pattern: I and Q may be exchanged, the size stays.
  test('gain imbalance', () => {
    const b = of({ imbalance: 0.8, offset: 0 });
    expect(Math.abs(Math.abs(b.imbalance) - 0.8)).toBeLessThan(0.05);
    expect(Math.abs(b.quadrature)).toBeLessThan(0.3);
  });
  test('quadrature error', () =>
    expect(Math.abs(Math.abs(of({ quadrature: 3, offset: 0 }).quadrature) - 3)).toBeLessThan(0.2));
  test('origin offset', () => expect(Math.abs(of({ origin: -28, offset: 0 }).origin + 28)).toBeLessThan(0.4));
  test('droop', () => expect(of({ droop: 0.004 }).droop).toBeCloseTo(0.004, 4));
  test('in pairs', () => {
    const b = of({ imbalance: -0.6, quadrature: 2, origin: -30, droop: 0.002, offset: 0 });
    expect(Math.abs(Math.abs(b.imbalance) - 0.6)).toBeLessThan(0.08);
    expect(Math.abs(Math.abs(b.quadrature) - 2)).toBeLessThan(0.25);
    expect(Math.abs(b.origin + 30)).toBeLessThan(0.6);
    expect(b.droop).toBeCloseTo(0.002, 4);
    expect(Math.abs(b.snr - 45)).toBeLessThan(2.5);
  });
});

describe('patterns and bits', () => {
  const points = pointsOf('4-PSK');
  const begin = [1, 3, 0, 2, 2, 1, 0, 3, 3, 3, 1, 0, 0, 2, 1, 2];
  test('a known beginning is found, turns the constellation, and the bits behind it are the ones that were sent', () => {
    for (const phase of [0.3, 1.9, 3.4, 5]) {
      const { iq, symbols } = modulated({
        points,
        symbols: 500,
        perSymbol: 8,
        offset: 0.003,
        phase,
        snr: 25,
        begin,
      });
      const got = read(iq, { pattern: bitsOfSymbols(begin, 2), after: 16, count: 300 });
      expect(got.match).toMatchObject({ length: 16 });
      expect(got.match!.alike).toBeGreaterThan(0.95);
      expect(got.bits).toBe(bitsOfSymbols(symbols.slice(16, 16 + 300), 2));
    }
  });
  test('bits that are expected are compared', () => {
    const { iq, symbols } = modulated({ points, symbols: 300, perSymbol: 8, snr: 25, begin });
    const sent = bitsOfSymbols(symbols.slice(0, 200), 2);
    const wrong = (sent[0] === '0' ? '1' : '0') + sent.slice(1);
    expect(read(iq, { pattern: bitsOfSymbols(begin, 2), count: 200, expected: sent }).numbers.bitErrors).toBe(
      0,
    );
    expect(
      read(iq, { pattern: bitsOfSymbols(begin, 2), count: 200, expected: wrong }).numbers.bitErrors,
    ).toBe(1);
  });
  test('steps of π/4-DQPSK, whatever phase they begin at', () => {
    const { iq } = modulated({
      points,
      symbols: 300,
      perSymbol: 8,
      snr: 28,
      begin,
      turnsOn: true,
      phase: 2.2,
    });
    const first = read(iq, { scheme: 'π/4-DQPSK', count: 100 }).bits;
    const pattern = first.slice(40, 80);
    const again = modulated({
      points,
      symbols: 300,
      perSymbol: 8,
      snr: 28,
      begin,
      turnsOn: true,
      phase: 4.9,
      seed: 1,
    });
    const got = read(again.iq, { scheme: 'π/4-DQPSK', pattern, count: 60 });
    expect(got.bits.slice(0, 40)).toBe(pattern);
  });
  test('what is not there is said', () => {
    const { iq } = modulated({ points, symbols: 200, perSymbol: 8, snr: 25 });
    expect(readModulation(iq, RATE, wish({ pattern: '11111111111111111111111111111111' }))).toEqual({
      fault: 'The pattern was not found in this capture.',
    });
    expect(readModulation(iq.slice(0, 100), RATE, wish({}))).toHaveProperty('fault');
    expect(readModulation(iq, 1.5e6, wish({}))).toHaveProperty('fault');
    expect(readModulation(iq, RATE, wish({ after: 5000, pattern: '' , count: 400, scheme: 'a constellation of one’s own' }))).toHaveProperty('fault'); // prettier-ignore
  });
  test('a constellation of one’s own is read by its points', () => {
    const own = [{ re: 0, im: 0 }, { re: 1.2, im: 0 }, { re: -0.6, im: 1 }, { re: -0.6, im: -1 }, { re: 0.5, im: 1.4 }]; // prettier-ignore
    const scaled = pointsOf('a constellation of one’s own', own);
    const { iq } = modulated({
      points: scaled,
      symbols: 500,
      perSymbol: 8,
      offset: 0.0005,
      snr: 32,
      seed: 12,
    });
    const { numbers } = read(iq, { scheme: 'a constellation of one’s own', own, count: 460 });
    expect(numbers.evmRms).toBeGreaterThan(2);
    expect(numbers.evmRms).toBeLessThan(3.2);
  });
});

describe('receive filters', () => {
  const points = pointsOf('4-PSK');
  const evm = (over: Partial<ModulationWish>, shape?: 'raised cosine') =>
    read(modulated({ points, symbols: 400, perSymbol: 8, snr: 40, seed: 8, ...(shape && { shape }) }).iq, {
      count: 340,
      ...over,
    }).numbers.evmRms;
  test('taps of one’s own are as good as the shape that they are of, and without the matched filter neighbours spoil', () => {
    const own = {
      pulse: 'own taps' as const,
      taps: [...pulseTaps('root raised cosine', 0.35, 4, 16)],
      tapsPerSymbol: 4,
    };
    expect(evm(own)).toBeLessThan(evm({}) + 1);
    expect(evm({ matched: false })).toBeGreaterThan(3 * evm({}));
  });
  test('a raised cosine needs none', () => {
    expect(evm({ matched: false }, 'raised cosine')).toBeLessThan(3.5);
  });
});

describe('what the path did', () => {
  const points = pointsOf('4-PSK');
  const path = [{ re: 1, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0.22, im: 0.12 }]; // prettier-ignore
  const { iq } = modulated({
    points,
    symbols: 900,
    perSymbol: 8,
    snr: 38,
    seed: 5,
    path,
    begin: [0, 1, 2, 3, 0, 2, 1, 3, 3, 1, 0, 2, 2, 0, 3, 1, 0, 1, 1, 2],
  });
  test('an echo spoils the symbols, shows in the response, and is taken out by the equaliser', () => {
    const plain = read(iq, { count: 800 });
    const learned = read(iq, { count: 800, equaliser: { taps: 15, step: 0.3, learns: 'decisions' } });
    expect(plain.numbers.evmRms).toBeGreaterThan(14);
    expect(learned.numbers.evmRms).toBeLessThan(3);
    const ripple = (v: Float32Array) => Math.max(...v.slice(16, 112)) - Math.min(...v.slice(16, 112));
    // 1 ± 0.25 within the band.
    expect(ripple(learned.path!.before)).toBeGreaterThan(2.5);
    expect(ripple(learned.path!.after!)).toBeLessThan(0.8);
    expect(learned.taps).toHaveLength(30);
    // Held, its taps do the same for the next capture without learning.
    const next = modulated({ points, symbols: 900, perSymbol: 8, snr: 38, seed: 6, path });
    const held = read(next.iq, {
      count: 800,
      equaliser: { taps: 15, step: 0.3, learns: 'decisions' },
      held: learned.taps,
    });
    expect(held.numbers.evmRms).toBeLessThan(5);
    expect(held.taps).toEqual(learned.taps);
  });
  test('it learns from the pattern, too', () => {
    const pattern = bitsOfSymbols([0, 1, 2, 3, 0, 2, 1, 3, 3, 1, 0, 2, 2, 0, 3, 1, 0, 1, 1, 2], 2);
    const got = read(iq, {
      count: 800,
      pattern,
      alike: 0.7,
      equaliser: { taps: 15, step: 0.3, learns: 'the pattern' },
    });
    expect(got.numbers.evmRms).toBeLessThan(3.5);
  });
});

describe('what the path did to symbols that turn on, or whose quadrature lies later', () => {
  const points = pointsOf('4-PSK');
  const path = [{ re: 1, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0, im: 0 }, { re: 0.2, im: 0.1 }]; // prettier-ignore
  const of = (scheme: Scheme, seed: number, own = {}) => modulated({ points, symbols: 900, perSymbol: 8, snr: 38, seed, path, turnsOn: scheme === 'π/4-DQPSK', staggered: scheme === 'OQPSK', ...own }); // prettier-ignore
  const equaliser = { taps: 15, step: 0.3, learns: 'decisions' } as const;
  test.each(['π/4-DQPSK', 'OQPSK'] as const)(
    '%s: the equaliser takes it out, and held it does so of the next capture',
    (scheme) => {
      const { iq } = of(scheme, 5);
      const plain = read(iq, { scheme, count: 800 });
      const learned = read(iq, { scheme, count: 800, equaliser });
      expect(plain.numbers.evmRms).toBeGreaterThan(12);
      expect(learned.numbers.evmRms).toBeLessThan(3.5);
      // No symbol is another one for it, but for the ends.
      const differ = learned.symbols.filter((s, k) => k > 8 && k < 780 && s !== plain.symbols[k]).length;
      expect(differ).toBe(0);
      const held = read(of(scheme, 6).iq, { scheme, count: 800, equaliser, held: learned.taps });
      expect(held.numbers.evmRms).toBeLessThan(6);
      expect(held.taps).toEqual(learned.taps);
    },
  );
  test('a path that falls over frequency falls where it does, also where symbols turn on', () => {
    // One echo a sample later of the same sign: less above than in the middle, and as much below.
    const slope = (scheme: Scheme) => {
      const got = read(of(scheme, 7, { path: [{ re: 1, im: 0 }, { re: 0, im: 0 }, { re: 0.3, im: 0.3 }] }).iq, { scheme, count: 800 }).path!; // prettier-ignore
      const level = (hz: number) => got.before[got.hz.findIndex((f) => f >= hz)];
      return level(250_000) - level(-250_000);
    };
    const [still, turning] = [slope('4-PSK'), slope('π/4-DQPSK')];
    expect(Math.abs(still)).toBeGreaterThan(0.4);
    expect(Math.abs(turning - still)).toBeLessThan(0.25 * Math.abs(still));
  });
});

describe('frequency between the symbols', () => {
  /** Two levels, whole symbols of one frequency; phases follow on. */
  const keyed = (deviationHz: number, droopDb: number) => {
    const random = new Random(4);
    const bits = Array.from({ length: 300 }, () => (random.uniform() < 0.5 ? 0 : 1));
    const iq = new Float32Array(2 * 300 * 16);
    let phase = 0.4;
    for (let k = 0; k < 300 * 16; k++) {
      phase += (2 * Math.PI * (bits[k >> 4] ? 1 : -1) * deviationHz) / RATE;
      const level = 10 ** ((-droopDb * k) / 16 / 20);
      iq[2 * k] = level * Math.cos(phase) + 0.002 * random.gauss();
      iq[2 * k + 1] = level * Math.sin(phase) + 0.002 * random.gauss();
    }
    return { iq, bits };
  };
  const asked = { scheme: '2-FSK', symbolHz: RATE / 16, pulse: 'none', count: 250 } as const;

  test('is drawn as an eye: open at the symbols, in between on its way from one level to the other', () => {
    const { between, within, symbols, received } = read(keyed(150_000, 0).iq, asked);
    expect(within).toBe(8);
    expect(between).toHaveLength(2 * within * symbols.length);
    for (let k = 0; k < symbols.length; k++) {
      const at = between[2 * k * within];
      expect(Math.abs(at - received[2 * k])).toBeLessThan(0.02);
      expect(Math.abs(Math.abs(at) - 1)).toBeLessThan(0.1);
    }
    // Between unlike symbols it passes the middle, half a symbol on.
    const halfway = [...symbols.slice(0, -1)].flatMap((s, k) => (s !== symbols[k + 1] ? [Math.abs(between[2 * (k * within + within / 2)])] : [])); // prettier-ignore
    expect(halfway.length).toBeGreaterThan(80);
    expect(Math.max(...halfway)).toBeLessThan(0.4);
  });

  test('its level, magnitude and phase have numbers; a fall of the level is no error of the symbols', () => {
    const [still, falls] = [0, 0.01].map((droop) => read(keyed(150_000, droop).iq, asked).numbers);
    expect(Math.abs(still.droop)).toBeLessThan(1e-4);
    expect(falls.droop).toBeCloseTo(0.01, 4);
    expect(still.magnitude).toBeLessThan(0.5);
    expect(falls.magnitude).toBeLessThan(still.magnitude + 0.3);
    expect(still.rho).toBeGreaterThan(0.998);
    expect(still.mer).toBeGreaterThan(25);
    expect(still.evm95).toBeGreaterThan(still.evmRms);
    expect(still.evm95).toBeLessThan(still.evmPeak + 1e-9);
    for (const none of ['origin', 'imbalance', 'quadrature', 'snr'] as const) expect(still[none]).toBeNaN();
  });
});

describe('frequency keying', () => {
  const known = referenceCase('11_fsk_ask');
  known.inputs.fsk.forEach((item: Record<string, number> & { name: string }, i: number) =>
    test(item.name, () => {
      const want = known.expected.fsk[i];
      const sps = item.samples_per_symbol;
      let x = item.symbol_seed >>> 0;
      const draw = () => {
        x ^= x << 13;
        x ^= x >>> 17;
        x ^= x << 5;
        return (x >>>= 0) / 2 ** 32;
      };
      const bits = Array.from({ length: item.symbols }, () => Math.floor(2 * draw()));
      expect(bits).toEqual(want.bits);
      const n = sps * bits.length;
      const iq = new Float32Array(2 * n);
      const noise = new Random(77);
      let phase = 0;
      for (let k = 0; k < n; k++) {
        phase +=
          (2 * Math.PI * (item.centre_offset_hz + item.deviation_hz * (2 * bits[Math.floor(k / sps)] - 1))) /
          item.fs;
        iq[2 * k] = item.gain * Math.cos(phase) + item.noise_sigma * noise.gauss();
        iq[2 * k + 1] = item.gain * Math.sin(phase) + item.noise_sigma * noise.gauss();
      }
      const got = readFrequency(iq, item.fs, { levels: 2, symbolHz: item.fs / sps, index: null, bt: null })!;
      const text = bits.join('');
      const at = text.indexOf([...got.symbols].join(''));
      expect(at).toBeGreaterThanOrEqual(0);
      expect(at).toBeLessThan(4);
      expect(Math.abs(got.deviationHz / want.deviation_hz - 1)).toBeLessThan(0.01);
      expect(Math.abs(got.offsetHz - want.centre_offset_hz)).toBeLessThan(0.01 * item.deviation_hz);
      expect(got.index).toBeCloseTo(want.modulation_index, 1);
    }),
  );
  /** Phase that turns by levels; smoothed before the modulator where a Gaussian filter is. */
  function keyed(levels: number, index: number, snr: number, bt: number | null, seed = 4) {
    const random = new Random(seed);
    const sps = 12;
    const symbols = Array.from({ length: 300 }, () => Math.floor(random.uniform() * levels));
    const f = symbols.flatMap((s) => new Array<number>(sps).fill(((2 * s - (levels - 1)) * index) / 2 / sps));
    const sigma = bt === null ? 0 : (Math.sqrt(Math.LN2) / (2 * Math.PI * bt)) * sps;
    const smooth = f.map((_, i) => {
      if (!sigma) return f[i];
      let [v, w] = [0, 0];
      for (let k = -30; k <= 30; k++) {
        const g = Math.exp(-(k * k) / (2 * sigma * sigma));
        v += g * f[Math.max(0, Math.min(f.length - 1, i + k))];
        w += g;
      }
      return v / w;
    });
    let phase = 0.4;
    const iq = new Float32Array(2 * f.length);
    const s = 10 ** (-snr / 20) / Math.SQRT2;
    smooth.forEach((v, i) => {
      phase += 2 * Math.PI * (v + 0.002);
      iq[2 * i] = Math.cos(phase) + s * random.gauss();
      iq[2 * i + 1] = Math.sin(phase) + s * random.gauss();
    });
    return { iq, symbols, sps };
  }
  test.each([
    ['2-FSK', 2, 1, null],
    ['4-FSK', 4, 0.5, null],
    ['MSK', 2, 0.5, null],
    ['GMSK', 2, 0.5, 0.5],
    ['GMSK', 2, 0.5, 0.3],
  ] as const)(
    // prettier-ignore
    '%s of %i levels, index %d, BT %d: symbols, deviation, and the phase that they make',
    (scheme, levels, index, bt) => {
      const { iq, symbols, sps } = keyed(levels, index, 36, bt);
      const got = read(iq, {
        scheme,
        symbolHz: RATE / sps,
        rollOff: bt ?? 0.35,
        pulse: bt ? 'Gaussian' : 'rectangle',
        count: 280,
      });
      const text = symbols.join('');
      expect(text.indexOf([...got.symbols].join(''))).toBeGreaterThanOrEqual(0);
      const deviation = (index * (levels - 1) * (RATE / sps)) / 2;
      if (bt === null) expect(Math.abs(got.numbers.deviationHz / deviation - 1)).toBeLessThan(0.02);
      expect(Math.abs(got.numbers.offsetHz - 0.002 * RATE)).toBeLessThan(0.01 * deviation);
      expect(got.numbers.evmRms).toBeLessThan(8);
      expect(Number.isNaN(got.numbers.imbalance)).toBe(true);
    },
  );
});
