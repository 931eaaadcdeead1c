import { Random } from '$core/random';
import { bridgeOutput } from '$core/sensors/bridge';
import { shuntChange } from '$core/sensors/shunt';
import { platinumResistance } from '$core/sensors/platinum';
import { thermocoupleEmf } from '$core/sensors/thermocouple';
import type { Fault, Trouble } from '$contract/unit';
import { Feel } from '../feel';
import { moduleOf, SHUNT_OHM } from './wiring';

/** State of one digital line or counter. */
export interface Line {
  direction: 'in' | 'out';
  on: boolean;
  pulsesHz: number;
  duty: number;
  edges: number;
}

/** What every terminal sees: hands, outputs, lines. */
export interface Bench {
  /** Value of a terminal's control; undefined where nothing is connected. */
  hand(terminal: string): number | undefined;
  fault(terminal: string): Fault;
  line(terminal: string): Line;
  output(terminal: string): number;
  shunt(terminal: string): boolean;
  junction: number;
}

/** Resistance of one lead, Ω. */
const LEAD = 0.45;
const GAUGE = { resistance: 350, factor: 2.08, poisson: 0.3 };
/** The cell on B1/3: mV/V at 10 kN, and its output without load. */
const CELL = { sensitivity: 2.003, load: 10, zero: 0.013 };
const BRIDGE_FULL = 25;

/** How sensors settle (s), and their play in the hand's unit. */
const FEEL: Record<string, [number, number?]> = {
  'B1/1': [0.2],
  'B1/2': [0.2],
  'B1/3': [0.35, 0.012],
  'B5/1': [0.3, 0.008],
  'B6/1': [0.15, 0.06],
};
/** Frequency of the calibrators on the vibration terminals, Hz. */
const CALIBRATOR_HZ: Record<string, number> = { 'B3/1': 159.15, 'B3/2': 1000, 'B3/3': 250 };

/** Rising edges of a counter terminal: an encoder of 1000 lines on the first, plain pulses on the others. */
export const edgesPerSecond = (terminal: string, hand: number) => (terminal === 'B7/1' ? hand * 1000 : hand);

/** One input as a channel reads it: sensor, wires, conditioning, converter. */
export class Input {
  private readonly random: Random;
  private readonly module: string;
  private phase = 0;
  private humPhase = 0;
  private count = 0;
  private drift = 0;
  private blocked = NaN;
  private readonly number: number;
  private readonly feel: Feel | null;

  constructor(
    readonly terminal: string,
    private readonly rateHz: number,
    private readonly kind: string,
    private readonly settings: Record<string, unknown>,
    seed: number,
  ) {
    this.module = moduleOf(terminal)!.id;
    this.feel = FEEL[terminal] ? new Feel(...FEEL[terminal]) : null;
    this.number = Number(terminal.split('/')[1]) || 0;
    this.random = new Random(seed ^ [...terminal].reduce((h, c) => (h * 31 + c.charCodeAt(0)) | 0, 7));
  }

  trouble(bench: Bench): Trouble {
    const fault = bench.fault(this.terminal);
    if (fault === 'open wire' || fault === 'broken gauge') return 'open';
    if (fault === 'short' && this.module === 'B3') return 'short';
    return 'none';
  }

  /** Bias voltage of a sensor fed with constant current, V: near the supply when open, near 0 when shorted. */
  bias(bench: Bench): number {
    const trouble = this.trouble(bench);
    if (bench.hand(this.terminal) === undefined || trouble === 'open') return 24;
    return trouble === 'short' ? 0.1 : 11.2;
  }

  /** One sample, raw. */
  sample(bench: Bench): number {
    const fault = bench.fault(this.terminal);
    if (fault === 'stuck' && !Number.isNaN(this.blocked)) return this.blocked;
    let value = this.signal(bench, fault);
    if (fault === 'reversed polarity') value = -value;
    if (fault === 'drift') value += this.drift += Math.abs(value) * (0.001 / this.rateHz);
    this.blocked = fault === 'stuck' ? value : NaN;
    return value;
  }

  private signal(bench: Bench, fault: Fault): number {
    const { module, terminal } = this;
    if (module === 'B9' || module === 'B10') return bench.output(terminal);
    if (module === 'B8') return this.digital(bench);
    if (terminal === 'B2/junction') return bench.junction + this.noise(0.002);
    const set = bench.hand(terminal);
    if (set === undefined) return this.floating();
    const hand = this.feel ? this.feel.step(set, 1 / this.rateHz) : set;
    if (fault === 'open wire' || fault === 'broken gauge') return this.open();
    switch (module) {
      case 'B1':
        return this.bridge(bench, hand);
      case 'B2':
        return this.temperature(bench, hand);
      case 'B3':
        return fault === 'short'
          ? this.noise(0.01)
          : this.calibrator(hand) * (this.number === 1 ? 10.2 : 50) +
              this.noise(0.05) +
              (this.settings.coupling === 'DC' ? 11_200 : 0);
      case 'B4': {
        const full = Number(this.settings.input ?? 10);
        const ripple = this.number === 2 ? this.sine(0.2, 50) : 0;
        const volts = (this.settings.coupling === 'AC' ? 0 : hand) + ripple + this.noise(full * 2e-6);
        return Math.max(-full * 1.05, Math.min(full * 1.05, volts));
      }
      case 'B5':
        return 4 + hand + this.noise(0.0008); // 16 bar at 20 mA
      case 'B6':
        return hand / 150 + this.noise(2e-5);
      default:
        return this.counter(hand);
    }
  }

  private bridge(bench: Bench, hand: number): number {
    const excitation = Number(this.settings.excitation ?? 5);
    const noise = this.noise(0.0006 / excitation);
    let out: number;
    if (this.number === 3) out = CELL.zero + (CELL.sensitivity * hand) / CELL.load;
    else if (this.number === 2)
      out = -0.045 + bridgeOutput('half, bending', GAUGE.factor, GAUGE.poisson, hand * 1e-6);
    else {
      // Leads stand in series with the gauge: two of them shift zero and sensitivity, three only the sensitivity.
      const two = this.settings.leads === 'two wires';
      const share = ((two ? 2 : 1) * LEAD) / GAUGE.resistance;
      out = 0.021 + bridgeOutput('quarter', GAUGE.factor, GAUGE.poisson, hand * 1e-6) / (1 + share);
      if (two) out += (250 * 2 * LEAD) / GAUGE.resistance;
      // A completion of another resistance puts the bridge far out of balance.
      const completion = Number(this.settings.resistance ?? GAUGE.resistance);
      out += (1000 * (GAUGE.resistance - completion)) / (GAUGE.resistance + completion) / 2;
    }
    if (bench.shunt(this.terminal)) out += shuntChange({ gaugeOhm: GAUGE.resistance, shuntOhm: SHUNT_OHM });
    return Math.max(-BRIDGE_FULL, Math.min(BRIDGE_FULL, out + noise));
  }

  private temperature(bench: Bench, hand: number): number {
    if (this.kind === 'platinum sensor') {
      const leads = this.settings.leads === 'two wires' ? 2 * LEAD : 0;
      return platinumResistance(this.number === 4 ? 1000 : 100, hand) + leads + this.noise(0.001);
    }
    const type = this.number === 2 ? 'T' : 'K';
    return thermocoupleEmf(type, hand) - thermocoupleEmf(type, bench.junction) + this.noise(0.0006);
  }

  private counter(hand: number): number {
    const perSecond = edgesPerSecond(this.terminal, hand);
    if (this.kind !== 'counter') return perSecond * (1 + this.noise(2e-5));
    const edges = { 'one edge': 1, 'both edges': 2, 'both tracks': 4 }[String(this.settings.edges)] ?? 1;
    if (this.settings.counts === 'period') return perSecond > 0 ? 1 / perSecond : NaN;
    this.phase += (perSecond * edges) / this.rateHz;
    this.count = Math.floor(this.phase);
    return this.count;
  }

  private digital(bench: Bench): number {
    const line = bench.line(this.terminal);
    if (line.direction === 'in') return (bench.hand(this.terminal) ?? 0) > 0.5 ? 1 : 0;
    if (line.pulsesHz > 0) {
      this.phase = (this.phase + line.pulsesHz / this.rateHz) % 1;
      return this.phase < line.duty ? 1 : 0;
    }
    return line.on ? 1 : 0;
  }

  private noise = (size: number) => size * this.random.gauss();
  private sine(size: number, hz: number): number {
    this.phase = (this.phase + hz / this.rateHz) % 1;
    return size * Math.sin(2 * Math.PI * this.phase);
  }
  /** A calibrator's tone with its own second harmonic (0.6 %), and the hum of the hall. */
  private calibrator(rms: number): number {
    const hz = CALIBRATOR_HZ[this.terminal];
    this.phase = (this.phase + hz / this.rateHz) % 1;
    this.humPhase = (this.humPhase + 50 / this.rateHz) % 1;
    const turn = 2 * Math.PI * this.phase;
    const tone = Math.SQRT2 * rms * (Math.sin(turn) + 0.006 * Math.sin(2 * turn));
    return tone + 0.004 * Math.SQRT2 * Math.sin(2 * Math.PI * this.humPhase);
  }
  /** An open high-impedance input wanders and picks up the mains. */
  private floating(): number {
    const size = { B1: 4, B2: 6, B3: 20, B4: 0.4, B5: 0.02, B6: 0.3 }[this.module] ?? 0;
    this.drift = 0.998 * this.drift + 0.06 * this.random.gauss();
    return size * (this.drift + 0.5 * this.random.gauss());
  }
  /** The module drives an open input past its end, so that it is known. */
  private open(): number {
    switch (this.module) {
      case 'B1':
        return BRIDGE_FULL * 1.04;
      case 'B5':
        return 0;
      case 'B3':
        return 0;
      default:
        return this.module === 'B4' ? this.floating() : NaN;
    }
  }
}
