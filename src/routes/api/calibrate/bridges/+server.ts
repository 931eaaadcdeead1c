import { z } from 'zod';
import { balance, checkBridges, derive } from '$service/calibrate/bridges';
import { lastShuntCheck } from '$service/calibrate/overview';
import { readJson, route } from '../../../http';

const ids = z.array(z.string().max(64)).max(500);
const run = z.record(z.string(), z.unknown());
const Act = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('check'), channels: ids, run }),
  z.strictObject({ do: z.literal('balance'), channels: ids, run }),
  z.strictObject({ do: z.literal('derive'), channelId: z.string().max(64) }),
]);

export const POST = route(async ({ locals: { app, person }, request }) => {
  const act = await readJson(request, Act);
  switch (act.do) {
    case 'check':
      return checkBridges(app, act.channels, act.run, person.viewer.name);
    case 'balance':
      return balance(app, act.channels, act.run, person.viewer.name);
    case 'derive':
      return derive(app, act.channelId, lastShuntCheck(app, act.channelId), person.viewer.name);
  }
});
