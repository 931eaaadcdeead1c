<!-- The stand-in's hands that move this channel, where it has any. -->
<script lang="ts">
  import { channelKind, type Channel } from '$contract/channel';
  import HandPanel from '../rig/HandPanel.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { channels: Channel[] };
  let { channels }: Props = $props();
  const { feed } = useShell();
  const units = $derived(
    feed.status.units
      .map((u) => u.description)
      .flatMap((unit) => {
        const own = channels.filter((c) => c.wire?.unit === unit.serial);
        const only = unit.controls
          .filter(
            (c) =>
              own.some((channel) => channel.wire!.terminal === c.terminal) ||
              own.some((channel) => channelKind(channel.kind).accepts.some((t) => c.moves?.includes(t))),
          )
          .map((c) => c.id);
        return only.length ? [{ unit, only }] : [];
      }),
  );
</script>

{#each units as { unit, only } (unit.serial)}
  <div class="hand">
    <h2>Hand at the rig</h2>
    <HandPanel {unit} {only} />
  </div>
{/each}

<style>
  .hand {
    margin-top: var(--space-3);
    border-top: 1px solid var(--line);
    padding-top: var(--space-2);
  }
  h2 {
    margin-bottom: var(--space-1);
  }
</style>
