import { wiringPdf } from '$service/report/wiring';
import { fileResponse, route } from '../../../../http';

/** Terminal drawing and wiring list as a PDF. */
export const GET = route(async ({ locals, params }) => {
  const { name, pdf } = await wiringPdf(locals.app, params.serial!);
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
