import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import type { LiveFrame } from '$contract/engine';
import {
  FRAME_KINDS,
  FrameReader,
  decodeBuckets,
  decodeExtremes,
  decodeJson,
  decodeValues,
  type Hello,
  type LookTold,
  type RawFrame,
} from '$contract/live';
import { LiveHub } from '$service/live-hub';

/** A step in which the k-th channel reads from `values[k]` to one more. */
const frame = (sequence: number, ...values: number[]): LiveFrame => {
  const of = (f: (v: number) => number) => Float32Array.from(values, f);
  return {
    sequence,
    timeMs: sequence * 50,
    min: of((v) => v),
    max: of((v) => v + 1),
    last: of((v) => v),
    raw: of((v) => v / 10),
    mean: of((v) => v),
    square: of((v) => v * v),
    state: Uint8Array.from(values, () => 0),
  };
};

/** One page: reads its stream, as far as something it waits for. */
class Visitor {
  private readonly frames = new FrameReader();
  private readonly reader: ReadableStreamDefaultReader<Uint8Array>;
  readonly got: RawFrame[] = [];
  constructor(hub: LiveHub, strips: string[], waves: string[] = []) {
    this.reader = hub.stream({ strips, waves }).getReader();
  }
  of = (kind: number) => this.got.filter((f) => f.kind === kind);
  until = async (kind: number, count: number) => {
    while (this.of(kind).length < count)
      this.got.push(...this.frames.push((await this.reader.read()).value!));
    return this.of(kind);
  };
  id = async () => decodeJson<Hello>((await this.until(FRAME_KINDS.hello, 1))[0].payload).id;
  /** Lowest values of the frames of a kind. */
  lows = (kind: number) =>
    this.of(kind).map(({ payload }) => [...decodeBuckets(payload).data].filter((_, i) => i % 2 === 0));
  leave = () => this.reader.cancel();
}

describe('the live hub', () => {
  let hub: LiveHub;
  let asked: string[][];
  beforeEach(() => {
    hub = new LiveHub();
    asked = [];
    hub.onWaves = (ids) => asked.push(ids);
    hub.setup(['c', 'd']);
  });
  afterEach(() => hub.closeAll());

  test('tells a page that opens late what was before, then each step', async () => {
    for (let i = 0; i < 10; i++) hub.push(frame(i, i, 0));
    const page = new Visitor(hub, ['c']);
    hub.push(frame(10, 10, 0));
    await page.until(FRAME_KINDS.buckets, 1);
    expect(decodeJson<Hello>(page.got[0].payload)).toMatchObject({ channelIds: ['c', 'd'], bucketMs: 50 });
    const look = { strips: ['c'], waves: [], anew: ['c'] } satisfies LookTold;
    expect(decodeJson(page.of(FRAME_KINDS.look)[0].payload)).toEqual(look);
    expect(page.lows(FRAME_KINDS.past)).toEqual([[0, 1, 2, 3, 4, 5, 6, 7, 8, 9]]);
    // The last readings stand there at once, before the next are due.
    expect(decodeValues(page.of(FRAME_KINDS.values)[0].payload).last[0]).toBe(9);
    expect([...decodeBuckets(page.of(FRAME_KINDS.buckets)[0].payload).data]).toEqual([10, 11]);
  });

  test('a page that looks at something else is told the past of that alone, on the stream it has', async () => {
    for (let i = 0; i < 5; i++) hub.push(frame(i, i, 100 + i));
    const page = new Visitor(hub, ['c'], ['c']);
    const id = await page.id();
    hub.look(id, { strips: ['d', 'c'], waves: ['d'] });
    hub.push(frame(5, 5, 105));
    await page.until(FRAME_KINDS.buckets, 1);
    expect(page.lows(FRAME_KINDS.past)).toEqual([
      [0, 1, 2, 3, 4],
      [100, 101, 102, 103, 104],
    ]);
    // From the new look on in its order: nothing of what came between can be taken for something else.
    expect(page.lows(FRAME_KINDS.buckets)).toEqual([[105, 5]]);
    const kinds = page.got.map((f) => f.kind);
    expect(kinds.lastIndexOf(FRAME_KINDS.look)).toBeLessThan(kinds.indexOf(FRAME_KINDS.buckets));
    expect(asked).toEqual([['c'], ['d']]);
    hub.pushWaves([
      { channelId: 'd', rate: { num: 10, den: 1 }, width: 1, firstMs: 0, values: Float32Array.of(7) },
    ]);
    hub.pushWaves([
      { channelId: 'c', rate: { num: 10, den: 1 }, width: 1, firstMs: 0, values: Float32Array.of(8) },
    ]);
    hub.look(id, { strips: [], waves: [] });
    hub.push(frame(6, 6, 106));
    await page.until(FRAME_KINDS.look, 3);
    expect(page.of(FRAME_KINDS.wave)).toHaveLength(1); // of what is looked at now
    expect(page.of(FRAME_KINDS.buckets)).toHaveLength(1); // none once nobody looks
    expect(asked.at(-1)).toEqual([]);
  });

  test('the same look twice sends no past again; another width of the same channel does', async () => {
    for (let i = 0; i < 45; i++) hub.push(frame(i, i, 0));
    const page = new Visitor(hub, ['c']);
    const id = await page.id();
    hub.look(id, { strips: ['c'], waves: [] });
    hub.look(id, { strips: ['c', 'c@1000'], waves: [] });
    await page.until(FRAME_KINDS.look, 3);
    await page.until(FRAME_KINDS.past, 2);
    const widths = page.of(FRAME_KINDS.past).map((f) => decodeBuckets(f.payload).bucketMs);
    expect(widths).toEqual([50, 1000]);
    expect(page.lows(FRAME_KINDS.past)[1]).toEqual([0, 20]); // the lowest of each whole second
  });

  test('a stream that has ended, or never was, cannot be turned', async () => {
    const page = new Visitor(hub, []);
    const id = await page.id();
    await page.leave();
    for (const gone of [id, 'none', ''])
      expect(() => hub.look(gone, { strips: ['c'], waves: ['c'] })).toThrow(/live stream/);
    expect(asked).toEqual([]);
  });

  test('another set of channels is told with all of the past that still means the same', async () => {
    for (let i = 0; i < 3; i++) hub.push(frame(i, i, 10 + i));
    const page = new Visitor(hub, ['c', 'd']);
    hub.setup(['d', 'e'], []);
    await page.until(FRAME_KINDS.hello, 2);
    await page.until(FRAME_KINDS.past, 2);
    const [, after] = page.lows(FRAME_KINDS.past);
    expect(after.filter((_, i) => i % 2 === 0)).toEqual([NaN, NaN, NaN]); // c is gone
    expect(after.filter((_, i) => i % 2 === 1)).toEqual([10, 11, 12]);
    expect(decodeJson<LookTold>(page.of(FRAME_KINDS.look)[1].payload).anew).toEqual(['c', 'd']);
  });

  test('what is missing counts for nothing in the extremes, and a channel without a value has none', async () => {
    for (const [i, v] of [NaN, 4, NaN, -2, 3].entries()) hub.push(frame(i, v, NaN));
    hub.reset('none');
    const page = new Visitor(hub, []);
    const [told] = await page.until(FRAME_KINDS.extremes, 1);
    const { min, max, mean } = decodeExtremes(told.payload);
    expect([min[0], max[0]]).toEqual([-2, 5]);
    expect(mean[0]).toBeCloseTo(5 / 3, 6);
    expect([min[1], max[1], mean[1]]).toEqual([NaN, NaN, NaN]);
  });

  test('the readings of the last seconds are those of that time, however long the steps were that brought them', () => {
    // A machine that is starved: three steps of a second each, the shunt being on from 4 s; then as usual again.
    const at = (timeMs: number, value: number) => hub.push({ ...frame(0, value, 0), timeMs });
    for (let k = 1; k <= 20; k++) at(50 * k, 0);
    for (const s of [2, 3, 4]) at(1000 * s, 0);
    for (const s of [5, 6]) at(1000 * s, 10);
    // Ten steps would reach back over the switch.
    expect([...hub.rawMeans('c', 0.5)]).toEqual([]);
    expect([...hub.rawMeans('c', 2)]).toEqual(new Array(40).fill(1));
    const three = hub.rawMeans('c', 3);
    expect([three.length, three.filter((v) => v === 0).length]).toEqual([60, 20]);
    for (let k = 1; k <= 10; k++) at(6000 + 50 * k, 20);
    expect([...hub.rawMeans('c', 0.5)]).toEqual(new Array(10).fill(2));
    expect(hub.rawMeans('c', 1).length).toBe(10);
    expect(hub.rawMeans('c', 60).length).toBe(130);
    expect(hub.rawMeans('none', 60)).toEqual(new Float32Array(0));
  });

  test('what was read before the clock was set back is not of the last seconds', () => {
    for (let k = 1; k <= 100; k++) hub.push({ ...frame(0, 0, 0), timeMs: 100_000 + 50 * k });
    for (let k = 1; k <= 11; k++) hub.push({ ...frame(0, 10, 0), timeMs: 40_000 + 50 * k });
    expect([...hub.rawMeans('c', 5)]).toEqual(new Array(10).fill(1));
    for (let k = 12; k <= 31; k++) hub.push({ ...frame(0, 10, 0), timeMs: 40_000 + 50 * k });
    expect([...hub.rawMeans('c', 1)]).toEqual(new Array(20).fill(1));
  });

  test('steps that come a little early or late are not left out', () => {
    const times = Array.from({ length: 200 }, (_, k) => 50 * k + (k % 3) * 7);
    times.forEach((timeMs, k) => hub.push({ ...frame(0, k, 0), timeMs }));
    for (const s of [0.5, 1, 5])
      expect(Math.abs(hub.rawMeans('c', s).length - 20 * s)).toBeLessThanOrEqual(1);
  });

  test('a page that does not read loses frames, the others none', async () => {
    hub.stream({ strips: ['c'], waves: [] }); // never read
    const page = new Visitor(hub, ['c']);
    for (let i = 0; i < 3000; i++) {
      hub.push(frame(i, i, 0));
      // Whoever reads on gets each step in full before the next.
      await page.until(FRAME_KINDS.buckets, i + 1);
    }
    expect(hub.value('c')).toBe(2999);
  });
});
