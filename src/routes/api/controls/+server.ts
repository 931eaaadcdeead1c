import { z } from 'zod';
import { nameText } from '$contract/name-text';
import { renameViewer } from '$service/people';
import { readJson, route } from '../../http';

const Act = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('ask') }),
  /** To one who asked, or to nobody. */
  z.strictObject({ do: z.literal('hand over'), to: z.string().max(64).nullable() }),
  z.strictObject({ do: z.literal('link') }),
  z.strictObject({ do: z.literal('name'), name: nameText(40) }),
]);

export const POST = route(async ({ locals: { app, person }, request, cookies, url }) => {
  const act = await readJson(request, Act);
  const { viewer } = person;
  switch (act.do) {
    case 'ask':
      return app.controls.ask(viewer);
    case 'hand over':
      return app.controls.handOver(viewer, act.to);
    case 'link':
      // Whoever lets others look on has the say here.
      app.controls.mayChange(viewer);
      return { path: `/watch/${app.controls.makeLink(viewer.name)}` };
    case 'name':
      cookies.set('farrier-name', act.name, {
        path: '/',
        httpOnly: true,
        sameSite: 'strict',
        secure: url.protocol === 'https:',
        maxAge: 365 * 24 * 3600,
      });
      return renameViewer(app, { ...viewer, name: act.name });
  }
});
