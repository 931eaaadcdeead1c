import { getContext, setContext } from 'svelte';
import type { Channel } from '$contract/channel';

/** What the views of a board share. */
export class BoardContext {
  /** The view stands still; recording goes on. */
  held = $state(false);
  /** Where the cursor stands while the view is held: share of the width of every strip. */
  cursor = $state<number | null>(null);
  /** Range that each channel's strip shows now, so that dials and bars can follow it. */
  readonly ranges = new Map<string, { min: number; max: number }>();

  constructor(readonly channels: () => Channel[]) {}

  channel = (id: string) => this.channels().find((c) => c.id === id);
}

const KEY = Symbol('board');
export const provideBoard = (context: BoardContext) => setContext(KEY, context);
export const useBoard = () => getContext<BoardContext>(KEY);
