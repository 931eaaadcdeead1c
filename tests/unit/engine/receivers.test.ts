import fc from 'fast-check';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server, type Socket } from 'node:net';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, describe, expect, test } from 'vitest';
import { FarrierError } from '$core/errors';
import { sigmf } from '$core/formats/sigmf/sigmf';
import { wav } from '$core/formats/wav/wav';
import { mw, MW_PER_V2, voltsAt } from '$core/radio/levels';
import type { OpenUnit } from '$engine/units/driver';
import { networkReceiver } from '$engine/units/network-receiver/driver';
import { FORMATS, FrameCutter, HEAD_BYTES, iqFrame } from '$engine/units/network-receiver/framing';
import { recordedBand } from '$engine/units/recorded-band/driver';
import { noise, sum, tone } from '../core/radio/signals';
import { recording, signal, written } from '../core/format-files';
import { START_NS, UNIT, bench, channel } from '../rig';

const folder = mkdtempSync(join(tmpdir(), 'farrier-iq-'));
afterAll(() => rmSync(folder, { recursive: true }));
const RATE = 48_000;
const unitOf = (kind: string, settings: object, path?: string) => ({
  serial: UNIT,
  kind,
  name: 'Band',
  config: { settings: settings as Record<string, unknown>, sources: [], database: null },
  path,
});
const IQ = sum(noise(RATE, RATE, -160, 2), tone(RATE, RATE, 6000, -40));
const channels = (rateHz: number) => [
  channel('Band', 'radio samples', 'R/iq', { rateHz, unit: 'mV' }),
  channel('Tone', 'peak frequency', 'P/1', { from: 868.604, to: 868.61, rateHz: 10, unit: 'Hz' }),
  channel('Power', 'power in a band', 'P/2', { from: 868.604, to: 868.61, rateHz: 10 }),
];

describe('a recorded band is a receiver', () => {
  const settings = { source: 'file:x', again: 'from the start again', speed: 1, centre: null };
  const file = async (format: 'sigmf' | 'wav', own: object = {}) => {
    const path = join(folder, `${Math.random().toString(36).slice(2)}.${format}`);
    const signals =
      format === 'sigmf'
        ? [
            signal('Quay at 868.6 MHz', Array.from(IQ), {
              width: 2,
              unit: 'V',
              quantity: '',
              rate: { num: RATE, den: 1 },
            }),
          ]
        : [0, 1].map((k) =>
            signal(
              k ? 'Q' : 'I',
              Array.from({ length: RATE }, (_, i) => IQ[2 * i + k] / voltsAt(0)),
              { unit: '1', quantity: '', rate: { num: RATE, den: 1 } },
            ),
          );
    writeFileSync(path, await written((format === 'wav' ? wav : sigmf) as never, recording(signals), own));
    return path;
  };
  const open = (path: string, own = {}) => {
    let nowNs = START_NS;
    return {
      unit: recordedBand.open(unitOf('recorded band', { ...settings, ...own }, path), () => nowNs),
      at: (ns: bigint) => (nowNs = ns),
    };
  };

  test('a SigMF archive: at its centre and level, sample for sample, again and again', async () => {
    const { unit } = open(await file('sigmf'));
    expect(unit.describe().receiver).toMatchObject({ centreHz: 868.6e6, sampleRateHz: RATE, tunes: null });
    const b = bench(unit, channels(RATE));
    b.run(2.5);
    expect(Math.abs(b.last('Tone') + 1000)).toBeLessThan(10);
    expect(b.last('Power')).toBeCloseTo(-40, 1);
    expect(b.last('Band')).toBeCloseTo(voltsAt(-40) * 1000, 2);
    unit.close();
  });

  test('a WAV file with two channels: shares of full scale, around what is said', async () => {
    const { unit } = open(await file('wav', { bits: '32' }), { centre: 868.6 });
    expect(unit.describe().receiver).toMatchObject({ centreHz: 868.6e6, accuracy: null });
    const b = bench(unit, channels(RATE));
    b.run(1);
    expect(b.last('Power')).toBeCloseTo(-40, 0);
    unit.close();
  });

  test('slower, it lasts longer and reads the same', async () => {
    const { unit } = open(await file('sigmf'), { speed: 0.1, again: 'nothing more' });
    expect(unit.describe().modules[0].ratesHz).toEqual([RATE / 10]);
    const b = bench(unit, channels(RATE / 10));
    b.run(5);
    expect(Math.abs(b.last('Tone') + 1000)).toBeLessThan(20);
    // Ten seconds for what took one; after its end there is nothing.
    b.run(7);
    expect(b.last('Tone')).toBeNaN();
    unit.close();
  });

  test('what cannot be played is said: no recording, a real one, no file at all', async () => {
    const clock = () => START_NS;
    expect(() => recordedBand.open(unitOf('recorded band', settings), clock)).toThrow(/not chosen/);
    const path = join(folder, 'mono.wav');
    writeFileSync(path, await written(wav as never, recording([signal('Deck', [0, 0.5, 0], { unit: '1' })])));
    expect(() => recordedBand.open(unitOf('recorded band', settings, path), clock)).toThrow(/no I and Q/);
    expect(() =>
      recordedBand.open(unitOf('recorded band', settings, join(folder, 'none.sigmf')), clock),
    ).toThrow();
  });
});

describe('frames of I and Q', () => {
  const frame = (first: number, iq: Float32Array, own = {}) =>
    iqFrame({ first, centreHz: 868.6e6, sampleRateHz: RATE, volts: 1, overload: false, iq, ...own });

  test('come out as they went in, in whatever pieces they arrive', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.float({ noNaN: true }), { minLength: 0, maxLength: 20 }), {
          minLength: 1,
          maxLength: 5,
        }),
        fc.array(fc.integer({ min: 1, max: 90 }), { minLength: 1, maxLength: 60 }),
        (parts, cuts) => {
          const frames = parts.map((p, k) => ({
            first: k * 1000,
            iq: Float32Array.from(p.slice(0, p.length & ~1)),
          }));
          const bytes = frames.flatMap((f) => [...frame(f.first, f.iq, { overload: f.first > 1000 })]);
          const cutter = new FrameCutter();
          const got = [];
          let at = 0;
          for (let k = 0; at < bytes.length; k++) {
            const n = cuts[k % cuts.length];
            got.push(...cutter.push(Uint8Array.from(bytes.slice(at, at + n))));
            at += n;
          }
          expect(got.map((g) => [g.first, g.overload, Array.from(g.iq)])).toEqual(
            frames.map((f) => [f.first, f.first > 1000, Array.from(f.iq)]),
          );
        },
      ),
      { numRuns: 60 },
    );
  });
  test('of whole numbers are shares of full scale', () => {
    const bytes = frame(0, new Float32Array(0));
    const own = new Uint8Array(HEAD_BYTES + 8);
    own.set(bytes);
    const view = new DataView(own.buffer);
    view.setUint32(4, 2, true);
    view.setUint32(44, FORMATS.int16, true);
    [16384, -32768, 0, 32767].forEach((v, k) => view.setInt16(HEAD_BYTES + 2 * k, v, true));
    const [got] = new FrameCutter().push(own);
    expect([...got.iq.subarray(0, 3)]).toEqual([0.5, -1, 0]);
    expect(got.iq[3]).toBeCloseTo(1, 4);
  });
  test.each([
    ['other letters', (v: DataView) => v.setUint32(0, 1, true)],
    ['a rate of nothing', (v: DataView) => v.setFloat64(24, 0, true)],
    ['a rate that is no number', (v: DataView) => v.setFloat64(24, NaN, true)],
    ['more samples than a frame has', (v: DataView) => v.setUint32(4, 4e9, true)],
    ['an index that is none', (v: DataView) => v.setFloat64(8, -1, true)],
    ['an unknown format', (v: DataView) => v.setUint32(44, 9, true)],
  ])('%s are refused at once, before memory is taken', (_, spoil) => {
    const bytes = frame(0, Float32Array.of(1, 2));
    spoil(new DataView(bytes.buffer));
    expect(() => new FrameCutter().push(bytes)).toThrow(FarrierError);
  });
});

describe('a receiver on the network', () => {
  let server: Server | null = null;
  let sockets: Socket[] = [];
  let unit: OpenUnit | null = null;
  afterEach(async () => {
    unit?.close();
    for (const s of sockets) s.destroy();
    await new Promise((done) => (server ? server.close(done) : done(null)));
    server = null;
    sockets = [];
  });
  /** Something that sends I and Q as a receiver on the network does. */
  async function sender() {
    const lines: string[] = [];
    const own = createServer((socket) => {
      sockets.push(socket);
      socket.on('data', (d) => lines.push(...String(d).split('\n').filter(Boolean)));
      socket.on('error', () => undefined);
    });
    server = own;
    await new Promise<void>((done) => own.listen(0, '127.0.0.1', done));
    return { port: (own.address() as AddressInfo).port, lines };
  }
  const until = async (holds: () => boolean) => {
    for (let k = 0; k < 400 && !holds(); k++) await new Promise((done) => setTimeout(done, 10));
    expect(holds()).toBe(true);
  };
  const started = Date.now();
  const clock = () => START_NS + BigInt(Date.now() - started) * 1_000_000n;
  const arrived = async () => {
    await until(() => {
      try {
        unit!.start([], clock());
        return true;
      } catch {
        return false;
      }
    });
  };
  const send = (first: number, count = 4800, own = {}) =>
    sockets.at(-1)!.write(
      iqFrame({
        first,
        centreHz: 868.6e6,
        sampleRateHz: RATE,
        volts: voltsAt(0),
        overload: false,
        iq: tone(count, RATE, 6000, 0).map((v) => v / voltsAt(0) / 10),
        ...own,
      }),
    );

  test('delivers what it sends, in V where it says how much; is tuned by a line; says overload', async () => {
    const { port, lines } = await sender();
    unit = networkReceiver.open(unitOf('network receiver', { host: '127.0.0.1', port }), clock);
    await until(() => sockets.length === 1);
    expect(() => unit!.start([], clock())).toThrow(/no frame has arrived|sends no samples/);
    send(0);
    await arrived();
    expect(unit.describe().receiver).toMatchObject({ centreHz: 868.6e6, sampleRateHz: RATE, accuracy: null });
    const [group] = unit.start(
      [{ terminal: 'R/iq', rateHz: RATE, channelId: 'a', kind: 'radio samples', settings: {} }],
      clock(),
    );
    expect(group.rate).toEqual({ num: RATE, den: 1 });
    send(4800, 4800, { overload: true });
    let block: ReturnType<OpenUnit['poll']>[number] | undefined;
    await until(() => (block ??= unit!.poll(clock())[0]) !== undefined);
    expect(block).toMatchObject({ firstIndex: 0, count: 4800, trouble: ['over range'] });
    const [iq] = block!.columns;
    const power = (iq.reduce((a, v) => a + v * v, 0) / 4800) * MW_PER_V2;
    expect(power).toBeCloseTo(mw(-20), 6);
    // A jump of its index is a loss, not a shift.
    send(20_000);
    let later: typeof block;
    await until(() => (later ??= unit!.poll(clock())[0]) !== undefined);
    expect(later!.firstIndex).toBe(20_000 - 4800);
    unit.tune!(433.92e6);
    await until(() => lines.includes('tune 433920000'));
  });

  test('what is no frame ends the connection with its reason, which is tried again', async () => {
    const { port } = await sender();
    unit = networkReceiver.open(unitOf('network receiver', { host: '127.0.0.1', port }), clock);
    await until(() => sockets.length === 1);
    sockets[0].write('HTTP/1.1 400 Bad Request\r\n\r\n this is something else altogether, of some length');
    await until(() => sockets.length === 2);
    send(0);
    await arrived();
  });

  test('one that is silent or gone is said', async () => {
    const { port } = await sender();
    unit = networkReceiver.open(unitOf('network receiver', { host: '127.0.0.1', port }), clock);
    await until(() => sockets.length === 1);
    send(0);
    await arrived();
    sockets[0].destroy();
    await until(() => {
      try {
        unit!.poll(clock());
        return false;
      } catch (error) {
        return error instanceof FarrierError && error.code === 'unavailable';
      }
    });
  });
});
