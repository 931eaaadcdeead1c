import type { Finding, ResultTable } from '$core/studies/study';
import type { TakeFilter } from './take-list';

/** `interrupted`: it ran when the server stopped. */
export type StudyState = 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';

/** What is kept of a study beside its place in the job. Its figures and tables lie in a file of results. */
export interface StudyBody {
  name: string;
  settings: Record<string, unknown>;
  /** Takes it looks at, in their order; the first is the one it stands under. */
  takes: string[];
  /** Which takes, where a filter says it: those that it means are found anew each time it runs. */
  filter?: TakeFilter | null;
  /** The study whose settings it tries in another way. */
  variantOf?: string;
  state: StudyState;
  findings: Finding[];
  /** What was found in each take, where it ran over several. */
  rows?: { take: string; findings: Finding[] }[];
  /** Name of its file of results. */
  resultId: string | null;
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
  /** Its filter in words. */
  filterSays: string | null;
  createdAt: number;
  progress: number;
  outOfDate: boolean;
  /** The sentence as text: the method in a report. */
  says: string;
}

/** A study that is kept without its take, as it would be made of one. */
export interface RecipeView {
  id: string;
  name: string;
  kind: string;
  title: string;
  settings: Record<string, unknown>;
  says: string;
  /** What the take lacks for it; null where it has all. */
  lacks: string | null;
}

/** One step of the trail from a result back to the sensor. */
export interface TrailStep {
  what: string;
  says: string;
}

/** What earlier versions kept in the row itself. */
export interface EarlierStudyBody extends Omit<StudyBody, 'takes' | 'findings' | 'resultId'> {
  result: {
    findings: Finding[];
    figures: {
      title: string;
      x: { label: string; unit: string; scale: 'linear' | 'logarithmic' };
      y: { label: string; unit: string; scale: 'linear' | 'logarithmic' };
      series: { name: string; unit: string; colour?: number; x: number[]; y: number[] }[];
    }[];
    tables: ResultTable[];
  } | null;
}
