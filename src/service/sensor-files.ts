import Papa from 'papaparse';
import { asFarrierError, badInput } from '$core/errors';
import { Sensor } from '$contract/sensor';
import * as store from '$store/entities';
import { log, type App } from './app';
import { check } from './check';
import { checkSheet } from './sensors';

// The drawer of sensors as files: a CSV table and JSON, both ways.
const CSV_COLUMNS = [
  'serial',
  'kind',
  'model',
  'unit',
  'range_min',
  'range_max',
  'calibrated_on',
  'calibrated_until',
  'good_to',
  'good_to_percent',
  'note',
  'sheet',
] as const;

/** The drawer as a CSV table; a sheet is “name=value” pairs. */
export function sensorsCsv(app: App): string {
  return (
    Papa.unparse(
      {
        fields: [...CSV_COLUMNS],
        data: store.listSensors(app.db).map((s) => [
          s.serial,
          s.kind,
          s.model,
          s.unit,
          s.range?.min ?? '',
          s.range?.max ?? '',
          s.calibratedOn,
          s.calibratedUntil,
          s.goodTo,
          s.goodToShare,
          s.note,
          Object.entries(s.sheet)
            .map(([k, v]) => `${k}=${v}`)
            .join('; '),
        ]),
      },
      { escapeFormulae: true },
    ) + '\r\n'
  );
}
export const sensorsJson = (app: App) =>
  JSON.stringify({ format: 'farrier-sensors', version: 1, sensors: store.listSensors(app.db) }, null, 2);

/** Takes sensors from CSV or JSON into the drawer: all or none. @returns how many are new and how many were replaced
 *  @throws `bad_input` naming the row */
export function importSensors(app: App, text: string, by: string): { added: number; replaced: number } {
  const known = new Set(store.listSensors(app.db).map((s) => s.serial));
  const sensors = text.trimStart().startsWith('{') ? fromJson(text) : fromCsv(text);
  const read = sensors.map((value, k) => {
    try {
      const sensor = check(Sensor, value);
      checkSheet(sensor);
      return sensor;
    } catch (error) {
      const { text: said } = asFarrierError(error, 'sensor');
      throw badInput(
        `sensor ${k + 1}`,
        (value as { serial?: string } | null)?.serial,
        `${said.what} ${said.next ?? ''}`.trim(),
      );
    }
  });
  app.db.transaction(() => read.forEach((s) => store.putSensor(app.db, s)));
  const replaced = read.filter((s) => known.has(s.serial)).length;
  log(app, 'sensor', `Imported ${read.length} sensors, ${replaced} of them known before.`, { by });
  return { added: read.length - replaced, replaced };
}

function fromJson(text: string): unknown[] {
  try {
    const value = JSON.parse(text) as { format?: string; sensors?: unknown[] };
    if (value?.format === 'farrier-sensors' && Array.isArray(value.sensors)) return value.sensors;
  } catch {
    // said below
  }
  throw badInput('file', 'this text', 'Choose a list of sensors that Farrier has written, or a CSV table.');
}

function fromCsv(text: string): unknown[] {
  const { data, errors } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: true,
  });
  if (errors.length)
    throw badInput(`row ${(errors[0].row ?? 0) + 2}`, errors[0].message, 'Correct it and import again.');
  if (data.length === 0 || !('serial' in data[0]) || !('kind' in data[0]))
    throw badInput('table', 'without columns “serial” and “kind”', `Columns are ${CSV_COLUMNS.join(', ')}.`);
  const number = (v: string | undefined) => Number((v ?? '').replace(',', '.'));
  return data.map((row) => ({
    serial: row.serial,
    kind: row.kind,
    model: row.model ?? '',
    unit: row.unit ?? '',
    range: row.range_min && row.range_max ? { min: number(row.range_min), max: number(row.range_max) } : null,
    calibratedOn: row.calibrated_on ?? '',
    calibratedUntil: row.calibrated_until ?? '',
    goodTo: row.good_to ? number(row.good_to) : 0,
    goodToShare: row.good_to_percent ? number(row.good_to_percent) : 0,
    note: row.note ?? '',
    sheet: Object.fromEntries(
      (row.sheet ?? '').split(';').flatMap((pair) => {
        const [key, value] = pair.split('=').map((p) => p?.trim());
        if (!key || value === undefined) return [];
        return [[key, value !== '' && Number.isFinite(number(value)) ? number(value) : value]];
      }),
    ),
  }));
}
