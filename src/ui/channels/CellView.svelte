<!-- One cell of the grid of channels as it is read: live value, share of the range, or a setting. -->
<script lang="ts">
  import { cellText } from '$contract/columns';
  import type { Channel } from '$contract/channel';
  import { STATE_SIGN, liveText, rangeShare, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import { calibrationText } from './calibration-text';

  type Props = { channel: Channel; column: string };
  let { channel, column }: Props = $props();
  const { feed } = useShell();
  const WIRING = ['open', 'over range', 'short', 'silent'];
  const live = $derived(column === 'now' || column === 'share');
  const state = $derived(live ? feed.stateOf(channel.id) : 'ok');
  const value = $derived(live ? feed.value(channel.id) : NaN);
</script>

{#if column === 'now'}
  {#if WIRING.includes(state) || state === 'lost'}<span class="red">{state}</span>
  {:else}<span class:red={state === 'alarm'}>{liveText(channel, value)}</span>
    <span class="muted">{unitText(channel)}</span>{/if}
{:else if column === 'share'}
  {#if WIRING.includes(state)}<span class="red">{STATE_SIGN[state]} check wiring</span>
  {:else}<span class="bar"><span class={state} style:width="{rangeShare(channel, value) * 100}%"></span></span
    >{#if state === 'warning' || state === 'alarm'}<span class="sign {state}">{STATE_SIGN[state]}</span
      >{/if}{/if}
{:else if column === 'calibration'}<span class="muted">{calibrationText(channel)}</span>
{:else}{@const text = cellText(channel, column)}<span title={text}>{text}</span>{/if}

<style>
  .red {
    color: var(--red);
  }
  .bar {
    display: inline-block;
    width: 74px;
    height: 7px;
    border-radius: calc(var(--radius) / 3);
    background: color-mix(in srgb, var(--line) 65%, transparent);
    overflow: hidden;
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--tooth);
  }
  .bar .warning {
    background: var(--ochre-fill);
  }
  .bar .alarm {
    background: var(--red);
  }
  .sign {
    margin-left: var(--space-1);
    font-size: var(--type-fine);
  }
  .sign.warning {
    color: var(--ochre);
  }
  .sign.alarm {
    color: var(--red);
  }
</style>
