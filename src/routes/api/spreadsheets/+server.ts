import { addSpreadsheet, viewSpreadsheets } from '$service/sheets/presets';
import { serve } from '../../serve';

export const GET = serve('GET /api/spreadsheets', ({ app }) => viewSpreadsheets(app));
export const POST = serve('POST /api/spreadsheets', ({ app, body, by }) => addSpreadsheet(app, body, by));
