import type { StandInControl, TerminalKind, UnitModule } from '$contract/unit';

const BRIDGE = ['EX+', 'S+', 'S−', 'EX−'];
const RESISTANCE = ['I+', 'S+', 'S−', 'I−'];

const module = (
  id: string,
  title: string,
  count: number,
  kind: TerminalKind,
  contacts: string[],
  ratesHz: number[],
  bandwidthShare = 0.4,
): UnitModule => ({
  id,
  title,
  terminals: Array.from({ length: count }, (_, i) => ({ id: `${id}/${i + 1}`, kind, contacts })),
  ratesHz,
  bandwidthShare,
});

/** Resistor of the bridge module's shunt, across arm R1. */
export const SHUNT_OHM = 100_000;
const withShunts = (m: UnitModule): UnitModule => ({
  ...m,
  terminals: m.terminals.map((t) => ({ ...t, shunt: { ohm: SHUNT_OHM, arm: 1 } })),
});

/** The ten modules of the chassis: one of each kind of input and output. */
export const MODULES: UnitModule[] = [
  withShunts(module('B1', 'bridge', 4, 'bridge', BRIDGE, [100, 500, 1000, 2000, 5000, 10_000, 25_000])),
  {
    ...module('B2', 'temperature', 6, 'thermocouple', RESISTANCE, [1, 5, 10, 50]),
    terminals: [
      ...module('B2', '', 6, 'thermocouple', RESISTANCE, []).terminals,
      { id: 'B2/junction', kind: 'junction', label: 'cold junction', contacts: [] },
    ],
  },
  module('B3', 'vibration, sound', 4, 'vibration', ['+', '−'], [1280, 2560, 5120, 10_240, 25_600, 51_200]),
  module('B4', 'volts', 6, 'analog', ['V+', 'V−'], [10, 100, 500, 1000, 2000, 10_000]),
  module('B5', '4–20 mA', 4, 'loop', ['L+', 'IN', 'SH'], [10, 100, 500, 1000]),
  module('B6', 'displacement', 4, 'ratio', ['EX+', 'W', 'EX−'], [10, 100, 500, 1000, 2000]),
  module('B7', 'counters', 4, 'pulse', ['P', 'Q', '0 V'], [10, 100, 500, 1000], 0.5),
  module('B8', 'digital lines', 8, 'line', ['D', '0 V'], [10, 100, 500, 1000], 0.5),
  module('B9', 'analog out', 4, 'output', ['OUT', '0 V'], [10, 100], 0.5),
  module('B10', 'relays', 4, 'relay', ['C', 'NO', 'NC'], [10, 100], 0.5),
];

export const moduleOf = (terminal: string) => MODULES.find((m) => terminal.startsWith(`${m.id}/`));

const control = (
  terminal: string,
  label: string,
  unit: string,
  min: number,
  max: number,
  value: number,
): StandInControl => ({
  id: terminal,
  terminal,
  label,
  unit,
  min,
  max,
  value,
});

/** What a hand does to each sensor. Terminals without one have nothing connected. */
export const CONTROLS: StandInControl[] = [
  { id: 'plugged', label: 'Plugged in', unit: 'yes/no', min: 0, max: 1, value: 1 },
  control('B1/1', 'Strain of the gauge', 'µε', 0, 3000, 0),
  control('B1/2', 'Bending of the half bridge', 'µε', 0, 3000, 200),
  control('B1/3', 'Load on the cell', 'kN', 0, 12, 0),
  control('B2/1', 'Bath of the type K', '°C', 0, 400, 21),
  control('B2/2', 'Bath of the type T', '°C', 0, 120, 21),
  control('B2/3', 'Bath of the Pt100', '°C', 0, 200, 21),
  control('B2/4', 'Bath of the Pt1000', '°C', 0, 200, 21),
  control('B3/1', 'Calibrator at 159.15 Hz', 'm/s² rms', 0, 50, 10),
  control('B3/2', 'Calibrator at 1 kHz', 'Pa rms', 0, 20, 1),
  control('B4/1', 'Voltage', 'V', 0, 60, 5),
  control('B4/2', 'Voltage with ripple', 'V', 0, 10, 2),
  control('B5/1', 'Pressure on the transmitter', 'bar', 0, 16, 6),
  control('B6/1', 'Travel of the slider', 'mm', 0, 150, 30),
  control('B7/1', 'Turning of the encoder', 'rev/s', 0, 50, 2),
  control('B7/2', 'Pulses', 'Hz', 0, 20_000, 100),
  control('B8/1', 'Contact closed', 'yes/no', 0, 1, 0),
];
