import { readingText } from '$core/readings';
import { TEMPLATES } from '$core/teds/templates';
import type { Teds } from '$core/teds/teds';
import { spelled } from '$core/quantities/spellings';
import { isUnit } from '$core/quantities/quantities';
import { NEW_SENSOR, type Sensor } from './sensor';

const number = (v: unknown) => (typeof v === 'number' ? Number(v.toPrecision(6)) : null);

/** What a smart sensor's chip says, as a sensor of the library. @returns null where its template says nothing of a sensor's law */
export function sensorOfChip({ basic, template, values }: Teds): Sensor | null {
  if (!template) return null;
  const read = spelled(String(values.measurand ?? ''));
  const unit = 'symbol' in read && isUnit(read.symbol) ? read.symbol : '';
  const min = number(values.physicalMin);
  const max = number(values.physicalMax);
  const until = (from: unknown, days: unknown) =>
    typeof from === 'string' && typeof days === 'number' && days > 0
      ? new Date(Date.parse(from) + days * 86_400_000).toISOString().slice(0, 10)
      : '';
  const common: Sensor = {
    ...NEW_SENSOR,
    serial: `${basic.model}-${basic.serial}`,
    model: `model ${basic.model}${basic.versionLetter ? ` ${basic.versionLetter}${basic.versionNumber}` : ''} of maker ${basic.maker}`,
    unit,
    range: min !== null && max !== null && min < max ? { min, max } : null,
    calibratedOn: typeof values.calibratedOn === 'string' ? values.calibratedOn : '',
    calibratedUntil: until(values.calibratedOn, values.calibrationDays),
  };
  const span = Number(values.electricalMax) - Number(values.electricalMin) || null;
  const supply = number(values.supply);
  const sheet = (entries: Record<string, number | string | null>) =>
    Object.fromEntries(Object.entries(entries).filter(([, v]) => v !== null)) as Sensor['sheet'];
  switch (template.id) {
    case 25: {
      const sensitivity = number(values.sensitivity);
      return {
        ...common,
        kind: 'vibration',
        unit: 'm/s²',
        sheet: sheet({
          sensitivity: sensitivity === null ? null : Number((sensitivity * 1000).toPrecision(6)),
        }),
      };
    }
    case 33:
      return {
        ...common,
        kind: 'bridge sensor',
        sheet: sheet({
          sensitivity: span === null ? null : number(span * 1000),
          fullScale: max !== null && min !== null ? max - min : null,
          resistance: number(values.resistance),
          excitation: supply,
        }),
      };
    case 36:
      return {
        ...common,
        kind: 'thermocouple',
        unit: '°C',
        sheet: sheet({
          type: typeof values.type === 'string' && values.type.length === 1 ? values.type : null,
        }),
      };
    case 37: {
      const r0 =
        [100, 500, 1000].find((r) => Math.abs(r - (number(values.resistance) ?? 0)) < r * 0.01) ?? null;
      return { ...common, kind: 'platinum sensor', unit: '°C', sheet: sheet({ r0 }) };
    }
    case 39: {
      if (span === null || min === null || max === null)
        return { ...common, kind: 'potentiometer', sheet: {} };
      // The sheet's ends in the wiper's range, gone on to the ends of the whole track.
      const perShare = (max - min) / span;
      const low = min - perShare * Number(values.electricalMin);
      return {
        ...common,
        kind: 'potentiometer',
        sheet: sheet({ low: number(low), high: number(low + perShare), excitation: supply }),
      };
    }
  }
  return null;
}

/** All that a chip says, line by line. */
export function chipSheet({ basic, template, values, table }: Teds): { label: string; text: string }[] {
  const own = TEMPLATES.find((t) => t.id === template?.id);
  const shown = (value: number | string | null, unit?: string) =>
    value === null
      ? 'not given'
      : typeof value === 'number'
        ? `${readingText(value, { digits: 5 })}${unit ? ` ${unit}` : ''}`
        : value;
  return [
    { label: 'Maker', text: `no. ${basic.maker}` },
    { label: 'Model', text: `${basic.model}, version ${basic.versionLetter}${basic.versionNumber}` },
    { label: 'Serial number', text: String(basic.serial) },
    ...(own
      ? [
          { label: 'Template', text: `${own.id}, ${own.title}` },
          ...own.fields.map((f) => ({ label: f.label, text: shown(values[f.key] ?? null, f.unit) })),
        ]
      : []),
    ...(table.length ? [{ label: 'Calibration table', text: `${table.length} points` }] : []),
  ];
}
