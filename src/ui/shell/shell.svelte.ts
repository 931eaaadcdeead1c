import { getContext, setContext } from 'svelte';
import type { Overview } from '$contract/overview';
import type { LiveFeed } from '../live/feed.svelte';
import type { FaultText } from '../api';
import type { OutgoingFiles } from '../files/outgoing.svelte';

/** What the frame around all pages offers to them. */
export interface Shell {
  feed: LiveFeed;
  /** Files that are made and saved. */
  files: OutgoingFiles;
  /** Says a fault that must be read, at the head of the page, until it is dismissed. */
  say(fault: FaultText | null): void;
  /** Opens the form of facts, or arms at once when the plan asks for none. */
  arm(): void;
  /** What every page shows, as it is now. */
  readonly overview: Overview;
  /** Fetches what one has changed: of every page, and of this one. */
  refresh(): Promise<void>;
  readonly night: boolean;
  /** Whether readings show their uncertainty. */
  plusMinus: boolean;
  /** Expanded uncertainty (about 95 %) of a channel at what it reads now, in its unit; undefined where none is known or asked for. */
  expanded(channelId: string): number | undefined;
}

const KEY = Symbol('shell');
export const provideShell = (shell: Shell) => setContext(KEY, shell);
export const useShell = () => getContext<Shell>(KEY);
