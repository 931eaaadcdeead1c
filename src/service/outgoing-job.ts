import type { OutgoingState } from '$contract/outgoing';

/** A file that is being made, or waits to be taken. */
export interface OutgoingJob extends OutgoingState {
  path: string;
  stop: AbortController;
  /** When it was last heard of, ms. */
  heard: number;
}
