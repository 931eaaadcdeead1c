import { z } from 'zod';
import { readJson, route } from '../../../http';

const Wish = z.strictObject({
  channelIds: z.array(z.string().max(60)).min(1).max(500),
  samples: z
    .number()
    .int('Give a whole number.')
    .min(1, 'At least 1 sample.')
    .max(100_000, 'At most 100,000 samples.'),
});

/** The next samples of some channels, once. */
export const POST = route(async ({ locals, request }) =>
  locals.app.engine.command({ do: 'read', ...(await readJson(request, Wish)) }),
);
