import { z } from 'zod';
import { allToRest, armTake, disarm, endTake, mark, setOutput, startTake } from '$service/record';
import { readJson, route } from '../../http';

const Act = z.discriminatedUnion('do', [
  z.strictObject({
    do: z.literal('arm'),
    facts: z.record(z.string().max(40), z.string().max(200)),
    reason: z.string().max(300).optional(),
    planId: z.string().max(64).optional(),
  }),
  z.strictObject({ do: z.literal('start') }),
  z.strictObject({ do: z.literal('end') }),
  z.strictObject({ do: z.literal('disarm') }),
  z.strictObject({ do: z.literal('mark'), says: z.string().max(500) }),
  z.strictObject({ do: z.literal('output'), channelId: z.string().max(64), value: z.number() }),
  z.strictObject({ do: z.literal('rest') }),
]);

export const POST = route(async ({ locals: { app, person }, request }) => {
  const act = await readJson(request, Act);
  const by = person.viewer.name;
  switch (act.do) {
    case 'arm':
      return armTake(app, act.facts, { by, reason: act.reason, planId: act.planId });
    case 'start':
      return startTake(app);
    case 'end':
      return endTake(app);
    case 'disarm':
      return disarm(app);
    case 'mark':
      return mark(app, act.says, by);
    case 'output':
      return setOutput(app, act.channelId, act.value);
    case 'rest':
      return allToRest(app);
  }
});
