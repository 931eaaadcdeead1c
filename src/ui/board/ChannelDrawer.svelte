<!-- The channels of the job, to be dragged onto a board. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import { traceColour } from '$contract/palette';
  import { useShell } from '../shell/shell.svelte';

  type Props = { channels: Channel[]; add: (channel: Channel) => void };
  let { channels, add }: Props = $props();
  const shell = useShell();
</script>

<aside class="card" aria-label="Channels">
  <p class="muted">Drag one onto the board, or onto a view; Enter adds it.</p>
  {#each channels as c (c.id)}
    <button
      class="channel"
      draggable="true"
      ondragstart={(e) => e.dataTransfer?.setData('text/farrier-channel', c.id)}
      onclick={() => add(c)}
      ><span class="dot" style:background={traceColour(c.colour, shell.night)}></span>{c.name}</button
    >
  {/each}
</aside>

<style>
  aside {
    width: 210px;
    overflow: auto;
    padding: var(--space-2);
    flex-shrink: 0;
  }
  aside p {
    margin: 0 0 var(--space-1);
    font-size: var(--type-small);
  }
  .channel {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    width: 100%;
    text-align: left;
    padding: var(--space-half) var(--space-1);
    border-radius: var(--radius);
    cursor: grab;
  }
  .channel:hover {
    background: var(--tint);
  }
  .dot {
    width: 9px;
    height: 9px;
    border-radius: calc(var(--radius) / 3);
    flex-shrink: 0;
  }
</style>
