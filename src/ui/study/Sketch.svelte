<!-- A small drawing of what a kind of study brings. -->
<script lang="ts">
  import { traceColour } from '$contract/palette';
  import { useShell } from '../shell/shell.svelte';
  import type { Sketch } from '$core/studies/study';

  type Props = { sketch: Sketch };
  let { sketch }: Props = $props();
  const shell = useShell();
  const [W, H] = [110, 50];
  const x = (i: number, n: number) => 2 + (i / Math.max(1, n - 1)) * (W - 4);
  const y = (share: number) => H - 4 - share * (H - 10);
  const path = (heights: readonly number[]) =>
    heights.map((h, i) => `${i ? 'L' : 'M'}${x(i, heights.length).toFixed(1)} ${y(h).toFixed(1)}`).join('');
  const step = $derived((W - 4) / Math.max(1, sketch.bars?.length ?? 1));
  const cell = $derived((W - 4) / Math.max(1, sketch.heat?.[0]?.length ?? 1));
  const tall = $derived((H - 8) / Math.max(1, sketch.heat?.length ?? 1));
</script>

<svg viewBox="0 0 {W} {H}" width={W} height={H} aria-hidden="true">
  {#if sketch.behind}<path class="behind" d={path(sketch.behind)} />{/if}
  {#each sketch.heat ?? [] as row, k (k)}
    {#each row as share, i (i)}
      <rect
        class="heat"
        x={2 + i * cell}
        y={H - 4 - (k + 1) * tall}
        width={cell - 0.6}
        height={tall - 0.6}
        opacity={share}
      />
    {/each}
  {/each}
  {#each sketch.bars ?? [] as share, i (i)}
    <rect
      fill={traceColour(1, shell.night)}
      x={2 + i * step}
      y={y(share)}
      width={step - 2}
      height={H - 4 - y(share)}
    />
  {/each}
  {#each sketch.lines ?? [] as line, i (i)}<path class="line" class:second={i > 0} d={path(line)} />{/each}
  {#each sketch.points ?? [] as [px, py], i (i)}<circle cx={2 + px * (W - 4)} cy={y(py)} r="2.4" />{/each}
  {#if !sketch.heat}<path class="base" d="M2 {H - 3.5}H{W - 2}" />{/if}
</svg>

<style>
  svg {
    flex-shrink: 0;
    fill: none;
  }
  .line {
    stroke: var(--plum);
    stroke-width: 1.5;
  }
  .line.second {
    stroke-dasharray: 3 2.5;
  }
  .behind {
    stroke: var(--line);
    stroke-width: 1.2;
  }
  .heat,
  circle {
    fill: var(--plum);
  }
  .base {
    stroke: var(--line);
  }
</style>
