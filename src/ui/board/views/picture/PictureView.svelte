<!-- A picture with readings placed on it. -->
<script lang="ts">
  import { nameColour } from '$contract/palette';
  import { liveText, unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { useBoard } from '../../context.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels, change }: ViewProps = $props();
  const shell = useShell();
  const board = useBoard();
  const values = new ShownValues(
    () => channels,
    () => view,
  );
  function drop(event: DragEvent) {
    const id = event.dataTransfer?.getData('text/farrier-channel');
    if (!id) return;
    event.preventDefault();
    event.stopPropagation();
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const place = {
      channel: id,
      x: (event.clientX - box.left) / box.width,
      y: (event.clientY - box.top) / box.height,
    };
    change({ spots: [...view.spots.filter((s) => s.channel !== id), place] });
  }
</script>

<div class="picture" role="group" aria-label="Picture" ondragover={(e) => e.preventDefault()} ondrop={drop}>
  {#if view.picture}<img src="/api/pictures/{view.picture}" alt="" />{:else}<p class="muted">
      Choose a picture in the settings; then drop channels on it.
    </p>{/if}
  {#each view.spots as s (s.channel)}
    {@const c = board.channel(s.channel)}
    {#if c}<span class="spot mono" style:left="{s.x * 100}%" style:top="{s.y * 100}%" title={c.name}
        ><span style:color={nameColour(c.colour, shell.night)}>{c.name}</span>
        {liveText(c, values.of(c))}
        {unitText(c)}</span
      >{/if}
  {/each}
</div>

<style>
  .picture {
    position: relative;
    flex: 1;
    min-height: 0;
    margin: 0 var(--space-2) var(--space-2);
  }
  .picture img {
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .spot {
    position: absolute;
    transform: translate(-50%, -50%);
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-2);
    font-size: var(--type-small);
    white-space: nowrap;
  }
</style>
