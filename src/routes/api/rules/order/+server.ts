import { orderRules } from '$service/setup/plan';
import { serve } from '../../../serve';

export const POST = serve('POST /api/rules/order', ({ app, body, by }) => orderRules(app, body.ids, by));
