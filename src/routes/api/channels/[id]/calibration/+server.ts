import { z } from 'zod';
import { acceptCalibration, steadiness } from '$service/calibrate';
import { CalibrationPoint } from '$contract/channel';
import { readJson, route } from '../../../../http';

/** How still the channel is now. */
export const GET = route(({ locals, params, url }) =>
  steadiness(
    locals.app,
    params.id!,
    Number(url.searchParams.get('tolerance')),
    Number(url.searchParams.get('hold')),
  ),
);

export const POST = route(async ({ locals, params, request }) => {
  const { points } = await readJson(request, z.strictObject({ points: z.array(CalibrationPoint).max(200) }));
  return acceptCalibration(locals.app, params.id!, points);
});
