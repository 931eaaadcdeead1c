import { z } from 'zod';
import { UnitMapping } from '$contract/setup-file';
import { exportSetup, importSetup, previewSetup } from '$service/setup/travel';
import { fileResponse, readJson, route } from '../../http';

export const GET = route(({ locals }) => {
  const file = exportSetup(locals.app);
  return fileResponse(JSON.stringify(file, null, 1), `${file.job.name} set-up.json`, 'application/json');
});

const Import = z.strictObject({
  text: z.string().max(30_000_000, 'At most 30 MB.'),
  mapping: UnitMapping,
  apply: z.boolean(),
});
/** What a set-up file would change, or the change itself. */
export const POST = route(async ({ locals, request }) => {
  const { text, mapping, apply } = await readJson(request, Import);
  return apply ? importSetup(locals.app, text, mapping) : previewSetup(locals.app, text, mapping);
});
