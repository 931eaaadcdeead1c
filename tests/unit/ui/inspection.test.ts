import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { packed } from '$contract/packed';
import { USUAL_DRAWING } from '$contract/drawing';
import type { AlignedTake } from '$contract/api/inspect';
import type { SeriesTable } from '$contract/series';
import { ALL_TAKES, NOTHING_KNOWN, type TakeLine } from '$contract/take-list';
import type { TakeNote, TakeSignal, TakeView } from '$contract/take';
import { Inspection } from '$ui/inspect/inspection.svelte';
import { readAddress } from '$ui/inspect/address';
import { ReadingsAt } from '$ui/inspect/reading.svelte';
import { SeriesDesk } from '$ui/inspect/series-desk.svelte';
import { TakeList } from '$ui/inspect/take-list.svelte';
import { Windows } from '$ui/inspect/windows.svelte';
import { PageServer, settled } from './page-server';

afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

const signal = (name: string, rest: Partial<TakeSignal> = {}): TakeSignal => ({ id: 0, channelId: name, name, unit: 'kN', quantity: 'force', decimals: 2, group: '', colour: 0, role: 'measured', rate: { num: 100, den: 1 }, startNs: 0, width: 1, length: 1000, sentence: '', calibration: '', corrected: null, made: null, mends: [], ...rest }); // prettier-ignore
const note = (atS: number, says: string, kind = 'mark'): TakeNote => ({ id: Math.round(atS * 1000), atS, untilS: null, kind, says, by: 'Ada', written: null }); // prettier-ignore
const take = (
  id: string,
  rest: { durationS?: number; notes?: TakeNote[]; startMs?: number; signals?: TakeSignal[] } = {},
): TakeView =>
  ({
    head: {
      id,
      name: id.toUpperCase(),
      number: id.charCodeAt(0) - 96,
      facts: {},
      startNs: String(BigInt(rest.startMs ?? 0) * 1_000_000n),
    },
    durationS: rest.durationS ?? 10,
    signals: rest.signals ?? [
      signal('Load', { id: 1 }),
      signal('Travel', { id: 2, unit: 'mm', quantity: 'length' }),
    ],
    notes: rest.notes ?? [],
    gaps: [],
    judgements: [],
    meaning: 'as corrected',
    corrected: false,
    proofs: [],
    timing: [],
  }) as unknown as TakeView;
const nothing = readAddress(new URLSearchParams());

describe('what is looked at', () => {
  let told: number;
  function begun(takes = [take('a')], address = ''): Inspection {
    const insp = new Inspection();
    told = 0;
    insp.tell = () => told++;
    insp.begin(takes, readAddress(new URLSearchParams(address)));
    return insp;
  }

  test('a take is looked at whole, with a cursor in it; nothing of that has to be told', async () => {
    const insp = begun();
    await settled();
    expect(insp.window).toEqual([0, 10]);
    expect(insp.cursors[0]).toBeCloseTo(10 / 3, 9);
    expect(insp.names).toEqual(['Load', 'Travel']);
    expect(told).toBe(0);
  });
  test('windows have a way back and forward; a new one ends the way forward', () => {
    const insp = begun();
    insp.look(2, 4);
    insp.look(3, 3.5);
    insp.back();
    expect(insp.window).toEqual([2, 4]);
    insp.back();
    expect(insp.window).toEqual([0, 10]);
    expect(insp.canGoBack).toBe(false);
    insp.forward();
    insp.forward();
    expect(insp.window).toEqual([3, 3.5]);
    insp.back();
    insp.look(6, 7);
    expect(insp.canGoForward).toBe(false);
    insp.all();
    expect(insp.window).toEqual([0, 10]);
    insp.back();
    expect(insp.window).toEqual([6, 7]);
    expect(told).toBeGreaterThan(5);
  });
  test('one cannot look at less than some samples, nor far beyond the ends', () => {
    const insp = begun();
    insp.look(5, 5.001);
    expect(insp.window).toEqual([0, 10]);
    insp.look(-100, 100);
    expect(insp.window).toEqual([-2.5, 12.5]);
    insp.look(7, 3);
    expect(insp.window).toEqual([-2.5, 12.5]);
  });
  test('zooming keeps the place under the pointer, panning the width', () => {
    const insp = begun();
    insp.zoom(4, 0.5);
    expect(insp.window).toEqual([2, 7]);
    insp.pan(1);
    expect(insp.window).toEqual([3, 8]);
    // A drag is one step back, whatever steps it had.
    expect(insp.canGoBack).toBe(false);
    insp.remember();
    for (let k = 0; k < 5; k++) insp.pan(0.1);
    insp.back();
    expect(insp.window).toEqual([3, 8]);
  });
  test('cursors stay within what there is; one can be taken away', () => {
    const insp = begun();
    insp.place(1, 99);
    expect(insp.cursors[1]).toBe(10);
    expect(insp.chosen).toBe(1);
    insp.place(1, null);
    expect(insp.cursors[1]).toBeNull();
  });
  test('the address says all of it, and begins the same elsewhere', async () => {
    const insp = begun([take('a'), take('b')]);
    insp.change({ channels: ['Travel'], as: 'one plot' });
    insp.look(2, 4);
    insp.place(0, 2.5);
    insp.place(1, 3.5);
    insp.standOut('b');
    const other = begun([take('b'), take('a')], insp.address);
    await settled();
    expect(other.drawing).toEqual(insp.drawing);
    expect(other.window).toEqual([2, 4]);
    expect(other.cursors).toEqual([2.5, 3.5]);
    expect(other.main.head.id).toBe('b');
    expect(other.address).toBe(insp.address);
  });
  test('[ and ] go round all takes that are shown', () => {
    const insp = begun([take('a'), take('b'), take('c')]);
    insp.step(1);
    expect(insp.main.head.id).toBe('b');
    expect(insp.ordered.map((t) => t.head.id)).toEqual(['b', 'a', 'c']);
    insp.step(-1);
    insp.step(-1);
    expect(insp.main.head.id).toBe('c');
    insp.standOut('nobody');
    expect(insp.main.head.id).toBe('c');
  });

  test('takes are fetched once; another single one is looked at whole, from the start', async () => {
    const server = new PageServer({ 'POST /api/takes/views': ({ body }: { body: { takes: string[] } }) => body.takes.map((id) => take(id, { durationS: 30 })) }); // prettier-ignore
    const insp = begun();
    insp.look(2, 4);
    await insp.lay(['a', 'b']);
    expect(server.asked.map((a) => (a.body as { takes: string[] }).takes)).toEqual([['b']]);
    expect(insp.window).toEqual([2, 4]); // what was looked at stays
    expect(insp.main.head.id).toBe('a');
    await insp.lay(['b'], 'b');
    await insp.lay(['c'], 'c');
    expect(insp.window).toEqual([0, 30]);
    expect(insp.canGoBack).toBe(false);
    expect(server.asked).toHaveLength(2);
  });
  test('a take that cannot be read is said by name; the others are laid', async () => {
    new PageServer({
      'POST /api/takes/views': [{ id: 'x', name: 'X-1', fault: { what: 'It is damaged.' } }, take('b')],
    });
    const insp = begun();
    await insp.lay(['a', 'x', 'b']);
    expect(insp.takes.map((t) => t.head.id)).toEqual(['a', 'b']);
    expect(insp.unread).toEqual([{ name: 'X-1', fault: { what: 'It is damaged.' } }]);
  });

  describe('laid by a crossing', () => {
    const at = (id: string, atS: number | null, fault: string | null = null): AlignedTake => ({ take: id, atS, coefficient: null, fault }); // prettier-ignore
    test('0 is the crossing: windows and cursors of before mean nothing any more', async () => {
      const server = new PageServer({ 'POST /api/align': [at('a', 2), at('b', 5)] });
      const insp = begun([take('a'), take('b')]);
      await settled();
      insp.look(1, 2);
      insp.change({ aligned: 'a crossing', alignBy: 'Load', level: 0.2 });
      await settled();
      expect(server.asked[0].body).toMatchObject({
        by: 'crossing',
        channel: 'Load',
        level: 0.2,
        takes: ['a', 'b'],
      });
      expect(insp.whole).toEqual([-5, 8]);
      expect(insp.window).toEqual([-5, 8]);
      expect(insp.zero('b')).toBe(5);
      expect(insp.canGoBack).toBe(false);
    });
    test('one that never crosses is laid by its start, and that is said', async () => {
      new PageServer({
        'POST /api/align': [at('a', 2), at('b', null, 'Load never rises through 9 kN in B.')],
      });
      const insp = begun([take('a'), take('b')]);
      insp.change({ aligned: 'a crossing', alignBy: 'Load' });
      await settled();
      expect(insp.aligning?.what).toBe('Load never rises through 9 kN in B.');
      expect(insp.zero('b')).toBe(0);
    });
    test('without a channel it is asked for, and nobody else is', async () => {
      const server = new PageServer({});
      const insp = begun([take('a'), take('b')]);
      insp.change({ aligned: 'the best fit' });
      await settled();
      expect(insp.aligning?.next).toMatch(/Choose one/);
      expect(server.asked).toEqual([]);
    });
    test('an answer that comes after a later question changes nothing', async () => {
      let k = 0;
      const server = new PageServer({ 'POST /api/align': () => [at('a', k++ === 0 ? 1 : 7)] });
      const insp = begun();
      server.slow = true;
      insp.change({ aligned: 'a mark' });
      insp.change({ mark: 'Go' });
      await settled();
      server.answer();
      server.answer();
      await settled();
      expect(insp.zero('a')).toBe(7);
    });
  });

  test('times are written since the start, by the clock of the job, in UTC, since a mark', () => {
    const insp = begun([
      take('a', { startMs: Date.UTC(2027, 6, 1, 12, 0, 0), notes: [note(3, 'Go'), note(6, 'Stop')] }),
    ]);
    insp.zone = 'Europe/Berlin';
    expect(insp.scale).toEqual({ clockS: null, zeroS: 0 });
    insp.change({ time: 'in UTC' });
    expect(insp.scale.clockS).toBe(Date.UTC(2027, 6, 1, 12) / 1000);
    insp.change({ time: 'by the clock' });
    expect(insp.scale.clockS).toBe(Date.UTC(2027, 6, 1, 14) / 1000); // summer time
    insp.zone = 'No/Where';
    expect(insp.scale.clockS).toBe(Date.UTC(2027, 6, 1, 12) / 1000);
    insp.change({ time: 'since a mark', mark: 'St' });
    expect(insp.scale).toEqual({ clockS: null, zeroS: 6 });
    insp.change({ mark: 'nowhere' });
    expect(insp.scale.zeroS).toBe(0);
  });
  test('an empty job has nothing to look at, and says nothing wrong', () => {
    const insp = begun([]);
    expect([insp.main, insp.ordered, insp.names]).toEqual([undefined, [], []]);
    expect(insp.window).toEqual([0, 1]);
    expect(insp.drawn.panels).toEqual([]);
  });
});

describe('the list of takes in the drawer', () => {
  const line = (k: number): TakeLine => ({ ...NOTHING_KNOWN, channels: [{ name: 'Load', unit: 'kN' }], id: `t${k}`, number: k, name: `T-${k}`, folder: '', state: 'complete', startedAt: k, durationMs: 1, tags: [], bytes: 1 }); // prettier-ignore
  const found = (n: number, from: number, count: number) => ({
    all: 900,
    ids: Array.from({ length: n }, (_, k) => `t${k}`),
    groups: [
      { name: 'A', count: Math.min(3, n) },
      { name: 'B', count: Math.max(0, n - 3) },
    ],
    takes: Array.from({ length: Math.max(0, Math.min(count, n - from)) }, (_, k) => line(from + k)),
    from,
  });
  const answering = (n: number) =>
    new PageServer({
      'GET /api/takes': ({ query }: { query: Record<string, string> }) =>
        found(n, Number(query.from), Number(query.count)),
      'GET /api/strips': ({ query }: { query: Record<string, string> }) => Object.fromEntries(query.takes.split(',').map((id) => [id, { min: [1], max: [2] }])), // prettier-ignore
    });

  test('heads stand among the takes; parts of it come as they are seen, each once', async () => {
    const server = answering(250);
    const list = new TakeList();
    await list.search();
    expect(list.items).toHaveLength(252);
    expect(list.items.slice(0, 5)).toEqual([{ group: 'A', count: 3 }, { index: 0 }, { index: 1 }, { index: 2 }, { group: 'B', count: 247 }]); // prettier-ignore
    expect(list.lines.size).toBe(40);
    list.see([35, 45, 50]);
    list.see([60, 241]);
    await settled();
    expect(server.asked.map((a) => a.query.from)).toEqual(['0', '40', '240']);
    expect(list.lines.get(249)?.name).toBe('T-249');
  });
  test('without groups there are no heads', async () => {
    answering(4);
    const list = new TakeList();
    await list.search({ group: 'nothing' });
    expect(list.items).toEqual([{ index: 0 }, { index: 1 }, { index: 2 }, { index: 3 }]);
  });
  test('an answer to former words that comes late is passed over', async () => {
    const server = new PageServer({ 'GET /api/takes': ({ query }: { query: Record<string, string> }) => found(query.filter.includes('late') ? 1 : 7, 0, 10) }); // prettier-ignore
    server.slow = true;
    const list = new TakeList();
    const [first, second] = ['late', 'newer'].map((words) =>
      list.search({ filter: { ...ALL_TAKES, words } }),
    );
    await settled();
    server.answer();
    server.answer();
    await Promise.all([first, second]);
    expect(list.found.ids).toHaveLength(7);
  });
  test('small pictures are asked for once, of takes that have the channel', async () => {
    vi.useFakeTimers();
    const server = answering(5);
    const list = new TakeList();
    await list.search();
    list.drawStrips('Load');
    list.see([0, 1]);
    list.see([1, 2]);
    await vi.advanceTimersByTimeAsync(100);
    list.see([0, 1, 2]);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.of('GET /api/strips').map((a) => a.query.takes)).toEqual(['t0,t1,t2']);
    list.forgetStrip('t1');
    list.see([0, 1, 2]);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.of('GET /api/strips').at(-1)!.query.takes).toBe('t1');
    list.drawStrips('Nowhere');
    list.see([0, 1, 2]);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.of('GET /api/strips')).toHaveLength(2);
  });
  test('a fault is said, and goes with the next answer', async () => {
    let well = false;
    new PageServer({ 'GET /api/takes': () => { if (!well) throw new Error('It did not work.'); return found(2, 0, 10); } }); // prettier-ignore
    const list = new TakeList();
    await list.search();
    expect(list.fault?.what).toBe('It did not work.');
    expect(list.ready).toBe(true);
    well = true;
    await list.search();
    expect(list.fault).toBeNull();
  });
});

describe('curves that are fetched', () => {
  beforeEach(() => void vi.useFakeTimers());
  const windowsServer = () =>
    new PageServer({
      'POST /api/windows': ({
        body,
      }: {
        body: { asks: { signals: number[]; from: number; to: number }[]; width: number };
      }) => {
        const head = body.asks.map((a) =>
          a.signals.map((s) => ({ signal: s, fromS: a.from, stepS: (a.to - a.from) / 4, buckets: 4 })),
        );
        return packed(head, head.flat().flatMap((h) => [Float32Array.of(h.signal, 1, 2, 3), Float32Array.of(4, 5, 6, 7)])); // prettier-ignore
      },
    });
  const wanted = (id: string) => [{ take: take(id), signals: [1, 2] }];
  const none = () => 0;

  test('reach beyond the window, so that small moves ask nothing', async () => {
    const server = windowsServer();
    const w = new Windows();
    w.look(wanted('a'), none, [4, 6], 500, false);
    await vi.advanceTimersByTimeAsync(1);
    expect(server.asked[0].body).toMatchObject({
      asks: [{ take: 'a', signals: [1, 2], from: 3, to: 7 }],
      width: 1000,
    });
    const drawn = w.drawn.get('a 2')!;
    expect([...drawn.x]).toEqual([3.5, 4.5, 5.5, 6.5]);
    expect([...drawn.min]).toEqual([2, 1, 2, 3]);
    for (const [from, to] of [[3.2, 5.2], [4.9, 6.9], [4.2, 6]] as [number, number][]) w.look(wanted('a'), none, [from, to], 500, false); // prettier-ignore
    await vi.advanceTimersByTimeAsync(100);
    expect(server.asked).toHaveLength(1);
    w.look(wanted('a'), none, [6, 8], 500, false);
    w.look(wanted('a'), none, [6.1, 8.1], 500, false); // while it is dragged
    await vi.advanceTimersByTimeAsync(100);
    expect(server.asked).toHaveLength(2);
  });
  test('looked at more closely, or of another take, they are fetched anew; each by its own zero', async () => {
    const server = windowsServer();
    const w = new Windows();
    w.look(wanted('a'), none, [0, 8], 500, false);
    await vi.advanceTimersByTimeAsync(1);
    w.look(wanted('a'), none, [3, 4], 500, false);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.asked).toHaveLength(2);
    w.look(wanted('b'), () => 10, [3, 4], 500, false);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.asked[2].body).toMatchObject({ asks: [{ take: 'b', from: 12.5, to: 14.5 }] });
    // What a take means was changed: it is read by that meaning.
    w.look(wanted('b'), () => 10, [3, 4], 500, true);
    await vi.advanceTimersByTimeAsync(100);
    expect(server.asked[3].body).toMatchObject({ recorded: true });
  });
  test('a fault is said; a question that was overtaken is none', async () => {
    new PageServer({ 'POST /api/windows': () => { throw new Error('The take is gone.'); } }); // prettier-ignore
    const w = new Windows();
    w.look(wanted('a'), none, [0, 8], 500, false);
    await vi.advanceTimersByTimeAsync(10);
    expect(w.fault?.what).toBe('The take is gone.');
    expect(w.busy).toBe(false);
  });
});

describe('readings at the cursors', () => {
  test('of all takes at once, at each one’s own time; statistics between two a little later', async () => {
    vi.useFakeTimers();
    const server = new PageServer({
      'POST /api/align': [{ take: 'a', atS: 1, coefficient: null, fault: null }, { take: 'b', atS: 4, coefficient: null, fault: null }], // prettier-ignore
      'POST /api/readings': ({ body }: { body: { asks: { s: number[]; signals: number[] }[] } }) => body.asks.map((a) => a.s.map((s) => a.signals.map(() => (s < -1e9 ? null : s)))), // prettier-ignore
      'POST /api/between': ({ body }: { body: { asks: { signals: number[]; from: number; to: number }[] } }) => body.asks.map((a) => a.signals.map((s) => ({ signal: s, count: 1, missing: 0, mean: a.from, standardDeviation: null, min: null, max: null, rms: null, slope: null }))), // prettier-ignore
    });
    const insp = new Inspection();
    insp.begin([take('a'), take('b')], { ...nothing, drawing: { ...USUAL_DRAWING, aligned: 'a mark' } });
    await vi.advanceTimersByTimeAsync(10);
    insp.cursors = [2, null];
    const reading = new ReadingsAt();
    reading.follow(insp, (t) => t.signals.map((s) => s.id), false);
    await vi.advanceTimersByTimeAsync(30);
    expect([reading.at('a', 0, 1), reading.at('b', 0, 2), reading.at('a', 1, 1)]).toEqual([3, 6, null]);
    await vi.advanceTimersByTimeAsync(200);
    expect(server.of('POST /api/between')).toHaveLength(0); // one cursor has nothing between
    insp.cursors = [5, 3];
    reading.follow(insp, () => [1], false);
    await vi.advanceTimersByTimeAsync(300);
    expect(reading.between.get('b 1')!.mean).toBe(7);
    // Without cursors nothing is asked.
    const before = server.asked.length;
    insp.cursors = [null, null];
    reading.follow(insp, () => [1], false);
    await vi.advanceTimersByTimeAsync(300);
    expect(server.asked).toHaveLength(before);
    expect(reading.at('a', 0, 1)).toBeNull();
  });
  test('the uncertainty is asked for where it is shown, at the chosen cursor', async () => {
    vi.useFakeTimers();
    const server = new PageServer({ 'POST /api/readings': [[[0.25]]] });
    const insp = new Inspection();
    insp.begin([take('a')], { ...nothing, cursors: [2, 3] });
    insp.chosen = 1;
    const reading = new ReadingsAt();
    reading.follow(insp, () => [1], true);
    await vi.advanceTimersByTimeAsync(300);
    expect(server.of('POST /api/readings').at(-1)!.body).toMatchObject({
      uncertainty: true,
      asks: [{ s: [3] }],
    });
    expect(reading.plusMinus('a', 1)).toBe(0.25);
  });
});

describe('a series on the page', () => {
  const table = (counts: boolean[]): SeriesTable => ({
    id: 's1',
    name: 'Batch 4',
    series: { filter: ALL_TAKES, order: 'name', columns: [{ of: 'fact', name: 'Batch' }] },
    says: 'all takes',
    columns: [{ title: 'highest load', unit: 'kN', says: '', statistics: { n: 2, mean: 11.25, standardDeviation: 0.5, variation: 4.4, lowest: 10.9, highest: 11.6, median: 11.25, halfWidth95: NaN }, hint: null }], // prettier-ignore
    rows: counts.map((c, k) => ({ take: `t${k}`, number: k, name: `CP-${k}`, cells: [{ value: 11 + k / 7, atS: 1, fault: null }], counts: c, reason: c ? '' : 'flaw', by: '', words: [] })), // prettier-ignore
  });
  function opened(counts: boolean[], more: Record<string, unknown> = {}) {
    const server = new PageServer({ 'GET /api/series': [{ id: 's1', name: 'Batch 4', series: table(counts).series }], 'GET /api/series/s1/table': table(counts), ...more }); // prettier-ignore
    const out: Map<string, string>[] = [];
    const insp = new Inspection();
    const list = new TakeList();
    return { server, out, insp, list, desk: new SeriesDesk(insp, list, (o) => out.push(o)) };
  }

  test('tells the page which takes do not count, and why', async () => {
    const { desk, out } = opened([true, false, true]);
    await desk.load();
    expect([...out[0]]).toEqual([['t1', 'flaw']]);
    expect(desk.table?.name).toBe('Batch 4');
  });
  test('without any series there is nothing to leave out', async () => {
    const { desk, out } = opened([], { 'GET /api/series': [] });
    await desk.load();
    expect(desk.table).toBeNull();
    expect([...out[0]]).toEqual([]);
  });
  test('values have the digits of a thousandth of the largest of their column', async () => {
    const { desk } = opened([true, true]);
    await desk.load();
    expect(desk.text(11.142857, 0)).toBe('11.14');
    expect(desk.text(0.5, 0)).toBe('0.50');
    expect(desk.text('words', 0)).toBe('words');
    expect([desk.text(null, 0), desk.text(NaN, 0)]).toEqual(['', '']);
  });
  test('columns are put, exchanged and taken away in their places', async () => {
    const { desk, server } = opened([true]);
    await desk.load();
    desk.put(null, { of: 'fact', name: 'Operator' });
    await settled();
    expect(server.of('PATCH /api/series/s1')[0].body).toMatchObject({ series: { columns: [{ name: 'Batch' }, { name: 'Operator' }] } }); // prettier-ignore
    desk.put(0, { of: 'fact', name: 'Coupon' });
    await settled();
    expect(server.of('PATCH /api/series/s1')[1].body).toMatchObject({
      series: { columns: [{ name: 'Coupon' }] },
    });
    desk.put(0, null);
    await settled();
    expect(server.of('PATCH /api/series/s1')[2].body).toMatchObject({ series: { columns: [] } });
  });
  test('holds what the drawer shows when it is told to', async () => {
    const { desk, server, list } = opened([true]);
    await desk.load();
    list.filter = { words: 'cp', conditions: [] };
    await desk.hold();
    expect(server.of('PATCH /api/series/s1')[0].body).toMatchObject({ series: { filter: { words: 'cp' } } });
    desk.rename('  ');
    desk.rename('Batch 4');
    desk.rename(' Batch four ');
    await settled();
    expect(server.of('PATCH /api/series/s1').slice(1).map((a) => a.body)).toEqual([{ name: 'Batch four' }]); // prettier-ignore
  });
  test('a judgement that is refused is said and changes nothing', async () => {
    const { desk } = opened([true], { 'POST /api/series/s1/words': () => { throw new Error('Say why it does not count.'); } }); // prettier-ignore
    await desk.load();
    expect(await desk.judge('t0', false, '')).toBe(false);
    expect(desk.fault?.what).toBe('Say why it does not count.');
  });
  test('is copied as rows with their judgement, then the statistics; what is no number is left empty', async () => {
    const copied: string[] = [];
    vi.stubGlobal('navigator', {
      clipboard: { writeText: (t: string) => (copied.push(t), Promise.resolve()) },
    });
    const { desk } = opened([true, false]);
    await desk.load();
    await desk.copy();
    const lines = copied[0].split('\n');
    expect(lines[0]).toBe('take\thighest load, kN\tcounts\twhy');
    expect(lines[2]).toMatch(/^CP-1\t11\.14\d+\tout\tflaw$/);
    expect(lines).toContain('mean\t11.25');
    expect(lines).toContain('halfWidth95\t');
  });
});
