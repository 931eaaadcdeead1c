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

  // One control for all teeth: they are too thin to hit one by one, and too many to step over.
  const ordered = $derived(groups.flatMap(([, members]) => members));
  let at = $state(0);
  let focused = $state(false);
  let comb: HTMLElement;
  const chosen = $derived(ordered[Math.min(at, ordered.length - 1)]);
  const idOf = (c: Channel) => `tooth-${c.id}`;
  const open = (c: Channel) => void goto(resolve(`/channels#${c.id}`));

  /** The tooth that is nearest to where somebody points. */
  function pointed(event: MouseEvent) {
    const teeth = [...comb.querySelectorAll<HTMLElement>('.tooth')];
    const off = (tooth: HTMLElement) => {
      const { left, right } = tooth.getBoundingClientRect();
      return Math.abs(event.clientX - (left + right) / 2);
    };
    const nearest = teeth.reduce<HTMLElement | null>(
      (best, t) => (best && off(best) <= off(t) ? best : t),
      null,
    );
    const k = ordered.findIndex((c) => idOf(c) === nearest?.id);
    if (k < 0) return;
    at = k;
    open(ordered[k]);
  }
  function keys(event: KeyboardEvent) {
    const last = ordered.length - 1;
    const to: Record<string, number> = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: last };
    if (event.key === 'Enter' && chosen) open(chosen);
    else if (event.key in to) at = Math.max(0, Math.min(last, to[event.key]));
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="holder">
  <div
    class="comb"
    role="listbox"
    tabindex="0"
    aria-label="All channels"
    aria-activedescendant={chosen && idOf(chosen)}
    bind:this={comb}
    onclick={pointed}
    onkeydown={keys}
    onfocus={() => (focused = comb.matches(':focus-visible'))}
    onblur={() => (focused = false)}
  >
    {#each groups as [group, members] (group)}
      <div class="group" role="group" aria-label={group} style:gap={width < 6 ? '1px' : '2px'}>
        {#each members as channel (channel.id)}
          {@const state = feed.stateOf(channel.id)}
          <span
            class="tooth {state.replace(' ', '-')}"
            class:here={focused && channel === chosen}
            role="option"
            id={idOf(channel)}
            aria-selected={channel === chosen}
            aria-label={named(channel)}
            title={named(channel)}
            style:width="{width}px"
            data-channel={channel.name}
          >
            <span
              class="level"
              style:height="{Math.round(rangeShare(channel, feed.value(channel.id)) * 100)}%"
            ></span>
            {#if state === 'warning' || state === 'alarm'}<span class="notch"></span>{/if}
            {#if state === 'alarm'}<span class="notch second"></span>{/if}
          </span>
        {/each}
      </div>
    {/each}
  </div>
  {#if focused && chosen}<div class="said" aria-hidden="true">{named(chosen)}</div>{/if}
</div>

<style>
  .holder {
    position: relative;
    min-width: 0;
  }
  .said {
    position: absolute;
    top: calc(100% + 4px);
    left: 0;
    z-index: 50;
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-2);
    font-size: var(--type-small);
    white-space: nowrap;
  }
  .tooth.here {
    outline: 2px solid var(--plum);
    outline-offset: 1px;
  }
  .comb {
    display: flex;
    cursor: pointer;
    gap: var(--space-2);
    align-items: flex-end;
    overflow: hidden;
    min-width: 0;
    padding: var(--space-half);
  }
  .group {
    display: flex;
  }
  .tooth {
    position: relative;
    height: 28px;
    background: color-mix(in srgb, var(--line) 65%, transparent);
    border-radius: calc(var(--radius) / 3) calc(var(--radius) / 3) 0 0;
    padding: 0;
    flex-shrink: 0;
    overflow: hidden;
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
