<!-- Slope over the years: each calibration's deviation from the last one, with its uncertainty. -->
<script lang="ts">
  import { dayText } from '$core/readings';
  import type { Figure } from '$core/figures/figure';
  import { uncertaintyAt } from '$core/uncertainty/budget';
  import type { Calibration } from '$contract/channel';
  import FigureView from '../plot/FigureView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { history: Calibration[]; at: number; now?: { slope: number } | null; height?: number };
  let { history, at, now = null, height = 92 }: Props = $props();
  const shell = useShell();
  const DAY = 86_400_000;

  const points = $derived([
    ...history
      .filter((c) => c.slope !== 0 && (c.applies || c.method === 'by sheet'))
      .map((c) => ({
        at: c.at,
        slope: c.slope,
        share: c.budget.length ? uncertaintyAt(c.budget, at).expanded / Math.abs(at || 1) : 0,
      }))
      .reverse(),
    ...(now ? [{ at: Date.now(), slope: now.slope, share: 0 }] : []),
  ]);
  const figure = $derived.by((): Figure => {
    const base = points[points.length - 1]?.slope ?? 1;
    const x = points.map((p) => p.at);
    const y = points.map((p) => (100 * (p.slope - base)) / base);
    const reach = points.map((p) => 100 * p.share);
    const most = Math.max(0.02, ...y.map((v, i) => Math.abs(v) + reach[i])) * 1.15;
    const span = Math.max(x[x.length - 1] - x[0], DAY);
    return {
      title: `Slope of ${points.length} calibrations`,
      x: { label: 'Day', unit: '', scale: 'calendar', min: x[0] - span * 0.06, max: x[0] + span * 1.06 },
      y: { label: 'From the last', unit: '%', scale: 'linear', min: -most, max: most },
      marks: [
        { mark: 'line', name: 'slope', unit: '%', x, y, tone: 'accent' },
        { mark: 'points', name: 'calibrations', x, y, reach, tone: 'accent' },
      ],
    };
  });
  const said = $derived(
    points
      .map((p) => `${dayText(new Date(p.at).toISOString().slice(0, 10))}: ${p.slope.toPrecision(6)}`)
      .join(', '),
  );
</script>

<div style:height="{height + 38}px" class="box" title={said}>
  {#if points.length > 1}
    <p class="muted">% from the last one, with its uncertainty</p>
    <FigureView {figure} night={shell.night} bare zoomable={false} />
  {:else}<p class="muted">It shows from the second calibration on.</p>{/if}
</div>

<style>
  .box {
    display: flex;
    flex-direction: column;
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
</style>
