import { describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import { dbm } from '$core/radio/levels';
import { peakAt, peaksOf } from '$core/radio/peaks';
import type { BandRequest } from '$core/radio/resolution';
import { isWide, planSteps, SteppedListener } from '$core/radio/stepping';
import { noise, sum, tone } from './signals';

const RATE = 1e6;
const receiver = { sampleRateHz: RATE, tunes: { fromHz: 1e6, toHz: 6e9 } };
const request: BandRequest = {
  centreHz: 100e6,
  spanHz: 4e6,
  resolutionHz: 5000,
  smoothingHz: null,
  shape: 'Blackman-Harris',
};
/** What a receiver hears at a place of tones anywhere, with its own DC. */
const heardAt = (centreHz: number, tones: number[], n: number) =>
  sum(
    noise(n, RATE, -150, Math.round(centreHz / 1000)),
    tone(n, RATE, 0, -60),
    ...tones.filter((t) => Math.abs(t - centreHz) < RATE * 0.46).map((t) => tone(n, RATE, t - centreHz, -50)),
  );

describe('a band wider than what is received', () => {
  const stepped = planSteps(request, receiver);

  test('is cut into steps whose lines follow one another without a seam and reach from end to end', () => {
    const { plan, centresHz, own } = stepped;
    expect(isWide(request, receiver)).toBe(true);
    expect(isWide(request, { ...receiver, tunes: null })).toBe(false);
    expect(isWide({ ...request, spanHz: 0.8e6 }, receiver)).toBe(false);
    expect(plan.startHz).toBe(98e6);
    expect(plan.startHz + (plan.lines - 1) * plan.stepHz).toBeGreaterThan(102e6 - plan.stepHz);
    centresHz.forEach((c, k) => {
      const first = c + (own.firstLine - own.transformLength / 2) * own.stepHz;
      expect(first).toBeCloseTo(plan.startHz + k * own.lines * plan.stepHz, 3);
    });
    expect(plan.steps).toBe(centresHz.length);
    expect(plan.certainS).toBeNull();
  });

  test('tones read their level and place wherever they stand, at a seam too; the receiver’s own DC is in none of it', () => {
    const { plan, own, centresHz } = stepped;
    const seam = plan.startHz + 3 * own.lines * plan.stepHz;
    const tones = [98.3e6, seam, seam + 0.5 * plan.stepHz + 60_000, 101.777e6];
    const listener = new SteppedListener(stepped);
    let picture = null;
    centresHz.forEach((c, k) => (picture = listener.push(heardAt(c, tones, 40_000), k * 50_000, c)));
    const levels = Array.from(picture!['powers' as never]['rms' as never] as Float64Array, dbm);
    const found = peaksOf(levels, { least: -80, rise: 6 })
      .map((l) => peakAt(levels, l, plan))
      .sort((a, b) => a.hz - b.hz);
    expect(found).toHaveLength(tones.length);
    found.forEach((peak, k) => {
      expect(Math.abs(peak.hz - tones[k])).toBeLessThan(plan.stepHz * 0.02);
      expect(Math.abs(peak.level + 50)).toBeLessThan(0.05);
    });
  });

  test('a picture is told once every step was heard, in whatever order and however often some were', () => {
    const { centresHz } = stepped;
    const listener = new SteppedListener(stepped);
    const push = (k: number, at: number) => listener.push(heardAt(centresHz[k], [], 5000), at, centresHz[k]);
    const last = centresHz.length - 1;
    let at = 0;
    for (const k of [2, 0, 0, ...centresHz.keys()].filter((k) => k !== last))
      expect(push(k, (at += 10_000))).toBeNull();
    // Somewhere between two steps is nowhere.
    expect(listener.push(heardAt(1e9, [], 5000), (at += 10_000), centresHz[0] + 1234)).toBeNull();
    expect(push(last, (at += 10_000))).toMatchObject({ firstSample: 10_000, endSample: at + 5000 });
    expect(push(0, at + 10_000)).toBeNull();
  });

  test.each([
    ['beyond what the receiver reaches', { centreHz: 2e6 }, /more than the receiver reaches/],
    ['finer than can be drawn', { centreHz: 1e9, spanHz: 400e6 }, /more than 8192 lines/],
    ['of too many steps', { centreHz: 1e9, spanHz: 120e6, resolutionHz: 50_000 }, /steps/],
  ])('one %s is refused with what can be had', (_, own, says) => {
    try {
      planSteps({ ...request, ...own }, receiver);
      expect.unreachable();
    } catch (error) {
      expect((error as FarrierError).text.what).toMatch(says);
      expect((error as FarrierError).text.next).toMatch(/Hz/);
    }
  });
});
