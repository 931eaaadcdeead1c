<!-- The figure of a study: lines over a shared axis, linear or logarithmic, with a reading under the pointer. -->
<script lang="ts">
  import { roundTicks, fixed, readingText } from '$core/readings';
  import type { Figure } from '$core/studies/study';
  import { traceColour, traceDash } from '$contract/palette';
  import { Chart } from './chart';
  import { PLOT_LEFT, PLOT_RIGHT, plotColours } from './strip-plot';

  type Props = { figure: Figure; night: boolean };
  let { figure, night }: Props = $props();

  let chart: Chart<'line'> | undefined;
  let at = $state<{ index: number; left: number } | null>(null);

  function attach(canvas: HTMLCanvasElement) {
    const colours = plotColours(canvas);
    const font = { family: 'JetBrains Mono Variable', size: 11.5 };
    const log = figure.y.scale === 'logarithmic';
    const highest = figure.series.reduce((m, s) => Math.max(m, s.x.at(-1) ?? 0), 0);
    const xTicks = roundTicks(0, highest, 8);
    const made = new Chart(canvas, {
      type: 'line',
      data: {
        datasets: figure.series.map((s, k) => ({
          data: s.x.map((x, i) => ({ x, y: log && !(s.y[i] > 0) ? NaN : s.y[i] })).slice(1),
          borderColor: traceColour(s.colour ?? k, night),
          borderDash: traceDash(s.colour ?? k),
          borderWidth: 1.25,
        })),
      },
      options: {
        animation: false,
        parsing: false,
        normalized: true,
        events: [],
        responsive: true,
        maintainAspectRatio: false,
        layout: { padding: { right: PLOT_RIGHT, top: 4 } },
        elements: { point: { radius: 0 }, line: { tension: 0 } },
        scales: {
          x: {
            type: 'linear',
            min: 0,
            max: highest,
            border: { display: false },
            grid: { color: colours.line, tickLength: 0 },
            ticks: {
              color: colours.text,
              font,
              callback: (v) => fixed(Number(v), xTicks.decimals),
              maxRotation: 0,
            },
            afterBuildTicks: (axis) => void (axis.ticks = xTicks.ticks.map((value) => ({ value }))),
          },
          y: {
            type: log ? 'logarithmic' : 'linear',
            border: { display: false },
            grid: { color: colours.line, tickLength: 0 },
            ticks: {
              color: colours.text,
              font,
              callback: (v) => (log ? power(Number(v)) : readingText(Number(v), { digits: 3 })),
            },
            afterFit: (axis) => void (axis.width = PLOT_LEFT),
            afterBuildTicks: (axis) => {
              if (!log) axis.ticks = roundTicks(axis.min, axis.max, 5).ticks.map((value) => ({ value }));
              else axis.ticks = decades(axis.min, axis.max).map((value) => ({ value }));
            },
          },
        },
      },
    });
    chart = made;
    return () => {
      made.destroy();
      chart = undefined;
    };
  }

  const power = (v: number) =>
    `10${[...String(Math.round(Math.log10(v)))].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)] ?? '⁻').join('')}`;
  function decades(min: number, max: number): number[] {
    const low = Math.ceil(Math.log10(min) - 1e-9);
    const high = Math.floor(Math.log10(max) + 1e-9);
    const step = Math.max(1, Math.ceil((high - low) / 6));
    return Array.from(
      { length: Math.max(0, Math.floor((high - low) / step) + 1) },
      (_, i) => 10 ** (low + i * step),
    );
  }

  function point(event: PointerEvent) {
    const scale = chart?.scales.x;
    const [first] = figure.series;
    if (!scale || !first) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const x = scale.getValueForPixel(event.clientX - box.left) ?? 0;
    const step = first.x[1] - first.x[0];
    const index = Math.round(x / step);
    at = index > 0 && index < first.x.length ? { index, left: scale.getPixelForValue(first.x[index]) } : null;
  }
</script>

<div class="figure">
  <div class="legend">
    {#each figure.series as s, k (s.name)}
      <span style:color={traceColour(s.colour ?? k, night)}><strong>{s.name}</strong></span>
      {#if at}<span class="mono">{readingText(s.y[at.index])}</span> <span class="muted">{s.unit}</span>{/if}
    {/each}
    <span class="muted aside"
      >{figure.y.unit}{#if at}<span class="mono"
          >&ensp;at {readingText(figure.series[0].x[at.index], { digits: 5 })} {figure.x.unit}</span
        >{/if}</span
    >
  </div>
  <div
    class="area"
    role="img"
    aria-label="{figure.title}: {figure.series.map((s) => s.name).join(', ')}"
    onpointermove={point}
    onpointerleave={() => (at = null)}
  >
    {#key `${night} ${figure.series.length}`}<canvas {@attach attach}></canvas>{/key}
    {#if at}<div class="line" style:left="{at.left}px"></div>{/if}
  </div>
  <div class="x muted">{figure.x.label}, {figure.x.unit}</div>
</div>

<style>
  .figure {
    display: flex;
    flex-direction: column;
    height: 100%;
    min-height: 0;
  }
  .legend {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 0 14px 2px 12px;
    font-size: 12.5px;
    flex-wrap: wrap;
  }
  .aside {
    margin-left: auto;
  }
  .area {
    position: relative;
    flex: 1;
    min-height: 0;
  }
  .line {
    position: absolute;
    top: 4px;
    bottom: 22px;
    width: 1px;
    background: var(--plum);
    pointer-events: none;
  }
  .x {
    text-align: right;
    font-size: 12px;
    padding: 0 14px;
  }
</style>
