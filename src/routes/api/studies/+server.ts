import { nameText } from '$contract/name-text';
import { z } from 'zod';
import { startStudy } from '$service/study/studies';
import { readJson, route } from '../../http';

const Id = z.string().max(64);
const NewStudy = z.strictObject({
  kind: z.string().max(40),
  takeId: Id,
  takes: z.array(Id).min(1).max(200).optional(),
  /** Channels that are looked at: what takes their roles first. */
  shown: z.array(Id).max(5000).optional(),
  settings: z.record(z.string().max(40), z.unknown()).optional(),
  name: nameText(80).optional(),
});

export const POST = route(
  async ({ locals, request }) =>
    startStudy(locals.app, await readJson(request, NewStudy), locals.person.viewer.name).view,
);
