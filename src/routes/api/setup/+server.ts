import { z } from 'zod';
import { ImportChoice } from '$contract/setup-file';
import { exportSetup } from '$service/setup/travel';
import { importSetup, previewSetup } from '$service/setup/travel-import';
import { fileResponse, readJson, route } from '../../http';

export const GET = route(({ locals }) => {
  const file = exportSetup(locals.app);
  return fileResponse(JSON.stringify(file, null, 1), `${file.job.name} set-up.json`, 'application/json');
});

const Import = ImportChoice.extend({
  text: z.string().max(60_000_000, 'At most 60 MB.'),
  apply: z.boolean(),
});
/** What a set-up file would change, or the change itself. */
export const POST = route(async ({ locals, request }) => {
  const { text, apply, ...choice } = await readJson(request, Import);
  return apply
    ? importSetup(locals.app, text, choice, locals.person.viewer.name)
    : previewSetup(locals.app, text, choice);
});
