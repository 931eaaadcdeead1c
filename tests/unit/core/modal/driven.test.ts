import { describe, expect, test } from 'vitest';
import { FITS } from '$core/modal/fits';
import { fitted, overBlocks, prepared, solved, type FitSettings } from '$core/modal/analysis';
import { RINGS_BEFORE, keyOf, type DrivenOptions } from '$core/modal/driving';
import { driven } from '$core/modal/forced';
import { halfSpectra } from '$core/modal/half-spectra';
import { windowDecay, windowed } from '$core/modal/correlations';
import { multivariateIndicator, singularValues } from '$core/modal/indicators';
import { mac, type Shape } from '$core/modal/shape';
import { sampledOf } from '$core/samples/sampled';
import { rateFromHz } from '$core/time/rate';
import { ACCELEROMETERS, TRUE_MODES } from '../../../../demo/structure';
import { HAMMERS, MODAL_MASS, RANGE, drivenBy, inTurn, shakenBy, struck, type Strike } from '../../../../demo/struck'; // prettier-ignore

const RATE = 512;
const GO_ON = { aborted: false };
const QUIET = () => undefined;
const OPTIONS: DrivenOptions = {
  method: 'hit by hit',
  ...{ forces: 2, lags: 1024, factor: 2, left: 0.01, keepS: 0.05, level: 0.1, turned: new Set<string>() },
};
const SETTINGS: FitSettings = {
  band: { fromHz: 9, toHz: 55 },
  ...{ order: 80, method: FITS[0], residuals: 'both residuals', normalised: 'largest is 1' },
  tolerances: { frequency: 0.005, damping: 0.2, shape: 0.95 },
};
const truth = (k: number): Shape => ({
  re: Float64Array.from(TRUE_MODES[k].shape),
  im: new Float64Array(ACCELEROMETERS.length),
});
const record = (histories: Float32Array[], over: (i: number) => object = () => ({}), rate = RATE) => ({
  name: 'struck',
  fromS: 0,
  toS: null,
  responses: histories.map((values, i) => {
    const acceleration = i < ACCELEROMETERS.length;
    const name = acceleration ? ACCELEROMETERS[i].name : HAMMERS[i - ACCELEROMETERS.length].name;
    const head = { id: `${i}`, name, quantity: acceleration ? 'acceleration' : 'force', unit: acceleration ? 'm/s²' : 'N', rate: rateFromHz(rate), startNs: 0, width: 1, ...over(i) }; // prettier-ignore
    return sampledOf(head as never, values);
  }),
});
const go = (histories: Float32Array[], own: Partial<DrivenOptions> = {}, over?: (i: number) => object) =>
  driven([record(histories, over)], { ...OPTIONS, ...own }, QUIET, GO_ON);
const HITS = inTurn(8, 8);
let held: Float32Array[] | null = null;
const clean = () => (held ??= struck(1, 1 + HITS.length * 8, RATE, HITS, 0.005));

/** The frequency response of a true pair, (m/s²)/N. */
function trueResponse(i: number, h: number, hz: number, decay = 0): [number, number] {
  // s² over the mode’s own polynomial, at s = jω + decay of the window.
  const [sr, si] = [decay, 2 * Math.PI * hz];
  let [re, im] = [0, 0];
  TRUE_MODES.forEach(({ hz: f, damping, shape }, k) => {
    const w = 2 * Math.PI * f;
    const [s2r, s2i] = [sr * sr - si * si, 2 * sr * si];
    const [dr, di] = [s2r + 2 * damping * w * sr + w * w, s2i + 2 * damping * w * si];
    const scale = (shape[i] * drivenBy(k, h)) / MODAL_MASS / (dr * dr + di * di);
    re += scale * (s2r * dr + s2i * di);
    im += scale * (s2i * dr - s2r * di);
  });
  return [re, im];
}

describe('hits and the answers to them', () => {
  test('frequency responses are those of the structure, in their unit, each at its own place between the windows', () => {
    const got = go(struck(1, 1 + HITS.length * 8, RATE, HITS, 0.001));
    expect(got.hits.map((h) => [h.counts, h.force])).toEqual(HITS.map((h) => [true, h.hammer]));
    const decay = windowDecay(0.01, 1024, 2 / RATE);
    const lines = halfSpectra(windowed(got.set, decay));
    expect(lines.lags).toBeNull();
    for (let i = 0; i < 16; i++)
      for (const h of [0, 1]) {
        let [off, all] = [0, 0];
        lines.hz.forEach((hz, k) => {
          if (hz < 9 || hz > 55) return;
          const [re, im] = trueResponse(i, h, hz, decay);
          const at = (i * 2 + h) * lines.hz.length + k;
          off += (lines.re[at] - re) ** 2 + (lines.im[at] - im) ** 2;
          all += re * re + im * im;
        });
        expect(Math.sqrt(off / all), `${ACCELEROMETERS[i].name} to ${HAMMERS[h].name}`).toBeLessThan(0.01);
      }
    expect(got.reachHz[0]).toBeGreaterThan(90);
  });

  test.each([1, 2, 3])(
    'seed %i: both fits find all modes of the structure that is struck, the weak one too',
    (seed) => {
      const got = go(struck(seed, 1 + HITS.length * 8, RATE, HITS, 0.005));
      modesAreFound(got, 0.01);
    },
  );

  test('a force that goes on at two places at once: the same modes by segments', () => {
    const own = { method: 'by segments of a lasting force', lags: 1024, factor: 1 } as const;
    const got = driven(
      [record(shakenBy(5, 600, 160, 40), undefined, 160)],
      { ...OPTIONS, ...own },
      QUIET,
      GO_ON,
    );
    expect(got.hits).toEqual([]);
    expect(got.pieces).toBe(Math.floor((600 * 160) / 1024) - 1);
    // What both forces explain together; either alone explains a part.
    const n = 513;
    const mean = (k: number) =>
      got.coherence.subarray(k * n + 60, k * n + 350).reduce((a, v) => a + v, 0) / 290;
    for (let pair = 0; pair < 32; pair++) expect(mean(pair)).toBeGreaterThan(0.8);
    modesAreFound(got, 0.05, 0.002);
  });

  /** @param within share of frequency: what noise leaves open of a force that goes on */
  function modesAreFound(got: ReturnType<typeof go>, left: number, within = 0.001) {
    const basis = { set: got.set, references: [16, 17], left, powers: got.powers };
    const ready = prepared(basis);
    for (const method of FITS.slice(0, 2)) {
      const settings = { ...SETTINGS, method };
      const fit = fitted(ready, basis.references, settings);
      const picks = fit.clusters.map((c) => c.best);
      const { modes, metAll } = solved(basis, ready, fit, settings, picks, null);
      const report = modes.map((m) => `${m.pole.hz.toFixed(3)} ${(100 * m.pole.damping).toFixed(2)} %`).join(', '); // prettier-ignore
      TRUE_MODES.forEach((mode, k) => {
        const near = modes.filter((m) => Math.abs(m.pole.hz / mode.hz - 1) < within);
        const best = near.sort((a, b) => mac(b.shape, truth(k)) - mac(a.shape, truth(k)))[0];
        expect(best, `${method}: ${mode.hz} Hz among ${report}`).toBeDefined();
        expect(Math.abs(best.pole.damping / mode.damping - 1), `${method}: damping of ${mode.hz} Hz, ${report}`).toBeLessThan(0.1); // prettier-ignore
        expect(mac(best.shape, truth(k)), `${method}: shape of ${mode.hz} Hz`).toBeGreaterThan(0.95);
        expect(best.harmonic.is).toBe(false);
      });
      expect(metAll).toBeGreaterThan(0.98);
    }
  }

  test('the window’s percentage moves no damping, and how long the force counts moves no level', () => {
    const histories = struck(7, 65, RATE, inTurn(4, 8), 0);
    const at = (left: number, keepS: number) => {
      const got = go(histories, { left, keepS });
      const ready = prepared({ set: got.set, references: [16, 17], left, powers: got.powers });
      const fit = fitted(ready, [16, 17], SETTINGS);
      return {
        fit,
        sum: got.set.values.reduce((a, v, k) => a + (k % 1024 < 1024 - RINGS_BEFORE ? v * v : 0), 0),
      };
    };
    const [weak, strong] = [at(0.5, 0.05), at(0.001, 0.4)];
    expect(strong.sum / weak.sum).toBeCloseTo(1, 1);
    for (const { fit } of [weak, strong])
      TRUE_MODES.forEach(({ hz, damping }) => {
        const near = fit.clusters.map((c) => fit.orders.find((o) => o.order === c.best.order)!.poles[c.best.index]); // prettier-ignore
        const pole = near.find((p) => Math.abs(p.hz / hz - 1) < 3e-4 && Math.abs(p.damping / damping - 1) < 0.02); // prettier-ignore
        expect(pole, `${hz} Hz among ${near.map((p) => `${p.hz} ${p.damping}`)}`).toBeDefined();
      });
  });

  test('± by leaving hits out covers how far the truth is away; it is small', () => {
    const got = go(clean());
    expect(got.blocks).toHaveLength(8);
    const basis = { set: got.set, references: [16, 17], left: 0.01, powers: got.powers };
    const fit = fitted(prepared(basis), [16, 17], SETTINGS);
    const [picks, modes] = [fit.clusters.map((c) => c.best), TRUE_MODES];
    const spread = overBlocks(basis, got.blocks, fit, SETTINGS, picks, null, QUIET, GO_ON);
    spread.forEach((own, k) => {
      const pole = fit.orders.find((o) => o.order === picks[k].order)!.poles[picks[k].index];
      const mode = modes.reduce((a, b) => (Math.abs(b.hz - pole.hz) < Math.abs(a.hz - pole.hz) ? b : a));
      expect(own, `${pole.hz} Hz`).not.toBeNull();
      expect(own!.hz).toBeLessThan(0.002 * mode.hz);
      expect(Math.abs(pole.hz - mode.hz)).toBeLessThan(5 * own!.hz + 3e-4 * mode.hz);
    });
  });

  test('mode indicators: singular values rise and the least quadrature dips at the modes', () => {
    const { set } = go(clean());
    const lines = halfSpectra(windowed(set, windowDecay(0.01, 1024, 2 / RATE)));
    const [highest, second] = singularValues(lines, []);
    const [indicator] = multivariateIndicator(lines, set.driven!.resonant);
    const line = (hz: number) => Math.round(hz / lines.hz[1]);
    for (const hz of [12.5, 17.5, 24.2, 47.3]) {
      const about = Array.from({ length: 9 }, (_, k) => line(hz) - 4 + k);
      const [peak, dip] = [about.reduce((a, b) => (highest[b] > highest[a] ? b : a)), about.reduce((a, b) => (indicator[b] < indicator[a] ? b : a))]; // prettier-ignore
      expect(Math.abs(lines.hz[peak] - hz)).toBeLessThan(1.5 * lines.hz[1]);
      expect(Math.abs(lines.hz[dip] - hz)).toBeLessThan(1.5 * lines.hz[1]);
      expect(indicator[dip]).toBeLessThan(0.15);
    }
    // The largest singular value at a line is the largest gain that any mixture of forces has.
    const [k, n] = [line(31.4), lines.hz.length];
    let all = 0;
    for (let p = 0; p < 32; p++) all += lines.re[p * n + k] ** 2 + lines.im[p * n + k] ** 2;
    expect((highest[k] ** 2 + second[k] ** 2) / all).toBeCloseTo(1, 9);
    for (const angle of [0, 0.5, 1, 1.5, 2, 2.5]) {
      const [a, b] = [Math.cos(angle), Math.sin(angle)];
      let gain = 0;
      for (let i = 0; i < 16; i++)
        gain += (a * lines.re[2 * i * n + k] + b * lines.re[(2 * i + 1) * n + k]) ** 2 + (a * lines.im[2 * i * n + k] + b * lines.im[(2 * i + 1) * n + k]) ** 2; // prettier-ignore
      expect(Math.sqrt(gain)).toBeLessThanOrEqual(highest[k] * (1 + 1e-9));
    }
  });
});

describe('hits that do not count', () => {
  const list: Strike[] = [
    { atS: 1, hammer: 0, newtons: 180 },
    { atS: 9, hammer: 0, newtons: 170, bounces: 0.12 },
    { atS: 17, hammer: 0, newtons: 900 },
    { atS: 25, hammer: 0, newtons: 120 },
    { atS: 33, hammer: 0, newtons: 200 },
    { atS: 41, hammer: 0, newtons: 60 },
    { atS: 49, hammer: 0, newtons: 160 },
  ];
  // Struck by one hammer alone.
  const one = (histories: Float32Array[]) => histories.slice(0, 17);
  const own = { forces: 1 };
  const histories = one(struck(3, 52, RATE, list, 0.005));

  test('a second strike, one over range, and one whose answer was not recorded to its end are named and left out', () => {
    const got = go(histories, own);
    expect(got.hits.map((h) => [Math.round(h.atS), h.counts, h.faults])).toEqual([
      [1, true, []],
      [9, false, ['struck twice']],
      [17, false, ['over range']],
      [25, true, []],
      [33, true, []],
      [41, true, []],
      [49, false, ['cut short']],
    ]);
    expect([got.pieces, got.skipped]).toEqual([4, 3]);
    const [, , , fourth] = got.hits;
    expect(fourth.peak).toBeGreaterThan(110);
    expect(fourth.peak).toBeLessThan(125);
    // Half a sine of 9 ms is over its half for two thirds of it.
    expect(fourth.widthS).toBeGreaterThan(0.004);
    expect(fourth.widthS).toBeLessThan(0.009);
    // What the filter makes of a flat top rings beyond it.
    expect(Math.max(...got.hits[2].course)).toBeGreaterThan(0.98 * RANGE);
    expect(Math.max(...got.hits[2].course)).toBeLessThan(1.2 * RANGE);
  });

  test('each can be taken in or left out by hand, but for those that are not whole', () => {
    const { hits } = go(histories, own);
    const turned = new Set([keyOf(hits[0]), keyOf(hits[1]), keyOf(hits[6])]);
    const got = go(histories, { ...own, turned });
    expect(got.hits.map((h) => h.counts)).toEqual([false, true, false, true, true, true, false]);
    // One that struck twice is as good as another: all of its force is known.
    const wide = go(histories, { ...own, turned, keepS: 1 });
    const level = (g: typeof got) => Math.sqrt(g.set.values.reduce((a, v) => a + v * v, 0));
    expect(level(wide) / level(go(histories, own))).toBeCloseTo(1, 1);
  });

  test('a lower level finds weaker strikes; a strike within the frame of another is no hit of its own', () => {
    expect(go(histories, { ...own, level: 0.35 }).hits).toHaveLength(5);
    expect(go(histories, own).says.join(' ')).not.toContain('Before a hit');
    const soon = one(struck(4, 18, RATE, Array.from({ length: 6 }, (_, k) => ({ atS: 1 + 2.5 * k, hammer: 0, newtons: 150 })), 0)); // prettier-ignore
    expect(go(soon, { ...own, lags: 512 }).says.join(' ')).toMatch(
      /Before a hit the answers already have \d+ %/,
    );
    const quick = one(struck(4, 12, RATE, [{ atS: 1, hammer: 0, newtons: 100 }, { atS: 3, hammer: 0, newtons: 100 }], 0.005)); // prettier-ignore
    // Its list of hits could not be seen, and none let in, if a first look were refused.
    const wanting = go(quick, own);
    expect(wanting.hits.map((h) => [h.counts, h.faults])).toEqual([[true, ['struck twice']]]);
    expect(wanting.notes).toEqual([expect.stringMatching(/^Before one sample of 2 was kept: a low-pass/)]);
    expect(wanting.says.join(' ')).not.toContain('was kept');
    expect(wanting.says).toContain('Each hit of Hammer, nacelle has something against it (1 struck twice); it counts for want of others: strike again, or follow them for fewer samples.'); // prettier-ignore
  });

  test('hits count for want of others by their force alone, only whole ones, and no longer once one is good', () => {
    const list = (good: boolean): Strike[] => [
      { atS: 1, hammer: 0, newtons: 170, bounces: 0.12 },
      { atS: 9, hammer: 0, newtons: 160, bounces: 0.12 },
      { atS: 17, hammer: 1, newtons: 150 },
      { atS: 25, hammer: 1, newtons: 140, bounces: 0.12 },
      ...(good ? [{ atS: 33, hammer: 0, newtons: 150 }] : []),
    ];
    const [bad, good] = [false, true].map((g) => struck(3, g ? 44 : 34, RATE, list(g), 0.005));
    const got = go(bad);
    expect(got.hits.map((h) => h.counts)).toEqual([true, true, true, false]);
    expect(got.says.join(' ')).toMatch(/Each hit of Hammer, nacelle .*\(2 struck twice\); 2 count for want of others/); // prettier-ignore
    // Leaving one of them out leaves the other in; both out is none.
    const keys = got.hits.map(keyOf);
    expect(go(bad, { turned: new Set([keys[0]]) }).hits.map((h) => h.counts)).toEqual([false, true, true, false]); // prettier-ignore
    expect(() => go(bad, { turned: new Set(keys.slice(0, 2)) })).toThrow(/None by .* counts: 2 struck twice/); // prettier-ignore
    const now = go(good);
    expect(now.hits.map((h) => h.counts)).toEqual([false, false, true, false, true]);
    expect(now.says.join(' ')).not.toContain('for want');
    const gap = bad.map((h) => h.slice());
    gap[5][Math.round(1.5 * RATE)] = NaN;
    expect(go(gap).hits.map((h) => h.counts)).toEqual([false, true, true, false]);
  });

  test('a clipped accelerometer, a gap, and one that does not move are said', () => {
    const [clipped, gap, dead] = [0, 1, 2].map(() => histories.map((h) => h.slice()));
    // At six tenths of what the hardest strike that counts makes.
    const end = 0.6 * clipped[0].subarray(33 * RATE, 34 * RATE).reduce((a, v) => Math.max(a, Math.abs(v)), 0);
    clipped[0] = clipped[0].map((v) => Math.max(-end, Math.min(end, v)));
    const got = go(clipped, own);
    expect(got.hits.map((h) => [h.faults.includes('over range'), h.counts]).slice(2, 5)).toEqual([[true, false], [false, true], [true, false]]); // prettier-ignore
    const all = new Set(got.hits.filter((h) => h.faults.length).map(keyOf));
    expect(go(clipped, { ...own, turned: all }).says.join(' ')).toMatch(
      /Nacelle fore–aft stands at its largest value \d+ times/,
    );
    gap[5][26 * RATE] = NaN;
    expect(go(gap, own).hits[3]).toMatchObject({ counts: false, faults: ['a sample is missing'] });
    dead[5].fill(0);
    expect(go(dead, own).says.join(' ')).toContain('Pylon side does not move');
  });

  test('hits of several recordings are averaged, and that is said; of one recording in parts it is not', () => {
    const whole = { ...record(histories), name: 'first' };
    const both = driven([whole, { ...whole, name: 'second' }], { ...OPTIONS, ...own }, QUIET, GO_ON);
    const alone = driven([whole], { ...OPTIONS, ...own }, QUIET, GO_ON);
    expect([both.pieces, alone.pieces]).toEqual([8, 4]);
    // The same hits twice are the same in the mean.
    both.set.values.forEach((v, k) => expect(Math.abs(v - alone.set.values[k])).toBeLessThan(1e-6 * Math.abs(alone.set.values[0]) + 1e-9)); // prettier-ignore
    expect(both.notes.join(' ')).toContain('2 recordings are averaged, as driven at one place of each force');
    const parts = driven([{ ...whole, toS: 24 }, { ...whole, fromS: 24 }], { ...OPTIONS, ...own }, QUIET, GO_ON); // prettier-ignore
    expect(parts.notes.join(' ')).not.toContain('recordings are averaged');
    expect(parts.hits.filter((h) => h.counts).length).toBeGreaterThanOrEqual(3);
  });

  test('one that strikes nothing, one of another rate, no force and too little are refused with what to do', () => {
    const still = histories.map((h, i) => (i === 16 ? h.map((_, k) => 0.01 * Math.sin(k)) : h));
    expect(() => go(still, own)).toThrow(/No force stands out of its noise/);
    expect(() => go(histories, own, (i) => (i === 16 ? { rate: rateFromHz(100) } : {}))).toThrow(/choose responses of one rate/); // prettier-ignore
    expect(() => go(histories, { forces: 0 })).toThrow(/force/);
    const lasting = { ...own, method: 'by segments of a lasting force' } as const;
    expect(() => go(histories, { ...lasting, lags: 16384 })).toThrow(/A segment needs 32768/);
    const both = [...histories, histories[16].map((v) => 2 * v)];
    expect(() => go(both, { ...lasting, forces: 2, lags: 256 })).toThrow(/They do the same all the time/);
    const silent = histories.map((h, i) => (i === 16 ? h.map(() => 0) : h));
    expect(() => go(silent, { ...lasting, lags: 256 })).toThrow(/does not act at all/);
    expect(() => driven([record(histories)], { ...OPTIONS, forces: 1 }, QUIET, { aborted: true })).toThrow(/cancel/i); // prettier-ignore
  });

  test('forces in another unit are brought to the first’s; velocities are in resonance in their real part', () => {
    const kilo = histories.map((h, i) => (i === 16 ? h.map((v) => v / 1000) : h));
    const [a, b] = [go(histories, own), go(kilo, own, (i) => (i === 16 ? { unit: 'kN' } : {}))];
    // The first force is its own measure: answers to a kilonewton are a thousand times larger.
    expect(b.set.values[3] / a.set.values[3]).toBeCloseTo(1000, 0);
    expect(a.set.driven).toEqual({ resonant: 'im' });
    const moving = go(histories, own, (i) => (i < 16 ? { unit: 'm/s' } : {}));
    expect(moving.set.driven).toEqual({ resonant: 're' });
  });
});
