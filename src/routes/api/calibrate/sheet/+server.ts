import { z } from 'zod';
import { SheetEntry, acceptSheet, readSheet } from '$service/calibrate/sheet';
import { readJson, route } from '../../../http';

const Body = z.strictObject({ channelId: z.string().max(64), entry: SheetEntry, accept: z.boolean() });

/** What a certificate makes of a channel, with a warning where its value is doubtful; accepted on request. */
export const POST = route(async ({ locals: { app, person }, request }) => {
  const { channelId, entry, accept } = await readJson(request, Body);
  if (accept) return acceptSheet(app, channelId, entry, person.viewer.name);
  const { calibration, warning, siblings } = readSheet(app, channelId, entry, person.viewer.name);
  const { slope, offset, rawUnit } = calibration;
  return { slope, offset, rawUnit, warning, siblings };
});
