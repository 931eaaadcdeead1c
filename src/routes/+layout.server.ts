import { ALL_PARTS, type Begun, type Overview } from '$contract/overview';
import { overviewParts } from '$service/overview';
import type { LayoutServerLoad } from './$types';

/** What a page begins with; from then on it is told what changes, part by part. */
export const load: LayoutServerLoad = ({ locals, url, untrack }): Begun => {
  // Whoever comes here may not have been let in, and pages of errors come here, too.
  if (!locals.letIn || untrack(() => url.pathname) === '/enter') return { overview: null, versions: {} };
  const { parts, versions } = overviewParts(locals.app, ALL_PARTS);
  return { overview: parts as Overview, versions };
};
