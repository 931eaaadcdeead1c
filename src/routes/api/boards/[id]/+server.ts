import { z } from 'zod';
import { View } from '$contract/board';
import { changeBoard, removeBoard } from '$service/boards';
import { readJson, route } from '../../../http';

const Edit = z.strictObject({ name: z.string().max(60).optional(), views: z.array(View).max(64).optional() });

export const PATCH = route(async ({ locals, request, params }) =>
  changeBoard(locals.app, params.id!, await readJson(request, Edit)),
);
export const DELETE = route(({ locals, params }) => removeBoard(locals.app, params.id!));
