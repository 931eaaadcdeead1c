<script lang="ts">
  import { canvasInk } from '../plot/canvas';
  import { drawPair, type DrawnPair } from './pair-plot';

  type Props = { drawn: Omit<DrawnPair, 'courses'> & { courses: { values: ArrayLike<number>; ink: 'plum' | 'ink' | 'muted' }[] }; label: string; caption?: string; night: boolean; step?: (by: number) => void }; // prettier-ignore
  let { drawn, label, caption, night, step }: Props = $props();
  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  $effect(() => {
    void [night, box.width, box.height];
    const ink = canvasInk(canvas);
    drawPair(canvas, { ...drawn, courses: drawn.courses.map((c) => ({ values: c.values, colour: ink[c.ink] })) }, ink); // prettier-ignore
  });
  function keys(e: KeyboardEvent) {
    const by = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[e.key];
    if (by === undefined || !step) return;
    e.preventDefault();
    step(by);
  }
</script>

{#snippet picture()}
  <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
  <div
    class="box"
    role="group"
    aria-label={label}
    tabindex={step ? 0 : -1}
    onkeydown={keys}
    bind:clientWidth={box.width}
    bind:clientHeight={box.height}
  >
    <canvas bind:this={canvas} aria-hidden="true"></canvas>
  </div>
{/snippet}
{#if caption}
  <div class="titled"><span aria-hidden="true">{caption}</span>{@render picture()}</div>
{:else}
  {@render picture()}
{/if}

<style>
  .box {
    position: relative;
    flex: 1;
    min-height: 60px;
  }
  .titled {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-width: 0;
    min-height: 0;
  }
  span {
    padding-inline: var(--space-2);
    font-size: var(--type-fine);
    line-height: 1.2;
    color: var(--muted);
    white-space: nowrap;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
</style>
