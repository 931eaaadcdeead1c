import { z } from 'zod';
import { readJson, route } from '../../http';

const source = z.string().max(80);
const Act = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('take'), id: z.number().int().nullable() }),
  z.strictObject({ do: z.literal('hush') }),
  z.strictObject({ do: z.literal('shelve'), source, minutes: z.number(), why: z.string().max(200) }),
  z.strictObject({ do: z.literal('unshelve'), source }),
]);

export const GET = route(({ locals }) => locals.app.alarms.list());
export const POST = route(async ({ locals: { app, person }, request }) => {
  const act = await readJson(request, Act);
  const by = person.viewer.name;
  switch (act.do) {
    case 'take':
      return app.alarms.take(act.id, by);
    case 'hush':
      return app.alarms.hush(by);
    case 'shelve':
      return app.alarms.shelve(act.source, act.minutes, act.why, by);
    case 'unshelve':
      return app.alarms.unshelve(act.source, by);
  }
});
