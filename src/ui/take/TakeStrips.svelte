<!-- Stacked strips of a take over one time axis, fetched for the span and width that is shown. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import { traceColour } from '$contract/palette';
  import type { TakeSignal } from '$contract/take';
  import { faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import StripFrame from '../plot/StripFrame.svelte';
  import TimeAxis from '../plot/TimeAxis.svelte';
  import { StripPlot, plotColours } from '../plot/strip-plot';
  import { fetchWindow, type WindowPart } from './window';

  type Props = {
    takeId: string;
    /** Read by the conversions of the day of the take. */
    recorded?: boolean;
    signals: TakeSignal[];
    from: number;
    to: number;
    night: boolean;
    overlay?: Snippet;
    asides?: Record<number, string>;
  };
  let { takeId, recorded = false, signals, from, to, night, overlay, asides = {} }: Props = $props();

  let width = $state(0);
  let parts = $state.raw<WindowPart[]>([]);
  let fault = $state<FaultText | null>(null);
  let shown = $state.raw({ from: 0, to: 1 });

  $effect(() => {
    const ids = signals.map((s) => s.id);
    const [a, b, w] = [from, to, Math.max(100, Math.min(2000, Math.round(width - 72)))];
    if (!width || ids.length === 0) return;
    const abort = new AbortController();
    fetchWindow(takeId, ids, a, b, w, abort.signal, recorded)
      .then((got) => {
        parts = got;
        shown = { from: a, to: b };
        fault = null;
      })
      .catch((error) => {
        if (!abort.signal.aborted) fault = faultText(error);
      });
    return () => abort.abort();
  });

  const attach = (signal: TakeSignal) => (canvas: HTMLCanvasElement) => {
    const plot = new StripPlot(canvas, traceColour(signal.colour, night), plotColours(canvas));
    $effect(() => {
      const part = parts.find((p) => p.signal === signal.id);
      if (part) plot.draw(part.times, part.min, part.max, shown.from, shown.to);
    });
    return () => plot.destroy();
  };
</script>

<div class="stack" bind:clientWidth={width} data-shown="{shown.from} {shown.to}">
  {#if fault}<FaultNote {fault} />{/if}
  <div class="strips">
    {#each signals as signal (`${signal.id} ${night}`)}
      <StripFrame
        name={signal.name}
        unit={signal.unit === 'yes/no' ? '' : signal.unit}
        colour={signal.colour}
        {night}
        aside={asides[signal.id] ?? ''}
      >
        {#snippet canvas()}<canvas {@attach attach(signal)} aria-label="{signal.name} over the take"
          ></canvas>{/snippet}
      </StripFrame>
    {/each}
    {@render overlay?.()}
  </div>
  <TimeAxis from={shown.from} to={shown.to} />
</div>

<style>
  .stack {
    display: flex;
    flex-direction: column;
    height: 100%;
    min-height: 0;
  }
  .strips {
    position: relative;
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
</style>
