import { serve } from '../../../serve';

export const POST = serve('POST /api/live/reset', ({ app, body }) => app.live.reset(body.channelId));
