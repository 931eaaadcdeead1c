import type { CancelSignal, Progress } from '$core/studies/study';

/** What work in a thread tells, and hears, while it goes on. */
export interface Watched {
  progress: Progress;
  signal: CancelSignal;
}
