<!-- Several values side by side, each in its range. -->
<script lang="ts">
  import { traceColour } from '$contract/palette';
  import { liveText, unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import FollowGraph from '../FollowGraph.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels, change }: ViewProps = $props();
  const shell = useShell();
  const values = new ShownValues(
    () => channels,
    () => view,
  );
</script>

<div class="bars">
  {#each channels as c (c.id)}
    {@const value = values.of(c)}
    <div class="bar-row">
      <span class="name">{c.name}</span>
      <span class="bar"
        ><span
          style:width="{values.share(c, value) * 100}%"
          style:background={traceColour(c.colour, shell.night)}
        ></span></span
      >
      <span class="mono num">{liveText(c, value)}</span><span class="muted unit">{unitText(c)}</span>
    </div>
  {/each}
  <FollowGraph channel={channels[0]} {change} />
</div>

<style>
  .bars {
    padding: var(--space-half) var(--space-3);
    display: flex;
    flex-direction: column;
    gap: var(--space-1);
    overflow: auto;
  }
  .bar-row {
    display: grid;
    grid-template-columns: minmax(60px, 34%) 1fr 62px 40px;
    gap: var(--space-2);
    align-items: center;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: var(--type-body);
  }
  .bar {
    height: 12px;
    background: var(--hair);
    border-radius: calc(var(--radius) / 3);
    overflow: hidden;
    display: block;
  }
  .bar span {
    display: block;
    height: 100%;
  }
  .num {
    text-align: right;
  }
  .unit {
    font-size: var(--type-small);
  }
</style>
