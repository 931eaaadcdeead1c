<!-- One picture of a capture; what it shows is chosen at its head. -->
<script lang="ts">
  import type { ModulationRead } from '$core/modulation/read';
  import { traceColour } from '$contract/palette';
  import { canvasInk } from '../../plot/canvas';
  import PictureHead from '../PictureHead.svelte';
  import SymbolTable from './SymbolTable.svelte';
  import { drawRead, READ_PICTURES, type ReadPicture } from './read-plots';

  type Props = {
    shows: ReadPicture;
    read: ModulationRead | null;
    symbolHz: number;
    night: boolean;
    choose: (shows: ReadPicture) => void;
    remove: () => void;
  };
  let { shows, read, symbolHz, night, choose, remove }: Props = $props();
  const says = $derived(
    shows === 'eye' && Number.isFinite(read?.numbers.deviationHz)
      ? 'of the frequency, two symbols long; ±1 is the deviation'
      : READ_PICTURES[shows].says,
  );
  let canvas: HTMLCanvasElement | undefined = $state();
  let box = $state({ width: 0, height: 0 });
  $effect(() => {
    if (!canvas || !read || shows === 'table' || box.width === 0 || box.height === 0) return;
    const colour = (k: number) => traceColour(k, night);
    drawRead(canvas, shows, read, symbolHz, {
      ink: canvasInk(canvas),
      front: colour(0),
      second: colour(3),
      third: colour(2),
    });
  });
</script>

<section class="card" aria-label={READ_PICTURES[shows].name}>
  <PictureHead kinds={READ_PICTURES} {shows} {says} choose={(k) => choose(k as ReadPicture)} {remove}>
    {#if shows === 'path' && read?.path?.after}
      <span class="two"
        ><span style:color={traceColour(3, night)}>before</span>
        <span style:color={traceColour(0, night)}>after</span></span
      >
    {/if}
  </PictureHead>
  {#if shows === 'table' && read}
    <SymbolTable {read} />
  {:else}
    <div class="box" bind:clientWidth={box.width} bind:clientHeight={box.height}>
      <canvas bind:this={canvas}></canvas>
    </div>
  {/if}
</section>

<style>
  .card {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
    padding: var(--space-2) var(--space-1);
  }
  .two {
    display: flex;
    gap: var(--space-2);
    font-weight: 600;
  }
  .box {
    position: relative;
    flex: 1;
    min-height: 0;
  }
  canvas {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
  }
</style>
