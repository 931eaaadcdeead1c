import { describe, expect, test } from 'vitest';
import type { GatherTask } from '$core/radio/gathering';
import { LINE_DEFAULTS, LISTENING_DEFAULTS, bandOf, wishedLine, type ReceiverState } from '$contract/radio';
import { Ears } from '$engine/radio/ears';
import { noise } from '../core/radio/signals';

const receiver: ReceiverState = {
  ...{ centreHz: 868.6e6, sampleRateHz: 4e6, gainDb: 20, tunes: null, noiseFigure: 6, scaled: true },
  accuracy: { levelDb: 0.5, flatnessDb: 0.4, clock: 1e-6 },
};
const band = {
  ...{
    request: bandOf(LISTENING_DEFAULTS),
    detector: 'rms' as const,
    top: -30,
    height: 100,
    eachS: 0.05,
    fadeS: 10,
    count: null,
  },
  lines: LINE_DEFAULTS.map((l) => ({ id: l.id, line: wishedLine(l, LINE_DEFAULTS), held: false, begins: 0 })),
};
const task: GatherTask = { does: 'samples', centreHz: 868.6e6, widthHz: 1e6, lengthS: 0.05 };
const now = (index: number, centreHz = 868.6e6) => ({ id: 'a', index, step: { centreHz, task } });

describe('what is gathered and what is listened to', () => {
  test('while steps are gathered nothing else is heard, which is said once; then it goes on', () => {
    const told: object[] = [];
    const ears = new Ears((heard) => told.push(heard));
    const iq = noise(200_000, 4e6, -140, 1);
    let first = 0;
    const push = () => {
      ears.push({ first, iq, overload: false }, receiver, 0);
      first += 200_000;
    };
    const kinds = () =>
      told.map((t) => ('plan' in t ? 'picture' : 'says' in t ? 'said' : 'gathering' in t ? 'gathered' : '?'));
    ears.want({ band, catching: null });
    push();
    expect(kinds()).toEqual(['picture']);
    ears.gather(now(0));
    push();
    push();
    expect(kinds()).toEqual(['picture', 'said', 'gathered']);
    ears.gather(now(1, 900e6));
    // Tuned elsewhere still: what is on its way is no part of the step.
    push();
    expect(kinds()).toEqual(['picture', 'said', 'gathered']);
    ears.gather(null);
    push();
    expect(kinds().filter((k) => k === 'picture').length).toBe(2);
  });
  test('who begins to listen meanwhile is told too, once', () => {
    const told: object[] = [];
    const ears = new Ears((heard) => told.push(heard));
    ears.gather(now(0));
    expect(told).toEqual([]);
    ears.want({ band, catching: null });
    ears.want({ band: { ...band, detector: 'highest' }, catching: null });
    ears.gather(now(1));
    expect(told).toEqual([expect.objectContaining({ says: 'The receiver is measuring something else.' })]);
  });
  test('nobody listens: nothing is said', () => {
    const told: object[] = [];
    const ears = new Ears((heard) => told.push(heard));
    ears.gather(now(0));
    ears.push({ first: 0, iq: noise(300_000, 4e6, -140, 2), overload: true }, receiver, 0);
    expect(told).toHaveLength(1);
    expect(told[0]).toMatchObject({
      gathering: { id: 'a', step: 0, gathered: { does: 'samples', overload: true } },
    });
  });
});
