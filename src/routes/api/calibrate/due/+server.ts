import { dueOfPlan } from '$service/calibrate/overview';
import { route } from '../../../http';

/** Calibrations that the plan's channels lack before a take. */
export const GET = route(({ locals }) => dueOfPlan(locals.app));
