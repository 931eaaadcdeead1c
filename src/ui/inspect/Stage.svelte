<!-- The drawings of some takes over one time axis: strips or plots under each other, what is written on the axis, cursors, and the whole with
     the window in it. -->
<script lang="ts">
  import { clockTicks } from '$core/figures/clock';
  import { onGrid, spreadOf } from '$core/signal/spread';
  import { comparing, nameColour, traceColour, traceDash } from '$contract/palette';
  import FaultNote from '../kit/FaultNote.svelte';
  import { plotColours } from '../plot/strip-plot';
  import type { Trace, TraceBand } from '../plot/trace-layer';
  import { AXIS_WIDTH, TracePlot, type TracePicture } from '../plot/trace-plot';
  import type { Inspection } from './inspection.svelte';
  import Overlay from './Overlay.svelte';
  import Overview from './Overview.svelte';
  import type { Curve, Panel } from './panels';
  import { Windows } from './windows.svelte';

  type Props = {
    insp: Inspection;
    night: boolean;
    /** Takes that do not count, with the reason. */
    out: ReadonlyMap<string, string>;
    /** Colour of a take by the legend; null where takes step back to grey. */
    colourOf: (id: string) => number | null;
    /** A panel was asked for its axis. */
    onaxis: (channel: string, anchor: HTMLElement) => void;
    note: (from: number, to: number | null) => void;
  };
  let { insp, night, out, colourOf, onaxis, note }: Props = $props();

  const windows = new Windows();
  let width = $state(0);
  const panels = $derived(insp.drawn.panels);
  const sides = $derived(
    (['left', 'right'] as const).map((side) =>
      Math.max(side === 'left' ? 1 : 0, ...panels.map((p) => p.axes.filter((a) => a.side === side).length)),
    ),
  );
  const left = $derived(8 + sides[0] * AXIS_WIDTH);
  const right = $derived(14 + sides[1] * AXIS_WIDTH);
  const window = $derived(insp.window);

  const wanted = $derived(
    insp.ordered.map((take) => ({
      take,
      signals: take.signals.filter((s) => insp.names.includes(s.name)).map((s) => s.id),
    })),
  );
  $effect(() => {
    const px = width - left - right;
    if (px > 0 && wanted.length) windows.look(wanted, insp.zero, window, px, insp.recorded);
  });
  $effect(() => () => windows.stop());

  const several = $derived(insp.takes.length > 1 && insp.drawing.laid === 'over each other');

  function styleOf({ take, signal }: Curve): Pick<Trace, 'colour' | 'width' | 'dash'> {
    const own = take === insp.main || !several;
    const isOut = out.has(take.head.id);
    const legend = several ? colourOf(take.head.id) : null;
    const inks = comparing(night);
    const colour =
      legend !== null
        ? traceColour(legend, night)
        : !several || insp.drawing.as === 'one plot'
          ? traceColour(signal.colour, night)
          : own
            ? inks.front
            : isOut
              ? inks.out
              : inks.back;
    return {
      colour:
        own || legend !== null || !several || isOut
          ? colour
          : insp.drawing.as === 'one plot'
            ? faint(colour)
            : colour,
      width: own ? (several ? 1.75 : 1.25) : 1,
      // Only where several share a plot do dashes tell them apart.
      dash: isOut ? [5, 3] : several || insp.drawing.as !== 'one plot' ? [] : traceDash(signal.colour),
    };
  }
  const faint = (colour: string) => `${colour}66`;

  function scaled(values: Float32Array, { factor, offset }: Curve['into']): ArrayLike<number> {
    return factor === 1 && offset === 0 ? values : values.map((v) => v * factor + offset);
  }
  /** Curves in the units of their axes and on the common time axis: made once for what was fetched. */
  function curvesOf(panel: Panel): Made[] {
    return panel.curves.flatMap((curve) => {
      const drawn = windows.drawn.get(`${curve.take.head.id} ${curve.signal.id}`);
      if (!drawn) return [];
      const zero = insp.zero(curve.take.head.id);
      const [a, b] = [scaled(drawn.min, curve.into), scaled(drawn.max, curve.into)];
      const [min, max] = curve.into.factor < 0 ? [b, a] : [a, b];
      return [{ curve, x: zero === 0 ? drawn.x : drawn.x.map((t) => t - zero), min, max }];
    });
  }
  interface Made {
    curve: Curve;
    x: Float64Array;
    min: ArrayLike<number>;
    max: ArrayLike<number>;
  }
  /** What is drawn in each panel, wherever the window stands: the same objects as long as it is moved. */
  const pictures = $derived(
    new Map(
      panels.map((panel): [string, Omit<TracePicture, 'from' | 'to' | 'left' | 'right'>] => {
        const curves = curvesOf(panel);
        // What stands out is drawn last, over the others.
        const traces = [...curves]
          .reverse()
          .map(({ curve, x, min, max }): Trace => ({ x, min, max, axis: curve.axis, ...styleOf(curve) }));
        const axes = panel.axes.map((axis, k) => ({
          key: axis.key,
          side: axis.side,
          logarithmic: axis.logarithmic,
          min: axis.min,
          max: axis.max,
          colour: panel.axes.length > 1 ? colourOfAxis(panel, k) : null,
        }));
        const { spread } = insp.drawing;
        const counting = curves.filter((c) => !out.has(c.curve.take.head.id));
        const bands =
          spread === 'no spread' || !several
            ? []
            : panel.axes.flatMap((_, k) =>
                bandOf(
                  counting.filter((c) => c.curve.axis === k),
                  k,
                  spread === 'mean ± s',
                ),
              );
        return [panel.key, { axes, traces, bands }];
      }),
    ),
  );
  const colourOfAxis = (panel: Panel, k: number) =>
    nameColour(panel.curves.find((c) => c.axis === k)?.signal.colour ?? 0, night);

  /** Places of the common grid of all takes. */
  const GRID = 800;
  function bandOf(curves: readonly Made[], axis: number, scatter: boolean): TraceBand[] {
    if (curves.length < 2) return [];
    const from = Math.min(...curves.map((c) => c.x[0] ?? Infinity));
    const to = Math.max(...curves.map((c) => c.x[c.x.length - 1] ?? -Infinity));
    if (!(to > from)) return [];
    const x = Float64Array.from({ length: GRID + 1 }, (_, i) => from + (i / GRID) * (to - from));
    const { lowest, highest, mean, standardDeviation } = spreadOf(
      curves.map((c) =>
        onGrid(
          c.x,
          Float64Array.from(c.min, (low, i) => (low + c.max[i]) / 2),
          x,
        ),
      ),
    );
    const colour = comparing(night).spread;
    if (!scatter) return [{ x, low: lowest, high: highest, middle: mean, axis, colour }];
    const low = mean.map((m, i) => m - standardDeviation[i]);
    const high = mean.map((m, i) => m + standardDeviation[i]);
    return [{ x, low, high, middle: mean, axis, colour }];
  }

  const attach = (panel: Panel) => (canvas: HTMLCanvasElement) => {
    const plot = new TracePlot(canvas, plotColours(canvas));
    $effect(() => {
      const picture = pictures.get(panel.key);
      if (picture) plot.draw({ ...picture, from: window[0], to: window[1], left, right });
    });
    return () => plot.destroy();
  };

  const ticks = $derived(
    clockTicks(insp.scale, window[0], window[1], Math.max(3, Math.min(8, (width - left - right) / 90))),
  );
  const unit = $derived(ticks.some((t) => /[: ]/.test(t.text)) ? '' : ' s');
  /** The first curve of the take that stands out: what the picture of the whole shows. */
  const first = $derived(panels[0]?.curves.find((c) => c.take === insp.main) ?? panels[0]?.curves[0]);
</script>

<div class="stage" bind:clientWidth={width} data-window="{window[0]} {window[1]}" aria-busy={windows.busy}>
  {#if windows.fault}<FaultNote fault={windows.fault} />{/if}
  <div class="panels">
    <div class="inner" style:min-height="{panels.length * 92}px">
      {#each panels as panel (`${panel.key} ${night}`)}
        <section
          class="panel"
          aria-label={panel.heads.map((h) => h.name).join(', ')}
          data-drop={panel.axes[0]?.key}
        >
          <div class="head" style:padding-left="{left}px">
            {#each panel.heads as head, k (`${k} ${head.name}`)}
              {#if head.colour < 0}<strong class="take">{head.name}</strong>{:else}
                <button
                  class="name"
                  title="{head.name}: its axis"
                  style:color={nameColour(head.colour, night)}
                  onclick={(e) => onaxis(head.name, e.currentTarget)}>{head.name}</button
                >{#if head.unit !== 'yes/no' && head.unit !== '1' && panel.heads[k + 1]?.unit !== head.unit}<span
                    class="muted">{head.unit}</span
                  >{/if}
              {/if}
            {/each}
          </div>
          <div class="area">
            <canvas {@attach attach(panel)} aria-label="{panel.heads.map((h) => h.name).join(', ')} over time"
            ></canvas>
          </div>
        </section>
      {/each}
      <Overlay {insp} {left} {right} {out} {several} {windows} {note} />
    </div>
  </div>
  <div class="axis mono" style:margin-left="{left}px" style:margin-right="{right}px" data-testid="time-axis">
    {#each ticks as { value, text } (value)}
      <span style:left="{((value - window[0]) / (window[1] - window[0])) * 100}%">{text}{unit}</span>
    {/each}
  </div>
  {#if first}<Overview {insp} {first} {night} {left} {right} />{/if}
</div>

<style>
  .stage {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
    min-width: 0;
  }
  .panels {
    flex: 1;
    min-height: 0;
    overflow: hidden auto;
  }
  .inner {
    position: relative;
    height: 100%;
    display: flex;
    flex-direction: column;
  }
  .panel {
    display: flex;
    flex-direction: column;
    min-height: 0;
    flex: 1 1 0;
  }
  .head {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    font-size: var(--type-small);
    line-height: 20px;
    white-space: nowrap;
    overflow: hidden;
  }
  .name {
    font-weight: 650;
    overflow: hidden;
    text-overflow: ellipsis;
    min-width: 0;
    position: relative;
    z-index: 2;
    min-height: 20px;
  }
  .name:hover {
    text-decoration: underline dotted;
  }
  .take {
    flex-shrink: 0;
  }
  .area {
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
  .axis {
    position: relative;
    height: 20px;
    font-size: var(--type-fine);
    color: var(--muted);
    flex-shrink: 0;
  }
  .axis span {
    position: absolute;
    transform: translateX(-50%);
    white-space: nowrap;
    top: 2px;
  }
</style>
