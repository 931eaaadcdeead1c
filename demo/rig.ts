import { EMPTY_TERM, when } from '$core/condition/condition';
import { newFact } from '$contract/fact';
import type { Plan } from '$contract/plan';
import type { View } from '$contract/board';
import { EMPTY_RULE, newDeed, type Rule } from '$contract/rule';
import { NEW_SENSOR, REFERENCE, type Sensor } from '$contract/sensor';

export const JOB = { name: 'Brinewheel II proof test', place: 'Harrow Quay · rotor 2 of 3' };
/** Hears the rotor’s telemetry and what else is on the air at the quay. */
export const RECEIVER = { kind: 'receiver', name: 'Quay receiver' };
export const CHASSIS = { serial: 'QH-0417', kind: 'dock chassis', name: 'Dock chassis' };
/** The rotor's pitch drive, on the second unit that is added. */
export const PITCH = { kind: 'CAN bus', name: 'Pitch drive' };

interface DemoChannel {
  name: string;
  group: string;
  kind: string;
  terminal: string | null;
  /** On the pitch drive's bus instead of the chassis. */
  onBus?: true;
  sensorSerial?: string;
  settings: Record<string, unknown>;
}

const flap = (blade: number, serial: string, zero: number): DemoChannel => ({
  name: `Blade ${blade} flap, root`,
  group: 'Blade roots',
  kind: 'strain bridge',
  terminal: `A2/${blade}`,
  sensorSerial: serial,
  settings: { gaugeFactor: 2.08, zero, range: { min: 0, max: 1000 }, warnAbove: 820, alarmAbove: 900 },
});

/** The instrumentation of the rotor: 16 measured, 3 driven, 2 computed. Blade 2's gauge wire is broken. */
export const CHANNELS: DemoChannel[] = [
  flap(1, 'BG-112', 0.021),
  flap(2, 'BG-113', -0.034),
  flap(3, 'BG-114', 0.012),
  {
    name: 'Shaft torque',
    group: 'Drive train',
    kind: 'bridge sensor',
    terminal: 'A2/4',
    sensorSerial: 'TQ-031',
    settings: {
      sensitivity: 2.004,
      fullScale: 5,
      zero: 0.008,
      range: { min: 0, max: 6 },
      warnAbove: 5.4,
      alarmAbove: 5.8,
    },
  },
  {
    name: 'Shaft speed',
    group: 'Drive train',
    kind: 'pulses',
    terminal: 'A5/1',
    settings: { perTurn: 60, unit: 'rpm', range: { min: 0, max: 30 }, warnAbove: 26, alarmAbove: 28 },
  },
  {
    name: 'Bearing, drive end',
    group: 'Drive train',
    kind: 'thermocouple',
    terminal: 'A1/1',
    sensorSerial: 'TC-204',
    settings: { type: 'K', range: { min: 0, max: 90 }, warnAbove: 58, alarmAbove: 70 },
  },
  {
    name: 'Bearing, free end',
    group: 'Drive train',
    kind: 'thermocouple',
    terminal: 'A1/2',
    sensorSerial: 'TC-205',
    settings: { type: 'K', range: { min: 0, max: 90 }, warnAbove: 58, alarmAbove: 70 },
  },
  {
    name: 'Seal water',
    group: 'Drive train',
    kind: 'platinum sensor',
    terminal: 'A1/5',
    sensorSerial: 'PT-018',
    settings: { range: { min: 0, max: 40 } },
  },
  {
    name: 'Oil feed',
    group: 'Drive train',
    kind: 'pulses',
    terminal: 'A5/6',
    settings: { perTurn: 450, unit: 'L/min', range: { min: 0, max: 6 } },
  },
  {
    name: 'Nacelle, fore–aft',
    group: 'Nacelle',
    kind: 'vibration',
    terminal: 'A3/1',
    sensorSerial: 'AC-771',
    settings: { sensitivity: 10.2, range: { min: -20, max: 20 }, warnAbove: 15, alarmAbove: 18 },
  },
  {
    name: 'Nacelle, side',
    group: 'Nacelle',
    kind: 'vibration',
    terminal: 'A3/2',
    sensorSerial: 'AC-772',
    settings: { sensitivity: 10.2, range: { min: -20, max: 20 }, warnAbove: 15, alarmAbove: 18 },
  },
  {
    name: 'Tip draw-wire',
    group: 'Nacelle',
    kind: 'voltage',
    terminal: 'A4/1',
    sensorSerial: 'DW-009',
    settings: { slope: 40, unit: 'mm', range: { min: 0, max: 200 } },
  },
  {
    name: 'Flow',
    group: 'Water',
    kind: 'current loop',
    terminal: 'A4/2',
    sensorSerial: 'FM-002',
    settings: { low: 0, high: 5, unit: 'm/s', range: { min: 0, max: 5 } },
  },
  { name: 'Guard door', group: 'Water', kind: 'contact', terminal: 'A5/5', settings: {} },
  {
    name: 'Brake current',
    group: 'Driven',
    kind: 'driven',
    terminal: 'A6/1',
    settings: { slope: 2, rest: 6, unit: 'A', range: { min: 0, max: 10 } },
  },
  {
    name: 'Lubrication',
    group: 'Driven',
    kind: 'driven',
    terminal: 'A6/2',
    settings: { slope: 1, rest: 1, unit: 'yes/no', range: { min: 0, max: 1 } },
  },
  {
    name: 'Pitch angle',
    group: 'Pitch drive',
    kind: 'value',
    terminal: 'PitchState/Angle',
    onBus: true,
    settings: { slope: 0.01, unit: '°', range: { min: -10, max: 100 }, rateHz: 50 },
  },
  {
    name: 'Pitch motor current',
    group: 'Pitch drive',
    kind: 'value',
    terminal: 'PitchState/MotorCurrent',
    onBus: true,
    settings: { slope: 0.05, unit: 'A', range: { min: -80, max: 80 }, rateHz: 50 },
  },
  {
    name: 'Pitch target',
    group: 'Pitch drive',
    kind: 'driven value',
    terminal: 'PitchCommand/Target',
    onBus: true,
    settings: { rest: 12, ramp: 4, unit: '°', range: { min: -5, max: 95 }, rateHz: 10 },
  },
  {
    name: 'Power',
    group: 'Computed',
    kind: 'computed',
    terminal: null,
    settings: { formula: '"Shaft torque" * "Shaft speed" * pi / 30', unit: 'kW', range: { min: 0, max: 8 } },
  },
  {
    name: 'Too hot to load',
    group: 'Computed',
    kind: 'computed',
    terminal: null,
    settings: {
      formula: '"Bearing, drive end" > 62 or "Bearing, free end" > 62',
      unit: 'yes/no',
      range: { min: 0, max: 1 },
    },
  },
];

export const PLAN_NAME = 'Spin-up to stall';
export const plan = (id: (name: string) => string): Partial<Plan> => ({
  start: 'when',
  startWhen: when(id('Shaft speed'), 'rises above', 5),
  before: 2,
  stop: 'when',
  stopWhen: when(id('Shaft speed'), 'falls below', 3, { hold: 4 }),
  longest: 600,
  facts: [newFact('Operator'), { ...newFact('Blade set'), kind: 'choice', options: ['A', 'B', 'C'] }],
  naming: 'BW2-{Blade set}-{number}',
  folder: 'Blade set {Blade set}',
});

/** Plans beside the one that is armed next. */
export const MORE_PLANS = (id: (name: string) => string): { name: string; plan: Partial<Plan> }[] => [
  {
    name: 'Overnight watch',
    plan: {
      detail: 'only in windows',
      logEvery: 1,
      windowWhen: {
        join: 'any',
        terms: [
          { ...EMPTY_TERM, channel: id('Nacelle, fore–aft'), test: 'is outside', level: -8, high: 8 },
          { ...EMPTY_TERM, channel: id('Bearing, drive end'), test: 'is past a warning' },
        ],
      },
      windowBefore: 5,
      windowAfter: 20,
      start: 'at a time',
      startAt: '20:00',
      stop: 'by hand',
      longest: 12 * 3600,
      parts: 'a new part at midnight',
      facts: [newFact('Operator')],
      naming: 'Night {date}',
      folder: 'Nights',
    },
  },
  {
    name: 'Tide check, every quarter hour',
    plan: {
      channels: ['Flow', 'Shaft speed', 'Shaft torque', 'Seal water'].map(id),
      start: 'by hand',
      longest: 30,
      again: 'again and again',
      every: 900,
      facts: [{ ...newFact('Tide'), kind: 'choice', options: ['flood', 'ebb', 'slack'] }],
      naming: 'Tide {Tide} {number}',
      folder: 'Tide checks',
    },
  },
];

export const rules = (id: (name: string) => string): Rule[] => [
  {
    ...EMPTY_RULE,
    when: when(id('Bearing, drive end'), 'rises above', 62, { hysteresis: 8 }),
    deeds: [newDeed({ do: 'set', output: id('Brake current'), value: 6 })],
  },
  {
    ...EMPTY_RULE,
    when: when(id('Guard door'), 'turns to no'),
    deeds: [
      newDeed({ do: 'set', output: id('Brake current'), value: 10, after: 'return it to rest' }),
      newDeed({ do: 'mark', says: 'Guard door opened' }),
    ],
  },
];

/** The board that stands on the wall of the control room. */
export const BOARD = (id: (name: string) => string): { name: string; views: View[] } => {
  const view = (
    kind: string,
    names: string[],
    at: [x: number, y: number, w: number, h: number],
    rest: Partial<View> = {},
  ): View => ({
    id: `v${at.join('-')}`,
    kind,
    channels: names.map(id),
    x: at[0],
    y: at[1],
    w: at[2],
    h: at[3],
    span: 60,
    range: null,
    level: null,
    title: '',
    text: '',
    picture: null,
    spots: [],
    style: 'slider',
    own: {},
    ...rest,
  });
  return {
    name: 'Control room',
    views: [
      view('strip', ['Shaft speed', 'Shaft torque', 'Blade 1 flap, root'], [0, 0, 13, 11]),
      view('spectrum', ['Nacelle, fore–aft'], [13, 0, 11, 6]),
      view('burst', ['Nacelle, side'], [13, 6, 11, 5], { span: 0.2, level: 0.2 }),
      view('number', ['Shaft torque'], [0, 11, 6, 4]),
      view('dial', ['Shaft speed'], [6, 11, 4, 5]),
      view('bar', ['Bearing, drive end', 'Bearing, free end', 'Seal water'], [10, 11, 7, 4], {
        title: 'Temperatures',
      }),
      view('control', ['Brake current', 'Lubrication'], [17, 11, 7, 3]),
      view('lamp', ['Guard door', 'Too hot to load'], [17, 14, 7, 3], { title: 'Doors and bearings' }),
      view('table', ['Flow', 'Power', 'Tip draw-wire'], [0, 16, 10, 5]),
      view('xy', ['Shaft speed', 'Shaft torque'], [10, 16, 7, 6]),
    ],
  };
};

/** A second job: the roots of three new blades on a rack in the hall, with what goes wrong with bridges. */
export const ROOTS_JOB = { name: 'Blade set C, root bridges', place: 'Harrow Quay · rack in the hall' };
export const RACK = { kind: 'bridge rack', name: 'Root rack' };
export const ROOTS: { name: string; terminal: string; arrangement: string; resistance?: number }[] = [
  1, 2, 3,
].flatMap((blade) => [
  ...['0°', '120°', '240°'].map((at, k) => ({
    name: `Blade ${blade} root, ${at}`,
    terminal: `C${blade}/${k + 1}`,
    arrangement: 'quarter',
  })),
  { name: `Blade ${blade} root, edgewise`, terminal: `C${blade}/4`, arrangement: 'full, bending' },
]);
/** The edgewise bridge of this blade was given the quarter bridges' value; one quarter bridge the resistance of another gauge. */
export const WRONG_VALUE = 'Blade 2 root, edgewise';
export const WRONG_RESISTANCE = 'Blade 1 root, 120°';

/** Calibrations of the draw-wire over the years: day, slope, spread of the points in V, whether it was sent away. */
export const DRAW_WIRE_HISTORY: { day: string; mmPerV: number; spread: number }[] = [
  { day: '2022-11-08', mmPerV: 40.12, spread: 0.0012 },
  { day: '2023-10-17', mmPerV: 40.15, spread: 0.0009 },
  { day: '2024-11-26', mmPerV: 40.11, spread: 0.0011 },
  { day: '2025-11-19', mmPerV: 40.19, spread: 0.001 },
];

/** Recorded history: what was driven during each take. Times in s after arming. */
export const TAKES: RotorTake[] = [
  {
    daysAgo: 2,
    at: '09:42',
    facts: { Operator: 'bench', 'Blade set': 'A' },
    seed: 1201,
    tidePhaseS: 1800,
    brake: [
      [1, 0.4],
      [110, 1.8],
      [230, 6],
    ],
    marks: [[150, 'Brake at 1.8 A, steady']],
  },
  {
    daysAgo: 2,
    at: '11:15',
    facts: { Operator: 'bench', 'Blade set': 'A' },
    seed: 1202,
    tidePhaseS: 5200,
    brake: [
      [1, 1.2],
      [180, 2.6],
      [260, 6],
    ],
    marks: [[200, 'Stall begins']],
  },
  {
    daysAgo: 1,
    at: '14:02',
    facts: { Operator: 'bench', 'Blade set': 'B' },
    seed: 1203,
    tidePhaseS: 9000,
    brake: [
      [1, 0],
      [90, 1.8],
      [210, 3.2],
      [300, 6],
    ],
    marks: [
      [95, 'Brake at 1.8 A'],
      [215, 'Load step to 3.2 A'],
    ],
  },
];

/** What a take of the rotor is made of. */
export interface RotorTake {
  daysAgo: number;
  at: string;
  facts: Record<string, string>;
  seed: number;
  tidePhaseS: number;
  /** Brake current, A, at so many seconds. */
  brake: [number, number][];
  marks: [number, string][];
}

/** Short spins over the days before, blade set by blade set, at different loads and tides. */
export const EARLIER_TAKES: RotorTake[] = Array.from({ length: 12 }, (_, k) => {
  const load = [0.4, 0.8, 1.2, 1.6][k % 4];
  return {
    daysAgo: 9 - Math.floor(k / 2),
    at: k % 2 ? '13:30' : '09:15',
    facts: { Operator: k % 3 === 2 ? 'quay crew' : 'bench', 'Blade set': 'ABC'[Math.floor(k / 4)] },
    seed: 1300 + k,
    tidePhaseS: 700 * (k + 1),
    brake: [
      [1, load],
      [14, 6],
    ],
    marks: [[10, `Brake at ${load} A`]],
  };
});

/** Sensors of the rotor, as they lie in the drawer. */
const gauge = (serial: string): Sensor => ({
  ...NEW_SENSOR,
  serial,
  kind: 'strain bridge',
  model: 'foil gauge 6 mm, 350 Ω',
  unit: 'µε',
  range: { min: -3000, max: 3000 },
  sheet: { arrangement: 'quarter', resistance: 350, gaugeFactor: 2.08, excitation: 2.5 },
  calibratedOn: '2026-02-11',
});
const sensor = (
  serial: string,
  kind: Sensor['kind'],
  model: string,
  unit: string,
  max: number,
  sheet: Sensor['sheet'],
  until: string,
  note = '',
  good: Pick<Sensor, 'goodTo' | 'goodToShare'> = { goodTo: 0, goodToShare: 0 },
): Sensor => ({
  ...NEW_SENSOR,
  ...good,
  serial,
  kind,
  model,
  unit,
  range: { min: kind === 'vibration' ? -max : 0, max },
  sheet,
  calibratedOn: `${Number(until.slice(0, 4)) - 1}${until.slice(4)}`,
  calibratedUntil: until,
  note,
});
/** Things of the cabinet that sensors are compared with. */
const reference = (
  serial: string,
  model: string,
  unit: string,
  good: { goodTo?: number; goodToShare?: number },
  until: string,
): Sensor => ({
  ...NEW_SENSOR,
  serial,
  kind: REFERENCE,
  model,
  unit,
  ...good,
  calibratedOn: `${Number(until.slice(0, 4)) - 2}${until.slice(4)}`,
  calibratedUntil: until,
});
export const SENSORS: Sensor[] = [
  reference('GR-2', 'gauge rule 300 mm', 'mm', { goodTo: 0.02 }, '2027-02-18'),
  reference('VC-5', 'vibration calibrator 10 m/s²', 'm/s²', { goodToShare: 1 }, '2027-05-06'),
  reference('SC-1', 'sound calibrator 94 dB', 'Pa', { goodToShare: 1.2 }, '2027-05-06'),
  reference('DW-SET', 'dead weights 0 to 10 kN', 'kN', { goodToShare: 0.02 }, '2028-01-30'),
  gauge('BG-112'),
  gauge('BG-113'),
  gauge('BG-114'),
  gauge('BG-115'),
  sensor(
    'TQ-031',
    'bridge sensor',
    'torque shaft 5 kN·m',
    'kN·m',
    5,
    { sensitivity: 2.004, fullScale: 5, resistance: 350, excitation: 5 },
    '2027-04-02',
    '',
    { goodTo: 0.004, goodToShare: 0.1 },
  ),
  sensor('TC-204', 'thermocouple', 'sheathed, 1.5 mm', '°C', 400, { type: 'K' }, '2027-01-20', '', {
    goodTo: 1.5,
    goodToShare: 0,
  }),
  sensor('TC-205', 'thermocouple', 'sheathed, 1.5 mm', '°C', 400, { type: 'K' }, '2027-01-20', '', {
    goodTo: 1.5,
    goodToShare: 0,
  }),
  sensor(
    'PT-018',
    'platinum sensor',
    'Pt100 class A, 4 wires',
    '°C',
    120,
    { r0: 100, leads: 'four wires' },
    '2027-06-14',
    '',
    { goodTo: 0.15, goodToShare: 0.2 },
  ),
  sensor(
    'AC-771',
    'vibration',
    'accelerometer 100 mV/g',
    'm/s²',
    490,
    { sensitivity: 10.2 },
    '2027-03-14',
    '',
    { goodTo: 0, goodToShare: 2 },
  ),
  sensor(
    'AC-772',
    'vibration',
    'accelerometer 100 mV/g',
    'm/s²',
    490,
    { sensitivity: 10.2 },
    '2026-10-30',
    'cable changed after the second dock week',
  ),
  sensor('DW-009', 'voltage', 'draw-wire 200 mm', 'mm', 200, { slope: 40, offset: 0 }, '2026-12-01'),
  sensor('FM-002', 'current loop', 'flow meter 5 m/s', 'm/s', 5, { low: 0, high: 5 }, '2027-02-08', '', {
    goodTo: 0.01,
    goodToShare: 0.5,
  }),
];
