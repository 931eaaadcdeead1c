<!-- Drives an output: slider, switch, push or number. -->
<script lang="ts">
  import { roleOf, type Channel } from '$contract/channel';
  import { call, faultText } from '../../../api';
  import DrivenControl from '../../../record/DrivenControl.svelte';
  import { unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const shell = useShell();
  const { feed } = shell;
  const values = new ShownValues(
    () => channels,
    () => view,
  );
  const drive = (c: Channel, value: number) =>
    call('POST /api/record', { body: { do: 'output', channelId: c.id, value } }).catch((error) =>
      shell.say(faultText(error)),
    );
</script>

<div class="control">
  {#each channels.filter((c) => roleOf(c) === 'driven') as c (c.id)}
    {#if view.style === 'push'}
      <button
        class="push"
        onpointerdown={() => void drive(c, values.range(c).max)}
        onpointerup={() => void drive(c, c.settings.rest as number)}
        onpointerleave={(e) => e.buttons && void drive(c, c.settings.rest as number)}
        >{c.name}: hold for {values.range(c).max} {unitText(c)}</button
      >
    {:else}<DrivenControl channel={c} value={feed.value(c.id)} />{/if}
  {:else}<p class="muted">Choose a driven channel in the settings.</p>{/each}
</div>

<style>
  .control {
    padding: 0 var(--space-3);
  }
  .push {
    border: 1px solid var(--plum);
    color: var(--plum);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-3);
    width: 100%;
  }
  .push:active {
    background: var(--tint);
  }
</style>
