import { benchChassis } from './bench-chassis/driver';
import { bridgeRack } from './bridge-rack/driver';
import { canBus, linBus } from './bus/driver';
import { countingSource } from './counting-source/driver';
import { dockChassis } from './dock-chassis/driver';
import type { UnitDriver } from './driver';
import { networkLine, serialLine } from './line/driver';
import { modbusRtu, modbusTcp } from './modbus/driver';
import { mqttTopics } from './mqtt/driver';
import { networkReceiver } from './network-receiver/driver';
import { receiver } from './receiver/driver';
import { recordedBand } from './recorded-band/driver';
import { replay } from './replay/driver';

/** Every kind of unit there is; a new one is one line here, and one in contract/units/kinds.ts. */
export const UNIT_DRIVERS: readonly UnitDriver[] = [
  dockChassis,
  benchChassis,
  bridgeRack,
  countingSource,
  canBus,
  linBus,
  serialLine,
  networkLine,
  modbusTcp,
  modbusRtu,
  mqttTopics,
  receiver,
  recordedBand,
  networkReceiver,
  replay,
];
