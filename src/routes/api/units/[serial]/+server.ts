import { editUnit, removeUnit, replaceUnit } from '$service/units';
import { serve } from '../../../serve';

export const POST = serve('POST /api/units/[serial]', ({ app, params: { serial: unit }, body: act }) =>
  app.engine.command(
    'control' in act
      ? { do: 'control', unit, id: act.control, value: act.value }
      : { do: 'fault', unit, ...act },
  ),
);
export const PATCH = serve(
  'PATCH /api/units/[serial]',
  ({ app, params, body: { replacedBy, ...edit }, by }) =>
    replacedBy === undefined
      ? editUnit(app, params.serial, edit, by)
      : replaceUnit(app, params.serial, replacedBy, by),
);
export const DELETE = serve('DELETE /api/units/[serial]', ({ app, params, by }) =>
  removeUnit(app, params.serial, by),
);
