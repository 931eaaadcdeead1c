import { changeBoard, removeBoard } from '$service/boards';
import { serve } from '../../../serve';

export const PATCH = serve('PATCH /api/boards/[id]', ({ app, params, body }) =>
  changeBoard(app, params.id, body),
);
export const DELETE = serve('DELETE /api/boards/[id]', ({ app, params, by }) =>
  removeBoard(app, params.id, by),
);
