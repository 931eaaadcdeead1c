import { THERMOCOUPLE_TYPES } from '../../sensors/thermocouple';

/** How a terminal is measured, and which of each there are. */
export const WAYS = {
  volts: { label: 'volts', kinds: ['5 V', '0.5 V', '0.05 V'], terminals: 'U', unit: 'V', takesMs: 1 },
  thermocouple: { label: 'a thermocouple', kinds: THERMOCOUPLE_TYPES, terminals: 'U', unit: '°C', takesMs: 1 },
  bridge: { label: 'a bridge', kinds: ['10 mV/V', '2 mV/V'], terminals: 'U', unit: 'mV/V', takesMs: 2 },
  resistance: { label: 'a resistance', kinds: ['Pt100', 'Pt1000', 'ohms'], terminals: 'U', unit: '°C', takesMs: 2 },
  pulses: { label: 'pulses', kinds: ['a second', 'a minute', 'counted'], terminals: 'P', unit: '1/s', takesMs: 0 },
  serial: { label: 'a serial sensor', kinds: ['1', '2', '3', '4', '5', '6', '7', '8'], terminals: 'S', unit: '', takesMs: 0 },
} as const satisfies Record<string, { label: string; kinds: readonly string[]; terminals: string; unit: string; takesMs: number }>; // prettier-ignore
export type Way = keyof typeof WAYS;
export const isWay = (text: string): text is Way => Object.hasOwn(WAYS, text);

/** What of a value is kept in a table. */
export const KEEPS = ['average', 'lowest', 'highest', 'sample', 'total', 'deviation', 'wind'] as const;
export type KeepAs = (typeof KEEPS)[number];

/** What a model of station can do. */
export interface StationModel {
  name: string;
  /** Terminals by their letter: analog, pulse and serial inputs, and control outputs. */
  terminals: Readonly<Record<'U' | 'P' | 'S' | 'K', number>>;
  /** Bytes for tables. */
  memory: number;
  shortestWakeS: number;
  tablesMost: number;
  /** Columns of a table, and letters of a name. */
  columnsMost: number;
  lettersMost: number;
  keeps: readonly KeepAs[];
}
export const STATION_MODELS: readonly StationModel[] = [
  { name: 'ST-4', terminals: { U: 4, P: 1, S: 0, K: 0 }, memory: 256 * 1024, shortestWakeS: 5, tablesMost: 3, columnsMost: 12, lettersMost: 16, keeps: ['average', 'lowest', 'highest', 'sample', 'total'] }, // prettier-ignore
  { name: 'ST-9', terminals: { U: 8, P: 2, S: 1, K: 1 }, memory: 32 * 1024 * 1024, shortestWakeS: 1, tablesMost: 8, columnsMost: 64, lettersMost: 40, keeps: KEEPS }, // prettier-ignore
];
export const stationModel = (name: string): StationModel | undefined =>
  STATION_MODELS.find((m) => m.name === name);

/** Names of a model’s inputs that a way of measuring can have, in their order. */
export const terminalsFor = (model: StationModel, way: Way): string[] =>
  Array.from({ length: model.terminals[WAYS[way].terminals] }, (_, k) => `${WAYS[way].terminals}${k + 1}`);

/** What every station measures of itself, whatever its programme says. */
export const ALWAYS = [
  { name: 'Supply voltage', unit: 'V' },
  { name: 'Board temperature', unit: '°C' },
] as const;
