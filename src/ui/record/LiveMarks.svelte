<!-- What happened, along the moving time axis. -->
<script lang="ts">
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
  const shown = $derived(
    feed.notes.filter((n) => n.kind in TOLD && n.atMs > nowMs - spanMs && n.atMs <= nowMs),
  );
</script>

<div class="marks" style:left="{PLOT_LEFT}px" style:right="{PLOT_RIGHT}px">
  {#each shown as note (`${note.atMs} ${note.says}`)}
    <div
      class="mark"
      class:faint={note.kind === 'limit'}
      style:left="{(1 - (nowMs - note.atMs) / spanMs) * 100}%"
      title={note.says}
    >
      <span>{TOLD[note.kind] || note.says}</span>
    </div>
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
  .mark.faint span {
    display: none;
  }
  span {
    position: absolute;
    bottom: 2px;
    left: 3px;
    font-size: 11.5px;
    white-space: nowrap;
  }
</style>
