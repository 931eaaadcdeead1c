import { addNote, logCsv, logPdf } from '$service/logbook';
import { badInput } from '$service/faults';
import { filterOf } from '../../log-filter';
import { fileResponse, readForm, route } from '../../http';

const LONGEST = 2000;

/** The logbook as a file. */
export const GET = route(async ({ locals: { app }, url }) => {
  const filter = filterOf(url);
  return url.searchParams.get('as') === 'pdf'
    ? fileResponse(new Uint8Array(await logPdf(app, filter)), 'logbook.pdf', 'application/pdf')
    : fileResponse(logCsv(app, filter), 'logbook.csv', 'text/csv; charset=utf-8');
});

/** A person's note, as a form with perhaps a picture. */
export const POST = route(async ({ locals: { app, person }, request }) => {
  const form = await readForm(request);
  const says = String(form.get('says') ?? '').trim();
  if (!says) throw badInput('note', 'empty', 'Write something.');
  if (says.length > LONGEST) throw badInput('note', `${says.length} characters`, `At most ${LONGEST}.`);
  const file = form.get('picture');
  const picture = file instanceof File && file.size > 0 ? Buffer.from(await file.arrayBuffer()) : undefined;
  addNote(app, says, person.viewer.name, picture);
});
