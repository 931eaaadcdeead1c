import { badInput } from '../errors';
import { shuntOutput } from './bridge';

export interface ShuntedBridge {
  /** Resistance of the shunted arm, Ω. */
  gaugeOhm: number;
  shuntOhm: number;
  /** Resistance of each lead between the switch and the gauge, Ω. The shunt then lies across gauge and leads. @default 0 */
  leadOhm?: number;
  /** Leads in series with the shunted arm: 1 for a quarter bridge on three wires, 2 on two, 0 where both ends have their own. @default 0 */
  leadsInArm?: 0 | 1 | 2;
  /** Arm in ring order, R1 … R4: a shunt across R1 or R3 lowers the output, across R2 or R4 it raises it. @default 1 */
  arm?: 1 | 2 | 3 | 4;
}

/** Change of the output when a resistor is laid across one arm of a balanced bridge, exact: ∓R/(4Rs + 2R), with R the arm and its
 *  leads. @returns mV/V */
export function shuntChange({
  gaugeOhm,
  shuntOhm,
  leadOhm = 0,
  leadsInArm = 0,
  arm = 1,
}: ShuntedBridge): number {
  const inArm = gaugeOhm + leadsInArm * leadOhm;
  return shuntOutput(inArm, shuntOhm) * (arm === 1 || arm === 3 ? 1 : -1);
}

/** Share of the gauge's change that is left when leads lie in series with it: Rg / (Rg + n·RL). */
export const leadDesensitisation = (gaugeOhm: number, leadOhm: number, leadsInArm: number) =>
  gaugeOhm / (gaugeOhm + leadsInArm * leadOhm);

/** Gain and zero from a zero and a shunted reading: gain = target / (shunted - zero), corrected = raw·gain + offset.
 *  @throws `bad_input` when the shunt moved nothing, or one of them is no number */
export function twoPointCorrection(
  zero: number,
  shunted: number,
  target: number,
): { gain: number; offset: number } {
  const gain = target / (shunted - zero);
  if (!Number.isFinite(gain))
    throw badInput(
      'shunted reading',
      shunted,
      `It has to differ from the zero, ${zero}: is the shunt switched, and the bridge whole?`,
    );
  return { gain, offset: -zero * gain };
}
