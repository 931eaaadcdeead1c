import { voltsAt } from '$core/radio/levels';
import { addTone, type Heard } from './emitters';
import { spread } from './spread';

/** dBm over 50 Ω of a level in dBµV. */
const dbuv = (level: number): number => level - 106.99;

/** Lines of the pitch drive, as the coupling network or the antenna at the cabinet gives them: dBµV, how often a second they are keyed, and for which share. */
const DRIVE: readonly { hz: number; level: number; keyHz: number; duty: number }[] = [
  { hz: 0.178e6, level: 57.5, keyHz: 0, duty: 1 },
  { hz: 0.534e6, level: 38, keyHz: 0, duty: 1 },
  { hz: 1.602e6, level: 37.5, keyHz: 200, duty: 0.5 },
  { hz: 12e6, level: 46.5, keyHz: 0, duty: 1 },
  { hz: 24e6, level: 44, keyHz: 200, duty: 0.6 },
  { hz: 48e6, level: 25.5, keyHz: 200, duty: 0.4 },
  { hz: 96e6, level: 28, keyHz: 200, duty: 0.4 },
  { hz: 192e6, level: 26.5, keyHz: 200, duty: 0.35 },
  { hz: 240e6, level: 21, keyHz: 200, duty: 0.35 },
  { hz: 432e6, level: 27.5, keyHz: 200, duty: 0.5 },
  { hz: 864e6, level: 13, keyHz: 0, duty: 1 },
];
/** What is on the air there, drive or not. */
const AMBIENT: readonly { hz: number; level: number }[] = [
  { hz: 0.6939e6, level: 44 },
  { hz: 6.0702e6, level: 33 },
  { hz: 101.34e6, level: 33 },
  { hz: 145.2e6, level: 18 },
  { hz: 868e6, level: 14 },
];
/** What of a keyed line is left while it is off. */
const REST = 0.12;
/** Spikes of the drive: how many a second, and their strength at 1 MHz, dBµV in 1 MHz; it falls by 20 dB a decade. */
const SPIKES = { perSecond: 187, level: 62 } as const;

/** Adds what comes out of the drive’s cabinet. @param runs whether the drive does */
export function hearCabinet(heard: Omit<Heard, 'volts'>, runs: boolean, seed: number): void {
  const { out, first, sampleRateHz, centreHz, reach } = heard;
  const n = out.length / 2;
  const here = (hz: number) => Math.abs(hz - centreHz) < reach;
  for (const { hz, level } of AMBIENT)
    if (here(hz)) addTone({ ...heard, volts: 0 }, hz - centreHz, voltsAt(dbuv(level)), 0, n);
  if (!runs) return;
  for (const { hz, level, keyHz, duty } of DRIVE) {
    if (!here(hz)) continue;
    const volts = voltsAt(dbuv(level));
    const tone = (share: number, from: number, to: number) =>
      to > from && addTone({ ...heard, volts: 0 }, hz - centreHz, share * volts, from, to);
    if (keyHz === 0) tone(1, 0, n);
    else {
      const period = sampleRateHz / keyHz;
      for (let k = Math.floor(first / period); k * period < first + n; k++) {
        const begin = Math.max(0, Math.round(k * period) - first);
        const off = Math.max(0, Math.min(n, Math.round((k + duty) * period) - first));
        tone(1, begin, off);
        tone(REST, off, Math.min(n, Math.round((k + 1) * period) - first));
      }
    }
  }
  spikes(heard, seed);
}

function spikes({ out, first, sampleRateHz, centreHz }: Omit<Heard, 'volts'>, seed: number): void {
  const n = out.length / 2;
  const period = sampleRateHz / SPIKES.perSecond;
  // One sample holds what the spike has in the whole rate.
  const inRate = SPIKES.level + 20 * Math.log10(sampleRateHz / 1e6);
  const v = voltsAt(dbuv(inRate - 20 * Math.log10(Math.max(1, centreHz / 1e6))));
  for (let k = Math.floor(first / period); k * period < first + n; k++) {
    const chance = spread(k, seed + 11);
    const at = Math.round((k + ((chance & 1023) / 1024) * 0.1) * period) - first;
    if (at < 0 || at >= n) continue;
    const phase = (2 * Math.PI * (chance >>> 12)) / 2 ** 20;
    out[2 * at] += v * Math.cos(phase);
    out[2 * at + 1] += v * Math.sin(phase);
  }
}
