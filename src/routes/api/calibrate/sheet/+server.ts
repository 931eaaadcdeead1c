import { acceptSheet, readSheet } from '$service/calibrate/sheet';
import { serve } from '../../../serve';

export const POST = serve(
  'POST /api/calibrate/sheet',
  async ({ app, body: { channelId, entry, accept }, by }) => {
    const { calibration, warning, siblings } = readSheet(app, channelId, entry, by);
    if (accept) await acceptSheet(app, channelId, entry, by);
    const { slope, offset, rawUnit } = calibration;
    return { slope, offset, rawUnit, warning, siblings };
  },
);
