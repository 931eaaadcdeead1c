import { channelsCsv, importChannelsCsv } from '$service/setup/channel-list';
import { fileResponse } from '../../../http';
import { serve } from '../../../serve';

export const GET = serve('GET /api/channels/csv', ({ app }) =>
  fileResponse(`\uFEFF${channelsCsv(app)}`, 'channels.csv', 'text/csv; charset=utf-8'),
);
export const POST = serve('POST /api/channels/csv', ({ app, body, by }) =>
  importChannelsCsv(app, body.text, body.comma, body.apply, by),
);
