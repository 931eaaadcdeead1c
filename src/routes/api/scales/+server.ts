import { z } from 'zod';
import { ScaleLaw } from '$contract/scale';
import { putScale } from '$service/setup/scales';
import { readJson, route } from '../../http';

const Input = z.strictObject({
  id: z.string().max(60).optional(),
  name: z.string().max(200),
  rawUnit: z.string().max(40),
  unit: z.string().max(40),
  law: ScaleLaw,
  note: z.string().max(500).optional(),
});

export const POST = route(async ({ locals, request }) =>
  putScale(locals.app, await readJson(request, Input), locals.person.viewer.name),
);
