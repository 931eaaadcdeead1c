import type { Teds } from '$core/teds/teds';

const chip = (
  terminal: string,
  maker: number,
  model: number,
  serial: number,
  id: number,
  values: Teds['values'],
  table: Teds['table'] = [],
): { terminal: string; teds: Teds } => ({
  terminal,
  teds: {
    basic: { maker, model, versionLetter: 'A', versionNumber: 2, serial },
    template: { id, title: '' },
    values,
    table,
  },
});

const calibrated = { calibratedOn: '2026-03-14', calibratedBy: 'HQ', calibrationDays: 365, location: 0 };

/** Chips in the plugs of the bench's sensors. Makers' numbers are made up. */
export const CHIPS = [
  chip('B1/3', 9001, 210, 3107, 33, {
    measurand: 'N',
    physicalMin: 0,
    physicalMax: 10_000,
    electricalMin: 0,
    electricalMax: 0.002003,
    bridge: 'full',
    resistance: 350,
    responseTime: 0.001,
    supply: 5,
    supplyMin: 1,
    supplyMax: 10,
    ...calibrated,
  }),
  chip('B2/1', 9004, 36, 204, 36, {
    physicalMin: -40,
    physicalMax: 400,
    type: 'K',
    junction: 'to be compensated',
    responseTime: 0.5,
    ...calibrated,
  }),
  chip('B3/1', 9002, 71, 771, 25, {
    sensitivity: 0.0102,
    highPass: 0.5,
    polarity: 'positive',
    direction: 'z',
    weight: 8,
    referenceHz: 159,
    referenceTemperature: 23,
    ...calibrated,
  }),
  chip('B6/1', 9003, 150, 1912, 39, {
    measurand: 'mm',
    physicalMin: 0,
    physicalMax: 150,
    electricalMin: 0,
    electricalMax: 1,
    resistance: 5001,
    responseTime: 0.01,
    supply: 5,
    supplyMin: 1,
    supplyMax: 10,
    ...calibrated,
    calibratedOn: '2025-06-02',
  }),
];
