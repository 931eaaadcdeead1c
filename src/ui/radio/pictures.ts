/** What a picture of samples over time can show. */
export const PICTURES = {
  power: { name: 'Power', says: 'dBm over the time since the begin' },
  magnitude: { name: 'Magnitude', says: 'V over the time since the begin' },
  phase: { name: 'Phase', says: '°, inside the pulses' },
  frequency: { name: 'Frequency', says: 'kHz from the centre' },
  I: { name: 'In phase', says: 'V' },
  Q: { name: 'In quadrature', says: 'V' },
  spectrum: { name: 'Spectrum', says: 'of what is looked at, dBm' },
  waterfall: { name: 'Waterfall', says: 'of what is looked at, time downwards' },
  intervals: { name: 'Intervals', says: 'from pulse to pulse' },
} as const;
export type PictureKind = keyof typeof PICTURES;
