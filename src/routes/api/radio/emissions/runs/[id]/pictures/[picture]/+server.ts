import { radioOf } from '$service/radio/radio';
import { serve } from '../../../../../../../serve';

export const DELETE = serve('DELETE /api/radio/emissions/runs/[id]/pictures/[picture]', ({ app, params }) =>
  radioOf(app).emissions.dropPicture(params.id, Number(params.picture)),
);
