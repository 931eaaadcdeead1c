import { z } from 'zod';
import { acceptComparison, showComparison } from '$service/calibrate/comparison';
import { readJson, route } from '../../../http';

const Body = z.union([
  z.strictObject({ channelId: z.string().max(64), referenceId: z.string().max(64), seconds: z.number() }),
  z.strictObject({ accept: z.string().max(64), budget: z.record(z.string(), z.unknown()) }),
]);

/** Compares two channels, or accepts a comparison as it was shown. */
export const POST = route(async ({ locals: { app, person }, request }) => {
  const body = await readJson(request, Body);
  return 'accept' in body
    ? acceptComparison(app, body.accept, body.budget, person.viewer.name)
    : showComparison(app, body.channelId, body.referenceId, body.seconds);
});
