import { openApi } from '$contract/open-api';
import { serve } from '../../serve';

export const GET = serve('GET /api/openapi.json', () => openApi());
