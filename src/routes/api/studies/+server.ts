import { z } from 'zod';
import { startStudy } from '$service/studies';
import { readJson, route } from '../../http';

const NewStudy = z.strictObject({
  kind: z.string().max(40),
  takeId: z.string().max(64),
  settings: z.record(z.string().max(40), z.unknown()).optional(),
  name: z.string().trim().min(1).max(80).optional(),
});

export const POST = route(
  async ({ locals, request }) => startStudy(locals.app, await readJson(request, NewStudy)).view,
);
