<!-- Points with their line, or their distances against the band that is good. -->
<script lang="ts">
  import { IDENTITY, compileConversion, type Law } from '$core/conversion/conversion';
  import type { Figure, Mark } from '$core/figures/figure';
  import FigureView from '../plot/FigureView.svelte';

  type Props = {
    x: number[];
    y: number[];
    law: Law | null;
    band?: number;
    night: boolean;
  };
  let { x, y, law, band, night }: Props = $props();

  /** The law over the points and a little beyond; a straight one needs its ends only. */
  function curve(law: Law, low: number, high: number): Mark {
    const n = law.kind === 'linear' ? 2 : 60;
    const xs = Float64Array.from({ length: n }, (_, k) => low + (k * (high - low)) / (n - 1));
    const ys = new Float64Array(n);
    compileConversion({ ...IDENTITY, law })(xs, ys, n);
    return { mark: 'line', name: 'line', x: xs, y: ys, colour: 0 };
  }
  const figure = $derived.by((): Figure => {
    const [low, high] = [Math.min(...x), Math.max(...x)];
    const margin = (high - low || 1) * 0.08;
    const ends = [low - margin, high + margin];
    // A mark at the edge is seen whole.
    const room = (Math.max(...y) - Math.min(...y)) * 0.15;
    const off = y.map((value) => band !== undefined && Math.abs(value) > band);
    const some = (which: boolean) => ({
      x: x.filter((_, i) => off[i] === which),
      y: y.filter((_, i) => off[i] === which),
    });
    const marks: Mark[] = [
      ...(band
        ? [
            {
              mark: 'band' as const,
              name: 'good',
              x: ends,
              low: [-band, -band],
              high: [band, band],
              tone: 'good' as const,
            },
          ]
        : []),
      ...(law ? [curve(law, ends[0], ends[1])] : []),
      { mark: 'points', name: 'points', ...some(false), colour: 0 },
      { mark: 'points', name: 'off', ...some(true), shape: 'diamond', tone: 'warning' },
    ];
    return {
      title: `${x.length} points`,
      x: { label: 'Raw', unit: '1', scale: 'linear', min: ends[0], max: ends[1] },
      y: {
        label: band ? 'Distance' : 'Value',
        unit: '1',
        scale: 'linear',
        ...(band && {
          min: Math.min(-1.4 * band, ...y.map((v) => v - room)),
          max: Math.max(1.4 * band, ...y.map((v) => v + room)),
        }),
      },
      marks,
    };
  });
</script>

<div class="box">
  {#if x.length > 0}<FigureView {figure} {night} bare zoomable={false} />
  {:else}<p class="muted">Points appear here as they are measured.</p>{/if}
</div>

<style>
  .box {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    overflow: hidden;
  }
</style>
