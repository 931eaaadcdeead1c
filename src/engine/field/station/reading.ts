import { platinumTemperature } from '$core/sensors/platinum';
import { thermocoupleEmf, thermocoupleInverse, type ThermocoupleType } from '$core/sensors/thermocouple';
import type { Measure, Programme } from '$core/field/station/programme';

/** What hangs on a terminal, at a true time in ms. */
export type Source =
  | { is: 'volts'; at: (ms: number) => number }
  | { is: 'ohms'; at: (ms: number) => number }
  | { is: 'ratio'; at: (ms: number) => number }
  /** Its junction’s °C; put on the wrong way round its emf has the other sign, and a broken wire has none. */
  | { is: 'couple'; type: ThermocoupleType; at: (ms: number) => number; fault?: () => 'none' | 'broken' | 'reversed' }
  | { is: 'pulses'; hz: (ms: number) => number }
  | { is: 'line'; words: (ms: number) => readonly number[] }; // prettier-ignore

/** Steps of a converter with 16 bits over ± its range. */
const STEPS = 32_768;
/** Of the mains where the stand-in works, and what it leaves on a wire. */
const MAINS_HZ = 50;
const PICK_UP_V = 40e-6;

/** The hum that is left when a reading averages over one period of what it is to reject (a mean over 1/f leaves sinc(MAINS/f)). */
const hum = (mainsHz: number, ms: number): number => {
  const x = (Math.PI * MAINS_HZ) / mainsHz;
  return PICK_UP_V * (Math.sin(x) / x) * Math.sin(ms * 0.7193);
};

/** Reads one terminal the way that a programme says. */
export class Reading {
  /** What was read last, before factor and plus. */
  last = NaN;
  private readonly limit: number;
  private readonly inverse: ((mV: number) => number) | null;

  constructor(
    readonly measure: Measure,
    private readonly source: Source | undefined,
    private readonly programme: Pick<Programme, 'mainsHz' | 'wakeS'>,
  ) {
    this.limit = Number.parseFloat(measure.kind);
    this.inverse = measure.way === 'thermocouple' ? thermocoupleInverse(measure.kind as ThermocoupleType) : null; // prettier-ignore
  }
  /** @param board °C of the terminals @returns in the way’s unit, NaN where it tells nothing */
  at(trueMs: number, board: number): number {
    return (this.last = this.read(trueMs, board));
  }
  private read(ms: number, board: number): number {
    const { source, measure, programme } = this;
    if (!source) return NaN;
    const converted = (volts: number, range: number) => {
      const heard = volts + hum(programme.mainsHz, ms);
      return Math.abs(heard) > range ? NaN : (Math.round((heard / range) * STEPS) / STEPS) * range;
    };
    switch (measure.way) {
      case 'volts':
        return converted(this.voltsOf(source, ms, board), this.limit);
      case 'thermocouple': {
        const volts = converted(this.voltsOf(source, ms, board), 0.08);
        return this.inverse!(volts * 1000 + thermocoupleEmf(measure.kind as ThermocoupleType, board));
      }
      case 'bridge': {
        if (source.is !== 'ratio') return NaN;
        const ratio = source.at(ms);
        return Math.abs(ratio) > this.limit ? NaN : (Math.round((ratio / this.limit) * STEPS) / STEPS) * this.limit; // prettier-ignore
      }
      case 'resistance': {
        if (source.is !== 'ohms') return NaN;
        const ohms = Math.round(source.at(ms) * 1000) / 1000;
        return measure.kind === 'ohms' ? ohms : platinumTemperature(measure.kind === 'Pt1000' ? 1000 : 100, ohms); // prettier-ignore
      }
      case 'pulses': {
        if (source.is !== 'pulses') return NaN;
        // Whole pulses since the last waking.
        const count = Math.round(source.hz(ms) * programme.wakeS);
        return measure.kind === 'counted' ? count : (count / programme.wakeS) * (measure.kind === 'a minute' ? 60 : 1); // prettier-ignore
      }
      case 'serial':
        return source.is === 'line' ? (source.words(ms)[Number(measure.kind) - 1] ?? NaN) : NaN;
    }
  }
  private voltsOf(source: Source, ms: number, board: number): number {
    if (source.is === 'volts') return source.at(ms);
    if (source.is !== 'couple') return NaN;
    const fault = source.fault?.() ?? 'none';
    if (fault === 'broken') return NaN;
    const emf = (thermocoupleEmf(source.type, source.at(ms)) - thermocoupleEmf(source.type, board)) / 1000;
    return fault === 'reversed' ? -emf : emf;
  }
}
