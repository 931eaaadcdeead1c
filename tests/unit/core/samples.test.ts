import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import {
  endS,
  firstFrom,
  lastUpTo,
  rateHz,
  rateText,
  sampleS,
  sampledOf,
  samplesWithin,
  type Sampled,
} from '$core/samples/sampled';
import { field } from '$core/sentence/sentence';
import { signalsByRole, suits, usualInputs, type Offered } from '$core/studies/inputs';
import { studyKind } from '$core/studies/registry';
import type { Role, StudyKind } from '$core/studies/study';

const sampled = (rate = { num: 10, den: 1 }, startNs = 0, length = 100): Sampled =>
  sampledOf(
    { id: 's', name: 'S', quantity: 'voltage', unit: 'V', rate, startNs, width: 1 },
    Float32Array.from({ length }, (_, i) => i),
  );
const rates = fc.record({
  num: fc.integer({ min: 1, max: 200_000 }),
  den: fc.integer({ min: 1, max: 1001 }),
});
const starts = fc.integer({ min: -1e12, max: 1e12 });

describe('instants and indices', () => {
  test('the instant of a sample leads back to it, also written in microseconds', () => {
    fc.assert(
      fc.property(rates, starts, fc.nat(1e7), (rate, startNs, index) => {
        const s = { rate, startNs };
        const at = sampleS(s, index);
        expect([firstFrom(s, at), lastUpTo(s, at)]).toEqual([index, index]);
      }),
    );
  });
  test('between two samples the later is the first from there, the earlier the last up to there', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 5000 }), fc.nat(1e6), fc.double({ min: 0.01, max: 0.99, noNaN: true }), (hz, index, share) => {
        const s = { rate: { num: hz, den: 1 }, startNs: 0 };
        const at = (index + share) / hz;
        expect([firstFrom(s, at), lastUpTo(s, at)]).toEqual([index + 1, index]);
      }),
    ); // prettier-ignore
  });
  test('two spans that meet share no sample and miss none', () => {
    fc.assert(
      fc.property(rates, fc.array(fc.double({ min: 0, max: 50, noNaN: true }), { minLength: 3, maxLength: 3 }), (rate, cuts) => {
        const s = { ...sampled(rate), length: 5000 };
        const [a, b, c] = cuts.sort((x, y) => x - y);
        const [first, second, both] = [samplesWithin(s, a, b), samplesWithin(s, b, c), samplesWithin(s, a, c)];
        expect(first.end === second.first || first.end === first.first || second.end === second.first).toBe(true);
        expect(first.end - first.first + second.end - second.first).toBe(both.end - both.first);
      }),
    ); // prettier-ignore
    expect(samplesWithin(sampled(), 200, null)).toEqual({ first: 100, end: 100 });
    expect(samplesWithin(sampled(), 3, 2)).toEqual({ first: 30, end: 30 });
  });
  test('a rate of thirds is exact after a day: no sample moves', () => {
    const third = sampled({ num: 10, den: 3 }, 500_000_000);
    expect(sampleS(third, 288_000)).toBe(86_400.5);
    expect(endS(third)).toBe(30.5);
    expect(rateHz(third)).toBeCloseTo(10 / 3, 12);
    expect(rateText(third)).toBe('3.33333');
    expect(rateText(sampled({ num: 5120, den: 1 }))).toBe('5120');
  });
  test('complex samples are two numbers each', () => {
    const iq = sampledOf({ ...sampled(), width: 2 }, Float32Array.of(1, 2, 3, 4, 5, 6));
    expect(iq.length).toBe(3);
    expect([...iq.read(1, 2)]).toEqual([3, 4, 5, 6]);
  });
});

describe('what a study takes in which role', () => {
  const schema = z.strictObject({
    speed: field(z.string(), { label: 'Speed', editor: 'channel' }),
    reference: field(z.string().nullable(), { label: 'Reference', editor: 'channel' }),
    responses: field(z.array(z.string()), { label: 'Responses', editor: 'channels' }),
  });
  const roles: Role[] = [
    { key: 'speed', takes: 'one', unit: 'Hz' },
    { key: 'reference', takes: 'one', optional: true, unit: 'N' },
    { key: 'responses', takes: 'several', most: 3 },
  ];
  const kind = {
    ...studyKind('statistics'),
    sentence: { schema, template: () => '' },
    roles,
  } as unknown as StudyKind;
  const offered: Offered[] = [
    { id: 'a', name: 'A', unit: 'm/s²' },
    { id: 'rpm', name: 'Shaft', unit: 'rpm' },
    { id: 'b', name: 'B', unit: 'm/s²' },
    { id: 'kn', name: 'Hammer', unit: 'kN' },
    { id: 'iq', name: 'Band', unit: 'V', width: 2 },
  ];

  test('units decide: rpm is a speed, newtons are a force, complex samples are for those who ask for them', () => {
    const [speed, reference, responses] = roles;
    expect(offered.filter((s) => suits(speed, s)).map((s) => s.id)).toEqual(['rpm']);
    expect(offered.filter((s) => suits(reference, s)).map((s) => s.id)).toEqual(['kn']);
    expect(offered.filter((s) => suits(responses, s)).map((s) => s.id)).toEqual(['a', 'rpm', 'b', 'kn']);
    expect(offered.filter((s) => suits({ ...responses, width: 2 }, s)).map((s) => s.id)).toEqual(['iq']);
    expect(suits(speed, { id: 'x', name: 'X', unit: 'no such unit' })).toBe(false);
  });
  test('a new study begins with what is looked at, then with what suits; nobody stands in two roles', () => {
    expect(usualInputs(kind, offered, ['b', 'rpm', 'kn'])).toEqual({
      speed: 'rpm',
      reference: 'kn',
      responses: ['b'],
    });
    expect(usualInputs(kind, offered, [])).toEqual({ speed: 'rpm', reference: 'kn', responses: [] });
    expect(usualInputs(kind, offered.slice(0, 1), [])).toEqual({ speed: '', reference: null, responses: [] });
    // Those that answer are chosen at the rate of the reference, and what is chosen by hand alone stays empty.
    const alike = {
      ...kind,
      roles: [
        { key: 'reference', takes: 'one' },
        { key: 'responses', takes: 'several', like: 'reference' },
        { key: 'speed', takes: 'one', optional: true, byHand: true },
      ],
    } as unknown as typeof kind;
    const at = (id: string, num: number) => ({ id, name: id, unit: 'kN', rate: { num, den: 1 } });
    expect(usualInputs(alike, [at('a', 100), at('b', 50), at('c', 100)], ['a', 'b', 'c'])).toEqual({
      reference: 'a',
      responses: ['c'],
      speed: null,
    });
  });
  test('none named for several means all that suit; what is missing, odd or too many is said with what to choose', () => {
    const by = (settings: object) => signalsByRole(kind, settings as never, offered, 'Take 1');
    const ids = (settings: object) => Object.values(by(settings)).map((of) => of.map((s) => s.id));
    expect(ids({ speed: 'rpm', reference: null, responses: ['b', 'a'] })).toEqual([['rpm'], [], ['a', 'b']]);
    expect(() => by({ speed: '', responses: ['a'] })).toThrow(/Speed.*none.*Choose a channel of Take 1/s);
    expect(() => by({ speed: 'gone', responses: ['a'] })).toThrow(/not in this take/);
    expect(() => by({ speed: 'a', responses: ['a'] })).toThrow(/A in m\/s².*measured in Hz/s);
    expect(() => by({ speed: 'rpm', responses: ['iq'] })).toThrow(/Choose real samples/);
    expect(() => by({ speed: 'rpm', responses: ['x', 'y'] })).toThrow(/None of them is in Take 1/);
    expect(() => by({ speed: 'rpm', responses: [] })).toThrow(/4 channels.*up to 3/s);
  });
});
