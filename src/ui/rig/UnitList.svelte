<!-- All units of the bench: name, kind, whether it answers, how many channels are on it. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { Channel } from '$contract/channel';
  import type { UnitState } from '$contract/unit';

  type Props = { units: UnitState[]; channels: Channel[]; chosen: string | null; across?: boolean };
  let { units, channels, chosen, across = false }: Props = $props();
  const counts = $derived.by(() => {
    const found: Record<string, number> = {};
    for (const c of channels) if (c.wire) found[c.wire.unit] = (found[c.wire.unit] ?? 0) + 1;
    return found;
  });
</script>

<nav class:card={!across} class:across aria-label="Units">
  {#each units as { description: d, answering } (d.serial)}
    <a
      href={resolve(`/rig/${d.serial}`)}
      aria-current={d.serial === chosen ? 'page' : undefined}
      title={d.name}
      data-serial={d.serial}
    >
      <strong>{d.name}</strong>
      <span class="muted"
        ><span class={answering ? 'well' : 'lost'}>{answering ? '●' : '◌ not answering'}</span>
        {counts[d.serial]
          ? `${counts[d.serial]} channel${counts[d.serial] > 1 ? 's' : ''}`
          : 'no channel'}</span
      >
    </a>
  {/each}
</nav>

<style>
  nav {
    display: flex;
    flex-direction: column;
    overflow: auto;
    padding: var(--space-1);
    align-self: start;
    max-height: 100%;
  }
  nav.across {
    flex-direction: row;
    padding: 0;
    margin-bottom: var(--space-2);
    gap: var(--space-1);
    flex-shrink: 0;
  }
  .across a {
    border: 1px solid var(--line);
    background: var(--card);
    min-width: 130px;
    padding: var(--space-1) var(--space-3);
  }
  .across a[aria-current='page'] {
    border-color: var(--plum);
  }
  a {
    padding: var(--space-1) var(--space-2);
    border-radius: var(--radius);
    line-height: 1.3;
    color: inherit;
  }
  a strong {
    display: block;
    font-weight: 600;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  a .muted {
    font-size: var(--type-small);
  }
  a:hover {
    background: var(--stone);
  }
  a[aria-current='page'] {
    background: var(--tint);
    color: var(--plum);
  }
  .well {
    color: var(--moss);
  }
  .lost {
    color: var(--red);
  }
</style>
