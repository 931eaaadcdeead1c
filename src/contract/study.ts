import type { StudyResult } from '$core/studies/study';

export type StudyState = 'running' | 'done' | 'failed' | 'cancelled';

/** What is kept of a study beside its place in the job. */
export interface StudyBody {
  name: string;
  settings: Record<string, unknown>;
  state: StudyState;
  result: StudyResult | null;
  fault: { what: string; where?: string; why?: string; next?: string } | null;
  /** What the result was made from: a change of any of these makes it out of date. */
  madeFrom: { coreVersion: number; settings: string } | null;
}

export interface StudyView extends StudyBody {
  id: string;
  kind: string;
  title: string;
  takeId: string;
  takeName: string;
  createdAt: number;
  progress: number;
  outOfDate: boolean;
  /** The sentence as text: the method in a report. */
  says: string;
}

/** One step of the trail from a result back to the sensor. */
export interface TrailStep {
  what: string;
  says: string;
}
