import { join } from 'node:path';
import { openCountingSource, COUNT_MODULUS } from '$engine/units/counting-source/driver';
import { TakeReader } from '$store/take/reader';
import { bench, channel, UNIT } from '../unit/rig';
import { report } from './report';

const CHANNELS = 32;
const RATE = 51_200;
const channels = () =>
  Array.from({ length: CHANNELS }, (_, i) =>
    channel(`c${i}`, 'voltage', `C1/${i + 1}`, {
      rateHz: RATE,
      range: { min: 0, max: COUNT_MODULUS },
      warnAbove: 2 * COUNT_MODULUS,
      alarmAbove: 3 * COUNT_MODULUS,
    }),
  );

/** CPU time of this process in s. */
const cpu = () => {
  const { user, system } = process.cpuUsage();
  return (user + system) / 1e6;
};

/** 32 channels at 51.2 kS/s with conversion, limits and recording: a minute in real time, then as fast as it goes; nothing may be lost. */
export async function engineThroughput(folder: string, seconds: number): Promise<void> {
  const total = CHANNELS * RATE * seconds;
  const paced = join(folder, 'paced.take');
  const b = bench(openCountingSource(UNIT, 'count', CHANNELS), channels());
  b.arm({ before: 0, longest: null }, paced);
  b.acquisition.start();
  const began = performance.now();
  const cpuBegan = cpu();
  for (let step = 1; step <= seconds * 20; step++) {
    const wait = began + step * 50 - performance.now();
    if (wait > 1) await new Promise((resolve) => setTimeout(resolve, wait));
    b.run(0.05);
    b.frames.length = 0;
  }
  const wall = (performance.now() - began) / 1000;
  const used = cpu() - cpuBegan;
  b.acquisition.end();
  const lost = missing(paced, RATE * seconds);
  report({
    name: 'engine, 32 × 51.2 kS/s in real time, share of one core',
    value: used / wall,
    unit: 'cores',
    reference: `${seconds} s of real time took ${wall.toFixed(1)} s`,
    ratio: wall / seconds,
  });
  report({
    name: 'engine, samples lost or out of order',
    value: lost,
    unit: 'samples',
    reference: `of ${total} recorded`,
    ratio: lost / total,
  });

  const free = bench(openCountingSource(UNIT, 'count', CHANNELS), channels());
  free.arm({ before: 0, longest: null }, join(folder, 'free.take'));
  free.acquisition.start();
  const freeBegan = performance.now();
  for (let step = 0; step < seconds * 20; step++) {
    free.run(0.05);
    free.frames.length = 0;
  }
  const rate = total / ((performance.now() - freeBegan) / 1000);
  free.acquisition.end();
  report({
    name: 'engine, most it can do',
    value: rate / 1e6,
    unit: 'MS/s',
    reference: 'needed: 1.638 MS/s',
    ratio: rate / (CHANNELS * RATE),
  });
}

/** Ten minutes at full rate, as fast as it goes: every sample is read back and compared with its index. */
export function sustained(folder: string, seconds: number): void {
  const path = join(folder, 'sustained.take');
  const b = bench(openCountingSource(UNIT, 'count', CHANNELS), channels());
  b.arm({ before: 0, longest: seconds }, path);
  b.acquisition.start();
  const began = performance.now();
  for (let s = 0; s <= seconds; s++) {
    b.run(1);
    b.frames.length = 0;
  }
  const took = (performance.now() - began) / 1000;
  const lost = missing(path, RATE * seconds);
  report({
    name: `${seconds} s of 1.64 MS/s, samples lost or out of order`,
    value: lost,
    unit: 'samples',
    reference: `of ${CHANNELS * RATE * seconds}, recorded in ${took.toFixed(0)} s`,
    ratio: lost / (CHANNELS * RATE * seconds),
  });
}

function missing(path: string, length: number): number {
  const take = new TakeReader(path);
  let wrong = 0;
  for (const signal of take.signals) {
    const first = take.raw(signal.id, 0, 1)[0];
    for (let at = 0; at < length; at += 1 << 18) {
      const block = take.raw(signal.id, at, Math.min(1 << 18, length - at));
      for (let i = 0; i < block.length; i++) if (block[i] !== (first + at + i) % COUNT_MODULUS) wrong++;
    }
  }
  take.close();
  return wrong;
}
