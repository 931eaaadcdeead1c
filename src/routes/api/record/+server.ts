import { allToRest, armTake, disarm, endTake, mark, setOutput, startTake } from '$service/record';
import { serve } from '../../serve';

export const POST = serve('POST /api/record', ({ app, body: act, by }) => {
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
