import type { LiveFrame } from '$contract/engine';
import type { Wave } from '$contract/live';
import type { TakeHead } from '$contract/take';

/** Where the pipeline's results go. */
export interface AcquisitionEvents {
  frame(frame: LiveFrame): void;
  waves(waves: Wave[]): void;
  note(kind: string, says: string, takeId: string | null, atNs: bigint, by: string): void;
  /** A file was begun or closed; the hash once it is sealed. */
  take(head: TakeHead, hash: string | null): void;
  /** A rule calls an address. */
  call(address: string, body: unknown): void;
  /** Channels whose readings mean something else from now on, or are acquired anew. */
  anew?(channelIds: string[]): void;
  changed(): void;
}
