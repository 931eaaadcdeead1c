import { Random } from '$core/random';

/** Steps between two frames of a message. */
export const PITCH_DRIVE_PERIODS: Record<string, number> = {
  PitchState: 2,
  PitchHealth: 10,
  SealState: 10,
  GreaseState: 20,
};

/** Physical values of the drive and the seal at a time, by message and signal. Advances in fixed steps, so it repeats exactly. */
export class PitchDrive {
  private readonly random = new Random(613);
  private angle = 12;
  private speed = 0;
  private oil = 41;
  private steps = 0;
  target = 12;
  enabled = true;

  /** Integration step, s. */
  static readonly STEP_S = 0.01;

  step(): void {
    const { STEP_S } = PitchDrive;
    const wanted = this.enabled ? Math.max(-8, Math.min(8, (this.target - this.angle) * 2)) : 0;
    this.speed += (wanted - this.speed) * (STEP_S / 0.15);
    this.angle += this.speed * STEP_S;
    this.oil += (41 + Math.abs(this.speed) * 1.5 - this.oil) * (STEP_S / 120);
    this.steps++;
  }

  value(message: string, signal: string): number {
    const t = this.steps * PitchDrive.STEP_S;
    const noise = (size: number) => size * this.random.gauss();
    switch (`${message}/${signal}`) {
      case 'PitchState/Angle':
        return this.angle + noise(0.01);
      case 'PitchState/Speed':
        return this.speed + noise(0.01);
      case 'PitchState/MotorCurrent':
        return 3 + 2.4 * this.speed + 1.2 * Math.sin(t * 1.4) + noise(0.1);
      case 'PitchState/Enabled':
        return this.enabled ? 1 : 0;
      case 'PitchState/Alive':
        return Math.floor(t * 50) % 256;
      case 'PitchHealth/Page':
        return Math.floor(t * 5) % 2;
      case 'PitchHealth/OilTemperature':
        return this.oil;
      case 'PitchHealth/OilPressure':
        return 182 + 4 * Math.sin(t / 3) + noise(0.3);
      case 'PitchHealth/Supply':
        return 24.1 - 0.02 * Math.abs(this.speed) + noise(0.005);
      case 'PitchHealth/CabinetTemperature':
        return 31 + Math.sin(t / 200);
      case 'PitchCommand/Target':
        return this.target;
      case 'PitchCommand/Enable':
        return this.enabled ? 1 : 0;
      case 'SealState/SealTemperature':
        return 11.4 + 0.3 * Math.sin(t / 40) + noise(0.03);
      case 'GreaseState/GreasePressure':
        return 32 + 6 * (t % 30 < 3 ? 1 : 0) + noise(0.05);
      case 'GreaseState/GreaseLevel':
        return 78.5;
      default:
        return 0;
    }
  }
}
