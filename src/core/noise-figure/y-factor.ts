import { hotTemperature, T0 } from './sources';

/** Powers of one point with the source on and off, mW. */
export interface OnOff {
  on: number;
  off: number;
}

/** What Y says of everything behind the source. Temperatures in K. */
export interface YReading {
  y: number;
  effectiveK: number;
  /** Noise factor, referred to 290 K; 10·log10 of it is the noise figure. */
  factor: number;
}

/** Effective temperature by Y: Te = (Th − Y·Tc)/(Y − 1), F = 1 + Te/T0.
 *  @param enr dB @param coldK temperature of the source that is off @returns no numbers where Y is not above 1 */
export function byY({ on, off }: OnOff, enr: number, coldK: number): YReading {
  const y = on / off;
  const effectiveK = y > 1 ? (hotTemperature(enr) - y * coldK) / (y - 1) : NaN;
  return { y, effectiveK, factor: 1 + effectiveK / T0 };
}

/** A loss in the chain, and how warm it is. */
export interface Loss {
  db: number;
  kelvin: number;
}

/** A device between source and receiver, by what was measured without and with it. */
export interface DeviceReading {
  y: number;
  /** With the device and its losses; the receiver alone. Effective temperatures, K. */
  totalK: number;
  receiverK: number;
  /** Of the device by itself: effective temperature K, noise figure dB, gain dB. */
  deviceK: number;
  figureDb: number;
  gainDb: number;
}

/** Noise figure and gain of a device: second-stage correction, then the losses before and behind it are taken out.
 *  Gain is the ratio of what the source adds: (Non − Noff) with the device over without. T1 = T12 − T2/G (Friis 1944). A loss L before it, at temperature
 *  TL: T = (T1 − (L−1)·TL)/L, gain times L; a loss behind it belongs to the second stage: it adds (L−1)·TL over the gain before it.
 *  @param own receiver alone, the source on it @param with the device between */
export function deviceBy(
  own: OnOff,
  through: OnOff,
  enr: number,
  coldK: number,
  before: Loss,
  behind: Loss,
): DeviceReading {
  const receiver = byY(own, enr, coldK);
  const total = byY(through, enr, coldK);
  const chain = (through.on - through.off) / (own.on - own.off);
  const [l1, l2] = [10 ** (before.db / 10), 10 ** (behind.db / 10)];
  const corrected = total.effectiveK - receiver.effectiveK / chain;
  // Between the source and the receiver lie loss, device, loss: chain gain G/(L1·L2).
  const gain = chain * l1 * l2;
  const atDevice = (corrected - (l1 - 1) * before.kelvin) / l1;
  const deviceK = atDevice - ((l2 - 1) * behind.kelvin) / gain;
  return {
    y: total.y,
    totalK: total.effectiveK,
    receiverK: receiver.effectiveK,
    deviceK,
    figureDb: deviceK > -T0 ? 10 * Math.log10(1 + deviceK / T0) : NaN,
    gainDb: gain > 0 ? 10 * Math.log10(gain) : NaN,
  };
}

/** Noise factor of stages in a row, referred to the first input: F = F1 + (F2−1)/G1 + … Source: Friis, Proc. IRE 32, 1944. Figures and gains in dB. */
export function cascadeFigure(stages: readonly { figureDb: number; gainDb: number }[]): number {
  let [factor, gain] = [1, 1];
  for (const { figureDb, gainDb } of stages) {
    factor += (10 ** (figureDb / 10) - 1) / gain;
    gain *= 10 ** (gainDb / 10);
  }
  return 10 * Math.log10(factor);
}
