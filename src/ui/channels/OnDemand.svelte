<!-- Reads a channel on demand: one sample, or so many, with their mean and spread. -->
<script lang="ts">
  import { readingText } from '$core/readings';
  import type { Channel } from '$contract/channel';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { parseNumber } from '../sentence/options';
  import { unitText } from '../shell/reading';

  type Props = { channel: Channel };
  let { channel }: Props = $props();
  let samples = $state('100');
  let busy = $state(false);
  let fault = $state<FaultText | null>(null);
  let said = $state<{
    mean: number;
    spread: number;
    min: number;
    max: number;
    n: number;
    rateHz: number;
  } | null>(null);

  async function read() {
    busy = true;
    fault = null;
    try {
      const [{ values, rateHz }] = await call('POST /api/channels/read', {
        body: {
          channelIds: [channel.id],
          samples: parseNumber(samples),
        },
      });
      const good = values.filter((v): v is number => v !== null && Number.isFinite(v));
      const mean = good.reduce((s, v) => s + v, 0) / good.length;
      const spread = Math.sqrt(good.reduce((s, v) => s + (v - mean) ** 2, 0) / Math.max(1, good.length - 1));
      said = { mean, spread, min: Math.min(...good), max: Math.max(...good), n: good.length, rateHz };
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<form
  onsubmit={(e) => {
    e.preventDefault();
    void read();
  }}
>
  <button class="dotted" type="submit" disabled={busy}>{busy ? 'reading…' : 'Read'}</button>
  <input class="mono" bind:value={samples} aria-label="Samples" size="6" /> samples now
</form>
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if said}
  <p class="mono" data-testid="on-demand">
    {readingText(said.mean, { uncertainty: said.spread / Math.sqrt(said.n) || undefined })}
    {unitText(channel)} <span class="muted">mean of {said.n} at {said.rateHz} S/s,</span>
    {readingText(said.spread, { digits: 2 })} <span class="muted">std,</span>
    {readingText(said.min)} <span class="muted">to</span>
    {readingText(said.max)}
  </p>
{/if}

<style>
  form {
    font-size: var(--type-small);
    display: flex;
    gap: var(--space-1);
    align-items: center;
  }
  input {
    width: 62px;
    padding: 0 var(--space-1);
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
</style>
