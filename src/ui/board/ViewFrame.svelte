<!-- One view on its board: its head by which it is dragged, and what it shows. -->
<script lang="ts">
  import type { View } from '$contract/board';
  import { nameColour } from '$contract/palette';
  import type { Channel } from '$contract/channel';
  import type { Look } from '$contract/live';
  import { useShell } from '../shell/shell.svelte';
  import { unitText } from '../shell/reading';
  import { boardView, needsOf } from './views/registry';

  type Props = {
    view: View;
    channels: Channel[];
    all: Channel[];
    change: (edit: Partial<View>) => void;
    settings: () => void;
  };
  let { view, channels, all, change, settings }: Props = $props();
  const shell = useShell();

  const first = $derived(channels[0]);
  const kind = $derived(boardView(view.kind));
  const kindTitle = $derived(kind?.title ?? view.kind);
  const alone = $derived(kind?.channels === 'one' && first);
  const title = $derived(view.title || (channels.length === 1 ? first.name : kindTitle));
  /** Arrow keys step a view of one channel through the list. */
  function step(event: KeyboardEvent) {
    if (event.target !== event.currentTarget || channels.length !== 1) return;
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    const at = all.findIndex((c) => c.id === first.id);
    change({ channels: [all[(at + by + all.length) % all.length].id] });
  }
  function drop(event: DragEvent) {
    const id = event.dataTransfer?.getData('text/farrier-channel');
    if (!id || kind?.channels === 'none') return;
    event.preventDefault();
    event.stopPropagation();
    change({ channels: alone || view.channels.includes(id) ? [id] : [...view.channels, id] });
  }
  const bare = $derived(kind?.namesItself);
  // As text: what stays the same is not asked for anew. Channels that are gone are not asked for.
  const needs = $derived(JSON.stringify(needsOf({ ...view, channels: channels.map((c) => c.id) })));
  $effect(() => {
    const { strips, waves } = JSON.parse(needs) as Look;
    return shell.feed.watch(strips, waves);
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<section
  class="view"
  aria-label="{kindTitle}: {title}"
  data-kind={view.kind}
  tabindex="0"
  onkeydown={step}
  ondragover={(e) => e.preventDefault()}
  ondrop={drop}
>
  <header class="view-head" class:bare>
    <strong style:color={alone && !view.title ? nameColour(first.colour, shell.night) : undefined}
      >{bare && !view.title ? '' : title}</strong
    >
    {#if alone && !kind?.unitItself}<span class="muted">{unitText(first)}</span>{/if}
    <button class="gear" onclick={settings} aria-label="Settings of {title}" title="Settings">···</button>
  </header>
  {#if !kind}<p class="muted hint">A view that this version does not know. What it holds is kept.</p>
  {:else if first || kind.standsAlone}<kind.shows {view} {channels} {change} />
  {:else}<p class="muted hint">Choose a channel in the settings, or drop one here.</p>{/if}
</section>

<style>
  .view {
    display: flex;
    flex-direction: column;
    height: 100%;
    min-height: 0;
    position: relative;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    overflow: hidden;
  }
  .view-head {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    padding: var(--space-1) var(--space-2) 1px var(--space-3);
    font-size: var(--type-small);
    cursor: grab;
    white-space: nowrap;
    overflow: hidden;
    flex-shrink: 0;
  }
  .view-head.bare {
    position: absolute;
    inset: 0 0 auto auto;
    z-index: 2;
    left: 40%;
    padding-top: 0;
  }
  strong {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .hint {
    padding: 0 var(--space-3);
    margin: 0;
  }
  .gear {
    margin-left: auto;
    color: var(--muted);
    letter-spacing: 1px;
    opacity: 0;
    padding: 0 var(--space-half);
  }
  .view:hover .gear,
  .view:focus-within .gear,
  .gear:focus-visible {
    opacity: 1;
  }
</style>
