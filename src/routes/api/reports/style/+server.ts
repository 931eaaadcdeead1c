import { changeHouseStyle, houseStyle } from '$service/report/style';
import { serve } from '../../../serve';

export const GET = serve('GET /api/reports/style', ({ app }) => houseStyle(app));
export const PUT = serve('PUT /api/reports/style', ({ app, body, by }) => changeHouseStyle(app, body, by));
