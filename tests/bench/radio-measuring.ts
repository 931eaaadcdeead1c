import { Weighing } from '$core/emissions/weighing';
import { QuasiPeak } from '$core/emissions/quasi-peak';
import { readModulation, type ModulationWish } from '$core/modulation/read';
import { pointsOf, type Scheme } from '$core/modulation/schemes';
import { modulated } from '../unit/core/modulation/signals';
import { noise } from '../unit/core/radio/signals';
import { report, shortest } from './report';

const RATE = 4e6;

/** Weighing as an interference receiver does, and reading modulation: seconds of signal and captures a second. */
export function radioMeasuring(): void {
  const receiver = { centreHz: 100e6, sampleRateHz: RATE };
  const second = noise(RATE, RATE, -120, 5);
  for (const [band, hz] of [
    ['B', 99.5e6],
    ['C/D', 100.4e6],
  ] as const) {
    // prettier-ignore
    const ms = shortest(2, () => {
      const w = new Weighing({ hz: [hz], band, seconds: 1 }, receiver);
      for (let at = 0; at < RATE; at += RATE / 20) w.push(second.subarray(2 * at, 2 * (at + RATE / 20)), at);
      w.result();
    });
    report({ name: `peak, quasi-peak, average and rms of one frequency from 4 MS/s, band ${band}`, value: 1000 / ms, unit: 's of signal a second', reference: 'real time', ratio: ms / 1000 }); // prettier-ignore
  }
  const envelope = new Float32Array(1e6).fill(1);
  const quasi = shortest(3, () => new QuasiPeak('C/D', 1e6).push(envelope));
  report({ name: 'quasi-peak alone, an envelope of 1 MS/s', value: 1000 / quasi, unit: 's of signal a second', reference: 'real time', ratio: quasi / 1000 }); // prettier-ignore

  for (const [scheme, taps] of [
    ['4-PSK', null],
    ['4-PSK', 15],
    ['64-QAM', null],
    ['OQPSK', null],
  ] as [Scheme, number | null][]) {
    // prettier-ignore
    const { iq } = modulated({ points: pointsOf(scheme), symbols: 1060, perSymbol: 8, offset: 0.002, snr: 30, staggered: scheme === 'OQPSK' }); // prettier-ignore
    const wish: ModulationWish = {
      ...{
        scheme,
        own: [],
        symbolHz: 1e6,
        pulse: 'root raised cosine',
        rollOff: 0.35,
        taps: [],
        tapsPerSymbol: 1,
      },
      ...{ matched: true, count: 1000, pattern: '', alike: 0.8, after: 0, expected: '', held: null },
      equaliser: taps === null ? null : { taps, step: 0.2, learns: 'decisions' },
    };
    // Live, capture follows on capture: the first ones, which are compiled meanwhile, do not count.
    const ms = shortest(8, () => readModulation(iq, 8e6, wish));
    report({ name: `1000 symbols of ${scheme} read from 8 samples a symbol${taps ? `, equaliser of ${taps} taps` : ''}`, value: 1000 / ms, unit: 'captures a second', reference: 'the goal of 5', ratio: (5 * ms) / 1000 }); // prettier-ignore
  }
}
