<!-- Under the drawings: the window as it is typed, the way back and forward, what cursors stick to. -->
<script lang="ts">
  import { momentOf } from '$core/figures/clock';
  import FloatBox from '../kit/FloatBox.svelte';
  import { parseNumber } from '../sentence/options';
  import type { Inspection } from './inspection.svelte';

  type Props = { insp: Inspection; write: () => void; series: boolean; onseries: () => void };
  let { insp, write, series, onseries }: Props = $props();

  const digits = $derived(
    Math.min(insp.digits, Math.max(1, Math.ceil(Math.log10(2000 / (insp.window[1] - insp.window[0]))))),
  );
  let anchor = $state<HTMLElement | null>(null);
  let [from, to, fault] = $state(['', '', '']);
  const isWhole = $derived(insp.window.join() === insp.whole.join());
  const SNAPS = ['nothing', 'peaks', 'valleys', 'crossings'] as const;

  function open(at: HTMLElement) {
    anchor = at;
    [from, to] = insp.window.map((s) => String(Number(s.toFixed(insp.digits))));
    fault = '';
  }
  /** Seconds, or a time such as 4:12.5. */
  function seconds(text: string): number {
    const parts = text.trim().split(':');
    if (parts.length > 3) return NaN;
    const sign = parts[0].startsWith('-') || parts[0].startsWith('−') ? -1 : 1;
    const total = parts.reduce(
      (sum, part, k) => sum * 60 + (k === 0 ? Math.abs(parseNumber(part)) : parseNumber(part)),
      0,
    );
    return sign * total;
  }
  function take() {
    const [a, b] = [seconds(from), seconds(to)];
    if (Number.isNaN(a) || Number.isNaN(b)) return void (fault = 'Give seconds, or times such as 4:12.5.');
    if (b <= a) return void (fault = 'The end has to come after the beginning.');
    insp.look(a, b);
    anchor?.focus();
    anchor = null;
  }
</script>

<div class="bar">
  <button class="dotted" disabled={!insp.canGoBack} onclick={() => insp.back()}>back</button>
  <button class="dotted" disabled={!insp.canGoForward} onclick={() => insp.forward()}>forward</button>
  <button class="dotted" disabled={isWhole} onclick={() => insp.all()}
    >{insp.takes.length > 1 ? 'all' : 'whole take'}</button
  >
  <label class="snap"
    >stick to
    <select aria-label="Cursors stick to" bind:value={insp.snap}
      >{#each SNAPS as snap (snap)}<option>{snap}</option>{/each}</select
    ></label
  >
  <button class="dotted" title="At the cursor, or between both (N)" onclick={write}>note</button>
  <button class="dotted" aria-pressed={series} onclick={onseries}>series</button>
  <button
    class="mono dotted span"
    data-testid="span"
    title="Type the window"
    onclick={(e) => open(e.currentTarget)}
    >{momentOf(insp.scale, insp.window[0], digits, insp.window[1])} to {momentOf(
      insp.scale,
      insp.window[1],
      digits,
      insp.window[1],
    )}</button
  >
</div>
{#if anchor}
  <FloatBox {anchor} label="Window" close={() => (anchor = null)}>
    <form
      class="typed"
      onsubmit={(e) => {
        e.preventDefault();
        take();
      }}
    >
      <p>
        <input type="text" bind:value={from} aria-label="From" size="9" /> to
        <input type="text" bind:value={to} aria-label="To" size="9" /> s
        <button class="dotted">look</button>
      </p>
      <p class="muted">Counted as the drawing is, in seconds or as 4:12.5.</p>
      {#if fault}<p class="wrong" role="alert">◆ {fault}</p>{/if}
    </form>
  </FloatBox>
{/if}

<style>
  .bar {
    display: flex;
    gap: var(--space-2);
    padding: var(--space-1) var(--space-3) 0;
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
    align-items: center;
  }
  .bar button:disabled {
    opacity: 0.4;
  }
  .snap {
    color: var(--muted);
    flex-shrink: 0;
  }
  .snap select {
    font-size: var(--type-small);
    border: 0;
    background-color: transparent;
    padding: 0 var(--space-3) 0 0;
    background-position: right -6px center;
    field-sizing: content;
    color: var(--ink);
  }
  .span {
    margin-left: auto;
    font-weight: 500;
  }
  .typed input {
    font-family: var(--font-mono);
  }
  .typed p {
    margin: 0 0 var(--space-1);
  }
  .wrong {
    color: var(--red);
  }
</style>
