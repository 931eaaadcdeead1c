import { commonOf, type Channel } from '$contract/channel';
import type { View } from '$contract/board';
import { useShell } from '../../shell/shell.svelte';
import { useBoard } from '../context.svelte';

/** Values that a view shows: the live ones, or those of the moment at which the view was held. */
export class ShownValues {
  private readonly board = useBoard();
  private readonly feed = useShell().feed;
  private frozen = $state.raw(new Map<string, number>());

  constructor(
    channels: () => Channel[],
    private readonly view: () => View,
  ) {
    $effect(() => {
      if (this.board.held) this.frozen = new Map(channels().map((c) => [c.id, this.feed.value(c.id)]));
    });
  }

  of = (c: Channel): number => (this.board.held ? (this.frozen.get(c.id) ?? NaN) : this.feed.value(c.id));

  /** The range a channel is shown in: the view's, or its own. */
  range = (c: Channel) => this.view().range ?? commonOf(c).range;

  /** Where a value stands in the range, 0 to 1. */
  share(c: Channel, value: number): number {
    const { min, max } = this.range(c);
    return Math.min(1, Math.max(0, (value - min) / (max - min) || 0));
  }
}
