/** One entry of a template: how many bits and what they stand for. */
export type TedsField = { key: string; label: string; unit?: string; bits: number } & (
  | { code: 'whole' }
  /** start + step · n; all ones: not given. */
  | { code: 'steps'; start: number; step: number }
  /** start · (1 + 2 · tolerance)^n; all ones: not given. */
  | { code: 'ratio'; start: number; tolerance: number }
  | { code: 'single' }
  /** Letters of five bits, A = 1. */
  | { code: 'letters' }
  /** Days since 1998-01-01; all ones: not given. */
  | { code: 'date' }
  | { code: 'choice'; choices: readonly string[] }
);

export interface TedsTemplate {
  id: number;
  title: string;
  fields: readonly TedsField[];
}

/** Physical quantities of a transducer by their number in the templates. */
const MEASURANDS = [
  'K',
  '°C',
  'm/m',
  'µε',
  'N',
  'lbf',
  'kgf',
  'm/s²',
  'g',
  'N·m/rad',
  'N·m',
  'ozf·in',
  'Pa',
  'psi',
  'kg',
  'gram',
  'm',
  'mm',
  'in',
  'm/s',
  'mph',
  'ft/s',
  'rad',
  '°',
  'rad/s',
  'rpm',
  'Hz',
  'g/L',
  'kg/m³',
  'mol/m³',
  'mol/L',
  'm³/m³',
  'L/L',
  'kg/s',
  'm³/s',
  'm³/h',
  'gpm',
  'cfm',
  'L/min',
  'RH',
  '%RH',
  'V',
  'V rms',
  'A',
  'A rms',
  'W',
] as const;

const whole = (key: string, label: string, bits: number): TedsField => ({ key, label, bits, code: 'whole' });
const single = (key: string, label: string, unit?: string): TedsField => ({
  key,
  label,
  unit,
  bits: 32,
  code: 'single',
});
const choice = (key: string, label: string, bits: number, choices: readonly string[]): TedsField => ({
  key,
  label,
  bits,
  code: 'choice',
  choices,
});

const measurand = choice('measurand', 'Measures', 6, MEASURANDS);
const responseTime: TedsField = {
  key: 'responseTime',
  label: 'Response time',
  unit: 's',
  bits: 6,
  code: 'ratio',
  start: 1e-6,
  tolerance: 0.15,
};
const calibrated: TedsField[] = [
  { key: 'calibratedOn', label: 'Calibrated on', bits: 16, code: 'date' },
  { key: 'calibratedBy', label: 'Calibrated by', bits: 15, code: 'letters' },
  whole('calibrationDays', 'Calibration holds, days', 12),
];
const location = whole('location', 'Place of measurement', 11);
const supply: TedsField[] = (['supply', 'supplyMin', 'supplyMax'] as const).map((key, k) => ({
  key,
  label: ['Supply, nominal', 'Supply, least', 'Supply, most'][k],
  unit: 'V',
  bits: 9,
  code: 'steps',
  start: 0.1,
  step: 0.1,
}));
const THERMOCOUPLE_LETTERS = ['B', 'E', 'J', 'K', 'N', 'R', 'S', 'T'] as const;

/** Standard templates that are read here (IEEE 1451.4-2004, Annex A). */
export const TEMPLATES: readonly TedsTemplate[] = [
  {
    id: 25,
    title: 'accelerometer or force sensor with constant current',
    fields: [
      {
        key: 'sensitivity',
        label: 'Sensitivity',
        unit: 'V/(m/s²)',
        bits: 16,
        code: 'ratio',
        start: 5e-7,
        tolerance: 0.00015,
      },
      {
        key: 'highPass',
        label: 'High-pass corner',
        unit: 'Hz',
        bits: 8,
        code: 'ratio',
        start: 0.005,
        tolerance: 0.03,
      },
      choice('polarity', 'Sign', 1, ['positive', 'negative']),
      choice('direction', 'Direction', 2, ['x', 'y', 'z', 'not given']),
      { key: 'weight', label: 'Mass', unit: 'gram', bits: 6, code: 'ratio', start: 0.1, tolerance: 0.1 },
      {
        key: 'referenceHz',
        label: 'Reference frequency',
        unit: 'Hz',
        bits: 8,
        code: 'ratio',
        start: 0.35,
        tolerance: 0.0175,
      },
      {
        key: 'referenceTemperature',
        label: 'Reference temperature',
        unit: '°C',
        bits: 5,
        code: 'steps',
        start: 15,
        step: 0.5,
      },
      ...calibrated,
      location,
    ],
  },
  {
    id: 33,
    title: 'bridge sensor',
    fields: [
      measurand,
      single('physicalMin', 'Lower end of the range'),
      single('physicalMax', 'Upper end of the range'),
      single('electricalMin', 'Output at the lower end', 'V/V'),
      single('electricalMax', 'Output at the upper end', 'V/V'),
      choice('bridge', 'Bridge', 2, ['quarter', 'half', 'full', 'not given']),
      { key: 'resistance', label: 'Resistance', unit: 'Ω', bits: 18, code: 'steps', start: 1, step: 0.1 },
      responseTime,
      ...supply,
      ...calibrated,
      location,
    ],
  },
  {
    id: 36,
    title: 'thermocouple',
    fields: [
      single('physicalMin', 'Lower end of the range', '°C'),
      single('physicalMax', 'Upper end of the range', '°C'),
      choice('type', 'Type', 4, [...THERMOCOUPLE_LETTERS, 'other']),
      choice('junction', 'Reference junction', 1, ['to be compensated', 'compensated']),
      responseTime,
      ...calibrated,
      location,
    ],
  },
  {
    id: 37,
    title: 'resistance thermometer',
    fields: [
      single('physicalMin', 'Lower end of the range', '°C'),
      single('physicalMax', 'Upper end of the range', '°C'),
      {
        key: 'resistance',
        label: 'Resistance at 0 °C',
        unit: 'Ω',
        bits: 20,
        code: 'steps',
        start: 1,
        step: 0.01,
      },
      choice('curve', 'Curve', 3, [
        '3.851e-3',
        '3.9083e-3',
        '3.92e-3',
        '3.911e-3',
        '3.9262e-3',
        'own',
        'not given',
      ]),
      {
        key: 'currentMax',
        label: 'Current, most',
        unit: 'A',
        bits: 8,
        code: 'ratio',
        start: 1e-6,
        tolerance: 0.025,
      },
      responseTime,
      ...calibrated,
      location,
    ],
  },
  {
    id: 39,
    title: 'potentiometric displacement sensor',
    fields: [
      measurand,
      single('physicalMin', 'Lower end of the range'),
      single('physicalMax', 'Upper end of the range'),
      single('electricalMin', 'Output at the lower end', 'V/V'),
      single('electricalMax', 'Output at the upper end', 'V/V'),
      { key: 'resistance', label: 'Resistance', unit: 'Ω', bits: 18, code: 'steps', start: 1, step: 1 },
      responseTime,
      ...supply,
      ...calibrated,
      location,
    ],
  },
];

/** Template of a calibration table: fractions of the electrical and physical span, point by point. */
export const CALIBRATION_TABLE = 40;
export const TABLE_COUNT_BITS = 7;
export const TABLE_POINT_BITS = 16;
