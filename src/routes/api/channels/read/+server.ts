import type { AnswerOf } from '$contract/api';
import { serve } from '../../../serve';

export const POST = serve(
  'POST /api/channels/read',
  ({ app, body }) =>
    app.engine.command({ do: 'read', ...body }) as Promise<AnswerOf<'POST /api/channels/read'>>,
);
