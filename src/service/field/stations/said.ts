import { z } from 'zod';
import { damaged } from '$core/errors';
import { unpacked } from '$core/field/messages';
import type { LiveValues, StationState } from '$core/field/station/state';

const ms = z.number().min(-1e15).max(1e15);
const name = z.string().max(200);
const whole = z.number().int().min(0).max(0xffffffff);
const remark = z.object({
  bad: z.boolean(),
  says: z.string().max(1000),
  line: z.number().nullable(),
  at: z.unknown(),
});
const State = z.object({
  model: name,
  serial: name,
  firmware: name,
  saidMs: ms,
  supplyV: z.number(),
  boardC: z.number(),
  run: whole,
  check: whole,
  sinceMs: ms.nullable(),
  compile: z.object({
    state: z.enum(['none', 'compiling', 'runs', 'refused', 'interrupted']),
    remarks: z.array(remark).max(500),
  }),
  tables: z
    .array(
      z.object({
        name,
        everyS: z.number().min(0).max(1e9),
        columns: z.array(z.object({ name, unit: name })).max(500),
        room: whole,
        first: whole,
        end: whole,
        oldestMs: ms.nullable(),
        newestMs: ms.nullable(),
        nextMs: ms.nullable(),
      }),
    )
    .max(100),
  output: z.boolean().nullable(),
  adjusted: z.record(name, z.number()),
  restarts: whole,
  worldMs: ms.optional(),
});
const Live = z.object({
  atMs: ms.nullable(),
  values: z.array(z.object({ name, unit: name, way: z.string(), terminal: name, reading: z.number().nullable(), value: z.number().nullable() })).max(1000), // prettier-ignore
});

/** What an instrument said, if it is what a station says. @throws `damaged` */
function checked<T>(schema: z.ZodType, bytes: Uint8Array): T {
  let said: unknown;
  try {
    said = unpacked(bytes);
  } catch {
    said = undefined;
  }
  const { success, error } = schema.safeParse(said);
  if (!success) throw damaged('station', `What it says is not what a station says: ${error.issues[0].path.join('.') || 'nothing of it'}.`, 'Look whether it is a station, and which firmware it has.'); // prettier-ignore
  return said as T;
}
export const stateSaid = (bytes: Uint8Array): StationState => checked(State, bytes);
export const liveSaid = (bytes: Uint8Array): LiveValues => checked(Live, bytes);
export const helloSaid = (bytes: Uint8Array): { model: string; serial: string } => checked(z.object({ model: name, serial: name }), bytes); // prettier-ignore
export const programmeSaid = (bytes: Uint8Array): { text: string; run: number } => checked(z.object({ text: z.string().max(60_000), run: whole }), bytes); // prettier-ignore
