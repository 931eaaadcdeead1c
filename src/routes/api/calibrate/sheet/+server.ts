import { z } from 'zod';
import { SheetEntry, acceptSheet, readSheet } from '$service/calibrate/sheet';
import { readJson, route } from '../../../http';

const Body = z.strictObject({ channelId: z.string().max(64), entry: SheetEntry, accept: z.boolean() });

/** What a certificate makes of a channel, with a warning where its value is doubtful; accepted on request. */
export const POST = route(async ({ locals: { app }, request }) => {
  const { channelId, entry, accept } = await readJson(request, Body);
  if (accept) return acceptSheet(app, channelId, entry);
  const { calibration, warning } = readSheet(app, channelId, entry);
  return { slope: calibration.slope, offset: calibration.offset, rawUnit: calibration.rawUnit, warning };
});
