import { z } from 'zod';
import { addNote } from '$service/logbook';
import { readJson, route } from '../../http';

/** A person's note. */
export const POST = route(async ({ locals, request }) =>
  addNote(
    locals.app,
    (
      await readJson(
        request,
        z.strictObject({ says: z.string().trim().min(1, 'Write something.').max(2000) }),
      )
    ).says,
  ),
);
