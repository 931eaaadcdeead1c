<!-- The peaks of a line and the pins on it: what each reads, how far it is from the first, and by what a peak is one. -->
<script lang="ts">
  import { NO_NAMES } from '$core/sentence/sentence';
  import { PINS_MOST, harmonicsOf, listPeaks, readPin, type HeardLine } from '$core/radio/measure';
  import { hertzText, megahertzDecimals } from '$core/radio/words';
  import { fixed } from '$core/readings';
  import { PEAKS, type Measuring } from '$contract/radio-measuring';
  import type { HeardBand } from '$contract/radio';
  import SentenceView from '../sentence/SentenceView.svelte';

  type Props = {
    line: HeardLine | null;
    measuring: Measuring;
    chosen: number;
    counted: HeardBand['counted'];
    change: (own: Partial<Measuring>) => Promise<unknown>;
    choose: (pin: number) => void;
    said: (says: string) => void;
  };
  let { line, measuring, chosen, counted, change, choose, said }: Props = $props();

  const pins = $derived(line ? measuring.pins.flatMap((p) => ({ pin: p, reads: readPin(line, p) })) : []);
  const to = $derived(pins.find((p) => p.pin.id === measuring.to)?.reads ?? null);
  const peaks = $derived(line ? listPeaks(line, measuring) : []);
  const decimals = $derived(line ? megahertzDecimals(line.stepHz) : 3);
  const free = $derived(
    peaks.filter((p) => !pins.some((q) => q.reads && Math.abs(q.reads.hz - p.hz) < line!.stepHz * 1.5)),
  );
  const mhz = (hz: number) => fixed(hz / 1e6, decimals);
  const own = $derived(pins.find((p) => p.pin.id === chosen));

  const harmonics = $derived(line && own?.reads ? harmonicsOf(line, own.reads.hz) : []);

  /** A pin more, on a peak. */
  function pin(hz: number) {
    const ids = measuring.pins.map((p) => p.id);
    const id = Array.from({ length: PINS_MOST }, (_, k) => k + 1).find((k) => !ids.includes(k));
    if (id === undefined) return;
    void change({ pins: [...measuring.pins, { id, hz, follows: true }].sort((a, b) => a.id - b.id) });
    choose(id);
  }
  const alter = (id: number, what: object) =>
    change({ pins: measuring.pins.map((p) => (p.id === id ? { ...p, ...what } : p)) });
  const takeAway = (id: number) => change({ pins: measuring.pins.filter((p) => p.id !== id) });

  /** The list as it goes into a spreadsheet: MHz and dBm, tabs between. */
  export async function copy() {
    const rows = [['MHz', 'dBm'], ...peaks.map((p) => [(p.hz / 1e6).toFixed(decimals), p.level.toFixed(2)])];
    await navigator.clipboard.writeText(rows.map((r) => r.join('\t')).join('\n'));
    said(`${peaks.length} peaks were copied.`);
  }
</script>

<section class="card" aria-label="Peaks">
  <header>
    <h2>Peaks</h2>
    <button
      type="button"
      class="quiet"
      onclick={() => void copy()}
      disabled={peaks.length === 0}
      title="Copy the peaks for a spreadsheet (C)">copy</button
    >
  </header>
  <div class="list">
    <table class="plain">
      <thead
        ><tr
          ><th></th><th class="num">MHz</th><th class="num">dBm</th><th class="num">to {measuring.to}</th></tr
        ></thead
      >
      <tbody>
        {#each pins as { pin: p, reads } (p.id)}
          <tr class:here={p.id === chosen}>
            <td
              ><button
                type="button"
                class="pin"
                class:first={p.id === measuring.to}
                aria-label="Pin {p.id}"
                aria-pressed={p.id === chosen}
                onclick={() => choose(p.id)}>{p.id}</button
              ></td
            >
            <td class="num">{reads ? mhz(reads.hz) : 'outside'}</td>
            <td class="num" title={reads?.expandedDb ? `± ${reads.expandedDb.toFixed(1)} dB` : undefined}
              >{reads ? fixed(reads.level, 1) : ''}</td
            >
            <td class="num">{reads && to && p.id !== measuring.to ? fixed(reads.level - to.level, 1) : ''}</td
            >
          </tr>
        {/each}
        {#each free as p (p.line)}
          <tr class="free">
            <td
              ><button
                type="button"
                class="pin add"
                aria-label="Pin on {mhz(p.hz)} MHz"
                onclick={() => pin(p.hz)}>+</button
              ></td
            >
            <td class="num">{mhz(p.hz)}</td>
            <td class="num">{fixed(p.level, 1)}</td>
            <td class="num">{to ? fixed(p.level - to.level, 1) : ''}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
  <p class="muted">
    {peaks.length === 0 ? 'No peak' : peaks.length === 1 ? '1 peak' : `${peaks.length} peaks`}
    <SentenceView
      sentence={PEAKS}
      size="small"
      value={measuring}
      names={NO_NAMES}
      change={(key, value) => change({ [key]: value })}
    />
  </p>
  {#if own?.reads}
    {@const r = own.reads}
    <p class="own muted" title="As noise: {fixed(own.reads.density, 1)} dBm/Hz">
      Pin {own.pin.id}: {mhz(r.hz)} MHz{r.expandedHz !== null ? ` ± ${hertzText(r.expandedHz)}` : ''}, {fixed(
        r.level,
        1,
      )} dBm{r.expandedDb !== null ? ` ± ${fixed(r.expandedDb, 1)} dB` : ''}.
      <button
        type="button"
        class="dotted"
        onclick={() => void alter(own.pin.id, { follows: !own.pin.follows })}
        >{own.pin.follows ? 'follows its peak' : 'stays where it is'}</button
      >
      {#if own.pin.id === measuring.to}
        <button type="button" class="dotted" onclick={() => void change({ counts: !measuring.counts })}
          >{measuring.counts
            ? counted
              ? `counted ${fixed(counted.hz, 0)} Hz ± ${hertzText(counted.expandedHz)}`
              : 'being counted'
            : 'count it'}</button
        >
      {/if}
      {#if own.pin.id !== measuring.to}<button
          type="button"
          class="dotted"
          onclick={() => void change({ to: own.pin.id })}>compare to it</button
        >{/if}
      <button type="button" class="dotted" onclick={() => void takeAway(own.pin.id)}>take away</button>
      {#if harmonics.length}<span
          >Harmonics: {harmonics
            .map((h) => `${h.order} at ${fixed(h.level - own.reads!.level, 1)} dB`)
            .join(', ')}.</span
        >{/if}
    </p>
  {/if}
</section>

<style>
  section {
    padding: var(--space-2) var(--space-3);
  }
  p .dotted {
    font-size: var(--type-small);
  }
  /* Four rows where the page is low, more where there is room. */
  .list {
    max-height: max(112px, calc(100vh - 690px));
    overflow: auto;
    scrollbar-width: thin;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  .quiet {
    color: var(--muted);
    font-size: var(--type-small);
  }
  .quiet:hover {
    color: var(--plum);
  }
  p {
    font-size: var(--type-small);
    margin-top: var(--space-1);
    line-height: 1.4;
  }
  table.plain :is(td, th) {
    padding-block: 0;
    line-height: 22px;
  }
  tr.here td {
    background: var(--tint);
  }
  .free {
    color: var(--muted);
  }
  .pin {
    width: 18px;
    height: 18px;
    border-radius: 50%;
    background: var(--ink);
    color: var(--card);
    font-size: var(--type-fine);
    font-weight: 600;
    line-height: 18px;
  }
  .pin.first {
    background: var(--plum-fill);
    color: var(--on-fill);
  }
  .pin.add {
    background: none;
    color: var(--muted);
    border: 1px solid var(--line);
    line-height: 16px;
  }
</style>
