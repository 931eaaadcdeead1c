import { FarrierError, badInput, notFound } from '$core/errors';
import { findUnitKind } from './kinds';
import type { KnownUnit } from '../engine';
import type { z } from 'zod';

export type { UnitConfig } from './unit-kind';

/** A new unit of a kind with a serial number that none has yet. @throws `not_found` for an unknown kind */
export async function newUnit(kind: string, others: KnownUnit[]): Promise<KnownUnit> {
  const found = findUnitKind(kind);
  if (!found) throw notFound('kind of unit', kind);
  const serials = new Set(others.map((u) => u.serial));
  let number = found.firstNumber ?? 1;
  const serial = () => `${found.prefix}-${String(number).padStart(4, '0')}`;
  while (serials.has(serial())) number++;
  const database = (await found.database?.own?.()) ?? null;
  const same = others.filter((u) => u.kind === kind).length;
  return {
    serial: serial(),
    kind,
    name: same ? `${found.title} ${same + 1}` : found.title,
    config: { settings: { ...found.defaults }, sources: [], database },
  };
}

function checked<S extends z.ZodObject>(schema: S, value: unknown): z.infer<S> {
  const parsed = schema.safeParse(value, { reportInput: true });
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new FarrierError('bad_input', { what: issue.message, where: String(issue.path[0] ?? 'settings') });
}

/** @throws `bad_input` with field and rule */
export function checkUnitSettings(kind: string, settings: Record<string, unknown>): Record<string, unknown> {
  const sentence = findUnitKind(kind)?.settings;
  if (!sentence) throw badInput('settings', kind, 'This unit has nothing to set.');
  return checked(sentence.schema, settings) as Record<string, unknown>;
}

/** @throws `bad_input` with field and rule */
export function checkSource(
  kind: string,
  row: Record<string, unknown>,
): { id: string } & Record<string, unknown> {
  const sources = findUnitKind(kind)?.sources;
  if (!sources) throw badInput('sources', kind, 'This unit has no values to choose.');
  return checked(sources.row, { ...sources.defaults, ...row }) as { id: string } & Record<string, unknown>;
}
