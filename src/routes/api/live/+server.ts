import { serve } from '../../serve';

export const GET = serve(
  'GET /api/live',
  ({ app, query, person }) =>
    new Response(app.live.stream({ ...query, person }), {
      headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' },
    }),
);
