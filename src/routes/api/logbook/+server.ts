import { badInput } from '$service/faults';
import { addNote, logCsv, logPdf } from '$service/logbook';
import { fileResponse, readForm } from '../../http';
import { serve } from '../../serve';

const LONGEST = 2000;

export const GET = serve('GET /api/logbook', async ({ app, query: { as, take, find, ...rest } }) => {
  const filter = { ...rest, takeId: take, text: find };
  return as === 'pdf'
    ? fileResponse(new Uint8Array(await logPdf(app, filter)), 'logbook.pdf', 'application/pdf')
    : fileResponse(logCsv(app, filter), 'logbook.csv', 'text/csv; charset=utf-8');
});

export const POST = serve('POST /api/logbook', async ({ app, by, event }) => {
  const form = await readForm(event.request);
  const says = String(form.get('says') ?? '').trim();
  if (!says) throw badInput('note', 'empty', 'Write something.');
  if (says.length > LONGEST) throw badInput('note', `${says.length} characters`, `At most ${LONGEST}.`);
  const file = form.get('picture');
  const picture = file instanceof File && file.size > 0 ? Buffer.from(await file.arrayBuffer()) : undefined;
  addNote(app, says, by, picture);
});
