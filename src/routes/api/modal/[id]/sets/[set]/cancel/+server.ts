import { cancelSet } from '$service/modal/analyses';
import { serve } from '../../../../../../serve';

export const POST = serve('POST /api/modal/[id]/sets/[set]/cancel', ({ app, params }) =>
  cancelSet(app, params.set),
);
