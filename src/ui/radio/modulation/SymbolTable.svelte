<!-- The symbols of a capture one under the other; of many only those that are looked at are drawn. -->
<script lang="ts">
  import type { ModulationRead } from '$core/modulation/read';

  type Props = { read: ModulationRead };
  let { read }: Props = $props();
  const ROW = 24;
  let at = $state(0);
  let high = $state(200);
  const first = $derived(Math.max(0, Math.floor(at / ROW) - 8));
  const shown = $derived(
    Array.from({ length: Math.max(0, Math.min(read.symbols.length - first, Math.ceil(high / ROW) + 16)) }, (_, i) => first + i), // prettier-ignore
  );
  const each = $derived(read.symbols.length ? Math.floor(read.bits.length / read.symbols.length) : 0);
  const signed = (v: number) => v.toFixed(3).replace('-', '−');
</script>

<div class="scroll" bind:clientHeight={high} onscroll={(e) => (at = e.currentTarget.scrollTop)}>
  <table class="plain" aria-label="Symbols">
    <thead>
      <tr
        ><th class="num">No.</th><th class="num">symbol</th><th>bits</th><th class="num">in phase</th><th
          class="num">in quadrature</th
        ><th class="num">error, %</th></tr
      >
    </thead>
    <tbody>
      {#if first > 0}<tr style:height="{first * ROW}px"></tr>{/if}
      {#each shown as k (k)}
        <tr>
          <td class="num">{k + 1}</td>
          <td class="num">{read.symbols[k]}</td>
          <td class="mono">{read.bits.slice(k * each, (k + 1) * each)}</td>
          <td class="num">{signed(read.received[2 * k])}</td>
          <td class="num">{signed(read.received[2 * k + 1])}</td>
          <td class="num">{read.errors[k].toFixed(1)}</td>
        </tr>
      {/each}
      {#if first + shown.length < read.symbols.length}<tr
          style:height="{(read.symbols.length - first - shown.length) * ROW}px"
        ></tr>{/if}
    </tbody>
  </table>
</div>

<style>
  .scroll {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  td {
    height: 24px;
    box-sizing: border-box;
    padding-block: 0;
    font-size: var(--type-small);
  }
</style>
