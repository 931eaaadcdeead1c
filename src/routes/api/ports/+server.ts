import { serialPorts } from '$service/units';
import { route } from '../../http';

/** Serial ports of the computer that Farrier runs on. */
export const GET = route(({ locals }) => serialPorts(locals.app));
