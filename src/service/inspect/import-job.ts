import type { ImportState } from '$contract/api/inspect';

/** A file that is being brought in. */
export interface ImportJob extends ImportState {
  path: string;
  format?: string;
  options: Record<string, unknown>;
  by: string;
  stop: AbortController;
  /** When it was last heard of, ms. */
  heard: number;
}
