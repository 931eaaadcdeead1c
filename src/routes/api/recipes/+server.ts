import { keepRecipe, recipesFor } from '$service/study/recipes';
import { serve } from '../../serve';

export const GET = serve('GET /api/recipes', ({ app, query }) => recipesFor(app, query.take));
export const POST = serve('POST /api/recipes', ({ app, body, by }) => keepRecipe(app, body, by));
