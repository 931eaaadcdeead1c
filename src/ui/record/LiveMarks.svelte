<!-- What happened, along the moving time axis. -->
<script lang="ts">
  import { placeLabels } from '$core/layout/labels';
  import type { LiveFeed } from '../live/feed.svelte';
  import { PLOT_LEFT, PLOT_RIGHT } from '../plot/strip-plot';

  type Props = { feed: LiveFeed; spanMs: number; held: boolean };
  let { feed, spanMs, held }: Props = $props();

  const TOLD: Record<string, string> = {
    started: 'started',
    ended: 'ended',
    mark: '',
    rule: 'rule',
    armed: 'armed',
    limit: 'limit',
    unit: 'unit',
  };
  let nowMs = $state(0);
  $effect(() => {
    const now = feed.values?.timeMs ?? 0;
    if (!held) nowMs = now;
  });
  let width = $state(0);
  const inView = $derived(
    feed.notes.filter((n) => n.kind in TOLD && n.atMs > nowMs - spanMs && n.atMs <= nowMs),
  );
  const x = (atMs: number) => (1 - (nowMs - atMs) / spanMs) * width;
  const named = $derived(inView.filter((n) => n.kind !== 'limit').sort((a, b) => a.atMs - b.atMs));
  const places = $derived(
    placeLabels(
      named.map((n) => ({ x: x(n.atMs), text: TOLD[n.kind] || n.says })),
      width,
    ),
  );
</script>

<div class="marks" bind:clientWidth={width} style:left="{PLOT_LEFT}px" style:right="{PLOT_RIGHT}px">
  {#each inView as note, k (k)}
    <div
      class="mark"
      class:faint={note.kind === 'limit'}
      style:left="{x(note.atMs)}px"
      title={note.says}
    ></div>
  {/each}
  {#each places as { row, text, left }, k (k)}
    {#if text}<span
        class:left
        style:left="{x(named[k].atMs)}px"
        style:bottom="{2 + row * 15}px"
        title={named[k].says}>{text}</span
      >{/if}
  {/each}
</div>

<style>
  .marks {
    position: absolute;
    inset-block: 18px 0;
    pointer-events: none;
    overflow: hidden;
  }
  .mark {
    position: absolute;
    top: 0;
    bottom: 0;
    border-left: 1px dotted var(--ink);
  }
  .mark.faint {
    border-color: var(--line);
  }
  span {
    position: absolute;
    margin-left: var(--space-1);
    font-size: var(--type-fine);
    white-space: nowrap;
  }
  span.left {
    transform: translateX(calc(-100% - 8px));
  }
</style>
