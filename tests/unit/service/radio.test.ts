import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { linearConversion } from '$core/conversion/conversion';
import { highestLine, peakAt } from '$core/radio/peaks';
import { EMPTY_STATUS } from '$contract/engine-status';
import type { EngineCommand } from '$contract/engine';
import { FRAME_KINDS, FrameReader, decodeJson, type RawFrame } from '$contract/live';
import { LINE_DEFAULTS, LineWish, type HeardBand, type HeardFault } from '$contract/radio';
import {
  CATCHING_DEFAULTS,
  catchRequest,
  decodeCaught,
  encodeCaught,
  type CaughtTold,
} from '$contract/radio-catching';
import { PICTURE_ROWS, Pictures, PICTURES_BEGIN } from '$contract/radio-pictures';
import { decodeHeard, decodePast } from '$contract/radio-wire';
import { jobOf, openApp, takePath, type App } from '$service/app';
import { RadioDesk } from '$service/radio/desk';
import { TakeWriter } from '$store/take/writer';
import { putTake } from '$store/takes';
import { openStandIn } from '$engine/units/receiver/driver';
import { noise, sum, tone } from '../core/radio/signals';
import { START_NS, head } from '../rig';

const known = {
  serial: 'RX-1',
  kind: 'receiver',
  name: 'Quay receiver',
  config: { settings: { centre: 868, rate: 1, gain: 20 }, sources: [], database: null },
};

let folder: string;
let app: App;
let desk: RadioDesk;
let commands: EngineCommand[];
let refuse: Error | null;
const unit = openStandIn(known, START_NS);

beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-radio-'));
  app = openApp(folder);
  commands = [];
  refuse = null;
  unit.tune!(868e6);
  const status = () =>
    app.live.setStatus({
      ...EMPTY_STATUS,
      units: [{ description: unit.describe(), answering: true, says: '' }],
    });
  app.engine = {
    command: (command) => {
      commands.push(command);
      if (refuse) return Promise.reject(refuse);
      if (command.do === 'tune') unit.tune!(command.centreHz);
      status();
      return Promise.resolve();
    },
  };
  status();
  app.radio = desk = new RadioDesk(app);
});
afterEach(() => {
  desk.close();
  app.live.closeAll();
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

/** A page that looks at a receiver. */
class Page {
  private readonly frames = new FrameReader();
  private readonly reader: ReadableStreamDefaultReader<Uint8Array>;
  readonly got: RawFrame[] = [];
  constructor(look: { radio?: string; catches?: string }) {
    this.reader = app.live.stream({ strips: [], waves: [], ...look }).getReader();
  }
  of = (kind: number) => this.got.filter((f) => f.kind === kind);
  async until(kind: number, count = 1) {
    while (this.of(kind).length < count)
      this.got.push(...this.frames.push((await this.reader.read()).value!));
    return this.of(kind);
  }
  leave = () => this.reader.cancel();
}
const wishes = () => commands.flatMap((c) => (c.do === 'listen' ? [c.wish] : []));
const view = () => desk.views().find((v) => v.unit === 'RX-1')!;

describe('how a receiver is listened to', () => {
  test('one that nobody has listened to is heard as wide as it hears, with the usual lines', () => {
    expect(view()).toMatchObject({
      name: 'Quay receiver',
      listening: { around: 868, wide: 0.8 },
      recorded: null,
      standIn: true,
    });
    expect(view().lines.map((l) => l.id)).toEqual(LINE_DEFAULTS.map((l) => l.id));
  });

  test('is kept, and found again after a new start; what was kept by another version and is not understood gives way to the usual', async () => {
    await desk.listen('RX-1', { resolving: 7, detector: 'highest' });
    desk.measure('RX-1', { share: 95, pins: [{ id: 1, hz: 868e6, follows: true }] });
    const again = new RadioDesk(app);
    expect(again.views()[0]).toMatchObject({
      listening: { resolving: 7, detector: 'highest' },
      measuring: { share: 95, pins: [{ id: 1 }] },
    });
    const { putHouse } = await import('$store/house');
    putHouse(app.db, 'radio RX-1', { listening: { odd: 1 }, lines: 'none' });
    expect(new RadioDesk(app).views()[0].listening.detector).toBe('rms');
  });

  test('around and from–to say the same, whichever is changed', async () => {
    await desk.listen('RX-1', { around: 868.1, wide: 0.4 });
    expect(view().listening).toMatchObject({ from: 867.9, to: 868.3 });
    await desk.listen('RX-1', { span: 'from', from: 867.8, to: 868.2 });
    expect(view().listening).toMatchObject({ around: 868, wide: 0.4 });
    await desk.listen('RX-1', { span: 'around' });
    expect(view().listening).toMatchObject({ span: 'around', around: 868, wide: 0.4 });
  });

  test('a band outside what is received is tuned to; one inside is not', async () => {
    await desk.listen('RX-1', { around: 868.1, wide: 0.4 });
    expect(commands.filter((c) => c.do === 'tune')).toEqual([]);
    await desk.listen('RX-1', { around: 433.9, wide: 0.5 });
    expect(commands.filter((c) => c.do === 'tune')).toEqual([
      { do: 'tune', unit: 'RX-1', centreHz: 433.9e6 },
    ]);
    expect(view().receiver.centreHz).toBe(433.9e6);
  });

  test.each([
    ['wider than it can go through', { wide: 3000 }, /steps|more than 8192 lines|reaches/],
    ['finer than can be drawn', { resolving: 0.00001 }, /nearest that can be had/],
    ['of no frequency', { around: -1 }, /above 0 MHz/],
    [
      'that ends before it begins',
      { span: 'from' as const, from: 868.2, to: 868.1 },
      /ends before it begins/,
    ],
    ['beyond what it reaches', { around: 9000 }, /6 GHz/],
  ])('a band %s is refused, and what was before stays', async (_, own, says) => {
    await expect(desk.listen('RX-1', own)).rejects.toThrow(says);
    expect(view().listening).toMatchObject({ around: 868, wide: 0.8 });
  });

  test('where the engine does not tune, as while a take is recorded, nothing changes', async () => {
    refuse = new Error('A take is being recorded.');
    await expect(desk.listen('RX-1', { around: 433 })).rejects.toThrow(/being recorded/);
    expect(view().listening.around).toBe(868);
  });

  test('a receiver that is not there is named', async () => {
    await expect(desk.listen('RX-9', { around: 433 })).rejects.toThrow(/RX-9/);
    expect(() => desk.measure('RX-9', {})).toThrow(/RX-9/);
    expect(() => desk.clear('RX-9', [])).toThrow(/RX-9/);
  });

  test('more lines than six are refused; a difference names its two by their places', () => {
    const lines = [
      ...LINE_DEFAULTS,
      LineWish.parse({ id: 'd', shows: 'difference', from: 'highest', minus: 'now' }),
    ];
    desk.lines('RX-1', lines);
    const many = Array.from({ length: 7 }, (_, k) => LineWish.parse({ id: `l${k}`, shows: 'lowest' }));
    expect(() => desk.lines('RX-1', many)).toThrow();
    expect(() => desk.lines('RX-1', [])).toThrow();
    expect(view().lines).toHaveLength(4);
  });
});

describe('pages that look', () => {
  test('the engine is asked while somebody looks, again when it began anew, and told when nobody does any more', async () => {
    expect(wishes()).toEqual([]);
    const page = new Page({ radio: 'RX-1' });
    await page.until(FRAME_KINDS.hello);
    expect(wishes().at(-1)).toMatchObject({ band: { detector: 'rms' }, catching: null });
    desk.again();
    expect(wishes()).toHaveLength(2);
    const pulses = new Page({ catches: 'RX-1' });
    await pulses.until(FRAME_KINDS.hello);
    expect(wishes().at(-1)!.catching).toMatchObject({ begins: { by: 'level' } });
    await page.leave();
    expect(wishes().at(-1)!.band).toBeNull();
    await pulses.leave();
    expect(wishes().at(-1)).toEqual({ band: null, catching: null });
  });

  test('are told pictures of their receiver, that it is listened to otherwise, and what cannot be heard', async () => {
    const [page, other] = [new Page({ radio: 'RX-1' }), new Page({ radio: 'RX-2' })];
    await page.until(FRAME_KINDS.hello);
    const picture = await pictureOf();
    desk.heard(picture);
    const [frame] = await page.until(FRAME_KINDS.heard);
    expect(decodeHeard(frame.payload).plan).toEqual(picture.plan);
    await desk.listen('RX-1', { resolving: 9 });
    await page.until(FRAME_KINDS.radio);
    const fault: HeardFault = { unit: 'RX-1', says: 'It cannot.', next: 'Tune it.' };
    desk.heard(fault);
    expect(decodeJson((await page.until(FRAME_KINDS.heardFault))[0].payload)).toEqual(fault);
    expect(view().fault).toEqual(fault);
    desk.heard(picture);
    expect(view().fault).toBeNull();
    await other.until(FRAME_KINDS.hello);
    expect(other.of(FRAME_KINDS.heard)).toEqual([]);
  });

  test('one that opens later gets the waterfall so far; of another band it begins anew', async () => {
    const first = new Page({ radio: 'RX-1' });
    await first.until(FRAME_KINDS.hello);
    const picture = await pictureOf();
    for (let k = 0; k < 5; k++) desk.heard({ ...picture, fromS: k, toS: k + 1 });
    const later = new Page({ radio: 'RX-1' });
    const [past] = await later.until(FRAME_KINDS.heardPast);
    const { lines, rows } = decodePast(past.payload);
    expect(lines).toBe(picture.plan.lines);
    expect(rows.map((r) => r.fromS)).toEqual([0, 1, 2, 3, 4]);
    rows[3].levels.forEach((v, l) => expect(Math.abs(v / 100 - picture.highest[l])).toBeLessThan(0.006));
    desk.heard({ ...picture, plan: { ...picture.plan, startHz: 1 }, fromS: 9, toS: 10 });
    const last = new Page({ radio: 'RX-1' });
    expect(decodePast((await last.until(FRAME_KINDS.heardPast))[0].payload).rows).toHaveLength(1);
  });

  test('the pin that others are compared to is counted when that is asked for', async () => {
    const page = new Page({ radio: 'RX-1' });
    await page.until(FRAME_KINDS.hello);
    expect(wishes().at(-1)!.band!.count).toBeNull();
    desk.measure('RX-1', {
      pins: [
        { id: 1, hz: 868.1e6, follows: true },
        { id: 2, hz: 868.2e6, follows: true },
      ],
      to: 2,
      counts: true,
    });
    expect(wishes().at(-1)!.band!.count).toEqual({ hz: 868.2e6, bandwidthHz: 80_000 });
  });

  test('clearing names the lines that begin anew; without a name all of them do', async () => {
    const page = new Page({ radio: 'RX-1' });
    await page.until(FRAME_KINDS.hello);
    desk.clear('RX-1', ['highest']);
    expect(
      wishes()
        .at(-1)!
        .band!.lines.map((l) => l.begins),
    ).toEqual([0, 1, 0]);
    desk.clear('RX-1', []);
    expect(
      wishes()
        .at(-1)!
        .band!.lines.map((l) => l.begins),
    ).toEqual([1, 2, 1]);
  });
});

describe('pictures of a page', () => {
  const first = PICTURES_BEGIN.pulses;
  test('stand as they were arranged, each page for itself, also after a restart; none at all is as it begins', () => {
    const other = view().pictures.modulation;
    const next = [...first.slice(1), { id: 'more', shows: 'phase', x: 0, y: 12, w: 24, h: 3 }];
    expect(desk.arrange('RX-1', 'pulses', next)[0].pictures).toEqual({ pulses: next, modulation: other });
    const again = new RadioDesk(app);
    expect(again.views()[0].pictures.pulses).toEqual(next);
    again.close();
    // How it is heard stays as it was, and nobody is asked anything.
    expect(view().catching).toEqual(CATCHING_DEFAULTS);
    expect(commands).toEqual([]);
    desk.arrange('RX-1', 'pulses', []);
    expect(view().pictures.pulses).toEqual(first);
    expect(() => desk.arrange('nobody', 'pulses', [])).toThrow(/not.*there|no receiver/i);
  });

  test('begin without a hole or an overlap, fill their page, and are what can be kept', () => {
    for (const all of Object.values(PICTURES_BEGIN)) {
      expect(Pictures.safeParse(all).success).toBe(true);
      const cells = new Set(all.flatMap(({ x, y, w, h }) => Array.from({ length: w * h }, (_, k) => `${x + (k % w)} ${y + Math.floor(k / w)}`))); // prettier-ignore
      expect(cells.size).toBe(24 * PICTURE_ROWS);
      expect(all.reduce((sum, { w, h }) => sum + w * h, 0)).toBe(cells.size);
    }
    for (const wrong of [[...first, first[0]], Array.from({ length: 13 }, (_, k) => ({ ...first[0], id: `${k}` })), [{ ...first[0], w: 25 }], [{ ...first[0], x: -1 }]]) expect(Pictures.safeParse(wrong).success).toBe(false); // prettier-ignore
  });
});

describe('catching', () => {
  test('is kept like the rest; what cannot be had is refused with what can', async () => {
    await desk.catch('RX-1', { at: 868.1, wide: 200, level: -60 });
    expect(view().catching).toMatchObject({ at: 868.1, level: -60 });
    await expect(desk.catch('RX-1', { low: 90, high: 10 })).rejects.toThrow(/lower share/);
    await expect(desk.catch('RX-1', { length: 50_000 })).rejects.toThrow(/it can be/);
    await expect(desk.catch('RX-1', { wide: 3000 })).rejects.toThrow(/outside what is received/);
    await desk.catch('RX-1', { at: 900, wide: 200 });
    expect(view().receiver.centreHz).toBe(900e6);
  });
  test('pictures go to the pages that catch, sample for sample', async () => {
    const page = new Page({ catches: 'RX-1' });
    await page.until(FRAME_KINDS.hello);
    const told: CaughtTold = {
      unit: 'RX-1',
      wish: catchRequest(view().catching),
      timeMs: 5,
      number: 2,
      sampleRateHz: 1e6,
      centreHz: 868e6,
      fromS: 1.5,
      beginAt: 3,
      iq: Float32Array.of(1, 2, 3, 4),
    };
    desk.heard(told);
    expect(decodeCaught((await page.until(FRAME_KINDS.caught))[0].payload)).toEqual(told);
    const moved = new Uint8Array(encodeCaught(told).length + 1);
    moved.set(encodeCaught(told), 1);
    expect(decodeCaught(moved.subarray(1)).iq).toEqual(told.iq);
  });
});

/** A picture as a receiver tells it. */
async function pictureOf(): Promise<HeardBand> {
  const { Listening } = await import('$engine/radio/listening');
  let heard: HeardBand | null = null;
  const listening = new Listening((h) => 'plan' in h && (heard = { unit: 'RX-1', ...h }));
  listening.want({
    request: { centreHz: 868e6, spanHz: 8e5, resolutionHz: 5000, smoothingHz: null, shape: 'Hann' },
    detector: 'rms',
    top: 0,
    height: 100,
    eachS: 0.05,
    fadeS: null,
    count: null,
    lines: [{ id: 'now', line: { shows: 'now' }, held: false, begins: 0 }],
  });
  listening.push(
    { first: 0, iq: noise(100_000, 1e6, -140, 4), overload: false },
    unit.describe().receiver!,
    100,
  );
  return heard!;
}

describe('a recorded band', () => {
  const RATE = 500_000;
  const SECONDS = 4;
  /** Noise, a tone that moves by 50 kHz a second, in mV; a gap of 0.1 s after two seconds. */
  function record(id: string, width: 1 | 2 = 2, unitName = 'mV') {
    const own = { ...head({}), id, jobId: jobOf(app).id };
    const receiver = {
      centreHz: 868e6,
      sampleRateHz: RATE,
      gainDb: 20,
      tunes: null,
      accuracy: { levelDb: 0.5, flatnessDb: 0.4, clock: 1e-6 },
      noiseFigure: 7,
      scaled: true,
    };
    const writer = new TakeWriter(takePath(app, id), {
      by: 'bench',
      head: own,
      groups: [{ offsetNs: 0, rate: { num: RATE, den: 1 } }],
      signals: [
        {
          channelId: 'band',
          name: 'Quay band',
          rawUnit: 'V',
          unit: unitName,
          group: 0,
          width,
          junction: null,
          conversion: linearConversion(unitName === 'mV' ? 1000 : 1, 0),
          snapshot: { receiver } as never,
        },
      ],
    });
    if (width === 1) writer.append(0, 0, new Float32Array(1000));
    else
      for (let s = 0; s < SECONDS; s++) {
        const iq = sum(noise(RATE, RATE, -150, s + 1), tone(RATE, RATE, -100_000 + s * 50_000, -50));
        const cut = s === 2 ? 50_000 : 0;
        writer.append(0, s * RATE + cut, iq.subarray(2 * cut));
      }
    writer.close('complete', SECONDS * 1e9);
    putTake(app.db, { ...own, state: 'complete', lengthNs: SECONDS * 1e9 }, SECONDS * 1000);
  }
  const open = async () => {
    record('band');
    const name = desk.open('band');
    await import('$engine/radio/listen-thread');
    await new Promise((done) => setTimeout(done));
    return name;
  };
  const peakOf = (frame: RawFrame) => {
    const { lines, plan } = decodeHeard(frame.payload);
    return peakAt(lines[0].levels!, highestLine(lines[0].levels!), plan);
  };

  test('is listened to like a receiver, at its centre and level; each place that is gone to gives its picture', async () => {
    const name = await open();
    const seen = desk.views().find((v) => v.unit === name)!;
    expect(seen).toMatchObject({
      name: 'Quay band, Take-1',
      receiver: { centreHz: 868e6, sampleRateHz: RATE, tunes: null },
      recorded: { durationS: SECONDS, atS: 0, speed: 0 },
      listening: { around: 868, wide: 0.4 },
    });
    const page = new Page({ radio: name });
    expect(peakOf((await page.until(FRAME_KINDS.heard))[0]).hz).toBeCloseTo(867.9e6, -3);
    for (const [atS, hz, n] of [
      [1.5, 867.95e6, 2],
      [3.2, 868.05e6, 3],
    ]) {
      desk.play(name, { atS });
      const frames = await page.until(FRAME_KINDS.heard, n);
      const peak = peakOf(frames[n - 1]);
      expect(Math.abs(peak.hz - hz)).toBeLessThan(100);
      expect(Math.abs(peak.level + 50)).toBeLessThan(0.1);
    }
    // Where nothing was recorded there is no picture, and that is said.
    desk.play(name, { atS: 2.01 });
    const [gap] = await page.until(FRAME_KINDS.heardFault);
    expect(decodeJson<HeardFault>(gap.payload).says).toMatch(/missing at this place/);
    desk.play(name, { atS: 3.2 });
    await page.until(FRAME_KINDS.heard, 4);
    // At another resolution it is read again where it stands.
    await desk.listen(name, { resolving: 1 });
    const { plan } = decodeHeard((await page.until(FRAME_KINDS.heard, 5))[4].payload);
    expect(plan.resolutionHz).toBeCloseTo(1000, -1);
    expect(commands).toEqual([]);
  });

  test('is not tuned: a band outside it is refused', async () => {
    const name = await open();
    await expect(desk.listen(name, { around: 433 })).rejects.toThrow(/more than is received/);
    await expect(desk.catch(name, { at: 433 })).rejects.toThrow(/outside what is received/);
  });

  test('is played at its own speed or slower to its end, and says what was not recorded', async () => {
    const name = await open();
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval'] });
    try {
      const page = new Page({ radio: name });
      await page.until(FRAME_KINDS.heard);
      desk.play(name, { atS: 1.5, speed: 1 });
      vi.advanceTimersByTime(1000);
      expect(desk.views().at(-1)!.recorded).toMatchObject({ atS: 2.5, speed: 1 });
      const frames = await page.until(FRAME_KINDS.heard, 17);
      expect(frames.some((f) => decodeHeard(f.payload).lost > 0)).toBe(true);
      desk.play(name, { speed: 0.1 });
      vi.advanceTimersByTime(1000);
      expect(desk.views().at(-1)!.recorded!.atS).toBeCloseTo(2.6, 6);
      desk.play(name, { speed: 1 });
      vi.advanceTimersByTime(5000);
      expect(desk.views().at(-1)!.recorded).toMatchObject({ atS: SECONDS, speed: 0 });
      // From the end it begins anew.
      desk.play(name, { speed: 1 });
      vi.advanceTimersByTime(100);
      expect(desk.views().at(-1)!.recorded!.atS).toBeLessThan(0.2);
      await page.leave();
      expect(desk.views().at(-1)!.recorded!.speed).toBe(0);
    } finally {
      vi.useRealTimers();
    }
  });

  test('without level it is read as shares of full scale, and no ± is made up', async () => {
    record('plain', 2, '1');
    const name = desk.open('plain');
    expect(desk.views().find((v) => v.unit === name)!.receiver).toMatchObject({
      accuracy: null,
      scaled: false,
    });
  });

  test('a take without complex samples, one that is not there, and more than four at once', () => {
    record('real', 1);
    expect(() => desk.open('real')).toThrow(/no complex samples/);
    expect(() => desk.open('gone')).toThrow(/gone/);
    expect(() => desk.play('take-gone', { atS: 1 })).toThrow(/take-gone/);
    for (const id of ['a', 'b', 'c', 'd', 'e']) {
      record(id);
      desk.open(id);
      expect(desk.open(id)).toBe(`take-${id}`);
    }
    const names = desk.views().map((v) => v.unit);
    expect(names).toHaveLength(5);
    expect(names).not.toContain('take-a');
  });
});
