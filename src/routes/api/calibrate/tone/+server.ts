import { z } from 'zod';
import { acceptTone, readTone } from '$service/calibrate/tone';
import { readJson, route } from '../../../http';

const channelId = z.string().max(64);
const Act = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('measure'), channelId, level: z.number(), hz: z.number() }),
  z.strictObject({ do: z.literal('accept'), channelId, budget: z.record(z.string(), z.unknown()) }),
]);

export const POST = route(async ({ locals: { app, person }, request }) => {
  const act = await readJson(request, Act);
  return act.do === 'measure'
    ? readTone(app, act.channelId, act.level, act.hz)
    : acceptTone(app, act.channelId, act.budget, person.viewer.name);
});
