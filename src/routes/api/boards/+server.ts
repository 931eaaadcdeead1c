import { addBoard } from '$service/boards';
import { serve } from '../../serve';

export const POST = serve('POST /api/boards', ({ app, body }) => addBoard(app, body.name, body.from));
