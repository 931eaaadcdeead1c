<!-- Slope over the years: each calibration's deviation from the last one, with its uncertainty. -->
<script lang="ts">
  import { fixed } from '$core/readings';
  import { uncertaintyAt } from '$core/uncertainty/budget';
  import type { Calibration } from '$contract/channel';

  type Props = { history: Calibration[]; at: number; now?: { slope: number } | null; height?: number };
  let { history, at, now = null, height = 92 }: Props = $props();
  let width = $state(250);
  const DAY = 86_400_000;

  const shown = $derived(
    history
      .filter((c) => c.slope !== 0 && (c.applies || c.method === 'by sheet'))
      .map((c) => ({
        at: c.at,
        slope: c.slope,
        share: c.budget.length ? uncertaintyAt(c.budget, at).expanded / Math.abs(at || 1) : 0,
        name: new Date(c.at).toISOString().slice(0, 10),
      }))
      .reverse(),
  );
  const points = $derived([
    ...shown,
    ...(now ? [{ at: Date.now(), slope: now.slope, share: 0, name: 'now' }] : []),
  ]);
  const view = $derived.by(() => {
    const base = points[points.length - 1]?.slope ?? 1;
    const rows = points.map((p) => ({ ...p, y: (100 * (p.slope - base)) / base }));
    const most = Math.max(0.02, ...rows.map((r) => Math.abs(r.y) + 100 * r.share)) * 1.15;
    const [first, last] = [rows[0]?.at ?? 0, rows[rows.length - 1]?.at ?? 1];
    const span = Math.max(last - first, DAY);
    return {
      most,
      rows: rows.map((r) => ({
        ...r,
        px: 66 + ((r.at - first) / span) * (width - 82),
        py: (height - 18) / 2 - (r.y / most) * ((height - 24) / 2),
        bar: (100 * r.share * ((height - 24) / 2)) / most,
      })),
    };
  });
</script>

<div bind:clientWidth={width}>
  {#if points.length > 1}
    <svg {width} {height} role="img" aria-label="Slope of {points.length} calibrations">
      <line x1="62" x2={width - 8} y1={(height - 18) / 2} y2={(height - 18) / 2} class="grid" />
      <text x="58" y="12" text-anchor="end">+{fixed(view.most, 2)} %</text>
      <text x="58" y={height - 20} text-anchor="end">−{fixed(view.most, 2)} %</text>
      <polyline points={view.rows.map((r) => `${r.px},${r.py}`).join(' ')} />
      {#each view.rows as r, i (i)}
        <line x1={r.px} x2={r.px} y1={r.py - r.bar} y2={r.py + r.bar} class="bar" />
        <circle cx={r.px} cy={r.py} r="3.5"><title>{r.name}: {r.slope.toPrecision(6)}</title></circle>
      {/each}
      <text x={view.rows[0].px} y={height - 3}>{view.rows[0].name.slice(0, 7)}</text>
      <text x={width - 8} y={height - 3} text-anchor="end">{view.rows.at(-1)!.name.slice(0, 7)}</text>
    </svg>
  {:else}<p class="muted">It shows from the second calibration on.</p>{/if}
</div>

<style>
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
  polyline {
    fill: none;
    stroke: var(--plum);
    stroke-width: 1.2;
  }
  circle {
    fill: var(--plum);
  }
  .bar {
    stroke: var(--tooth);
    stroke-width: 1.4;
  }
</style>
