import { BAND_CONSTANTS, type WeightingBand } from './bands';

/** Steps in which the ratio of charge to conduction is tabled. */
const TABLE = 4096;
/** Current of a detector that conducts while the carrier of height e stands above its voltage v, over e: (sin a − (v/e)·a)/π with cos a = v/e. */
const CONDUCTION = Float64Array.from({ length: TABLE + 2 }, (_, k) => {
  const x = Math.min(1, k / TABLE);
  const a = Math.acos(x);
  return (Math.sin(a) - x * a) / Math.PI;
});

/** Voltage to which a steady sine of height 1 charges the detector: where what flows in is what flows out. @param ratio charge resistance’s time over the discharge time */
function settled(ratio: number): number {
  let [low, high] = [0, 1];
  for (let k = 0; k < 60; k++) {
    const v = (low + high) / 2;
    const a = Math.acos(v);
    if ((Math.sin(a) - v * a) / Math.PI > v * ratio) low = v;
    else high = v;
  }
  return (low + high) / 2;
}

/** Time constant of the charging path, found so that a steady sine reaches 63.2 % of its final value in the charge time constant. */
function chargingTime(chargeS: number, dischargeS: number): number {
  const reachedIn = (tr: number): number => {
    const goal = settled(tr / dischargeS) * (1 - Math.exp(-1));
    let [v, t] = [0, 0];
    const dt = chargeS / 4000;
    while (v < goal && t < 20 * chargeS) {
      const a = Math.acos(Math.min(1, v));
      v += dt * ((Math.sin(a) - v * a) / Math.PI / tr - v / dischargeS);
      t += dt;
    }
    return t;
  };
  let [low, high] = [chargeS / 100, chargeS * 4];
  for (let k = 0; k < 50; k++) {
    const tr = (low + high) / 2;
    if (reachedIn(tr) < chargeS) low = tr;
    else high = tr;
  }
  return (low + high) / 2;
}

const known = new Map<WeightingBand, { tr: number; gain: number }>();
function pathOf(band: WeightingBand): { tr: number; gain: number } {
  const found = known.get(band);
  if (found) return found;
  const { chargeS, dischargeS } = BAND_CONSTANTS[band];
  const tr = chargingTime(chargeS, dischargeS);
  const made = { tr, gain: 1 / settled(tr / dischargeS) };
  known.set(band, made);
  return made;
}

/** Quasi-peak detector of an interference receiver and its meter. The detector charges while the carrier stands above its voltage (conduction angle) and
 *  discharges all the time; the meter is critically damped; the reading is its largest deflection, calibrated on a steady sine.
 *  Source: CISPR 16-1-1, clause 4 and annex on the determination of the response to pulses. */
export class QuasiPeak {
  private v = 0;
  private meter = 0;
  private rate = 0;
  private reading = 0;
  private readonly charge: number;
  private readonly keep: number;
  private readonly gain: number;
  private readonly parts: number;
  private readonly dt: number;
  private readonly meterS: number;

  /** @param sampleRateHz of the envelope that is pushed */
  constructor(band: WeightingBand, sampleRateHz: number) {
    const { dischargeS, meterS } = BAND_CONSTANTS[band];
    const { tr, gain } = pathOf(band);
    // The charge is followed in steps of a thirtieth of its time at the most.
    this.parts = Math.max(1, Math.ceil(30 / (tr * sampleRateHz)));
    this.dt = 1 / (sampleRateHz * this.parts);
    this.charge = this.dt / tr;
    this.keep = Math.exp(-this.dt / dischargeS);
    this.gain = gain;
    this.meterS = meterS;
  }

  /** @param envelope magnitudes, V rms, shape [n] */
  push(envelope: Float32Array): void {
    const { charge, keep, parts, dt, meterS } = this;
    const turn = dt / meterS;
    let { v, meter, rate, reading } = this;
    for (let i = 0; i < envelope.length; i++) {
      const e = envelope[i];
      for (let p = 0; p < parts; p++) {
        if (v < e) {
          const x = (v / e) * TABLE;
          const k = x | 0;
          v += charge * e * (CONDUCTION[k] + (x - k) * (CONDUCTION[k + 1] - CONDUCTION[k]));
        }
        v *= keep;
        // Two equal first-order parts in a row are a critically damped meter.
        rate += turn * (v - rate);
        meter += turn * (rate - meter);
      }
      if (meter > reading) reading = meter;
    }
    this.v = v;
    this.meter = meter;
    this.rate = rate;
    this.reading = reading;
  }

  /** The largest deflection so far, V rms of the steady sine that gives it. */
  get volts(): number {
    return this.reading * this.gain;
  }
  /** What the detector holds and the meter shows now, of a steady sine 1 when settled. */
  get now(): { detector: number; meter: number } {
    return { detector: this.v * this.gain, meter: this.meter * this.gain };
  }
}
