import { countingSource } from './counting-source/driver';
import { dockChassis } from './dock-chassis/driver';
import type { UnitDriver } from './driver';

/** Every kind of unit there is; a new one is one line here. */
export const UNIT_DRIVERS: readonly UnitDriver[] = [dockChassis, countingSource];
