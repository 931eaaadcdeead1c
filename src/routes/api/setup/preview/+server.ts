import { previewSetup } from '$service/setup/travel-import';
import { serve } from '../../../serve';

export const POST = serve('POST /api/setup/preview', ({ app, body: { text, ...choice } }) =>
  previewSetup(app, text, choice),
);
