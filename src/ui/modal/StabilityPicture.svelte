<!-- The stabilization diagram: poles over order with the sum behind. A click picks a pole, a drag the best of a column; the band’s edges are dragged and
     snap into valleys. By keys: arrows go along what is suggested and picked, Enter picks. -->
<script lang="ts">
  import { onPeak, valleyNear } from '$core/modal/indicators';
  import { bestOf, type JudgedOrder, type PlaceOfPole } from '$core/modal/stability';
  import { canvasInk } from '../plot/canvas';
  import { drawStability, hzAxis, LEFT, orderAxis, poleAt, RIGHT, type Behind, type DrawnStability } from './stability-plot'; // prettier-ignore

  type Props = {
    hz: Float64Array;
    sum: Float64Array;
    behind: Behind[];
    orders: readonly JudgedOrder[];
    topOrder: number;
    band: { from: number; to: number };
    picked: DrawnStability['picked'];
    suggested: (DrawnStability['suggested'][number] & PlaceOfPole)[];
    density: Uint32Array | null;
    night: boolean;
    pick: (place: PlaceOfPole) => void;
    hover: (place: PlaceOfPole | null) => void;
    bandTo: (edge: 'from' | 'to', hz: number) => void;
  };
  let { hz, sum, behind, orders, topOrder, band, picked, suggested, density, night, pick, hover, bandTo }: Props = $props(); // prettier-ignore

  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  let over = $state.raw<PlaceOfPole | null>(null);
  let column = $state.raw<[number, number] | null>(null);
  let edge = $state.raw<{ which: 'from' | 'to'; hz: number } | null>(null);

  const top = $derived(hz[hz.length - 1] ?? 1);
  const shownBand = $derived(edge ? { ...band, [edge.which]: edge.hz } : band);
  const span = $derived.by(() => {
    const wide = Math.max(1e-9, band.to - band.from);
    return { from: Math.max(0, band.from - 0.16 * wide), to: Math.min(top, band.to + 0.16 * wide) };
  });
  const lineOf = (f: number) => Math.max(0, Math.min(hz.length - 1, Math.round(f / (hz[1] - hz[0] || 1))));
  const standsOn = (f: number, word: string) => {
    const line = lineOf(f);
    if (line <= 1 || line >= hz.length - 2) return word;
    return onPeak(sum, line) === null ? `${word} a valley` : `◆ ${word} a peak`;
  };
  const edges = $derived({ from: standsOn(shownBand.from, 'from'), to: standsOn(shownBand.to, 'to') });
  const hovered = $derived.by(() => {
    const pole = over && orders.find((o) => o.order === over!.order)?.poles[over.index];
    return pole ? { order: over!.order, hz: pole.hz } : null;
  });

  const axes = () => [hzAxis(span, canvas.clientWidth), orderAxis(topOrder, canvas.clientHeight)] as const;
  const hzAt = (px: number) => {
    const share = (px - LEFT) / (canvas.clientWidth - LEFT - RIGHT);
    return span.from + Math.max(0, Math.min(1, share)) * (span.to - span.from);
  };
  const edgeAt = (px: number): 'from' | 'to' | null => {
    const [x] = axes();
    if (Math.abs(px - x.at(band.from)) < 6) return 'from';
    return Math.abs(px - x.at(band.to)) < 6 ? 'to' : null;
  };
  function look(e: PointerEvent) {
    const next = poleAt(orders, ...axes(), e.offsetX, e.offsetY);
    canvas.style.cursor = next ? 'pointer' : edgeAt(e.offsetX) ? 'ew-resize' : 'crosshair';
    if (next?.order === over?.order && next?.index === over?.index) return;
    over = next;
    hover(next);
  }
  function down(e: PointerEvent) {
    if (e.button !== 0) return;
    canvas.setPointerCapture(e.pointerId);
    const begun = e.offsetX;
    const which = poleAt(orders, ...axes(), e.offsetX, e.offsetY, 6) ? null : edgeAt(begun);
    const move = (m: PointerEvent) => {
      if (which) {
        // Into a valley, unless Alt is held.
        const at = hzAt(m.offsetX);
        edge = { which, hz: m.altKey || hz.length < 3 ? at : hz[nearValley(at)] };
      } else column = Math.abs(m.offsetX - begun) > 5 ? [hzAt(begun), hzAt(m.offsetX)] : null;
    };
    const up = (u: PointerEvent) => {
      canvas.removeEventListener('pointermove', move);
      canvas.removeEventListener('pointerup', up);
      canvas.removeEventListener('pointercancel', up);
      const [dragged, moved] = [column, edge];
      column = edge = null;
      if (u.type === 'pointercancel') return;
      if (moved) return bandTo(moved.which, Number(moved.hz.toPrecision(6)));
      if (dragged) {
        const best = bestOf(orders, Math.min(...dragged), Math.max(...dragged));
        if (best) pick(best);
        return;
      }
      const at = poleAt(orders, ...axes(), u.offsetX, u.offsetY);
      if (at) pick(at);
    };
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerup', up);
    canvas.addEventListener('pointercancel', up);
  }
  /** A valley that is not far from where one points: within a twentieth of what is shown. */
  function nearValley(at: number): number {
    const line = lineOf(at);
    const valley = valleyNear(sum, line);
    const reach = lineOf((span.to - span.from) / 20);
    if (Math.abs(valley - line) <= reach) return valley;
    let best = line;
    for (let k = Math.max(1, line - reach); k <= Math.min(sum.length - 1, line + reach); k++)
      if (sum[k] < sum[best]) best = k;
    return best;
  }

  const stops = $derived([...suggested, ...picked.flatMap((p) => placeOf(p))].sort((a, b) => a.hz - b.hz));
  const placeOf = (p: { order: number; hz: number }) => {
    const index = orders.find((o) => o.order === p.order)?.poles.findIndex((q) => q.hz === p.hz) ?? -1;
    return index < 0 ? [] : [{ order: p.order, index, hz: p.hz }];
  };
  function keys(e: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by !== undefined && stops.length) {
      e.preventDefault();
      const at = stops.findIndex((s) => s.order === over?.order && s.index === over?.index);
      const next = stops[Math.max(0, Math.min(stops.length - 1, at < 0 ? (by > 0 ? 0 : stops.length - 1) : at + by))]; // prettier-ignore
      over = { order: next.order, index: next.index };
      hover(over);
    } else if ((e.key === 'Enter' || e.key === ' ') && over) {
      e.preventDefault();
      pick(over);
    }
  }

  $effect(() => {
    void [night, box.width, box.height];
    drawStability(
      canvas,
      { hz, behind, orders, topOrder, band: shownBand, edges, span, picked, suggested, hover: hovered, column, density }, // prettier-ignore
      canvasInk(canvas),
    );
  });
</script>

<div class="box" bind:clientWidth={box.width} bind:clientHeight={box.height}>
  <canvas
    bind:this={canvas}
    tabindex="0"
    role="slider"
    aria-label="Stabilization diagram"
    aria-valuemin={Math.round(span.from)}
    aria-valuemax={Math.round(span.to)}
    aria-valuenow={hovered?.hz ?? band.from}
    aria-valuetext={hovered ? `pole of order ${hovered.order} at ${hovered.hz.toFixed(2)} Hz` : 'no pole'}
    onpointermove={look}
    onpointerleave={() => {
      over = null;
      hover(null);
    }}
    onpointerdown={down}
    onkeydown={keys}
  ></canvas>
</div>

<style>
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
