import { BoardChange } from '$contract/board';
import { changeBoard, removeBoard } from '$service/boards';
import { readJson, route } from '../../../http';

export const PATCH = route(async ({ locals, request, params }) =>
  changeBoard(locals.app, params.id!, await readJson(request, BoardChange)),
);
export const DELETE = route(({ locals, params }) =>
  removeBoard(locals.app, params.id!, locals.person.viewer.name),
);
