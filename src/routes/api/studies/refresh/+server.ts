import { refreshStudies } from '$service/study/studies';
import { route } from '../../../http';

/** Brings all studies up to date that are not. */
export const POST = route(({ locals }) => {
  const { begun, done } = refreshStudies(locals.app, locals.person.viewer.name);
  void done;
  return { begun };
});
