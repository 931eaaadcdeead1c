import { redo, undo } from '$service/setup/change';
import { route } from '../../http';

/** Takes the last change back, or with ?again makes it anew. */
export const POST = route(async ({ locals, url }) => ({
  says: await (url.searchParams.has('again') ? redo : undo)(locals.app, locals.person.viewer.name),
}));
