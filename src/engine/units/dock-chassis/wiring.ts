import type { UnitModule } from '$contract/unit';

const terminals = (module: string, count: number, kind: UnitModule['terminals'][number]['kind']) =>
  Array.from({ length: count }, (_, i) => ({ id: `${module}/${i + 1}`, kind }));

/** Resistor of the bridge module's shunt, across arm R1. */
export const SHUNT_OHM = 100_000;

/** The six modules of the chassis. */
export const MODULES: UnitModule[] = [
  {
    id: 'A1',
    title: 'temperature',
    terminals: terminals('A1', 8, 'thermocouple'),
    ratesHz: [1, 5, 10, 50],
    bandwidthShare: 0.4,
  },
  {
    id: 'A2',
    title: 'bridge',
    terminals: terminals('A2', 4, 'bridge').map((t) => ({ ...t, shunt: { ohm: SHUNT_OHM, arm: 1 } })),
    ratesHz: [100, 500, 1000, 2000, 5000, 10000],
    bandwidthShare: 0.4,
  },
  {
    id: 'A3',
    title: 'vibration',
    terminals: terminals('A3', 4, 'vibration'),
    ratesHz: [1280, 2560, 5120, 10240, 25600, 51200],
    bandwidthShare: 0.4,
  },
  {
    id: 'A4',
    title: 'volts, mA',
    terminals: terminals('A4', 8, 'analog'),
    ratesHz: [10, 100, 500, 1000, 2000],
    bandwidthShare: 0.4,
  },
  {
    id: 'A5',
    title: 'pulses, lines',
    terminals: terminals('A5', 8, 'pulse'),
    ratesHz: [10, 100, 500],
    bandwidthShare: 0.5,
  },
  {
    id: 'A6',
    title: 'drive out',
    terminals: terminals('A6', 4, 'output'),
    ratesHz: [10, 100],
    bandwidthShare: 0.5,
  },
];

/** Unit of the raw values of each module; a temperature terminal set to resistance delivers Ω. */
export const RAW_UNIT: Record<string, string> = {
  A1: 'mV',
  A2: 'mV/V',
  A3: 'mV',
  A4: 'V',
  A5: 'Hz',
  A6: 'V',
};

/** Full scale of each module's converter, raw: beyond it the reading is clipped. */
export const FULL_SCALE: Record<string, number> = { A1: 80, A2: 25, A3: 5000, A4: 10.5, A5: 1e6, A6: 10.5 };

/** What is wired to the chassis on the dock, by terminal. Everything else is free. */
export const WIRED = {
  drivenBearing: 'A1/1',
  freeBearing: 'A1/2',
  sealWater: 'A1/5',
  flaps: ['A2/1', 'A2/2', 'A2/3'],
  torque: 'A2/4',
  foreAft: 'A3/1',
  side: 'A3/2',
  drawWire: 'A4/1',
  flowMeter: 'A4/2',
  shaftPulses: 'A5/1',
  guardDoor: 'A5/5',
  oilPulses: 'A5/6',
  brake: 'A6/1',
  pump: 'A6/2',
} as const;
