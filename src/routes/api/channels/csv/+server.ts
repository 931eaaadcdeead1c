import { z } from 'zod';
import { channelsCsv, importChannelsCsv } from '$service/setup/channel-list';
import { fileResponse, readJson, route } from '../../../http';

export const GET = route(({ locals }) =>
  fileResponse(`\uFEFF${channelsCsv(locals.app)}`, 'channels.csv', 'text/csv; charset=utf-8'),
);

const Import = z.strictObject({
  text: z.string().max(10_000_000, 'At most 10 MB.'),
  comma: z.enum(['decimal sign', 'between thousands']).nullable(),
  apply: z.boolean(),
});
export const POST = route(async ({ locals, request }) => {
  const { text, comma, apply } = await readJson(request, Import);
  return importChannelsCsv(locals.app, text, comma, apply, locals.person.viewer.name);
});
