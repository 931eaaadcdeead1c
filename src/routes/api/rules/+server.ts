import { editRule } from '$service/setup/plan';
import { serve } from '../../serve';

export const POST = serve('POST /api/rules', ({ app, body, by }) => editRule(app, null, body, by));
