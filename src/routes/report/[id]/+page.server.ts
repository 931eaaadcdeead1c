import { error } from '@sveltejs/kit';
import { FarrierError } from '$service/faults';
import { viewReport } from '$service/report/reports';
import { viewStudies } from '$service/study/studies';
import { canRead, takeRows, viewTake } from '$service/takes';
import type { PageServerLoad } from './$types';

/** A report, and the take it is shown for: the one in the address, else the first it is about, else the newest that can be read. */
export const load: PageServerLoad = ({ locals: { app }, params, url, depends }) => {
  depends('farrier:page');
  try {
    const report = viewReport(app, params.id);
    const takes = takeRows(app).filter((t) => t.state !== 'recording');
    const wanted = [url.searchParams.get('take'), ...report.now.map((t) => t.id), ...takes.map((t) => t.id)];
    const shown = wanted.find((id) => id !== null && takes.some((t) => t.id === id) && canRead(app, id));
    return {
      report,
      take: shown ? viewTake(app, shown) : null,
      studies: viewStudies(app).filter((s) => s.state === 'done' && shown !== undefined && shown !== null && s.takes.includes(shown)), // prettier-ignore
    };
  } catch (fault) {
    if (fault instanceof FarrierError) error(404, { message: fault.message, next: fault.text.next });
    throw fault;
  }
};
