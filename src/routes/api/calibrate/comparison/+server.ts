import { z } from 'zod';
import { acceptComparison, compareChannels } from '$service/calibrate/comparison';
import { readJson, route } from '../../../http';

const Body = z.strictObject({
  channelId: z.string().max(64),
  referenceId: z.string().max(64),
  seconds: z.number(),
  accept: z.boolean(),
  budget: z.record(z.string(), z.unknown()),
});

export const POST = route(async ({ locals: { app }, request }) => {
  const { channelId, referenceId, seconds, accept, budget } = await readJson(request, Body);
  return accept
    ? acceptComparison(app, channelId, referenceId, seconds, budget)
    : compareChannels(app, channelId, referenceId, seconds);
});
