<!-- The places of work of radio, as links. -->
<script lang="ts">
  import { page } from '$app/state';
  import { resolve } from '$app/paths';

  type Props = { take?: string | null };
  let { take = null }: Props = $props();
  const PLACES = [
    ['/radio', 'The band'],
    ['/radio/pulses', 'Pulses'],
    ['/radio/noise', 'Noise figure'],
    ['/radio/emissions', 'Emissions'],
    ['/radio/modulation', 'Modulation'],
  ] as const;
  const ofTakes = ['/radio', '/radio/pulses', '/radio/modulation'];
</script>

<nav class="places" aria-label="Places of radio">
  {#each PLACES as [path, name] (path)}
    {@const here = page.url.pathname === path}
    <a
      href={resolve(take && ofTakes.includes(path) ? `${path as '/radio'}?take=${take}` : path)}
      class:here
      aria-current={here ? 'page' : undefined}>{name}</a
    >
  {/each}
</nav>

<style>
  .places {
    display: flex;
    gap: var(--space-4);
    align-items: baseline;
    font-size: var(--type-small);
  }
  a {
    color: var(--muted);
    padding-block: var(--space-half);
    border-bottom: 2px solid transparent;
  }
  a:hover {
    color: var(--plum);
  }
  .here {
    color: var(--ink);
    font-weight: 600;
    border-bottom-color: var(--plum);
  }
</style>
