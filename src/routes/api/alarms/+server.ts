import { serve } from '../../serve';

export const GET = serve('GET /api/alarms', ({ app }) => app.alarms.list());
export const POST = serve('POST /api/alarms', ({ app, body: act, by }) => {
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
