import { badInput, notFound } from '../errors';
import { arrow } from './arrow/arrow';
import { csv } from './csv/csv';
import { hdf5 } from './hdf5/hdf5';
import { json } from './json/json';
import { mat } from './mat/mat';
import { parquet } from './parquet/parquet';
import { sigmf } from './sigmf/sigmf';
import { uff } from './uff/uff';
import { wav } from './wav/wav';
import { xlsx } from './xlsx/xlsx';
import type { FormatKind, Source } from './format';

/** Every open format there is, in the order of the list; a new one is one line here. */
export const FORMAT_KINDS = [
  csv,
  xlsx,
  json,
  wav,
  mat,
  hdf5,
  uff,
  parquet,
  arrow,
  sigmf,
] as unknown as readonly FormatKind[];

/** @throws `not_found` */
export function formatKind(kind: string): FormatKind {
  const found = FORMAT_KINDS.find((f) => f.kind === kind);
  if (!found) throw notFound('format', kind);
  return found;
}

/** The format of a file, by what it begins with, else by its name. @throws `bad_input` when none reads it */
export function formatOf(source: Source): FormatKind {
  const readers = FORMAT_KINDS.filter((f) => f.reading);
  const ending = source.name.toLowerCase().split('.').at(-1)!;
  const found =
    readers.find((f) => f.reading!.recognises(source)) ?? readers.find((f) => f.extensions.includes(ending));
  if (!found)
    throw badInput(
      'file',
      source.name,
      `Choose one of these: ${readers.map((f) => f.title.split(',')[0]).join(', ')}.`,
    );
  return found;
}
