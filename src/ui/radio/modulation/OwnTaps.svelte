<!-- Taps of a receive filter of one’s own: typed or pasted, with how many there are to a symbol. -->
<script lang="ts">
  import { untrack } from 'svelte';

  type Props = { taps: number[]; each: number; change: (taps: number[], each: number) => void };
  let { taps, each, change }: Props = $props();
  let text = $state(untrack(() => taps.join('\n')));
  let perSymbol = $state(untrack(() => each));
  const read = $derived.by(() => {
    const words = text.split(/[\s;,]+/).filter(Boolean);
    const values = words.map((w) => Number(w.replace('−', '-')));
    const odd = values.findIndex((v) => !Number.isFinite(v));
    if (odd >= 0) return { fault: `“${words[odd]}” is no number.` };
    if (values.length < 2 || values.length > 2000) return { fault: 'Give 2 to 2000 taps.' };
    return values.every((v) => v === 0) ? { fault: 'All taps are 0.' } : values;
  });
</script>

<div class="taps">
  <textarea rows="8" aria-label="Taps, one after the other" bind:value={text}></textarea>
  <label
    >to a symbol <input class="plain" type="number" min="1" max="64" step="1" bind:value={perSymbol} /></label
  >
  <p class="muted">
    {Array.isArray(read)
      ? `${read.length} taps, ${((read.length - 1) / perSymbol).toFixed(1)} symbols long`
      : read.fault}
  </p>
  <button
    type="button"
    class="dotted"
    disabled={!Array.isArray(read) || !(perSymbol >= 1 && perSymbol <= 64)}
    onclick={() => Array.isArray(read) && change(read, Math.round(perSymbol))}>Filter by these</button
  >
</div>

<style>
  .taps {
    display: grid;
    gap: var(--space-2);
    font-size: var(--type-small);
    min-width: 200px;
  }
  textarea {
    font-family: var(--font-mono);
    font-size: var(--type-small);
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
  }
</style>
