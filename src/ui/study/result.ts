import type { StudyResult } from '$core/studies/study';
import { send } from '../api';

/** Results that were fetched, by their name: a result never changes, and few are looked at. */
const known = new Map<string, Promise<StudyResult>>();
const MOST = 8;

/** The figures and tables of a study, with their arrays. @throws Fault with the server's sentences */
export function fetchResult(studyId: string, resultId: string): Promise<StudyResult> {
  const held = known.get(resultId);
  if (held) return held;
  const result = load(studyId);
  known.set(resultId, result);
  const [oldest] = known.keys();
  if (known.size > MOST) known.delete(oldest);
  result.catch(() => known.delete(resultId));
  return result;
}

async function load(studyId: string): Promise<StudyResult> {
  const [{ decode }, response] = await Promise.all([
    import('cbor2'),
    send('GET /api/studies/[id]/result', { params: { id: studyId } }),
  ]);
  const { result } = decode<{ result: StudyResult }>(new Uint8Array(await response.arrayBuffer()));
  return result;
}
