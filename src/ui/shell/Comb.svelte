<!-- One tooth per channel: height is the share of its range; hatched open, notched near or over a limit, hollow not measured. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import type { Channel } from '$contract/channel';
  import type { LiveFeed } from '../live/feed.svelte';
  import { groupOf, liveText, rangeShare, unitText } from './reading';

  type Props = { channels: Channel[]; feed: LiveFeed };
  let { channels, feed }: Props = $props();

  const groups = $derived.by(() => {
    const byName: Record<string, Channel[]> = {};
    for (const c of channels) (byName[groupOf(c)] ??= []).push(c);
    return Object.entries(byName);
  });
  const width = $derived(channels.length > 60 ? 3 : channels.length > 30 ? 6 : 10);
  const named = (c: Channel) =>
    `${c.name}: ${feed.stateOf(c.id) === 'ok' ? '' : feed.stateOf(c.id) + ', '}${liveText(c, feed.value(c.id))} ${unitText(c)}`;
</script>

<div class="comb" role="list" aria-label="All channels">
  {#each groups as [group, members] (group)}
    <div class="group" style:gap={width < 6 ? '1px' : '2px'}>
      {#each members as channel (channel.id)}
        {@const state = feed.stateOf(channel.id)}
        <button
          class="tooth {state.replace(' ', '-')}"
          style:width="{width}px"
          title={named(channel)}
          aria-label={named(channel)}
          data-channel={channel.name}
          onclick={() => goto(resolve(`/channels#${channel.id}`))}
        >
          <span class="level" style:height="{Math.round(rangeShare(channel, feed.value(channel.id)) * 100)}%"
          ></span>
          {#if state === 'warning' || state === 'alarm'}<span class="notch"></span>{/if}
          {#if state === 'alarm'}<span class="notch second"></span>{/if}
        </button>
      {/each}
    </div>
  {/each}
</div>

<style>
  .comb {
    display: flex;
    gap: 9px;
    align-items: flex-end;
    overflow: hidden;
    min-width: 0;
    padding: 3px;
  }
  .group {
    display: flex;
  }
  .tooth {
    position: relative;
    height: 28px;
    background: color-mix(in srgb, var(--line) 65%, transparent);
    border-radius: 2px 2px 0 0;
    padding: 0;
    flex-shrink: 0;
    overflow: hidden;
  }
  .tooth:focus-visible {
    overflow: visible;
  }
  .level {
    position: absolute;
    inset: auto 0 0 0;
    background: var(--tooth);
  }
  .warning .level {
    background: var(--ochre-fill);
  }
  .alarm .level {
    background: var(--red);
  }
  .notch {
    position: absolute;
    top: 6px;
    right: 0;
    width: 60%;
    height: 2px;
    background: var(--paper);
  }
  .notch.second {
    top: 11px;
  }
  .open,
  .over-range {
    background: repeating-linear-gradient(45deg, var(--ink) 0 1px, transparent 1px 4px);
  }
  .open .level,
  .over-range .level,
  .lost .level,
  .not-measured .level {
    display: none;
  }
  .lost,
  .not-measured {
    background: none;
    box-shadow: inset 0 0 0 1px var(--line);
  }
</style>
