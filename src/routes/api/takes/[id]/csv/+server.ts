import { z } from 'zod';
import { check } from '$service/faults';
import { exportCsv } from '$service/takes';
import { fileResponse, numberList, route } from '../../../../http';

const Options = z.object({ stepS: z.number().positive().max(86400).nullable(), decimal: z.enum(['.', ',']) });

export const GET = route(({ locals, params, url }) => {
  const q = url.searchParams;
  const options = check(Options, {
    stepS: q.get('step') ? Number(q.get('step')) : null,
    decimal: q.get('decimal') ?? '.',
  });
  const { name, mediaType, body } = exportCsv(locals.app, params.id!, numberList(q.get('signals')), options);
  return fileResponse(body, name, mediaType);
});
