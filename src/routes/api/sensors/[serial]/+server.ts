import { attach, removeSensor } from '$service/sensors';
import { uploadedFile } from '../../../http';
import { serve } from '../../../serve';

export const POST = serve('POST /api/sensors/[serial]', async ({ app, params, event }) => {
  const { name, content } = await uploadedFile(event.request);
  return attach(app, params.serial, name, content);
});
export const DELETE = serve('DELETE /api/sensors/[serial]', ({ app, params, by }) =>
  removeSensor(app, params.serial, by),
);
