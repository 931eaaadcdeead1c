import { z } from 'zod';
import { FAULTS } from '$contract/unit';
import { removeStandIn } from '$service/server';
import { readJson, route } from '../../../http';

const Act = z.union([
  z.strictObject({ control: z.string().max(40), value: z.number() }),
  z.strictObject({ terminal: z.string().max(20), fault: z.enum(FAULTS) }),
]);

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
export const DELETE = route(({ locals, params }) => removeStandIn(locals.app, params.serial!));
