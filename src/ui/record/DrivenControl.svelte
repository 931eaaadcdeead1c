<!-- Drives one output: a slider and a number over its range, or a switch. The value shown is the one read back; the rest value while nothing was sent yet. -->
<script lang="ts">
  import { commonOf, type Channel } from '$contract/channel';
  import { call, faultText, type FaultText } from '../api';
  import { parseNumber } from '../sentence/options';
  import { liveText, unitText } from '../shell/reading';

  type Props = { channel: Channel; value: number };
  let { channel, value }: Props = $props();

  let dragging = $state<number | null>(null);
  let fault = $state<FaultText | null>(null);
  const common = $derived(commonOf(channel));
  const at = $derived(dragging ?? (Number.isNaN(value) ? (channel.settings.rest as number) : value));

  async function drive(to: number) {
    try {
      await call('POST /api/record', { body: { do: 'output', channelId: channel.id, value: to } });
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<div class="driven">
  <span class="name">{channel.name}</span>
  {#if common.unit === 'yes/no'}
    <button
      role="switch"
      aria-checked={value > 0.5}
      aria-label={channel.name}
      onclick={() => void drive(value > 0.5 ? 0 : 1)}>{value > 0.5 ? 'on' : 'off'}</button
    >
  {:else}
    <input
      type="range"
      min={common.range.min}
      max={common.range.max}
      step={(common.range.max - common.range.min) / 100}
      value={at}
      aria-label={channel.name}
      oninput={(e) => ((dragging = Number(e.currentTarget.value)), void drive(dragging))}
      onchange={() => setTimeout(() => (dragging = null), 300)}
    />
    <input
      class="mono number"
      value={liveText(channel, at)}
      aria-label="{channel.name}, value"
      onchange={(e) => void drive(parseNumber(e.currentTarget.value))}
    />
    <span class="muted">{unitText(channel)}</span>
  {/if}
</div>
{#if fault}<p class="wrong" role="alert">◆ {fault.what} {fault.next ?? ''}</p>{/if}

<style>
  .driven {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    padding: var(--space-half) 0;
  }
  .name {
    flex: 1;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: var(--type-body);
  }
  input[type='range'] {
    width: 66px;
    accent-color: var(--plum-fill);
  }
  .number {
    width: 54px;
    font-size: var(--type-body);
    text-align: right;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: 1px var(--space-1);
  }
  button {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-3);
    background: var(--paper);
  }
  button[aria-checked='true'] {
    background: var(--tint);
    color: var(--plum);
    font-weight: 600;
  }
  .wrong {
    color: var(--red);
    font-size: var(--type-small);
    margin: var(--space-half) 0;
  }
</style>
