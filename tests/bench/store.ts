import { closeSync, fdatasyncSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { IDENTITY } from '$core/conversion/conversion';
import { EMPTY_PLAN } from '$contract/plan';
import { TakeReader } from '$store/take/reader';
import { TakeWriter } from '$store/take/writer';
import { report, shortest } from './report';

const BLOCK = 51_200; // one second of one channel

function writeTake(path: string, samples: number): number {
  const writer = new TakeWriter(path, {
    by: 'bench',
    head: {
      id: 'b',
      jobId: 'j',
      job: 'J',
      number: 1,
      name: 'B',
      state: 'recording',
      startNs: '0',
      lengthNs: null,
      facts: {},
      plan: EMPTY_PLAN,
      planText: '',
      planName: '',
      folder: '',
      part: null,
      coreVersion: 1,
    },
    groups: [{ offsetNs: 0, rate: { num: 51_200, den: 1 } }],
    signals: [
      {
        channelId: 'c',
        name: 'S',
        rawUnit: 'V',
        unit: 'V',
        group: 0,
        junction: null,
        conversion: IDENTITY,
        snapshot: null,
      },
    ],
  });
  const block = new Float32Array(BLOCK);
  const began = performance.now();
  for (let at = 0; at < samples; at += BLOCK) {
    const n = Math.min(BLOCK, samples - at);
    for (let i = 0; i < n; i++) block[i] = Math.sin((at + i) / 997) + ((at + i) % 7919) * 1e-4;
    writer.append(0, at, n === BLOCK ? block : block.subarray(0, n));
    if ((at / BLOCK) % 8 === 7) writer.commit();
  }
  writer.close('complete', (samples / 51_200) * 1e9);
  return performance.now() - began;
}

function writeRaw(path: string, samples: number): number {
  const block = new Float32Array(BLOCK);
  const file = openSync(path, 'w');
  const began = performance.now();
  for (let at = 0; at < samples; at += BLOCK) {
    const n = Math.min(BLOCK, samples - at);
    for (let i = 0; i < n; i++) block[i] = Math.sin((at + i) / 997) + ((at + i) % 7919) * 1e-4;
    writeSync(file, new Uint8Array(block.buffer, 0, n * 4));
  }
  fdatasyncSync(file);
  closeSync(file);
  return performance.now() - began;
}

/** A take against a plain file of the same samples, and windows of it from the whole to a ten-thousandth. */
export function takeFile(folder: string, large: number): void {
  const path = join(folder, 'large.take');
  const raw = join(folder, 'large.raw');
  const rawMs = writeRaw(raw, large);
  rmSync(raw);
  const takeMs = writeTake(path, large);
  report({
    name: 'take file, writing',
    value: (large * 4) / 1e3 / takeMs,
    unit: 'MB/s',
    reference: `plain file of the same samples, ${((large * 4) / 1e3 / rawMs).toFixed(0)} MB/s`,
    ratio: takeMs / rawMs,
  });
  const small = join(folder, 'small.take');
  writeTake(small, 1_000_000);
  const [big, little] = [new TakeReader(path), new TakeReader(small)];
  for (const share of [1, 0.01, 0.0001]) {
    const ms = windowMs(big, large, share);
    const reference = windowMs(little, 1_000_000, share);
    report({
      name: `window of ${share * 100} % of ${large / 1e6} million samples, 1200 px`,
      value: ms,
      unit: 'ms',
      reference: `the same share of 1 million: ${reference.toFixed(2)} ms`,
      ratio: ms / reference,
    });
  }
  big.close();
  little.close();
}

function windowMs(take: TakeReader, samples: number, share: number): number {
  const width = Math.max(1, Math.floor(samples * share));
  return shortest(7, () =>
    take.window(0, Math.floor((samples - width) * 0.41), Math.floor((samples - width) * 0.41) + width, 1200),
  );
}
