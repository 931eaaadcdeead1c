import { FarrierError } from '$core/errors';
import type { App } from '../app';
import type { FieldPort } from './field-port';
import type { StationPort } from './stations/port';

/** Whoever looks after the instruments of the field. @throws `unavailable` where nobody does */
export function fieldOf({ field }: Pick<App, 'field'>): FieldPort {
  if (!field) throw new FarrierError('unavailable', { what: 'Nobody looks after the field here.', next: 'Start Farrier’s server.' }); // prettier-ignore
  return field;
}
export function stationsOf({ stations }: Pick<App, 'stations'>): StationPort {
  if (!stations) throw new FarrierError('unavailable', { what: 'Nobody looks after the field here.', next: 'Start Farrier’s server.' }); // prettier-ignore
  return stations;
}
