import { allowHost, listHosts } from '$service/hosts';
import { serve } from '../../serve';

export const GET = serve('GET /api/hosts', ({ app }) => listHosts(app));
export const POST = serve('POST /api/hosts', ({ app, body, by }) =>
  allowHost(app, body.host, body.allowed, by),
);
