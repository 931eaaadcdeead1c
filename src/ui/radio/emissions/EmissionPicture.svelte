<!-- A look over its ranges: limits, what was read, suspects as pins that are chosen; the ranges stand below as a strip. -->
<script lang="ts">
  import { tickText } from '$core/emissions/picture';
  import type { EmissionSettings } from '$contract/radio-emissions';
  import { LEFT, canvasInk, RIGHT } from '../../plot/canvas';
  import { drawEmissions, type DrawnEmissions } from './emission-plot';

  type Props = {
    drawn: DrawnEmissions;
    ranges: EmissionSettings['ranges'];
    range: number;
    night: boolean;
    chooseRange: (k: number) => void;
    choose: (id: number | null) => void;
  };
  let { drawn, ranges, range, night, chooseRange, choose }: Props = $props();

  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  let heads: { id: number; x: number; y: number }[] = [];
  $effect(() => {
    void night;
    if (box.width > 0 && box.height > 0) heads = drawEmissions(canvas, drawn, canvasInk(canvas));
  });
  function pick(e: MouseEvent) {
    const near = heads.find((h) => Math.hypot(h.x - e.offsetX, h.y - e.offsetY) < 12);
    choose(near?.id ?? null);
  }
  /** Share of the axis at which a frequency stands. */
  const at = (mhz: number) => Math.log((mhz * 1e6) / drawn.fromHz) / Math.log(drawn.toHz / drawn.fromHz);
</script>

<div class="box" bind:clientWidth={box.width} bind:clientHeight={box.height}>
  <canvas bind:this={canvas} onclick={pick} aria-label="Levels over frequency, with limits and suspects"
  ></canvas>
</div>
<div class="strip" role="radiogroup" aria-label="Ranges" style:margin="0 {RIGHT}px 0 {LEFT}px">
  {#each ranges as r, k (k)}
    <button
      type="button"
      role="radio"
      aria-checked={k === range}
      aria-label="Range {k + 1}, {tickText(r.from * 1e6)} to {tickText(r.to * 1e6)} MHz"
      style:left="{100 * at(r.from)}%"
      style:width="calc({100 * (at(r.to) - at(r.from))}% - 2px)"
      onclick={() => chooseRange(k)}>{k + 1}</button
    >
  {/each}
</div>

<style>
  .box {
    position: relative;
    flex: 1;
    min-height: 120px;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
  .strip {
    position: relative;
    height: 16px;
    flex-shrink: 0;
  }
  .strip button {
    position: absolute;
    inset-block: 0;
    min-width: 4px;
    background: var(--stone);
    font-size: var(--type-fine);
    line-height: 16px;
    color: var(--muted);
    overflow: hidden;
  }
  .strip [aria-checked='true'] {
    background: var(--plum-fill);
    color: var(--on-fill);
    font-weight: 600;
  }
</style>
