import { certificatePdf } from '$service/report/certificate';
import { fileResponse, route } from '../../../../http';

export const GET = route(async ({ locals, params }) => {
  const { name, pdf } = await certificatePdf(locals.app, params.id!);
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
