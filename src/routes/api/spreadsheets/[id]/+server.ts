import { changeSpreadsheet, removeSpreadsheet } from '$service/sheets/presets';
import { serve } from '../../../serve';

export const PUT = serve('PUT /api/spreadsheets/[id]', ({ app, params, body }) =>
  changeSpreadsheet(app, params.id, body),
);
export const DELETE = serve('DELETE /api/spreadsheets/[id]', ({ app, params, by }) =>
  removeSpreadsheet(app, params.id, by),
);
