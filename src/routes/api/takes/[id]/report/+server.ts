import { makeReport } from '$service/report/report';
import { fileResponse, numberList, route } from '../../../../http';

export const GET = route(async ({ locals, params, url }) => {
  const q = url.searchParams;
  const { name, pdf } = await makeReport(locals.app, params.id!, {
    signals: q.get('signals') === 'none' ? [] : q.get('signals') ? numberList(q.get('signals')) : null,
    studies: (q.get('studies') ?? '').split(',').filter(Boolean),
  });
  return fileResponse(new Uint8Array(pdf), name, 'application/pdf');
});
