import { Random } from '$core/random';

/** Integration step of the mechanical model, s. */
export const STEP_S = 0.005;

const RHO = 1025; // sea water, kg/m³
const RADIUS = 2; // m
const AREA = Math.PI * RADIUS ** 2;
const INERTIA = 18_000; // rotor and added water, kg·m²
const GENERATOR_DRAG = 210; // N·m for each rad/s
const BRAKE_TORQUE = 885; // N·m for each A
const BEARING_FRICTION = 35; // N·m

/** What the rotor does at one instant. */
export interface RotorState {
  flow: number; // m/s
  azimuth: number; // rad, never wrapped
  speed: number; // rad/s
  torque: number; // shaft, N·m
  thrust: number; // N
  bearingDrive: number; // °C
  bearingFree: number;
  seal: number;
  cabinet: number;
}

/** Tidal-stream rotor: slow tide and turbulence drive a rotor against generator, brake and friction; losses warm the bearings.
 *  Seeded and advanced in fixed steps, so a run repeats exactly whatever its speed. */
export class Rotor {
  private readonly random: Random;
  private turbulence = 0;
  private turbulenceFast = 0;
  private steps = 0;
  readonly state: RotorState;

  /** @param tidePhaseS seconds into the tide at the start */
  constructor(
    seed: number,
    private readonly tidePhaseS = 0,
    initial: Partial<RotorState> = {},
  ) {
    this.random = new Random(seed);
    this.state = {
      flow: 2.3,
      azimuth: 0,
      speed: 0,
      torque: 0,
      thrust: 0,
      bearingDrive: 24,
      bearingFree: 23,
      seal: 11.4,
      cabinet: 21,
      ...initial,
    };
  }

  get timeS(): number {
    return this.steps * STEP_S;
  }

  /** Mean flow of the tide: a semidiurnal sine near its maximum. */
  private tide(t: number): number {
    return 2.3 * (0.9 + 0.1 * Math.cos((2 * Math.PI * (t + this.tidePhaseS)) / 44712));
  }

  /** Advances one step. @param brakeA brake current, A @param lubricated whether the pump runs @param ambient heat at the bearings by hand, °C */
  step(brakeA: number, lubricated: boolean, ambient: number): void {
    const s = this.state;
    const { random } = this;
    const t = this.timeS;
    // Two Ornstein-Uhlenbeck processes: large eddies of some 8 s, small ones of 0.6 s.
    this.turbulence += (-this.turbulence / 8) * STEP_S + 0.075 * Math.sqrt((2 * STEP_S) / 8) * random.gauss();
    this.turbulenceFast +=
      (-this.turbulenceFast / 0.6) * STEP_S + 0.035 * Math.sqrt((2 * STEP_S) / 0.6) * random.gauss();
    s.flow = this.tide(t) * (1 + this.turbulence + this.turbulenceFast);
    const tipRatio = (s.speed * RADIUS) / s.flow;
    const torqueCoefficient = 0.06 * Math.max(-0.5, 1 - tipRatio / 2.4);
    const hydro =
      0.5 * RHO * AREA * RADIUS * s.flow ** 2 * torqueCoefficient * (1 + 0.03 * Math.sin(3 * s.azimuth));
    const resisting = GENERATOR_DRAG * s.speed + BEARING_FRICTION + BRAKE_TORQUE * Math.max(0, brakeA);
    // Friction cannot turn the rotor backwards: at rest it holds up to its own size.
    const net = s.speed <= 1e-6 && hydro < resisting ? 0 : hydro - Math.sign(s.speed || 1) * resisting;
    s.speed = Math.max(0, s.speed + (net / INERTIA) * STEP_S);
    s.azimuth += s.speed * STEP_S;
    s.torque = s.speed > 1e-6 ? resisting : Math.min(hydro, resisting);
    s.thrust = 0.5 * RHO * AREA * s.flow ** 2 * 0.35;
    const friction = (lubricated ? 1 : 3.2) * s.speed * (2 + 0.0013 * s.torque + 0.0002 * s.thrust);
    s.bearingDrive += ((friction * 1.9 - (s.bearingDrive - s.seal - 9 - ambient) * 0.55) / 55) * STEP_S;
    s.bearingFree += ((friction * 1.7 - (s.bearingFree - s.seal - 8 - ambient) * 0.55) / 60) * STEP_S;
    s.seal = 11.4 + 0.15 * Math.sin((2 * Math.PI * t) / 900) + 0.02 * s.speed;
    s.cabinet = 21 + 1.5 * Math.sin((2 * Math.PI * t) / 1400);
    this.steps++;
  }
}
