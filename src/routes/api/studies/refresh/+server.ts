import { refreshStudies } from '$service/studies';
import { route } from '../../../http';

/** Brings all studies up to date that are not. */
export const POST = route(({ locals }) => {
  const { begun, done } = refreshStudies(locals.app);
  void done;
  return { begun };
});
