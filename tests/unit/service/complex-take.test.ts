import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import wavefile from 'wavefile';
import { linearConversion } from '$core/conversion/conversion';
import { jobOf, openApp, takePath, type App } from '$service/app';
import { exportTake, importTake } from '$service/exchange';
import { takeWindow, valuesAt, viewTake } from '$service/takes';
import { makeReport } from '$service/report/report';
import { putTake } from '$store/takes';
import { onDisk } from '../takes';
import { TakeWriter } from '$store/take/writer';
import { head } from '../rig';

// A take of a receiver as its users meet it: looked at, exported, brought in again, printed.
let folder: string;
let app: App;
const RATE = 500;
const N = 1000;
/** Volts: a carrier of 2 V that turns once a second, missing from 1 s to 1.1 s. */
const part = (k: number, which: 0 | 1) => {
  if (k >= 500 && k < 550) return NaN;
  const angle = (2 * Math.PI * k) / RATE;
  return 2 * (which ? Math.sin(angle) : Math.cos(angle));
};

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farrier-test-'));
  app = openApp(folder);
  const own = { ...head({}), id: 'radio', jobId: jobOf(app).id };
  const writer = new TakeWriter(takePath(app, 'radio'), {
    by: 'bench',
    head: own,
    groups: [{ offsetNs: 0, rate: { num: RATE, den: 1 } }],
    signals: [
      {
        channelId: 'telemetry',
        name: 'Telemetry, 868 MHz',
        rawUnit: 'V',
        unit: 'mV',
        group: 0,
        width: 2,
        junction: null,
        conversion: linearConversion(1000, 0),
        snapshot: null,
      },
    ],
  });
  const both = Float32Array.from({ length: 2 * N }, (_, i) => part(i >> 1, (i % 2) as 0 | 1));
  writer.append(0, 0, both.subarray(0, 1000));
  writer.append(0, 550, both.subarray(1100));
  writer.gap(0, 500, 50, 'the receiver was tuned');
  writer.close('complete', 2e9);
  putTake(app.db, { ...own, state: 'complete', lengthNs: 2e9 }, 2000);
});
afterAll(() => {
  app.db.$client.close();
  rmSync(folder, { recursive: true });
});

const text = async (body: ReadableStream<Uint8Array>) => await new Response(body).text();

test('its length, values and windows are of samples, not of numbers; what is shown is the magnitude', () => {
  expect(viewTake(app, 'radio').signals[0]).toMatchObject({ length: N, width: 2, unit: 'mV' });
  expect(valuesAt(app, 'radio', [0], 0.25)[0]).toBeCloseTo(2000, 2);
  expect(valuesAt(app, 'radio', [0], 1.05)[0]).toBeNull(); // in the gap
  expect(valuesAt(app, 'radio', [0], 1.999)[0]).toBeCloseTo(2000, 2);
  const [{ min, max }] = takeWindow(app, 'radio', [0], 0, 2, 20);
  expect(min).toHaveLength(20);
  for (const k of [0, 4, 9, 12, 19]) for (const v of [min[k], max[k]]) expect(v).toBeCloseTo(2000, 1);
  const [gap] = takeWindow(app, 'radio', [0], 1.01, 1.09, 10);
  expect([...gap.min, ...gap.max].every(Number.isNaN)).toBe(true);
});

test('a table holds both parts, a gap in both; brought in again they are two signals with the same values', async () => {
  const { body } = await exportTake(app, 'radio', { format: 'csv' });
  const written = await text(body);
  const rows = written.replace('\ufeff', '').trim().split('\r\n');
  expect(rows[0]).toBe(
    'Time [s],"Telemetry, 868 MHz, in phase [mV]","Telemetry, 868 MHz, in quadrature [mV]"',
  );
  expect(rows).toHaveLength(N + 1);
  for (const k of [0, 125, 499, 550, 999]) {
    const [, i, q] = rows[k + 1].split(',').map(Number);
    expect(i).toBeCloseTo(1000 * part(k, 0), 2);
    expect(q).toBeCloseTo(1000 * part(k, 1), 2);
  }
  expect(rows[1 + 520].replace(/^[\d.]+/, '')).toBe(',,');
  const file = onDisk('radio.csv', new TextEncoder().encode(written));
  const { id } = await importTake(app, file, {}, 'Ada');
  const { signals } = viewTake(app, id);
  expect(signals.map((s) => [s.name, s.unit, s.width, s.length])).toEqual([
    ['Telemetry, 868 MHz, in phase', 'mV', 1, N],
    ['Telemetry, 868 MHz, in quadrature', 'mV', 1, N],
  ]);
  const [i, q] = valuesAt(app, id, [0, 1], 0.5);
  expect([i, q]).toEqual([expect.closeTo(-2000, 1), expect.closeTo(0, 1)]);
});

test('sound files and reports take it, too', async () => {
  const { body } = await exportTake(app, 'radio', { format: 'wav' });
  const sound = new wavefile.WaveFile(new Uint8Array(await new Response(body).arrayBuffer()));
  expect(sound.fmt).toMatchObject({ numChannels: 2, sampleRate: RATE });
  const { pdf } = await makeReport(app, 'radio', { signals: [0], studies: [] });
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
});
