import fc from 'fast-check';
import { afterEach, describe, expect, test } from 'vitest';
import type { Server } from 'node:net';
import { recorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import { Cradle } from '$engine/field/cradle';
import { PocketRecorder } from '$engine/field/recorder';
import { FieldLink, InstrumentRefusal, fetchReadings, type Fetched } from '$service/field/link';
import { QUICK, badLine as line } from '../bad-line';
import { openTcp } from '$service/field/lines';

// Farrier and an instrument over a line that loses, spoils, delays and reorders what is said, and is cut.
const SETUP: RecorderSetup = { name: 'Crate 7', start: 'at once', startMs: null, measuresWaiting: false, settleS: 0, intervalS: 600, readings: 4032, then: 'keep the newest', high: null, low: null, clearable: false, lamps: 'dark' }; // prettier-ignore
function filled(readings: number) {
  let now = 1_790_000_000_000;
  const recorder = new PocketRecorder({ model: recorderModel('PR-2')!, serial: 'PR2-0107', now: () => now, sense: (t) => [Math.sin(t / 7e6) * 20] }); // prettier-ignore
  recorder.setUp(SETUP);
  now += (readings - 1) * 600_000;
  const cradle = new Cradle();
  cradle.put(recorder);
  return { recorder, cradle, pass: (ms: number) => (now += ms) };
}
/** What is kept of a recording, piece by piece. */
class Kept {
  values: number[] = [];
  took = (piece: Fetched) => {
    expect(piece.from).toBe(this.values.length);
    this.values.push(...piece.values);
  };
}
const truth = ({ recorder }: ReturnType<typeof filled>) => {
  const { run, end } = recorder.state();
  return [...recorder.readings({ run, from: 0, count: end })];
};

const servers: Server[] = [];
afterEach(() => servers.splice(0).forEach((s) => s.close()));

describe('fetching', () => {
  test('over a line that loses a fifth, flips bits and reorders: every reading, once', async () => {
    for (const seed of [1, 2, 3]) {
      const own = filled(5000);
      const link = new FieldLink(line(own.cradle, { lose: 0.2, flip: 0.00005, reorder: true }, seed), QUICK);
      const kept = new Kept();
      await fetchReadings(link, await link.state(), 0, kept.took);
      expect(kept.values).toEqual(truth(own));
      link.close();
    }
  });
  test('cut wherever it may be, and gone on: the same as without', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 1, max: 13_000 }), { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 1, max: 1e6 }),
        async (cuts, seed) => {
          const own = filled(5000);
          const kept = new Kept();
          for (const cutAfter of cuts) {
            const link = new FieldLink(line(own.cradle, { cutAfter }, seed), { ms: 8, tries: 2 });
            await link
              .state()
              .then((state) => fetchReadings(link, state, kept.values.length, kept.took))
              .catch((error: Error) => expect(error.message).toContain('does not answer'));
          }
          const link = new FieldLink(line(own.cradle, {}), QUICK);
          await fetchReadings(link, await link.state(), kept.values.length, kept.took);
          expect(kept.values).toEqual(truth(own));
        },
      ),
      { numRuns: 25 },
    );
  });
  test('only what is new is fetched the next time', async () => {
    const own = filled(3000);
    const kept = new Kept();
    const link = new FieldLink(line(own.cradle, {}), QUICK);
    await fetchReadings(link, await link.state(), 0, kept.took);
    own.pass(1000 * 600_000);
    let pieces = 0;
    await fetchReadings(
      link,
      await link.state(),
      kept.values.length,
      (piece) => (pieces++, kept.took(piece)),
    );
    expect(pieces).toBe(1);
    expect(kept.values).toEqual(truth(own));
  });
  test('set up anew meanwhile, or overwritten: said, and nothing is mixed', async () => {
    const own = filled(3000);
    const link = new FieldLink(line(own.cradle, {}), QUICK);
    const before = await link.state();
    own.recorder.setUp({ ...SETUP, name: 'Another' });
    const kept = new Kept();
    await expect(fetchReadings(link, before, 0, kept.took)).rejects.toThrow(/set up anew/);
    expect(kept.values).toEqual([]);
  });
  test('a recorder that is pulled out while it is read: what was fetched stays, another one is not taken for it', async () => {
    const own = filled(5000);
    const kept = new Kept();
    const link = new FieldLink(line(own.cradle, {}), QUICK);
    const state = await link.state();
    const other = filled(100);
    const pulled = fetchReadings(link, state, 0, (piece) => {
      kept.took(piece);
      own.cradle.put(other.recorder);
    });
    await expect(pulled).rejects.toThrow(/set up anew|overwritten/);
    const before = kept.values.length;
    expect(before).toBeGreaterThan(1000);
    own.cradle.takeOut();
    await expect(link.state()).rejects.toMatchObject({ refusal: { why: 'empty' } });
    own.cradle.put(own.recorder);
    await fetchReadings(link, await link.state(), before, kept.took);
    expect(kept.values).toEqual(truth(own));
  });
});

describe('asking', () => {
  test('what changes something is done once, however often it has to be said', async () => {
    for (const seed of [5, 6, 7, 8]) {
      const own = filled(10);
      let times = 0;
      const setUp = own.recorder.setUp.bind(own.recorder);
      own.recorder.setUp = (...given) => (times++, setUp(...given));
      // Answers are lost as well as questions.
      const link = new FieldLink(line(own.cradle, { lose: 0.5 }, seed), QUICK);
      await link.ask('setUp', { setup: { ...SETUP, name: 'Once' } });
      expect(times).toBe(1);
      expect((await link.state()).name).toBe('Once');
      link.close();
    }
  });
  test('a refusal comes with its reason; silence is said with what to do', async () => {
    const own = filled(10);
    const link = new FieldLink(line(own.cradle, {}), QUICK);
    const refused = await link.ask('setUp', { setup: { ...SETUP, intervalS: 1 } }).catch((e: unknown) => e);
    expect(refused).toBeInstanceOf(InstrumentRefusal);
    expect((refused as InstrumentRefusal).refusal.why).toBe('does not fit');
    const dead = new FieldLink(line(own.cradle, { lose: 1 }), { ms: 2, tries: 3 });
    await expect(dead.state()).rejects.toThrow(/does not answer/);
    // Nonsense from outside ends nothing.
    expect(() =>
      own.cradle.answer({ kind: 4, request: 1, carried: new Uint8Array([255, 255]) }, {}),
    ).not.toThrow();
    expect(() => own.cradle.answer({ kind: 99, request: 1, carried: new Uint8Array(0) }, {})).not.toThrow();
  });
  test('over TCP on this machine; two who fetch at once both get everything', async () => {
    const own = filled(5000);
    const { server, port } = await own.cradle.listen();
    servers.push(server);
    const one = async () => {
      const link = new FieldLink(await openTcp('127.0.0.1', port));
      const kept = new Kept();
      await fetchReadings(link, await link.state(), 0, kept.took);
      link.close();
      return kept.values;
    };
    const [a, b] = await Promise.all([one(), one()]);
    expect(a).toEqual(truth(own));
    expect(b).toEqual(a);
    await expect(openTcp('127.0.0.1', 1)).rejects.toThrow(/Nothing answers/);
  });
});
