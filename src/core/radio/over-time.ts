import { MW_PER_V2, dbm } from './levels';

/** What complex samples are drawn as over time. */
export const OVER_TIME = ['power', 'magnitude', 'phase', 'frequency', 'I', 'Q'] as const;
export type OverTime = (typeof OVER_TIME)[number];
const TURN = 2 * Math.PI;
/** An angle brought to within half a turn of 0. */
const near = (angle: number) => angle - TURN * Math.round(angle / TURN);

/** Complex samples as a line over time. Phase is unwrapped, °; frequency is the phase’s change from sample to sample, Hz from the centre, NaN where the magnitude is
 *  below `least`: the phase of noise says nothing.
 *  @param iq V rms over 50 Ω, I and Q in turn @param sampleRateHz @param least V @returns shape [samples] */
export function overTime(iq: Float32Array, what: OverTime, sampleRateHz: number, least = 0): Float32Array {
  const n = iq.length >> 1;
  const out = new Float32Array(n);
  let turns = 0;
  let former = NaN;
  for (let i = 0; i < n; i++) {
    const [re, im] = [iq[2 * i], iq[2 * i + 1]];
    const square = re * re + im * im;
    if (what === 'power') out[i] = dbm(square * MW_PER_V2);
    else if (what === 'magnitude') out[i] = Math.sqrt(square);
    else if (what === 'I') out[i] = re;
    else if (what === 'Q') out[i] = im;
    else {
      const heard = square >= least * least && square > 0;
      const angle = Math.atan2(im, re);
      const moved = near(angle - former);
      if (moved === moved) turns += moved;
      else turns = angle;
      if (what === 'phase') out[i] = heard ? (turns * 360) / TURN : NaN;
      else out[i] = heard ? (moved * sampleRateHz) / TURN : NaN;
      former = heard ? angle : NaN;
    }
  }
  return out;
}

/** When a picture over time begins. */
export interface Begin {
  /** Level that the power crosses, dBm. */
  level: number;
  way: 'rises above' | 'falls below';
  /** How far it has to go back before it can cross again, dB. */
  back: number;
  /** After a picture no other begins for so long, s. */
  waitS: number;
}

/** Finds crossings of a level in complex samples that come in blocks. */
export class Crossings {
  /** Whether it has been on the far side since the last crossing. */
  private ready = false;
  private free = 0;

  constructor(
    private readonly begin: Begin,
    private readonly sampleRateHz: number,
  ) {}

  /** @param first index of the block’s first sample @returns indices at which a picture begins */
  push(iq: Float32Array, first: number): number[] {
    const { level, way, back, waitS } = this.begin;
    const sign = way === 'rises above' ? 1 : -1;
    const at = (db: number) => 10 ** (db / 10) / MW_PER_V2;
    const [pass, far] = [at(level), at(level - sign * Math.max(0, back))];
    const found: number[] = [];
    for (let i = 0; 2 * i < iq.length; i++) {
      const square = iq[2 * i] * iq[2 * i] + iq[2 * i + 1] * iq[2 * i + 1];
      if (square !== square) this.ready = false;
      else if (sign > 0 ? square < far : square > far) this.ready = true;
      else if (this.ready && (sign > 0 ? square >= pass : square <= pass)) {
        this.ready = false;
        if (first + i < this.free) continue;
        found.push(first + i);
        this.free = first + i + Math.round(waitS * this.sampleRateHz);
      }
    }
    return found;
  }
}
