import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { CHANNEL_STATES, EMPTY_STATUS } from '$contract/engine-status';
import {
  FRAME_KINDS,
  FrameReader,
  decodeBuckets,
  decodeExtremes,
  decodeJson,
  decodeValues,
  decodeWave,
  encodeBuckets,
  encodeExtremes,
  encodeJson,
  encodeValues,
  encodeWave,
  parseStripKey,
  stripKey,
} from '$contract/live';
import { WaveHistory } from '$ui/live/wave-history';
import { LiveFeed } from '$ui/live/feed.svelte';

const floats = (most: number) =>
  fc.array(fc.float({ noDefaultInfinity: true }), { maxLength: most }).map((a) => Float32Array.from(a));
const joined = (parts: Uint8Array[]) => Uint8Array.from(parts.flatMap((part) => [...part]));

describe('the frames of the live feed', () => {
  test('come back as they were sent: every number, NaN too, and text in any script', () => {
    fc.assert(
      fc.property(floats(40), fc.nat(1e6), fc.string({ unit: 'grapheme' }), (data, at, text) => {
        const even = data.length - (data.length % 2);
        const buckets = { endMs: at, bucketMs: 50, strips: 1, data: data.slice(0, even) };
        const values = {
          timeMs: at,
          last: data,
          raw: data.map((v) => -v),
          state: Uint8Array.from(data, (_, i) => i % 9),
        };
        const extremes = { sinceMs: at, min: data, max: data, mean: data };
        const width = even === data.length ? (2 as const) : (1 as const);
        const wave = { rate: { num: 1 + at, den: 7 }, width, firstMs: at, values: data };
        const stream = joined([
          encodeJson(FRAME_KINDS.note, { says: text }),
          encodeBuckets(FRAME_KINDS.past, buckets),
          encodeValues(8, values),
          encodeWave(3, { channelId: 'c', ...wave }),
          encodeExtremes(extremes),
        ]);
        const [note, b, v, w, e] = new FrameReader().push(stream);
        expect(decodeJson(note.payload)).toEqual({ says: text });
        expect([b.kind, decodeBuckets(b.payload)]).toEqual([FRAME_KINDS.past, buckets]);
        expect([v.kind, decodeValues(v.payload)]).toEqual([FRAME_KINDS.values, values]);
        expect([w.sequence, decodeWave(w.payload)]).toEqual([3, wave]);
        expect(decodeExtremes(e.payload)).toEqual(extremes);
      }),
    );
  });

  test('are the same however the network cuts them', () => {
    const frames = [
      encodeJson(FRAME_KINDS.note, { a: 'x'.repeat(90) }),
      encodeJson(FRAME_KINDS.alarms, []),
      encodeJson(FRAME_KINDS.status, { b: 1 }),
    ];
    const stream = joined(frames);
    fc.assert(
      fc.property(fc.array(fc.nat(stream.length), { maxLength: 12 }), (cuts) => {
        const reader = new FrameReader();
        const ends = [...new Set([...cuts, stream.length])].sort((a, b) => a - b);
        const got = ends.flatMap((end, k) => reader.push(stream.slice(k ? ends[k - 1] : 0, end)));
        expect(got.map((f) => f.kind)).toEqual([FRAME_KINDS.note, FRAME_KINDS.alarms, FRAME_KINDS.status]);
        expect(decodeJson(got[2].payload)).toEqual({ b: 1 });
      }),
    );
  });

  test('a length that cannot be ends the reading: the stream is out of step', () => {
    for (const length of [0, 15, 65 * 1024 * 1024]) {
      const bytes = new Uint8Array(16);
      new DataView(bytes.buffer).setUint32(0, length, true);
      expect(() => new FrameReader().push(bytes)).toThrow(`live frame of ${length} bytes`);
    }
  });

  test('a strip is asked for by a key that says again what it asks for', () => {
    fc.assert(
      fc.property(
        fc.uuid(),
        fc.double({ min: 0.1, max: 600_000, noNaN: true }),
        fc.boolean(),
        (id, span, rms) => {
          const read = parseStripKey(stripKey(id, span, rms ? 'rms' : 'extremes'));
          expect([read.id, read.rms]).toEqual([id, rms]);
          // What is kept at that width reaches as far back as the strip, or it is the widest there is.
          const reach = { 50: 600, 1000: 10_800, 30_000: 259_200 }[read.ms]!;
          if (!rms) expect(reach >= span || read.ms === 30_000).toBe(true);
        },
      ),
    );
  });
});

describe('every sample of a channel, in the browser', () => {
  test('samples stand at their times; a jump or another rate begins anew, and nothing is joined over it', () => {
    const h = new WaveHistory();
    h.push({ rate: { num: 1000, den: 1 }, width: 1, firstMs: 5000, values: Float32Array.of(1, 2, 3) });
    h.push({ rate: { num: 1000, den: 1 }, width: 1, firstMs: 5003, values: Float32Array.of(4) });
    expect([h.length, h.at(3), h.timeMs(3)]).toEqual([4, 4, 5003]);
    expect([...h.read(2, 4)]).toEqual([3, 4, NaN, NaN]);
    h.push({ rate: { num: 1000, den: 1 }, width: 1, firstMs: 5100, values: Float32Array.of(9) });
    expect([h.length, h.at(0), h.timeMs(0)]).toEqual([1, 9, 5100]);
    h.push({ rate: { num: 500, den: 1 }, width: 1, firstMs: 5101, values: Float32Array.of(7) });
    expect([h.length, h.rateHz]).toEqual([1, 500]);
  });

  test('an exact rate keeps its times however long it runs, and complex samples keep their parts', () => {
    const h = new WaveHistory();
    // 10 000/3 S/s: a rounded rate would be a sample off after an hour.
    const rate = { num: 10_000, den: 3 };
    const all = 12_000_000;
    for (let at = 0; at < all; at += 50_000)
      h.push({ rate, width: 1, firstMs: 1000 + (at * 3) / 10, values: new Float32Array(50_000) });
    expect(h.length).toBe(all);
    expect(h.timeMs(all)).toBe(1000 + 3_600_000);
    // Another width is another signal, even at the same rate.
    const two = Float32Array.of(1, -1, 2, -2, 3, -3);
    h.push({ rate, width: 2, firstMs: h.timeMs(all), values: two });
    expect([h.length, h.at(1), h.at(1, 1), h.at(3)]).toEqual([3, 2, -2, NaN]);
    expect([...h.read(1, 3)]).toEqual([2, -2, 3, -3, NaN, NaN]);
    for (let k = 0; k < 50; k++)
      h.push({ rate, width: 2, firstMs: h.timeMs(h.length), values: new Float32Array(8000).fill(k) });
    expect([h.length - h.oldest, h.at(h.oldest - 1)]).toEqual([131_072, NaN]); // half as many, of two numbers each
  });

  test('keeps the newest of what it can hold, and finds the last rise through a level', () => {
    const h = new WaveHistory();
    const n = 300_000;
    for (let at = 0; at < n; at += 1000)
      h.push({
        rate: { num: 50_000, den: 1 },
        width: 1,
        firstMs: at / 50,
        values: Float32Array.from({ length: 1000 }, (_, i) => Math.sin((2 * Math.PI * (at + i)) / 500)),
      });
    expect(h.oldest).toBe(n - 262_144);
    expect(h.at(h.oldest - 1)).toBeNaN();
    const rise = h.lastRise(0.5, 0);
    expect(h.at(rise)).toBeGreaterThanOrEqual(0.5);
    expect(h.at(rise - 1)).toBeLessThan(0.5);
    expect(n - rise).toBeLessThan(500); // in the last period
    expect(h.lastRise(2, 0)).toBe(-1);
  });
});

/** A server whose live streams the test writes and cuts. */
class Streams {
  asked: string[] = [];
  private open: ReadableStreamDefaultController<Uint8Array> | null = null;
  down = false;
  /** What open streams were turned to, or that they are gone. */
  turned: { address: string; body: unknown }[] = [];
  gone = false;
  fetch = vi.fn((address: string, { signal, method, body: sent }: RequestInit) => {
    if (method === 'PUT') {
      this.turned.push({ address, body: JSON.parse(sent as string) });
      return Promise.resolve(new Response(null, { status: this.gone ? 404 : 200 }));
    }
    this.asked.push(address);
    if (this.down) return Promise.reject(new TypeError('refused'));
    const body = new ReadableStream<Uint8Array>({
      start: (controller) => {
        this.open = controller;
        signal!.addEventListener('abort', () => controller.error(new Error('aborted')));
      },
    });
    return Promise.resolve(new Response(body));
  });
  send = async (...frames: Uint8Array[]) => {
    for (const frame of frames) this.open!.enqueue(frame);
    await vi.advanceTimersByTimeAsync(10);
  };
  cut = async () => {
    this.open!.close();
    await vi.advanceTimersByTimeAsync(10);
  };
}
const hello = (channelIds: string[], id = 'stream-1') =>
  encodeJson(FRAME_KINDS.hello, { id, channelIds, bucketMs: 50 });
const look = (strips: string[], waves: string[] = [], anew = strips) =>
  encodeJson(FRAME_KINDS.look, { strips, waves, anew });
const values = (timeMs: number, ...last: number[]) =>
  encodeValues(0, {
    timeMs,
    last: Float32Array.from(last),
    raw: Float32Array.from(last, (v) => v / 10),
    state: Uint8Array.from(last, () => CHANNEL_STATES.indexOf('ok')),
  });
const note = (says: string, atMs: number) => ({ kind: 'channel', says, atMs, by: 'Ada' });

describe('the page’s connection', () => {
  let streams: Streams;
  let feed: LiveFeed;
  const news = { setup: 0, notes: [] as string[], boards: [] as string[] };
  beforeEach(async () => {
    vi.useFakeTimers({
      toFake: ['setTimeout', 'clearTimeout', 'setInterval', 'clearInterval', 'performance', 'Date'],
    });
    streams = new Streams();
    vi.stubGlobal('fetch', streams.fetch);
    Object.assign(news, { setup: 0, notes: [], boards: [] });
    feed = new LiveFeed(
      () => news.setup++,
      (n) => news.notes.push(n.says),
      (id) => news.boards.push(id),
    );
    feed.open();
    await vi.advanceTimersByTimeAsync(10);
  });
  afterEach(() => {
    feed.close();
    vi.unstubAllGlobals();
    vi.useRealTimers();
  });

  test('readings belong to their channels, also when another set of them is measured', async () => {
    await streams.send(hello(['a', 'b']), values(1, 10, 20));
    expect([feed.value('a'), feed.value('b'), feed.raw('b'), feed.value('none')]).toEqual([10, 20, 2, NaN]);
    expect(feed.stateOf('a')).toBe('ok');
    expect(news.setup).toBe(0); // the first is no news: the page was made from it
    await streams.send(hello(['b', 'c']));
    expect(feed.value('b')).toBeNaN(); // until the first of the new ones
    expect(feed.stateOf('b')).toBe('not measured');
    await streams.send(values(2, 21, 30));
    expect([feed.value('a'), feed.value('b'), feed.value('c')]).toEqual([NaN, 21, 30]);
    expect(news.setup).toBe(1);
    await streams.send(hello(['b', 'c']));
    expect(news.setup).toBe(1);
  });

  test('cut off, it says so, tries again every second, and goes on by itself', async () => {
    await streams.send(hello(['a']), values(1, 10));
    expect([feed.connected, feed.stale]).toEqual([true, false]);
    streams.down = true;
    await streams.cut();
    expect(feed.connected).toBe(false);
    expect(feed.value('a')).toBe(10); // the last that was measured
    expect(news.setup).toBe(0); // nobody answers: there is nothing to fetch
    await vi.advanceTimersByTimeAsync(3500);
    expect(streams.asked).toHaveLength(4); // the first, and one each second since
    expect(feed.stale).toBe(true);
    streams.down = false;
    await vi.advanceTimersByTimeAsync(1100);
    await streams.send(hello(['a']), values(2, 11));
    expect([feed.connected, feed.stale, feed.value('a')]).toEqual([true, false, 11]);
    expect(news.setup).toBe(1); // what changed meanwhile was told to nobody here
    await streams.send(hello(['a']));
    expect(news.setup).toBe(1);
  });

  test('a connection that stands but is silent is old after two seconds, and says since when', async () => {
    await streams.send(hello(['a']), values(1, 10));
    const lastMs = Date.now();
    await vi.advanceTimersByTimeAsync(1900);
    expect(feed.stale).toBe(false);
    await vi.advanceTimersByTimeAsync(1200);
    expect([feed.connected, feed.stale]).toEqual([true, true]);
    expect(Math.abs(feed.lastAt - lastMs)).toBeLessThanOrEqual(1000);
    await streams.send(values(2, 11));
    expect(feed.stale).toBe(false);
  });

  test('what was told on connecting is no news; each note is told once, also after a connection anew', async () => {
    await streams.send(encodeJson(FRAME_KINDS.note, [note('old', 1), note('older', 0)]));
    expect(news.notes).toEqual([]);
    await streams.send(encodeJson(FRAME_KINDS.note, [note('new', 2)]));
    await streams.send(encodeJson(FRAME_KINDS.note, [note('new', 2)]));
    expect(news.notes).toEqual(['new']);
    await streams.cut();
    await vi.advanceTimersByTimeAsync(1100);
    await streams.send(encodeJson(FRAME_KINDS.note, [note('old', 1), note('new', 2), note('missed', 3)]));
    expect(feed.notes.map((n) => n.says)).toEqual(['old', 'older', 'new', 'missed']);
    await streams.send(
      encodeJson(FRAME_KINDS.board, 'hall'),
      encodeJson(FRAME_KINDS.status, { ...EMPTY_STATUS, state: 'Armed' }),
    );
    expect(news.boards).toEqual(['hall']);
    expect(feed.status.state).toBe('Armed');
  });

  const bucket = (bucketMs: number, ...data: number[]) =>
    encodeBuckets(FRAME_KINDS.buckets, {
      endMs: 900,
      bucketMs,
      strips: data.length / 2,
      data: Float32Array.from(data),
    });
  const settle = () => vi.advanceTimersByTimeAsync(10);

  test('who looks first is asked for with the stream; strips get their own buckets', async () => {
    feed.close();
    feed.watch(['a', 'b@1000'], ['a']);
    feed.open();
    await settle();
    expect(streams.asked[1]).toBe('/api/live?strips=a,b%401000&waves=a');
    await streams.send(hello(['a', 'b']), look(['a', 'b@1000'], ['a']));
    await streams.send(bucket(50, 1, 2), bucket(50, 3, 4), bucket(1000, -1, 9));
    expect(feed.history.get('a')!.count).toBe(2);
    expect(feed.history.get('b@1000')!.recent(1000, 10)).toMatchObject({
      min: Float32Array.of(-1),
      max: Float32Array.of(9),
    });
    expect(streams.turned).toEqual([]);
  });

  test('what is looked at changes on the open stream; what two look at stays until both have left', async () => {
    await streams.send(hello(['a', 'b']), look([]));
    const leave = feed.watch(['a']);
    const other = feed.watch(['a', 'b']);
    await settle();
    expect(streams.turned).toEqual([
      { address: '/api/live/stream-1', body: { strips: ['a', 'b'], waves: [] } },
    ]);
    await streams.send(look(['a', 'b']), bucket(50, 1, 2, 3, 4));
    expect(feed.history.get('b')!.count).toBe(1);
    leave();
    leave(); // left once is left
    await settle();
    expect(streams.turned).toHaveLength(1); // the other still looks at it
    other();
    const again = feed.watch(['a']); // another view of the same in its place: nothing is asked
    await settle();
    expect(streams.turned.at(-1)!.body).toEqual({ strips: ['a'], waves: [] });
    await streams.send(look(['a'], [], []), bucket(50, 5, 6));
    expect(feed.history.get('a')!.count).toBe(2); // its past has stayed
    expect(feed.history.has('b')).toBe(false);
    again();
    feed.watch(['a']);
    await settle();
    expect(streams.turned).toHaveLength(2);
    expect(streams.asked).toHaveLength(1); // never connected anew
  });

  test('frames on their way are read as what they carry, not as what was asked for meanwhile', async () => {
    await streams.send(hello(['a', 'b']), look(['a'], ['a']));
    feed.watch(['b'], ['b']);
    await settle();
    await streams.send(
      bucket(50, 1, 2),
      encodeWave(0, {
        channelId: '',
        rate: { num: 10, den: 1 },
        width: 1,
        firstMs: 0,
        values: Float32Array.of(5),
      }),
    );
    expect([feed.history.get('a')!.count, feed.waves.get('a')!.length]).toEqual([1, 1]);
    expect([feed.history.has('b'), feed.waves.has('b')]).toEqual([false, false]);
    await streams.send(look(['b'], ['b']));
    expect([feed.history.has('a'), feed.waves.has('a')]).toEqual([false, false]);
    expect([feed.history.get('b')!.count, feed.waves.get('b')!.length]).toEqual([0, 0]);
  });

  test('asked while a stream is being opened, it turns as soon as it is there; one that is gone is opened anew', async () => {
    feed.watch(['a']);
    await settle();
    expect(streams.turned).toEqual([]);
    await streams.send(hello(['a'], 'stream-2'));
    expect(streams.turned.map((t) => t.address)).toEqual(['/api/live/stream-2']);
    streams.gone = true;
    feed.watch(['b']);
    await settle();
    expect(streams.asked.at(-1)).toBe('/api/live?strips=a,b&waves=');
    await streams.send(hello(['a', 'b'], 'stream-3'));
    expect(streams.turned).toHaveLength(2);
  });

  test('no more is asked for than a stream carries', async () => {
    await streams.send(hello(['a']));
    feed.watch(Array.from({ length: 80 }, (_, i) => `c${i}`));
    await settle();
    expect((streams.turned[0].body as { strips: string[] }).strips).toHaveLength(64);
  });

  test('a stream out of step is left and begun anew', async () => {
    await streams.send(hello(['a']), values(1, 10));
    await streams.send(new Uint8Array(16));
    expect(feed.connected).toBe(false);
    await vi.advanceTimersByTimeAsync(1100);
    await streams.send(hello(['a']), values(2, 12));
    expect(feed.value('a')).toBe(12);
  });

  test('once closed it asks for nothing more', async () => {
    feed.close();
    await vi.advanceTimersByTimeAsync(5000);
    expect(streams.asked).toHaveLength(1);
    expect(feed.connected).toBe(false);
  });
});
