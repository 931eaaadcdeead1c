import { randomUUID } from 'node:crypto';
import type { StudyResult } from '$core/studies/study';
import type { EarlierStudyBody, StudyBody } from '$contract/study';
import { allStudies, putStudy, type StudyRow } from '$store/entities';
import { studyRevisions } from '$store/revisions';
import type { Db } from '$store/database';
import { ResultStore } from '$store/results';

const LINES = 'Spectrum of ';

/** The body of a study as it is now; one of an earlier version held its result itself, and one take. That result goes into a file. */
export function readBody(
  results: ResultStore,
  { takeId, body }: Pick<StudyRow, 'takeId' | 'body'>,
): StudyBody {
  if ('takes' in (body as object)) return body as StudyBody;
  const { result, ...rest } = body as EarlierStudyBody;
  const resultId = result ? randomUUID() : null;
  if (result) results.put(resultId!, ResultStore.bytes(readResult(result)));
  return { ...rest, takes: [takeId], findings: result?.findings ?? [], resultId };
}

function readResult({ findings, figures, tables }: NonNullable<EarlierStudyBody['result']>): StudyResult {
  return {
    findings,
    figures: figures.map(({ title, x, y, series }) => ({
      title,
      x: { ...x, min: 0 },
      y,
      // The lowest line was kept, but neither drawn nor counted.
      marks: series.map(({ x: xs, y: ys, ...named }) => ({
        ...named,
        mark: 'line' as const,
        x: Float64Array.from(xs.slice(1)),
        y: Float64Array.from(ys.slice(1), Number),
      })),
    })),
    // Those of a figure are made from it.
    tables: tables.filter((t) => !t.title.startsWith(LINES)),
  };
}

/** Brings studies of earlier versions up to the present form, and takes away results that nothing names any more. */
export function tidyStudies(db: Db, results: ResultStore): void {
  const named = new Set<string>();
  const name = ({ resultId }: StudyBody) => resultId && named.add(resultId);
  for (const row of allStudies(db)) {
    const body = readBody(results, row);
    name(body);
    if (body !== row.body) putStudy(db, { ...row, body });
  }
  // A removed study can come back with its result.
  for (const { before } of studyRevisions(db)) {
    const body = (before as Partial<StudyRow> | null)?.body as StudyBody | undefined;
    if (body?.resultId) named.add(body.resultId);
  }
  results.keepOnly(named);
}
