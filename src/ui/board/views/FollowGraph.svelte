<!-- Sets a view's range to the one that a graph of the same channel on this board shows now. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import type { View } from '$contract/board';
  import { useShell } from '../../shell/shell.svelte';
  import { useBoard } from '../context.svelte';

  type Props = { channel: Channel; change: (edit: Partial<View>) => void };
  let { channel, change }: Props = $props();
  const shell = useShell();
  const board = useBoard();

  function follow() {
    const range = board.ranges.get(channel.id);
    if (!range)
      return shell.say({
        what: `No graph of ${channel.name} is on this board.`,
        next: 'Put one there, then the range can follow it.',
      });
    const room = (range.max - range.min) * 0.12;
    const neat = (v: number) => Number(v.toPrecision(3));
    change({ range: { min: neat(range.min - room), max: neat(range.max + room) } });
  }
</script>

<button class="dotted" onclick={follow}>range as its graph</button>

<style>
  button {
    font-size: var(--type-small);
    align-self: flex-end;
    margin: 0 var(--space-3) var(--space-half);
  }
</style>
