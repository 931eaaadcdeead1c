import { badInput } from '$core/errors';
import type { StudyResult } from '$core/studies/study';
import { getStudy } from '$store/entities';
import type { App } from '../app';
import { writeSpans } from '../inspect/keep';
import { bodyOf } from './inputs';

/** Writes what a study found onto the time axis of its take. @returns how many marks are new
 *  @throws `not_found`, `bad_input` where it found no spans, `conflict`, `unavailable` */
export function markSpans(app: App, id: string, by: string): { written: number } {
  const { resultId, takes, name } = bodyOf(getStudy(app.db, id));
  const { spans = [] } = app.results.get<StudyResult>(resultId ?? 'none');
  if (spans.length === 0) throw badInput('marks', 'none', `${name} found nothing that can be marked.`);
  return { written: writeSpans(app, takes[0], spans, by) };
}
