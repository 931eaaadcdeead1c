<!-- Points with their line, or their distances against the band that is good. -->
<script lang="ts">
  import { IDENTITY, compileConversion, type Law } from '$core/conversion/conversion';
  import { fixed, roundTicks } from '$core/readings';
  import { traceColour } from '$contract/palette';

  type Props = {
    x: number[];
    y: number[];
    law: Law | null;
    band?: number;
    night: boolean;
  };
  let { x, y, law, band, night }: Props = $props();

  let width = $state(400);
  let height = $state(120);
  const LEFT = 50;
  const BOTTOM = 20;

  const view = $derived.by(() => {
    const xs = x.length ? x : [0, 1];
    const ys = [...(y.length ? y : band ? [] : [0, 1]), ...(band ? [-1.4 * band, 1.4 * band] : [])];
    const span = (v: number[]) => {
      const [low, high] = [Math.min(...v), Math.max(...v)];
      const margin = (high - low || 1) * 0.08;
      return { low: low - margin, high: high + margin };
    };
    const [h, v] = [span(xs), span(ys)];
    return {
      h,
      v,
      px: (value: number) => LEFT + ((value - h.low) / (h.high - h.low)) * (width - LEFT - 12),
      py: (value: number) => 4 + (1 - (value - v.low) / (v.high - v.low)) * (height - BOTTOM - 8),
      xTicks: roundTicks(h.low, h.high, 5),
      yTicks: roundTicks(v.low, v.high, height > 120 ? 4 : 3),
    };
  });

  /** The law over what is shown; a straight one needs its ends only. */
  const curve = $derived.by(() => {
    if (!law) return '';
    const n = law.kind === 'linear' ? 2 : 60;
    const xs = Array.from({ length: n }, (_, k) => view.h.low + (k * (view.h.high - view.h.low)) / (n - 1));
    const ys = new Float64Array(n);
    compileConversion({ ...IDENTITY, law })(xs, ys, n);
    return xs.map((v, k) => `${view.px(v)},${view.py(ys[k])}`).join(' ');
  });
</script>

<div class="box" bind:clientWidth={width} bind:clientHeight={height}>
  {#if x.length > 0}<svg {width} {height} role="img" aria-label="{x.length} points">
      {#if band}<rect
          x={LEFT}
          width={width - LEFT - 12}
          y={view.py(band)}
          height={view.py(-band) - view.py(band)}
          class="band"
        />{/if}
      {#each view.yTicks.ticks as tick (tick)}
        <line x1={LEFT} x2={width - 12} y1={view.py(tick)} y2={view.py(tick)} class="grid" />
        <text x={LEFT - 6} y={view.py(tick) + 4} text-anchor="end">{fixed(tick, view.yTicks.decimals)}</text>
      {/each}
      {#each view.xTicks.ticks as tick (tick)}<text x={view.px(tick)} y={height - 5} text-anchor="middle"
          >{fixed(tick, view.xTicks.decimals)}</text
        >{/each}
      {#if curve}<polyline
          points={curve}
          fill="none"
          stroke={traceColour(0, night)}
          stroke-width="1.4"
        />{/if}
      {#each y as value, i (i)}
        {#if band && Math.abs(value) > band}
          <rect
            x={view.px(x[i]) - 5}
            y={view.py(value) - 5}
            width="10"
            height="10"
            transform="rotate(45 {view.px(x[i])} {view.py(value)})"
            class="off"
          />
        {:else}
          <circle cx={view.px(x[i])} cy={view.py(value)} r="4" fill={traceColour(0, night)} />
        {/if}
      {/each}
    </svg>{:else}<p class="muted">Points appear here as they are measured.</p>{/if}
</div>

<style>
  .box {
    flex: 1;
    min-height: 0;
    overflow: hidden;
  }
  svg {
    display: block;
  }
  text {
    font-family: var(--font-mono);
    font-size: 11.5px;
    fill: var(--muted);
  }
  .grid {
    stroke: var(--hair);
  }
  .band {
    fill: var(--moss-tint);
  }
  .off {
    fill: var(--card);
    stroke: var(--ochre-fill);
    stroke-width: 2;
  }
</style>
