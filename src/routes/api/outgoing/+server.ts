import { beginOutgoing } from '$service/outgoing';
import { serve } from '../../serve';

export const POST = serve('POST /api/outgoing', ({ app, body, by }) => beginOutgoing(app, body, by));
