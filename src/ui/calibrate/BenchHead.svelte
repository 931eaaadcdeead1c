<!-- Head of a channel's calibration: its name, how it is done, the other ways. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { Method } from '$contract/calibration-record';
  import { commonOf, type Channel } from '$contract/channel';
  import type { Snippet } from 'svelte';

  type Props = { channel: Channel; way: string; ways: Method[]; says: string; children?: Snippet };
  let { channel, way, ways, says, children }: Props = $props();

  const SLUG: Record<Method, string> = {
    'by points': 'points',
    'by sheet': 'sheet',
    'by shunt': 'shunt',
    'by reference tone': 'tone',
    'by comparison': 'comparison',
    'by chip': 'sheet',
  };
  const tabs = $derived([
    ...ways.map((w) => ({ slug: SLUG[w], name: w })),
    { slug: 'history', name: 'history' },
  ]);
</script>

<div class="page-head">
  <h1>{channel.name}</h1>
  <nav aria-label="Ways to prove it">
    {#each tabs as tab (tab.slug)}
      <a
        href={tab.slug === 'shunt'
          ? resolve(`/calibrate/bridges?only=${channel.id}`)
          : resolve(`/calibrate/${channel.id}?way=${tab.slug}`)}
        class:here={tab.slug === way}
        aria-current={tab.slug === way ? 'page' : undefined}>{tab.name}</a
      >
    {/each}
  </nav>
  <span class="aside"
    >{says}{#if channel.tare && way !== 'history'}
      Tared by {channel.tare}
      {commonOf(channel).unit}: left aside here, taken off when a calibration is accepted.{/if}</span
  >
  <div class="actions">{@render children?.()}</div>
</div>

<style>
  nav {
    display: flex;
    gap: var(--space-half);
    white-space: nowrap;
  }
  nav a {
    padding: var(--space-half) var(--space-2);
    border-radius: var(--radius);
    color: var(--muted);
    font-size: var(--type-small);
  }
  nav a:hover {
    background: var(--stone);
  }
  nav a.here {
    color: var(--plum);
    background: var(--tint);
    font-weight: 600;
  }
  h1 {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    max-width: 30ch;
  }
</style>
