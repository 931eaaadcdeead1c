import { busLog } from '$service/units';
import { fileResponse, route } from '../../../../http';

/** The last frames of a bus as a candump log. */
export const GET = route(async ({ locals, params }) =>
  fileResponse(await busLog(locals.app, params.serial!), `${params.serial}.log`, 'text/plain'),
);
