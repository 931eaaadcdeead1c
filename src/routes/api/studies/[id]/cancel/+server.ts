import { cancelStudy } from '$service/study/studies';
import { serve } from '../../../../serve';

export const POST = serve('POST /api/studies/[id]/cancel', ({ app, params }) => cancelStudy(app, params.id));
