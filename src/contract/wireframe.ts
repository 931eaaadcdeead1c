import { z } from 'zod';

const number = z.number('Give a number.').min(-1e6, 'At least −1000 km.').max(1e6, 'At most 1000 km.');
const vec = z.tuple([number, number, number]);
const name = z.string().trim().min(1, 'Give it a name.').max(60, 'At most 60 letters.');

/** What a wireframe holds at the most. */
export const POINTS_MOST = 20_000;

/** A structure as points, lines and surfaces, with the sensors that sit on it (core/wireframe says what each means). */
export const FrameBody = z.strictObject({
  name,
  parts: z
    .array(z.strictObject({ name, at: vec, turn: vec, rigid: z.boolean().default(false) }))
    .max(200)
    .default([]),
  points: z
    .array(z.strictObject({ name, part: z.string().max(60).default(''), at: vec }))
    .max(POINTS_MOST, `At most ${POINTS_MOST} points.`),
  lines: z.array(z.tuple([name, name])).max(4 * POINTS_MOST),
  surfaces: z.array(z.array(name).min(3, 'A surface has three or four points.').max(4)).max(2 * POINTS_MOST),
  sensors: z.array(z.strictObject({ channel: z.string().max(64), point: name, direction: vec })).max(1000),
  held: z.array(name).max(POINTS_MOST).default([]),
  follows: z
    .array(z.strictObject({ point: name, as: name }))
    .max(POINTS_MOST)
    .default([]),
});
export type FrameBody = z.infer<typeof FrameBody>;
/** A wireframe of a job. */
export interface NamedFrame extends FrameBody {
  id: string;
}
/** Without its id, as it travels. */
export function bodyOfFrame({ id, ...body }: NamedFrame): FrameBody {
  void id;
  return body;
}
