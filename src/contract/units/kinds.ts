import { BUS_KINDS } from './bus';
import { CHASSIS_KINDS } from './chassis';
import { LINE_KINDS } from './lines';
import { NETWORK_KINDS } from './network';
import { RADIO_UNITS } from './radio';
import { REPLAY_KINDS } from './replay';
import type { UnitKind } from './unit-kind';

export type { UnitConfig, UnitKind } from './unit-kind';
/** Every kind of unit there is, in the order of the catalogue. */
export const UNIT_KINDS: readonly UnitKind[] = [
  ...CHASSIS_KINDS,
  ...BUS_KINDS,
  ...LINE_KINDS,
  ...NETWORK_KINDS,
  ...RADIO_UNITS,
  ...REPLAY_KINDS,
];

export const findUnitKind = (kind: string) => UNIT_KINDS.find((k) => k.kind === kind);
