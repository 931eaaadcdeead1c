<!-- Many channels: now, lowest, highest, mean. -->
<script lang="ts">
  import { liveText, unitText } from '../../../shell/reading';
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

<div class="table">
  <table class="plain">
    <thead><tr><th>Channel</th><th>now</th><th>lowest</th><th>highest</th><th>mean</th><th></th></tr></thead>
    <tbody>
      {#each channels as c (c.id)}
        {@const s = feed.since(c.id)}
        <tr
          ><td>{c.name}</td><td class="mono">{liveText(c, values.of(c))}</td><td class="mono"
            >{liveText(c, s.min)}</td
          ><td class="mono">{liveText(c, s.max)}</td><td class="mono">{liveText(c, s.mean)}</td><td
            class="muted">{unitText(c)}</td
          ></tr
        >
      {/each}
    </tbody>
  </table>
</div>

<style>
  .table {
    overflow: auto;
    padding: 0 var(--space-3);
  }
  .table td.mono,
  .table th:not(:first-child) {
    text-align: right;
    padding-left: var(--space-3);
  }
</style>
