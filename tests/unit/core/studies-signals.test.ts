import { describe, expect, test } from 'vitest';
import { orderBlocks } from '$core/rotation/orders';
import { shaftOfPulses } from '$core/rotation/shaft';
import { recipeSamples, referenceCase, within } from '../../reference';
import { signalOf, studied, takeOf, timed } from '../studies';

const HZ = 1000;
const tone =
  (hz: number, amplitude = 1) =>
  (t: number) =>
    amplitude * Math.sin(2 * Math.PI * hz * t);
const noise = (seed: number, n: number) =>
  recipeSamples({ fs: 1, n, terms: [{ kind: 'gauss12', sigma: 1, seed, rng: 'xorshift32' }] });
const lineOf = (mark: { mark: string }) =>
  mark as unknown as { x: { from: number; step: number }; y: Float64Array };

describe('frequency response', () => {
  const x = noise(21, 20_000);
  /** Answers half as large, two samples later. */
  const y = x.map((_, i) => 0.5 * (x[i - 2] ?? 0));
  const take = (extra = {}) =>
    takeOf({
      reference: [signalOf('Force', x, { hz: HZ, unit: 'N' })],
      responses: [signalOf('Answer', y, { hz: HZ, unit: 'm/s²' })],
      ...extra,
    });
  test('a delay of two samples turns the phase in proportion, and halves; nothing else is there: coherence 1', () => {
    const r = studied('frequency-response', take(), { length: 512, responses: ['Answer'] });
    const [magnitude, phase, coherence] = r.figures.map((f) => lineOf(f.marks[0]));
    for (const hz of [50, 125, 200]) {
      const k = Math.round(hz / magnitude.x.step) - 1;
      expect(magnitude.y[k]).toBeCloseTo(0.5, 2);
      expect(phase.y[k]).toBeCloseTo(-360 * (k + 1) * magnitude.x.step * 0.002, 0);
      expect(coherence.y[k]).toBeGreaterThan(0.999);
    }
    expect(r.findings[0].unit).toBe('m/s²/N');
  });
  test('noise on the response lowers H1 by nothing, H2 raises it; the random error says how far it scatters', () => {
    const added = noise(22, 20_000);
    const noisy = signalOf('Answer', y.map((v, i) => v + 0.5 * added[i]), { hz: HZ, unit: 'm/s²' }); // prettier-ignore
    const of = (estimate: string) =>
      studied('frequency-response', take({ responses: [noisy] }), {
        estimate,
        responses: ['Answer'],
        length: 256,
      });
    const mean = (r: ReturnType<typeof of>) => {
      const { y: m } = lineOf(r.figures[0].marks[0]);
      return m.slice(5, 100).reduce((a, b) => a + b, 0) / 95;
    };
    expect(mean(of('H1'))).toBeCloseTo(0.5, 1);
    expect(mean(of('H2'))).toBeGreaterThan(0.9);
    const random = of('H1').table('Highest lines')[0]['± random'] as number;
    const { y: m } = lineOf(of('H1').figures[0].marks[0]);
    const spread = Math.sqrt(m.slice(5, 100).reduce((s, v) => s + (v - 0.5) ** 2, 0) / 95) / 0.5;
    expect((2 * spread * 100) / random).toBeGreaterThan(0.6);
    expect((2 * spread * 100) / random).toBeLessThan(1.6);
  });
  test('rates that differ are refused by name; real and imaginary part are the same complex numbers', () => {
    const slow = signalOf('Slow', [1, 2, 3], { hz: 10 });
    expect(() => studied('frequency-response', take({ responses: [slow] }), { responses: ['Slow'] })).toThrow(
      /Slow at 10 S\/s/,
    );
    expect(() => studied('frequency-response', take({ responses: [slow] }))).toThrow(/No other channel/);
    const polar = studied('frequency-response', take(), { length: 256 });
    const parts = studied('frequency-response', take(), { length: 256, shown: 'real and imaginary part' });
    const at = 30;
    expect(Math.hypot(lineOf(parts.figures[0].marks[0]).y[at], lineOf(parts.figures[1].marks[0]).y[at])).toBeCloseTo(lineOf(polar.figures[0].marks[0]).y[at], 9); // prettier-ignore
  });
});

describe('spectrum over time', () => {
  const sweep = signalOf(
    'Sweep',
    timed(HZ, 8, (t) => Math.sin(2 * Math.PI * (50 * t + 12.5 * t * t))),
    { hz: HZ },
  );
  test('a sweep is followed: the strongest line of each slice is its frequency then', () => {
    const r = studied('spectrum-over-time', takeOf({ channel: [sweep] }), { length: 256 });
    for (const row of r.table('Strongest line of each slice'))
      expect(Math.abs((row.Frequency as number) - (50 + 25 * (row.Time as number)))).toBeLessThan(5);
    expect(r.figures).toHaveLength(3);
  });
  test('the cuts are those of the picture at the moment and the line that are named', () => {
    const r = studied('spectrum-over-time', takeOf({ channel: [sweep] }), {
      length: 256,
      moment: 4,
      line: 100,
      upTo: 300,
    });
    const across = lineOf(r.figures[1].marks[0]);
    const peak = across.y.indexOf(Math.max(...across.y));
    expect(Math.abs(across.x.from + peak * across.x.step - 150)).toBeLessThan(5);
    const along = lineOf(r.figures[2].marks[0]);
    const when = along.y.indexOf(Math.max(...along.y));
    expect(Math.abs(along.x.from + when * along.x.step - 2)).toBeLessThan(0.2);
    expect(across.y.length * across.x.step).toBeLessThanOrEqual(300);
  });
});

describe('orders', () => {
  const reference = referenceCase('19_order_tracking');
  const samples = recipeSamples(reference.inputs.recipe);
  test('meets the reference case: amplitude and phase of each order, none where none is', () => {
    const { edges_s, first_revolution, revolutions, orders } = reference.inputs;
    const { blocks } = orderBlocks(samples, 0, 4096, shaftOfPulses(edges_s, 1), { highest: 10, revolutions, overlap: 0.5, window: 'rectangular' }); // prettier-ignore
    // Blocks begin every 16 revolutions; the one that is asked for begins at another: its neighbours hold the same constant orders.
    const block = blocks.find((b) => b.from >= first_revolution)!;
    orders.forEach((order: number, i: number) => {
      const k = order * revolutions;
      within(block.amplitude[k], reference.expected.amplitude[i], reference, 'amplitude');
      if (reference.expected.phase[i] === undefined) return;
      const turned = block.phase[k] - reference.expected.phase[i] - 2 * Math.PI * order * block.from;
      expect(Math.abs(Math.atan2(Math.sin(turned), Math.cos(turned)))).toBeLessThan(0.02);
    });
  });
  const rpm = (t: number) => 300 + 60 * t;
  const angle = (t: number) => 2 * Math.PI * (5 * t + 0.5 * t * t);
  const shaken = signalOf('Nacelle', timed(HZ, 10, (t) => 2 * Math.sin(3 * angle(t)) + 0.5 * Math.sin(angle(t) + 1)), { hz: HZ, unit: 'm/s²' }); // prettier-ignore
  const speed = signalOf('Shaft speed', timed(100, 10.02, rpm), { hz: 100, unit: 'rpm' });
  test('by a speed channel: cuts hold the amplitudes over the run-up, the strongest order is named', () => {
    const r = studied('orders', takeOf({ channel: [shaken], speed: [speed] }), {
      speed: 'x',
      window: 'rectangular',
    });
    expect(r.finding('Strongest order')).toBe(3);
    for (const row of r.table('Cuts')) {
      expect(row['Order 3'] as number).toBeCloseTo(2, 1);
      expect(row['Order 1'] as number).toBeCloseTo(0.5, 1);
      expect(row['Order 2'] as number).toBeLessThan(0.05);
      expect(row.Speed as number).toBeCloseTo(rpm(row.Time as number), -1);
    }
  });
  test('by pulses: the mean over a revolution holds what turns with the shaft, noise goes', () => {
    const n = noise(31, 10_000);
    const noisy = signalOf('Nacelle', timed(HZ, 10, (t) => Math.cos(2 * angle(t)) + 0.5 * n[Math.round(t * HZ)]), { hz: HZ, unit: 'm/s²' }); // prettier-ignore
    const pulses = signalOf('Pulse', timed(10_000, 10, (t) => ((angle(t) / (2 * Math.PI)) % 1 < 0.1 ? 5 : 0)), { hz: 10_000, unit: 'V' }); // prettier-ignore
    const r = studied('orders', takeOf({ channel: [noisy], pulses: [pulses] }), { pulses: 'x' });
    const mean = lineOf(r.figures[2].marks[0]).y;
    const worst = Math.max(...mean.map((v, deg) => Math.abs(v - Math.cos((4 * Math.PI * deg) / 360))));
    expect(worst).toBeLessThan(0.25);
    expect(r.finding('Revolutions')).toBeGreaterThan(95);
  });
  test('without pulses, speed or enough revolutions it says what to do', () => {
    expect(() => studied('orders', takeOf({ channel: [shaken] }))).toThrow(/Choose a speed channel/);
    const still = signalOf(
      'P',
      timed(100, 10, () => 0),
      { hz: 100, unit: 'V' },
    );
    expect(() => studied('orders', takeOf({ channel: [shaken], pulses: [still] }), { pulses: 'x' })).toThrow(
      /pass 2\.5 V/,
    );
    expect(() =>
      studied('orders', takeOf({ channel: [shaken], speed: [speed] }), { revolutions: 32, to: 2 }),
    ).toThrow(/A block needs 32/);
    expect(() => studied('orders', takeOf({ channel: [shaken], speed: [speed] }), { cuts: '1.3' })).toThrow(
      /0\.25 apart/,
    );
    const back = signalOf(
      'Speed',
      timed(100, 10, (t) => 100 - 20 * t),
      { hz: 100, unit: 'rpm' },
    );
    expect(() => studied('orders', takeOf({ channel: [shaken], speed: [back] }))).toThrow(/other way/);
  });
});

describe('shock, pulses, relation', () => {
  test('a shock response names its highest line, and refuses what was not sampled', () => {
    const bump = timed(HZ * 8, 0.1, (t) =>
      t >= 0.005 && t < 0.016 ? 50 * Math.sin((Math.PI * (t - 0.005)) / 0.011) : 0,
    );
    const take = takeOf({ channel: [signalOf('Base', bump, { hz: HZ * 8, unit: 'm/s²' })] });
    const r = studied('shock', take);
    expect(r.finding('Largest response')).toBeGreaterThan(80);
    expect(r.finding('Largest response')).toBeLessThan(85);
    expect(() => studied('shock', take, { highest: 9000 })).toThrow(/Half the sample rate/);
    expect(() => studied('shock', take, { highest: 5 })).toThrow(/above the lowest/);
  });
  test('pulses are counted between levels found by themselves; a signal without two says so', () => {
    const train = Array.from({ length: 2000 }, (_, i) => (i % 200 >= 50 && i % 200 < 100 ? 5 : 0));
    const r = studied('pulses', takeOf({ channel: [signalOf('Gate', train, { hz: HZ, unit: 'V' })] }));
    expect(r.finding('Pulses')).toBe(10);
    expect(r.finding('Width')).toBeCloseTo(0.05, 6);
    expect(r.finding('Repetition')).toBeCloseTo(0.2, 6);
    const flat = takeOf({
      channel: [
        signalOf(
          'Gate',
          timed(HZ, 1, () => 3),
          { hz: HZ },
        ),
      ],
    });
    expect(() => studied('pulses', flat)).toThrow(/no two levels/);
    expect(() => studied('pulses', takeOf({ channel: [signalOf('G', timed(HZ, 1, (t) => t), { hz: HZ })] }))).toThrow(/no whole pulse|no two/); // prettier-ignore
  });
  test('a channel made from another is explained wholly, with its lag; what is left is drawn', () => {
    const wave = timed(HZ, 4, (t) => tone(1.3)(t) + 0.4 * tone(3.1)(t));
    const follows = wave.map((_, i) => 3 + 2 * (wave[i - 25] ?? wave[0]));
    const take = takeOf({
      channel: [signalOf('Late', follows, { hz: HZ, unit: 'mm' })],
      inputs: [signalOf('Early', wave, { hz: HZ })],
    });
    const r = studied('relation', take, { inputs: ['Early'] });
    expect(r.finding('Fits best later by')).toBeCloseTo(0.025, 3);
    expect(r.finding('Explained')).toBeLessThan(99);
    const now = studied('relation', takeOf({ channel: [signalOf('Same', wave.map((v) => 3 + 2 * v), { hz: HZ, unit: 'mm' })], inputs: [signalOf('Early', wave, { hz: HZ })] }), { inputs: ['Early'] }); // prettier-ignore
    expect(now.finding('A step of Early makes')).toBeCloseTo(2, 5);
    expect(now.finding('Offset')).toBeCloseTo(3, 5);
    expect(now.finding('Explained')).toBeCloseTo(100, 6);
    expect(Math.max(...lineOf(now.figures[1].marks[0]).y)).toBeLessThan(1e-5);
  });
});

describe('levels in bands', () => {
  const HZ = 8192;
  const shaken = (unit: string, amplitude: number, hz = 160) =>
    takeOf({ channel: [signalOf('Casing', timed(HZ, 8, tone(hz, amplitude)), { hz: HZ, unit })] });
  test('a tone lies in its band, with its rms; the bands together hold it all', () => {
    const r = studied('bands', shaken('m/s²', 3));
    expect(r.findings.find((f) => f.label === 'Strongest band')!.note).toBe('160 Hz');
    expect(r.finding('All bands')).toBeCloseTo(3 / Math.SQRT2, 2);
    const db = studied('bands', shaken('m/s²', 3), { shown: 'dB', reference: 1e-6 });
    expect(db.finding('All bands')).toBeCloseTo(20 * Math.log10(3 / Math.SQRT2 / 1e-6), 1);
  });
  test('vibration severity: velocity from acceleration, in mm/s, from m/s² and from g alike', () => {
    const severity = { as: 'velocity', bands: 'one band' };
    const expected = (9.80665 / (2 * Math.PI * 160) / Math.SQRT2) * 1000;
    const levels = [shaken('m/s²', 9.80665), shaken('g', 1)].map((t) =>
      studied('bands', t, severity).finding('Level'),
    );
    for (const level of levels) expect(Math.abs(level / expected - 1)).toBeLessThan(0.01);
    expect(() => studied('bands', shaken('mm', 1), severity)).toThrow(/acceleration/);
  });
  test('A lowers a tone of 160 Hz as its weighting says; what is not sampled is refused', () => {
    const level = (weighting: string) =>
      studied('bands', shaken('Pa', 1), { weighting, shown: 'dB', reference: 2e-5 }).finding('All bands');
    expect(level('A') - level('Z')).toBeCloseTo(-13.24, 1);
    expect(() => studied('bands', shaken('Pa', 1), { lowest: 5000, highest: 9000 })).toThrow(/4096 Hz/);
    expect(() => studied('bands', shaken('Pa', 1), { highest: 5 })).toThrow(/above 10/);
    expect(() => studied('bands', shaken('Pa', 1), { length: 65536, to: 1 })).toThrow(/shorter segment/);
  });
});

describe('events', () => {
  const load = signalOf(
    'Load',
    timed(100, 20, (t) => (t % 5 >= 1 && t % 5 < 1.5 ? 10 : 0)),
    { hz: 100 },
  );
  const heat = signalOf(
    'Heat',
    timed(10, 20, (t) => t),
    { hz: 10, unit: '°C' },
  );
  const take = takeOf({ channel: [load], others: [heat] });
  const above = { level: 5, others: ['Heat'] };
  test('each span has its duration, the way to the next, and the statistics of a slower channel', () => {
    const r = studied('events', take, above);
    expect(r.finding('Events')).toBe(4);
    expect(r.finding('Holds for')).toBeCloseTo(2, 1);
    expect(r.finding('From one to the next')).toBeCloseTo(5, 1);
    const rows = r.table('Events');
    rows.forEach((row, k) => {
      expect(row.From).toBeCloseTo(1 + 5 * k, 1);
      expect(row.Lasts).toBeCloseTo(0.5, 1);
      expect(row['Heat, lowest']).toBeGreaterThanOrEqual(1 + 5 * k - 0.11);
      expect(row.highest).toBeLessThanOrEqual(1.5 + 5 * k);
    });
  });
  test('one that holds already at the beginning counts, one that still holds at the end is said to', () => {
    const r = studied('events', take, { test: 'is below', level: 5 });
    expect(r.finding('Events')).toBe(5);
    const rows = r.table('Events');
    expect(rows[0].From).toBe(0);
    expect(rows.at(-1)!.Ends).toBe('with the span');
    expect(rows[0].Ends).toBe('by itself');
  });
  test('short ones are left out, noise within the hysteresis ends none, a gap neither', () => {
    expect(studied('events', take, { ...above, least: 0.6 }).finding('Events')).toBe(0);
    const rough = signalOf('Load', timed(100, 4, (t) => (t >= 1 && t < 3 ? (t > 1.5 && t < 1.6 ? NaN : 5.2 + 0.4 * Math.sin(900 * t)) : 0)), { hz: 100 }); // prettier-ignore
    const of = (hysteresis: number) =>
      studied('events', takeOf({ channel: [rough], others: [] }), { level: 5, hysteresis });
    expect(of(0).finding('Events')).toBeGreaterThan(3);
    expect(of(1).finding('Events')).toBe(1);
    expect(of(1).finding('Missing')).toBe(9);
  });
});

describe('statistics by blocks', () => {
  test('each block is its own; the mean is as sure as the scatter of its blocks', () => {
    const values = noise(41, 20_000).map((v) => 5 + v);
    const take = takeOf({ channel: [signalOf('Load', values, { hz: HZ })] });
    const r = studied('blocks', take, { block: 0.5 });
    const rows = r.table('Blocks');
    expect(rows).toHaveLength(40);
    const third = values.slice(1000, 1500);
    expect(rows[2].Mean).toBeCloseTo(third.reduce((a, b) => a + b, 0) / 500, 5);
    expect(rows[2].Highest).toBeCloseTo(Math.max(...third), 5);
    expect(rows[2].Middle).toBeCloseTo(1.25, 9);
    // White noise: the standard error of the mean is s / √n.
    expect(r.finding('Sure by statistics to') / (2.02 / Math.sqrt(20_000))).toBeGreaterThan(0.7);
    expect(r.finding('Sure by statistics to') / (2.02 / Math.sqrt(20_000))).toBeLessThan(1.4);
    expect(r.finding('Mean')).toBeCloseTo(5, 1);
  });
  test('a slow drift makes the mean less sure than its samples would have it', () => {
    const drift = timed(HZ, 20, (t) => Math.sin(t / 3));
    const sure = studied('blocks', takeOf({ channel: [signalOf('Load', drift, { hz: HZ })] })).finding(
      'Sure by statistics to',
    );
    expect(sure).toBeGreaterThan(0.1);
  });
  test('running ones overlap; wrong lengths say what to choose; gaps are told', () => {
    const values = timed(HZ, 4, (t) => (t > 1 && t < 2 ? NaN : t));
    const take = takeOf({ channel: [signalOf('Load', values, { hz: HZ })] });
    const r = studied('blocks', take, { block: 1, step: 0.25 });
    expect(r.table('Blocks')).toHaveLength(13);
    expect(r.finding('Missing')).toBeGreaterThan(900);
    expect(() => studied('blocks', take, { block: 5 })).toThrow(/shorter blocks/);
    expect(() => studied('blocks', take, { block: 0.0001 })).toThrow(/0\.002 s or more/);
    expect(() => studied('blocks', take, { block: 0.001, step: 0.0001 })).toThrow(/holds no sample/);
  });
});
