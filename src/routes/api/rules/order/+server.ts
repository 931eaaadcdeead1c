import { z } from 'zod';
import { orderRules } from '$service/setup/plan';
import { readJson, route } from '../../../http';

const Order = z.strictObject({ ids: z.array(z.string().max(64)).max(1000) });

/** The order in which rules act. */
export const POST = route(async ({ locals, request }) =>
  orderRules(locals.app, (await readJson(request, Order)).ids, locals.person.viewer.name),
);
