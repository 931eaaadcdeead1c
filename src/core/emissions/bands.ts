/** Bands of the interference receiver. */
export type WeightingBand = 'A' | 'B' | 'C/D';

/** What the interference receiver is in each band: its bandwidth 6 dB down, the time constants of its quasi-peak detector and of its meter, and the pulse by
 *  which its response is stated. Source: CISPR 16-1-1, clause 4 (quasi-peak measuring receivers). */
export interface BandConstants {
  fromHz: number;
  toHz: number;
  bandwidth6Hz: number;
  chargeS: number;
  dischargeS: number;
  meterS: number;
  /** Pulses of reference: how many a second. */
  referenceHz: number;
}
export const BAND_CONSTANTS: Record<WeightingBand, BandConstants> = {
  A: {
    fromHz: 9e3,
    toHz: 150e3,
    bandwidth6Hz: 200,
    chargeS: 0.045,
    dischargeS: 0.5,
    meterS: 0.16,
    referenceHz: 25,
  },
  B: {
    fromHz: 150e3,
    toHz: 30e6,
    bandwidth6Hz: 9e3,
    chargeS: 0.001,
    dischargeS: 0.16,
    meterS: 0.16,
    referenceHz: 100,
  },
  'C/D': {
    fromHz: 30e6,
    toHz: 1e9,
    bandwidth6Hz: 120e3,
    chargeS: 0.001,
    dischargeS: 0.55,
    meterS: 0.1,
    referenceHz: 100,
  },
};

/** Band in which a frequency is weighed; above 1 GHz there is no quasi-peak, and the widest band is taken for the others. */
export const bandAt = (hz: number): WeightingBand => (hz < 150e3 ? 'A' : hz < 30e6 ? 'B' : 'C/D');
/** Whether a quasi-peak is defined at a frequency. */
export const hasQuasiPeak = (hz: number): boolean => hz >= 9e3 && hz <= 1e9;
