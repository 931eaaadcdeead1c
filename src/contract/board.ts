import { nameText } from './name-text';
import { z } from 'zod';

const place = z.number().int().min(0).max(200);
const size = z.number().int().min(1).max(24);

/** One live view and where it stands on the grid of 24 columns. */
export const View = z.strictObject({
  id: z.string().min(1).max(40),
  /** Which of the kinds of live views that pages offer. */
  kind: z.string().min(1).max(40),
  channels: z.array(z.string().max(64)).max(64),
  x: place,
  y: place,
  w: size,
  h: size,
  /** Time shown, s. */
  span: z
    .number()
    .min(0.01)
    .max(86_400 * 7)
    .default(60),
  /** Range shown; null for the channel's own. */
  range: z.object({ min: z.number(), max: z.number() }).nullable().default(null),
  /** A level in the unit of its first channel, which holds what is shown in place; null where there is none. */
  level: z.number().nullable().default(null),
  title: z.string().max(80).default(''),
  text: z.string().max(4000).default(''),
  /** Id of a picture, and where its readings stand: shares of its width and height. */
  picture: z.number().int().nullable().default(null),
  spots: z
    .array(
      z.object({ channel: z.string().max(64), x: z.number().min(0).max(1), y: z.number().min(0).max(1) }),
    )
    .max(64)
    .default([]),
  style: z.string().max(40).default('slider'),
  /** What only its kind knows. */
  own: z.record(z.string().max(40), z.union([z.string().max(400), z.number(), z.boolean()])).default({}),
});
export type View = z.infer<typeof View>;

/** Live views of a job on one page. */
export const Board = z.strictObject({
  id: z.string(),
  name: nameText(60),
  views: z.array(View).max(64, 'At most 64 views on one board.'),
});
export type Board = z.infer<typeof Board>;

type ViewChange = Partial<View> & { id: string };
/** Fields of a view, without the values that a new one begins with: what is not said stays as it is. */
const ViewFields = z.strictObject(
  Object.fromEntries(
    Object.entries(View.shape).map(([key, schema]) => [
      key,
      (schema instanceof z.ZodDefault ? schema.unwrap() : schema).optional(),
    ]),
  ),
) as unknown as z.ZodType<Partial<View>, Partial<View>>;

/** What was changed of a board's views: of those that were there only the fields that differ, so that two people can arrange one board. */
export const BoardChange = z.strictObject({
  name: nameText(60).optional(),
  put: z
    .array(ViewFields.refine((v): v is ViewChange => typeof v.id === 'string', 'A view is named by its id.'))
    .max(64)
    .default([]),
  drop: z.array(z.string().max(40)).max(64).default([]),
});
export interface BoardChange {
  name?: string;
  put?: ViewChange[];
  drop?: string[];
}

const differs = (a: unknown, b: unknown) => JSON.stringify(a) !== JSON.stringify(b);

/** What makes one arrangement of views the other; null when nothing does. */
export function boardChange(before: View[], after: View[]): Required<Omit<BoardChange, 'name'>> | null {
  const was = new Map(before.map((v) => [v.id, v]));
  const put = after.flatMap((view) => {
    const old = was.get(view.id);
    if (!old) return [view];
    const fields = Object.entries(view).filter(([key, value]) => differs(old[key as keyof View], value));
    return fields.length ? [{ ...Object.fromEntries(fields), id: view.id }] : [];
  });
  const drop = before.filter((v) => !after.some((a) => a.id === v.id)).map((v) => v.id);
  return put.length + drop.length ? { put, drop } : null;
}

/** Views with a change made. A view that is gone meanwhile stays gone: fields of it are no view. */
export function withChange(views: View[], { put = [], drop = [] }: BoardChange): View[] {
  const changes = new Map(put.map((v) => [v.id, v]));
  const kept = views
    .filter((v) => !drop.includes(v.id))
    .map((v) => {
      const change = changes.get(v.id);
      return change ? View.parse({ ...v, ...change }) : v;
    });
  const fresh = put.flatMap((v) => {
    if (views.some((old) => old.id === v.id)) return [];
    const read = View.safeParse(v);
    return read.success ? [read.data] : [];
  });
  return [...kept, ...fresh];
}
