import { Random } from '$core/random';
import type { Figure, FigureAxis } from '$core/figures/figure';

const axis = (
  label: string,
  unit: string,
  scale: FigureAxis['scale'],
  more: Partial<FigureAxis> = {},
): FigureAxis => ({
  label,
  unit,
  scale,
  ...more,
});
const random = new Random(7);
const array = (n: number, of: (i: number) => number) => Float64Array.from({ length: n }, (_, i) => of(i));
const time = axis('Time', 's', 'time');

/** One figure for each mark and each scale: what every painter has to be able to draw. */
export const SAMPLES: readonly Figure[] = [
  {
    title: 'Lines, one dashed, with a gap',
    x: time,
    y: axis('Strain', 'µε', 'linear'),
    marks: [
      { mark: 'line', name: 'Blade 1 flap, root', unit: 'µε', colour: 0, x: { from: 0, step: 0.02, length: 500 }, y: array(500, (i) => (i > 240 && i < 280 ? NaN : 300 + 180 * Math.sin(i / 21) + 12 * random.gauss())) }, // prettier-ignore
      {
        mark: 'line',
        name: 'Mean',
        unit: 'µε',
        tone: 'muted',
        dashed: true,
        weight: 'light',
        x: [0, 10],
        y: [300, 300],
      },
    ],
  },
  {
    title: 'Levels over decades',
    x: axis('Frequency', 'Hz', 'logarithmic'),
    y: axis('Density', 'g²/Hz', 'logarithmic'),
    marks: [
      { mark: 'line', name: 'Nacelle, side', unit: 'g²/Hz', colour: 3, x: array(400, (i) => 2 * 10 ** (i / 130)), y: array(400, (i) => 10 ** (-4 - i / 160 + 0.3 * random.gauss() + (Math.abs(i - 210) < 6 ? 2 : 0))) }, // prettier-ignore
      {
        mark: 'step',
        name: 'Limit',
        unit: 'g²/Hz',
        tone: 'alarm',
        x: [2, 20, 200, 2400],
        y: [1e-2, 3e-3, 1e-3, 1e-3],
      },
    ],
  },
  {
    title: 'Band levels',
    x: axis('Band', 'Hz', 'classes', {
      classes: ['31.5', '63', '125', '250', '500', '1k', '2k', '4k', '8k'],
    }),
    y: axis('Level', 'Pa', 'decibel', { reference: 2e-5, min: 2e-4 }),
    marks: [
      { mark: 'bar', name: 'Hall', unit: 'Pa', colour: 1, base: 2e-4, x: { from: 0, step: 1, length: 9 }, y: array(9, (i) => 2e-5 * 10 ** ((62 + 14 * Math.sin(i / 2)) / 20)) }, // prettier-ignore
    ],
  },
  {
    title: 'How often',
    x: axis('Range', 'kN', 'linear'),
    y: axis('Count', '1', 'linear'),
    marks: [
      { mark: 'bar', name: 'Cycles', colour: 2, x: { from: 1, step: 2, length: 24 }, y: array(24, (i) => Math.round(180 * Math.exp(-((i - 6) ** 2) / 40))) }, // prettier-ignore
      { mark: 'dimension', along: 'x', from: 9, to: 21, level: 195, says: 'half of all' },
    ],
  },
  {
    title: 'An envelope within a tolerance',
    x: time,
    y: axis('Travel', 'mm', 'linear'),
    marks: [
      {
        mark: 'band',
        name: 'tolerance',
        unit: 'mm',
        tone: 'good',
        x: [0, 60],
        low: [-14, -14],
        high: [14, 14],
      },
      { mark: 'band', name: 'Tip draw-wire', unit: 'mm', colour: 5, solid: true, x: { from: 0, step: 0.5, length: 121 }, low: array(121, (i) => 9 * Math.sin(i / 9) - 2 - Math.abs(random.gauss())), high: array(121, (i) => 9 * Math.sin(i / 9) + 2 + Math.abs(random.gauss())) }, // prettier-ignore
      { mark: 'text', x: 40, y: 15.5, says: 'gust' },
    ],
  },
  {
    title: 'Points with their uncertainty',
    x: axis('Day', '', 'calendar'),
    y: axis('From the last', '%', 'linear'),
    marks: [
      { mark: 'points', name: 'Calibrations', unit: '%', tone: 'accent', x: array(6, (i) => Date.UTC(2023, 2 + i * 8, 4)), y: array(6, (i) => 0.08 * Math.sin(i * 2)), reach: array(6, () => 0.05) }, // prettier-ignore
      {
        mark: 'points',
        name: 'Found off',
        unit: '%',
        shape: 'diamond',
        tone: 'warning',
        x: [Date.UTC(2025, 5, 1)],
        y: [0.21],
      },
    ],
  },
  {
    title: 'Lines of an order',
    x: axis('Order', '1', 'linear'),
    y: axis('Velocity', 'mm/s', 'linear', { min: 0 }),
    marks: [
      { mark: 'stems', name: 'Gearbox', unit: 'mm/s', colour: 6, x: array(12, (i) => i + 1), y: array(12, (i) => 6 / (1 + i) + (i === 7 ? 4 : 0)) }, // prettier-ignore
      { mark: 'dimension', along: 'y', from: 0, to: 4.75, level: 8.3, says: '4.75 mm/s' },
    ],
  },
  {
    title: 'A run-up as a picture',
    x: axis('Speed', 'rpm', 'linear'),
    y: axis('Frequency', 'Hz', 'linear'),
    marks: [
      {
        mark: 'heat', name: 'Rms', unit: 'g', logarithmic: true,
        x: { from: 300, step: 15, length: 121 }, y: { from: 0, step: 2, length: 101 },
        z: array(120 * 100, (k) => { const [rpm, hz] = [307 + 15 * (k % 120), 2 * Math.floor(k / 120) + 1]; return 0.01 + [1, 2, 4].reduce((s, o) => s + Math.exp(-(((hz - (o * rpm) / 60) / 2) ** 2)), 0) * (1 + 9 * Math.exp(-(((hz - 84) / 9) ** 2))); }),
      },
    ], // prettier-ignore
  },
  {
    title: 'A picture on uneven axes',
    x: axis('Time', 's', 'time'),
    y: axis('Frequency', 'Hz', 'logarithmic'),
    marks: [
      { mark: 'heat', name: 'Level', unit: 'Pa', x: { from: 0, step: 1, length: 41 }, y: array(19, (i) => 20 * 2 ** (i / 3)), z: array(40 * 18, (k) => (k % 40 === 17 ? NaN : Math.abs(Math.sin((k % 40) / 6) * Math.cos(k / 300)))) }, // prettier-ignore
    ],
  },
  {
    title: 'One turn',
    x: axis('Angle', '°', 'angle', { min: 0, max: 360 }),
    y: axis('Pressure', 'bar', 'linear'),
    marks: [{ mark: 'line', name: 'Cylinder 1', unit: 'bar', colour: 4, x: { from: 0, step: 1, length: 361 }, y: array(361, (i) => 4 + 40 * Math.exp(-(((i - 186) / 22) ** 2))) }], // prettier-ignore
  },
  {
    title: 'Nothing yet',
    x: time,
    y: axis('Force', 'kN', 'linear'),
    marks: [{ mark: 'line', name: 'Load cell', unit: 'kN', x: [], y: [] }],
  },
  {
    title: 'A long name and a small span',
    x: time,
    y: axis('Pressure', 'bar', 'linear'),
    marks: [{ mark: 'line', name: 'Hydraulic accumulator of the pitch drive, blade 2, after the second filter change', unit: 'bar', x: [0, 1, 2], y: [160.00001, 160.00002, 160.000015] }], // prettier-ignore
  },
];
