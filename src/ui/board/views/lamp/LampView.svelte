<!-- Yes or no, and limits, at a glance. -->
<script lang="ts">
  import { commonOf } from '$contract/channel';
  import { STATE_SIGN } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const { feed } = useShell();
  const values = new ShownValues(
    () => channels,
    () => view,
  );
</script>

<div class="lamps">
  {#each channels as c (c.id)}
    {@const state = feed.stateOf(c.id)}
    {@const yes = commonOf(c).unit === 'yes/no' ? values.of(c) > 0.5 : state === 'ok'}
    <div class="lamp">
      <span class="dot {state.replace(' ', '-')}" class:yes
        >{yes ? '●' : commonOf(c).unit === 'yes/no' ? '○' : STATE_SIGN[state]}</span
      >
      <span>{c.name}</span>
      <span class="muted">{commonOf(c).unit === 'yes/no' ? (yes ? 'yes' : 'no') : state}</span>
    </div>
  {/each}
</div>

<style>
  .lamps {
    padding: var(--space-half) var(--space-3);
    overflow: auto;
  }
  .lamp {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .lamp .muted {
    margin-left: auto;
    font-size: var(--type-small);
  }
  .dot {
    color: var(--muted);
    font-size: var(--type-reading);
    line-height: 1;
  }
  .dot.yes {
    color: var(--moss);
  }
  .dot.alarm,
  .dot.lost,
  .dot.open {
    color: var(--red);
  }
  .dot.warning {
    color: var(--ochre);
  }
</style>
