import { addToken, viewTokens } from '$service/tokens';
import { serve } from '../../serve';

export const GET = serve('GET /api/tokens', ({ app }) => viewTokens(app));
export const POST = serve('POST /api/tokens', ({ app, body, by, event }) =>
  addToken(app, body, by, event.locals.program),
);
