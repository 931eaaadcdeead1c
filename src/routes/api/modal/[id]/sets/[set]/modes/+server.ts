import { pickModes } from '$service/modal/analyses';
import { serve } from '../../../../../../serve';

export const PUT = serve('PUT /api/modal/[id]/sets/[set]/modes', async ({ app, params, body }) => {
  const { view } = await pickModes(app, params.id, params.set, body.picks);
  return view;
});
