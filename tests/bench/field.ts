import { connect, createServer, type AddressInfo } from 'node:net';
import { recorderModel, type RecorderSetup } from '$core/field/recorder/plan';
import { Cradle } from '$engine/field/cradle';
import { PocketRecorder } from '$engine/field/recorder';
import { openTcp } from '$service/field/lines';
import { FieldLink, fetchReadings } from '$service/field/link';
import { report } from './report';

const SETUP: RecorderSetup = { name: 'Full', start: 'at once', startMs: null, measuresWaiting: false, settleS: 0, intervalS: 10, readings: 1, then: 'keep the newest', high: null, low: null, clearable: false, lamps: 'dark' }; // prettier-ignore
const TIMES = 60;

/** Fetching full recorders one after the other, against a plain copy of as many bytes over TCP on this machine. */
export async function field(): Promise<void> {
  let now = Date.now();
  const recorder = new PocketRecorder({ model: recorderModel('PR-4')!, serial: 'PR4-0001', now: () => now, sense: (t) => [Math.sin(t / 1e6) * 20, 50] }); // prettier-ignore
  recorder.setUp(SETUP);
  now += 16_000 * 10_000;
  const cradle = new Cradle();
  cradle.put(recorder);
  const { server, port } = await cradle.listen();
  const link = new FieldLink(await openTcp('127.0.0.1', port), { ms: 2000, tries: 5 });
  const state = await link.state();
  let bytes = 0;
  const fetch = () => fetchReadings(link, state, state.first, (piece) => (bytes += piece.values.byteLength));
  await fetch();
  bytes = 0;
  const began = performance.now();
  for (let k = 0; k < TIMES; k++) await fetch();
  const own = bytes / (performance.now() - began) / 1e3;
  link.close();
  server.close();

  const block = Buffer.alloc(64_000, 7);
  const plain = createServer((line) => {
    line.on('data', () => line.write(block));
  });
  await new Promise<void>((done) => plain.listen(0, '127.0.0.1', done));
  const line = connect({ port: (plain.address() as AddressInfo).port, host: '127.0.0.1', noDelay: true });
  const copy = () =>
    new Promise<void>((done) => {
      let got = 0;
      const hear = (piece: Buffer) => {
        got += piece.length;
        if (got < block.length) return;
        line.off('data', hear);
        done();
      };
      line.on('data', hear);
      line.write('x');
    });
  await copy();
  const start = performance.now();
  for (let k = 0; k < TIMES; k++) await copy();
  const reference = (TIMES * block.length) / (performance.now() - start) / 1e3;
  line.destroy();
  plain.close();
  report({ name: 'fetching full pocket recorders', value: own, unit: 'MB/s', reference: `a plain copy of 64 kB at a time over TCP, ${reference.toFixed(0)} MB/s`, ratio: own / reference }); // prettier-ignore
}
