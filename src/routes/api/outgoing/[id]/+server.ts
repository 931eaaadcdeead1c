import { endOutgoing, outgoingState } from '$service/outgoing';
import { serve } from '../../../serve';

export const GET = serve('GET /api/outgoing/[id]', ({ app, params }) => outgoingState(app, params.id));
export const DELETE = serve('DELETE /api/outgoing/[id]', ({ app, params }) => endOutgoing(app, params.id));
