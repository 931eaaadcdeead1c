import { forgetRecipe } from '$service/study/recipes';
import { serve } from '../../../serve';

export const DELETE = serve('DELETE /api/recipes/[id]', ({ app, params, by }) =>
  forgetRecipe(app, params.id, by),
);
