import { sealOf } from '$service/takes';
import { route } from '../../../../http';

/** Whether the take's file is still what it was closed with. */
export const GET = route(({ locals, params }) => sealOf(locals.app, params.id!));
