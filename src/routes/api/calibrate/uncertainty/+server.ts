import { uncertaintiesNow } from '$service/calibrate/overview';
import { route } from '../../../http';

/** Expanded uncertainty (about 95 %) of channels at what they read now. */
export const GET = route(({ locals, url }) =>
  uncertaintiesNow(locals.app, (url.searchParams.get('channels') ?? '').split(',').slice(0, 500)),
);
