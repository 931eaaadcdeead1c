import { z } from 'zod';
import { FAULTS } from '$contract/unit';
import { editUnit, removeUnit, replaceUnit } from '$service/units';
import { readJson, route } from '../../../http';

const Act = z.union([
  z.strictObject({ control: z.string().max(40), value: z.number() }),
  z.strictObject({ terminal: z.string().max(120), fault: z.enum(FAULTS) }),
]);
const Edit = z.strictObject({
  name: z.string().max(200).optional(),
  settings: z.record(z.string().max(40), z.unknown()).optional(),
  sources: z
    .array(z.record(z.string().max(40), z.unknown()))
    .max(2000)
    .optional(),
  database: z
    .strictObject({ name: z.string().max(200), text: z.string().max(20_000_000, 'At most 20 MB.') })
    .nullable()
    .optional(),
  replacedBy: z.string().max(60).optional(),
});

/** A hand at the stand-in: sets one of its controls, or a fault on a terminal. */
export const POST = route(async ({ locals: { app }, request, params }) => {
  const act = await readJson(request, Act);
  const unit = params.serial!;
  return app.engine.command(
    'control' in act
      ? { do: 'control', unit, id: act.control, value: act.value }
      : { do: 'fault', unit, ...act },
  );
});
export const PATCH = route(async ({ locals, request, params }) => {
  const { replacedBy, ...edit } = await readJson(request, Edit);
  return replacedBy === undefined
    ? editUnit(locals.app, params.serial!, edit, locals.person.viewer.name)
    : replaceUnit(locals.app, params.serial!, replacedBy, locals.person.viewer.name);
});
export const DELETE = route(({ locals, params }) =>
  removeUnit(locals.app, params.serial!, locals.person.viewer.name),
);
