import { FarrierError } from '$core/errors';
import type { App } from '../app';
import type { RadioPort } from './port';

/** Who looks after receivers. @throws `unavailable` where nobody does */
export function radioOf(app: App): RadioPort {
  if (!app.radio)
    throw new FarrierError('unavailable', { what: 'Nobody looks after receivers here.', where: 'radio' });
  return app.radio;
}
