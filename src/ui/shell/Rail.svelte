<script lang="ts">
  import { page } from '$app/state';
  import { resolve } from '$app/paths';
  import {
    AdjustmentsHorizontalOutline,
    BookOpenOutline,
    ChartLineUpOutline,
    CodeOutline,
    ClipboardListOutline,
    FileLinesOutline,
    GridOutline,
    MapPinAltOutline,
    MoonOutline,
    HeadphonesOutline,
    RulerCombinedOutline,
    SearchOutline,
    SunOutline,
  } from 'flowbite-svelte-icons';

  export interface Place {
    path:
      | '/rig'
      | '/channels'
      | '/calibrate'
      | '/record'
      | '/inspect'
      | '/study'
      | '/report'
      | '/radio'
      | '/field'
      | '/logbook';
    name: string;
    says: string;
    urgent?: boolean;
  }
  type Props = { places: Place[]; night: boolean; ontheme: () => void };
  let { places, night, ontheme }: Props = $props();

  const ICONS = {
    '/rig': GridOutline,
    '/channels': AdjustmentsHorizontalOutline,
    '/calibrate': RulerCombinedOutline,
    '/record': ClipboardListOutline,
    '/inspect': SearchOutline,
    '/study': ChartLineUpOutline,
    '/report': FileLinesOutline,
    '/radio': HeadphonesOutline,
    '/field': MapPinAltOutline,
    '/logbook': BookOpenOutline,
  };
</script>

<nav aria-label="Places">
  {#each places as place (place.path)}
    {@const Icon = ICONS[place.path]}
    {@const here = page.url.pathname.startsWith(place.path)}
    {#if place.path === '/logbook' || place.path === '/radio'}<hr />{/if}
    <a href={resolve(place.path)} class:here aria-current={here ? 'page' : undefined} title={place.name}>
      <Icon class="icon h-5 w-5" />
      <span class="name">{place.name}</span>
      <span class="says" class:urgent={place.urgent}>{place.says}</span>
    </a>
  {/each}
  <a
    class="programs"
    href={resolve('/programs')}
    aria-current={page.url.pathname === '/programs' ? 'page' : undefined}
    title="For programs"
  >
    <CodeOutline class="h-4 w-4" />
    <span>For programs</span>
  </a>
  <button
    class="theme"
    onclick={ontheme}
    aria-label={night ? 'Day bench' : 'Night bench'}
    title={night ? 'Day bench' : 'Night bench'}
  >
    {#if night}<SunOutline class="h-4 w-4" />{:else}<MoonOutline class="h-4 w-4" />{/if}
    <span>{night ? 'Day bench' : 'Night bench'}</span>
  </button>
</nav>

<style>
  nav {
    width: 184px;
    background: var(--stone);
    border-right: 1px solid var(--line);
    display: flex;
    flex-direction: column;
    padding: var(--space-3) 0;
    flex-shrink: 0;
    box-sizing: border-box;
    overflow-y: auto;
  }
  a {
    display: block;
    padding: var(--space-1) var(--space-3) var(--space-1) var(--space-4);
    border-left: 4px solid transparent;
    border-block: 1px solid transparent;
    line-height: 1.35;
  }
  a:hover {
    background: color-mix(in srgb, var(--paper) 60%, transparent);
  }
  a.here {
    background: var(--paper);
    border-left-color: var(--plum);
    border-block-color: var(--line);
  }
  a.here .name {
    color: var(--plum);
  }
  nav :global(.icon) {
    display: none;
  }
  .name {
    display: block;
    font-weight: 650;
  }
  .says {
    display: block;
    font-size: var(--type-small);
    color: var(--muted);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .says.urgent {
    color: var(--ochre);
  }
  hr {
    border: 0;
    border-top: 1px solid var(--line);
    margin: var(--space-2) var(--space-3);
  }
  .programs {
    margin-top: auto;
  }
  .programs,
  .theme {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    padding: var(--space-1) var(--space-3) var(--space-1) var(--space-5);
    border-left: 0;
    color: var(--muted);
    font-size: var(--type-small);
    text-align: left;
  }
  @media (max-width: 1100px) {
    nav {
      width: 52px;
    }
    nav :global(.icon) {
      display: block;
    }
    .name,
    .says,
    .programs span,
    .theme span {
      display: none;
    }
    a {
      padding: var(--space-2) var(--space-3);
    }
    .programs,
    .theme {
      padding: var(--space-1) var(--space-4);
    }
  }
</style>
