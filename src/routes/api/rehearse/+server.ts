import { z } from 'zod';
import { rehearseTake } from '$service/rehearse';
import { readJson, route } from '../../http';

const Wish = z.strictObject({ takeId: z.string().max(64), planId: z.string().max(64) });

export const POST = route(async ({ locals, request }) => {
  const { takeId, planId } = await readJson(request, Wish);
  return rehearseTake(locals.app, takeId, planId);
});
