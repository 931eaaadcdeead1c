import { Random } from '$core/random';
import { bridgeOutput } from '$core/sensors/bridge';
import { shuntChange } from '$core/sensors/shunt';
import { platinumResistance } from '$core/sensors/platinum';
import { thermocoupleEmf } from '$core/sensors/thermocouple';
import type { Fault, Trouble } from '$contract/unit';
import { Resonator } from './resonator';
import type { RotorState } from './rotor';
import { FULL_SCALE, SHUNT_OHM, WIRED } from './wiring';

/** What a person at the rig sets by hand. */
export interface Hand {
  /** Where the draw-wire is pulled to by hand, mm; NaN leaves it on the blade. */
  wireMm: number;
  doorOpen: boolean;
  /** The rotor hangs in the air: no water loads blades and shaft. */
  lifted: boolean;
  /** Somebody leans on blade 1. */
  touched: boolean;
  /** The vibration calibrator hangs on the fore–aft sensor and runs. */
  shaker: boolean;
  /** Heat blown at the bearings, °C above normal. */
  heat: number;
}

/** The world at an instant: rotor, hands, outputs. */
export interface Scene {
  timeS: number;
  rotor: RotorState;
  hand: Hand;
  brakeA: number;
  pumpOn: boolean;
  junction: number;
}

/** True electrical signal of one terminal, without the module's own errors. @returns raw unit of the module */
type Physical = (scene: Scene) => number;

const gaugeZero = [0.021, -0.034, 0.012];

/** Draw-wire: 5 V over 201 mm, with the small droop of its potentiometer. */
export const DRAW_WIRE_MM_PER_V = 40.2;
const drawWire = (mm: number) => 0.027 + mm / DRAW_WIRE_MM_PER_V + 0.004 * Math.sin((mm / 200) * Math.PI);

function flapStrain(scene: Scene, blade: number): number {
  const { rotor } = scene;
  if (scene.hand.lifted) return scene.hand.touched && blade === 0 ? 40e-6 * Math.sin(9 * scene.timeS) : 0;
  const angle = rotor.azimuth + (blade * 2 * Math.PI) / 3;
  const steady = 88e-6 * rotor.flow ** 2;
  // Shear over the depth gives 1P, the tower's wake a dip once a turn, seen by each blade as it passes.
  const shear = 95e-6 * Math.sin(angle) * (rotor.flow / 2.3) ** 2;
  const wake = -60e-6 * Math.exp(-((Math.sin((angle - Math.PI) / 2) / 0.18) ** 2));
  return steady + shear + wake - 2.2e-6 * rotor.speed ** 2;
}

/** Makes the signals of a terminal at its sample rate: physics, sensor, wire, module. */
export class TerminalSignal {
  private readonly random: Random;
  private readonly modes: { mode: Resonator; gain: number }[];
  private filtered = NaN;
  private readonly module: string;
  private readonly physical: Physical | undefined;
  private drift = 0;
  fault: Fault = 'none';
  /** Whether the module's shunt lies across the bridge. */
  shunted = false;
  private shuntStep = 0;

  constructor(
    readonly terminal: string,
    private readonly rateHz: number,
    private readonly resistance: boolean,
    seed: number,
  ) {
    this.module = terminal.split('/')[0];
    const number = [...terminal].reduce((hash, sign) => (hash * 31 + sign.charCodeAt(0)) | 0, 7);
    this.random = new Random(seed ^ number ^ (rateHz * 2654435761));
    const sideways = terminal === WIRED.side;
    this.modes =
      this.module === 'A3'
        ? [
            { mode: new Resonator(sideways ? 17.3 : 12.6, 0.012, rateHz), gain: 1 },
            { mode: new Resonator(sideways ? 61 : 48.5, 0.009, rateHz), gain: 0.5 },
            { mode: new Resonator(183, 0.006, rateHz), gain: 0.25 },
          ]
        : [];
    this.physical = this.choose();
  }

  private choose(): Physical | undefined {
    const t = this.terminal;
    switch (t) {
      case 'A1/junction':
        return (s) => s.junction;
      case WIRED.drivenBearing:
        return (s) => thermocoupleEmf('K', s.rotor.bearingDrive) - thermocoupleEmf('K', s.junction);
      case WIRED.freeBearing:
        return (s) => thermocoupleEmf('K', s.rotor.bearingFree) - thermocoupleEmf('K', s.junction);
      case WIRED.sealWater:
        return (s) => platinumResistance(100, s.rotor.seal);
      case WIRED.torque:
        return (s) => 0.008 + (s.hand.lifted ? 0 : (2.004 * s.rotor.torque) / 5000);
      case WIRED.foreAft:
      case WIRED.side:
        return (s) => this.vibration(s);
      case WIRED.drawWire:
        return (s) =>
          drawWire(
            Number.isNaN(s.hand.wireMm)
              ? 60 + 9.4 * s.rotor.flow ** 2 + 3 * Math.sin(s.rotor.azimuth)
              : s.hand.wireMm,
          );
      case WIRED.flowMeter:
        return (s) => 4 + (16 * s.rotor.flow) / 5;
      case WIRED.shaftPulses:
        return (s) => (s.rotor.speed / (2 * Math.PI)) * 60;
      case WIRED.guardDoor:
        return (s) => (s.hand.doorOpen ? 0 : 1);
      case WIRED.oilPulses:
        return (s) => (s.pumpOn ? (450 * 3.1) / 60 : 0);
      case WIRED.brake:
        return (s) => s.brakeA / 2;
      case WIRED.pump:
        return (s) => (s.pumpOn ? 1 : 0);
    }
    const blade = (WIRED.flaps as readonly string[]).indexOf(t);
    return blade < 0
      ? undefined
      : (s) => gaugeZero[blade] + bridgeOutput('quarter', 2.08, 0.3, flapStrain(s, blade));
  }

  private vibration({ rotor, hand, timeS }: Scene): number {
    if (hand.shaker && this.terminal === WIRED.foreAft) {
      const turn = 2 * Math.PI * 159.155 * timeS;
      // 10 m/s² rms with the calibrator's own distortion, on a sensor that has aged by 0.8 %.
      return (
        10.12 * (10 * Math.SQRT2 * (Math.sin(turn) + 0.008 * Math.sin(2 * turn)) + 0.03 * this.random.gauss())
      );
    }
    const turning = rotor.speed / 1.5;
    const orders = 0.05 * Math.sin(3 * rotor.azimuth) + 0.02 * Math.sin(60 * rotor.azimuth) * turning;
    const drive = (0.0075 * turning * turning + 0.0008) * Math.sqrt(this.rateHz);
    const force = drive * this.random.gauss() + orders;
    let acceleration = 0.04 * orders;
    for (const { mode, gain } of this.modes) acceleration += gain * mode.step(force);
    return acceleration * 10.2; // mV/(m/s²)
  }

  /** Noise of the module at this rate, raw rms. */
  private get noise(): number {
    const density =
      { A1: 0.0006, A2: 0.000012, A3: 0.002, A4: 0.00002, A5: 0.0004, A6: 0.00002 }[this.module] ?? 0;
    if (this.terminal === 'A1/junction') return 0.002;
    if (this.resistance) return 0.0012;
    if (this.terminal === WIRED.flowMeter) return 0.004;
    if (this.terminal === WIRED.guardDoor || this.terminal === WIRED.pump) return 0;
    return density * Math.sqrt(this.rateHz / 2);
  }

  get trouble(): Trouble {
    if (this.fault === 'open wire' || this.fault === 'broken gauge') return 'open';
    return 'none';
  }

  /** One sample as the module delivers it: clipped at its range and quantised to 24 bits. */
  sample(scene: Scene): number {
    const { fault, module } = this;
    const full = this.resistance ? 400 : this.terminal === WIRED.flowMeter ? 24 : FULL_SCALE[module];
    if (this.physical === undefined) return quantise(this.floating(), full);
    let value = this.physical(scene);
    if (fault === 'open wire' && (module === 'A1' || module === 'A5')) return NaN;
    if (fault === 'open wire' && module === 'A3') value = 0;
    else if (fault === 'open wire' && module === 'A4')
      value = this.terminal === WIRED.flowMeter ? 0 : this.floating();
    else if ((fault === 'open wire' || fault === 'broken gauge') && module === 'A2')
      value = full * 1.04 + 0.002 * this.random.gauss();
    else if (fault === 'reversed polarity') value = -value;
    if (module === 'A2' && this.trouble === 'none') {
      const target = this.shunted ? shuntChange({ gaugeOhm: 350, shuntOhm: SHUNT_OHM }) : 0;
      this.shuntStep += (target - this.shuntStep) * (1 - Math.exp(-1 / (0.02 * this.rateHz)));
      value += this.shuntStep;
    }
    if (fault === 'drift') value += this.drift += full * 2e-6 * (50 / this.rateHz);
    value += this.noise * this.random.gauss();
    if (module === 'A5') return value; // a counter times edges with its clock; it has no converter steps
    return quantise(this.antiAlias(value), full);
  }

  /** An open high-impedance input wanders and picks up the mains. */
  private floating(): number {
    const scale = FULL_SCALE[this.module] * 0.02;
    this.drift = 0.998 * this.drift + 0.06 * this.random.gauss();
    return scale * (this.drift + 0.5 * this.random.gauss());
  }

  /** First stage of the module's filter that is felt at these rates: a pole at 0.4 of the sample rate. */
  private antiAlias(value: number): number {
    if (this.module === 'A5' || this.module === 'A6' || this.terminal === 'A1/junction') return value;
    const share = 1 - Math.exp(-2 * Math.PI * 0.4);
    this.filtered = Number.isNaN(this.filtered) ? value : this.filtered + share * (value - this.filtered);
    return this.filtered;
  }
}

function quantise(value: number, full: number): number {
  const clipped = Math.min(full, Math.max(-full, value));
  const step = full / 8_388_608;
  return Math.round(clipped / step) * step;
}
