import { z } from 'zod';
import { addBoard } from '$service/boards';
import { readJson, route } from '../../http';

const New = z.strictObject({ name: z.string().max(60), from: z.string().max(64).optional() });

export const POST = route(async ({ locals, request }) => {
  const { name, from } = await readJson(request, New);
  return addBoard(locals.app, name, from);
});
