import { z } from 'zod';
import { PointsRun } from '$contract/calibration';
import { CalibrationPoint } from '$contract/channel';
import { acceptPoints } from '$service/calibrate/points';
import { readJson, route } from '../../../http';

const Runs = z.strictObject({
  runs: z
    .array(
      z.strictObject({
        channelId: z.string().max(64),
        points: z.array(CalibrationPoint).max(200),
        form: PointsRun.shape.form,
        budget: z.record(z.string(), z.unknown()),
        against: z.string().max(64).nullable(),
      }),
    )
    .min(1)
    .max(64),
});

export const POST = route(async ({ locals, request }) => {
  const { runs } = await readJson(request, Runs);
  return acceptPoints(locals.app, runs, locals.person.viewer.name);
});
