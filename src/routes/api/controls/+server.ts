import { renameViewer } from '$service/app';
import { serve } from '../../serve';

export const POST = serve('POST /api/controls', ({ app, body: act, person: { viewer }, event }) => {
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
      event.cookies.set('farrier-name', act.name, {
        path: '/',
        httpOnly: true,
        sameSite: 'strict',
        secure: event.url.protocol === 'https:',
        maxAge: 365 * 24 * 3600,
      });
      return renameViewer(app, { ...viewer, name: act.name });
  }
});
