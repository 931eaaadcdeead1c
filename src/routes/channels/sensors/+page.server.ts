import { viewSensors } from '$service/sensors';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, depends }) => {
  depends('farrier:page');
  return { sensors: viewSensors(locals.app) };
};
