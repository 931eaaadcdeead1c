<!-- Channels against another one: time runs along the curves, in the direction of the arrows; the cursors stand on them. -->
<script lang="ts">
  import { axisScale, type AxisScale } from '$core/figures/scale';
  import { unpacked } from '$contract/packed';
  import { comparing, nameColour, traceColour } from '$contract/palette';
  import type { TakeSignal, TakeView } from '$contract/take';
  import { faultText, send, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { plotColours } from '../plot/strip-plot';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';

  type Props = {
    insp: Inspection;
    night: boolean;
    out: ReadonlyMap<string, string>;
    colourOf: (id: string) => number | null;
  };
  let { insp, night, out, colourOf }: Props = $props();

  interface Curve {
    take: TakeView;
    signal: TakeSignal;
    /** s of the common axis. */
    times: Float64Array;
    x: Float32Array;
    y: Float32Array;
  }
  let curves = $state.raw<Curve[]>([]);
  let fault = $state<FaultText | null>(null);
  const across = $derived(insp.drawing.against ?? '');
  const up = $derived(insp.names.filter((n) => n !== across));
  const unitOf = (name: string) => insp.ordered.map((t) => signalOf(t, name)).find(Boolean)?.unit ?? '';
  const several = $derived(insp.takes.length > 1);

  $effect(() => {
    const [from, to] = insp.window;
    const wanted = insp.ordered.flatMap((take) => {
      const x = signalOf(take, across);
      const signals = up.flatMap((n) => signalOf(take, n) ?? []);
      return x && signals.length ? [{ take, x, signals, zero: insp.zero(take.head.id) }] : [];
    });
    if (wanted.length === 0) return void (curves = []);
    const abort = new AbortController();
    const timer = setTimeout(async () => {
      try {
        const asks = wanted.map((w) => ({
          take: w.take.head.id,
          x: w.x.id,
          signals: w.signals.map((s) => s.id),
          from: from + w.zero,
          to: to + w.zero,
        }));
        const response = await send(
          'POST /api/pairs',
          { body: { asks, points: 4000, recorded: insp.recorded } },
          { signal: abort.signal },
        );
        const { head, next } = unpacked<{ signal: number; count: number }[][]>(await response.arrayBuffer());
        curves = head.flatMap((of, k) =>
          of.map(({ signal, count }) => {
            const times = next(count);
            return {
              take: wanted[k].take,
              signal: wanted[k].signals.find((s) => s.id === signal)!,
              times: Float64Array.from(times, (t) => t + from),
              x: next(count),
              y: next(count),
            };
          }),
        );
        fault = null;
      } catch (error) {
        if (!abort.signal.aborted) fault = faultText(error);
      }
    }, 30);
    return () => (clearTimeout(timer), abort.abort());
  });

  let canvas: HTMLCanvasElement;
  let width = $state(0);
  let height = $state(0);
  let scales: { x: AxisScale; y: AxisScale } | null = null;
  const LEFT = 58;
  const RIGHT = 16;
  const TOP = 10;
  const BOTTOM = 24;

  function ends(of: readonly ArrayLike<number>[]): [number, number] {
    let [low, high] = [Infinity, -Infinity];
    for (const values of of)
      for (let i = 0; i < values.length; i++) {
        if (values[i] < low) low = values[i];
        if (values[i] > high) high = values[i];
      }
    if (!(low <= high)) return [0, 1];
    const room = (high - low || Math.abs(high) * 0.1 || 1) * 0.06;
    return [low - room, high + room];
  }
  const styleOf = (c: Curve) => {
    const own = c.take === insp.main || !several;
    const inks = comparing(night);
    const legend = several ? colourOf(c.take.head.id) : null;
    const isOut = out.has(c.take.head.id);
    const colour =
      legend !== null
        ? traceColour(legend, night)
        : !several
          ? traceColour(c.signal.colour, night)
          : own
            ? inks.front
            : isOut
              ? inks.out
              : inks.back;
    return { colour, width: own ? 1.75 : 1, dash: isOut ? [5, 3] : [] };
  };
  /** Where a curve is at an instant: straight between its points. */
  function at(c: Curve, t: number): { x: number; y: number } | null {
    const k = c.times.findIndex((time) => time >= t);
    if (k < 0 || (k === 0 && c.times[0] !== t)) return null;
    const [a, b] = [Math.max(0, k - 1), k];
    const share = c.times[b] === c.times[a] ? 0 : (t - c.times[a]) / (c.times[b] - c.times[a]);
    return { x: c.x[a] + share * (c.x[b] - c.x[a]), y: c.y[a] + share * (c.y[b] - c.y[a]) };
  }

  $effect(() => {
    if (width === 0 || height === 0) return;
    const c = canvas.getContext('2d')!;
    const sharp = devicePixelRatio || 1;
    [canvas.width, canvas.height] = [Math.round(width * sharp), Math.round(height * sharp)];
    c.setTransform(sharp, 0, 0, sharp, 0, 0);
    c.clearRect(0, 0, width, height);
    const own = insp.drawing.axis;
    const range = (name: string, auto: [number, number]): [number, number] => [
      own[name]?.min ?? auto[0],
      own[name]?.max ?? auto[1],
    ];
    const x = axisScale(
      { label: '', unit: '', scale: 'linear' },
      range(across, ends(curves.map((k) => k.x))),
      [LEFT, width - RIGHT],
      Math.max(3, width / 110),
    );
    const y = axisScale(
      { label: '', unit: '', scale: 'linear' },
      range(up[0] ?? '', ends(curves.map((k) => k.y))),
      [height - BOTTOM, TOP],
      Math.max(3, height / 60),
    );
    scales = { x, y };
    const colours = plotColours(canvas);
    c.font = '11px "JetBrains Mono Variable"';
    c.fillStyle = colours.text;
    c.strokeStyle = colours.line;
    c.lineWidth = 1;
    c.beginPath();
    c.textBaseline = 'middle';
    c.textAlign = 'right';
    for (const t of y.ticks) {
      const p = Math.round(t.at) + 0.5;
      c.moveTo(LEFT, p);
      c.lineTo(width - RIGHT, p);
      c.fillText(t.text, LEFT - 6, p);
    }
    c.textBaseline = 'top';
    c.textAlign = 'center';
    for (const t of x.ticks) {
      const p = Math.round(t.at) + 0.5;
      c.moveTo(p, TOP);
      c.lineTo(p, height - BOTTOM);
      c.fillText(t.text, p, height - BOTTOM + 6);
    }
    c.stroke();
    c.save();
    c.beginPath();
    c.rect(LEFT, TOP, width - LEFT - RIGHT, height - TOP - BOTTOM);
    c.clip();
    for (const curve of [...curves].reverse()) paint(c, curve, x, y);
    insp.cursors.forEach((t, k) => {
      if (t === null) return;
      for (const curve of curves.filter((q) => q.take === insp.main)) {
        const p = at(curve, t);
        if (!p) continue;
        c.beginPath();
        c.arc(x.at(p.x), y.at(p.y), 5, 0, 2 * Math.PI);
        c.fillStyle = getComputedStyle(canvas).getPropertyValue(k === insp.chosen ? '--ink' : '--muted');
        c.fill();
        c.fillStyle = getComputedStyle(canvas).getPropertyValue('--paper');
        c.textAlign = 'center';
        c.textBaseline = 'middle';
        c.font = '9px "JetBrains Mono Variable"';
        c.fillText(String(k + 1), x.at(p.x), y.at(p.y) + 0.5);
      }
    });
    c.restore();
  });

  function paint(c: CanvasRenderingContext2D, curve: Curve, x: AxisScale, y: AxisScale) {
    const { colour, width, dash } = styleOf(curve);
    c.strokeStyle = c.fillStyle = colour;
    c.lineWidth = width;
    c.setLineDash(dash);
    c.beginPath();
    let broken = true;
    for (let i = 0; i < curve.x.length; i++) {
      const [px, py] = [x.at(curve.x[i]), y.at(curve.y[i])];
      if (px !== px || py !== py) {
        broken = true;
        continue;
      }
      if (broken) c.moveTo(px, py);
      else c.lineTo(px, py);
      broken = false;
    }
    c.stroke();
    c.setLineDash([]);
    if (curve.take !== insp.main) return;
    // Which way time runs: four arrows along the curve.
    for (const share of [0.2, 0.4, 0.6, 0.8]) {
      const i = Math.floor(share * curve.x.length);
      let j = i;
      while (
        j < curve.x.length - 1 &&
        Math.hypot(x.at(curve.x[j]) - x.at(curve.x[i]), y.at(curve.y[j]) - y.at(curve.y[i])) < 6
      )
        j++;
      const [ax, ay, bx, by] = [x.at(curve.x[i]), y.at(curve.y[i]), x.at(curve.x[j]), y.at(curve.y[j])];
      if (![ax, ay, bx, by].every(Number.isFinite) || (ax === bx && ay === by)) continue;
      const turn = Math.atan2(by - ay, bx - ax);
      c.save();
      c.translate(bx, by);
      c.rotate(turn);
      c.beginPath();
      c.moveTo(4, 0);
      c.lineTo(-4, -3.5);
      c.lineTo(-4, 3.5);
      c.fill();
      c.restore();
    }
  }

  /** The cursor goes to the point of the curve that is nearest. */
  function put(event: PointerEvent) {
    if (!scales || event.button !== 0) return;
    const { left, top } = canvas.getBoundingClientRect();
    const [px, py] = [event.clientX - left, event.clientY - top];
    let best = { far: Infinity, t: NaN };
    for (const c of curves.filter((q) => q.take === insp.main))
      for (let i = 0; i < c.x.length; i++) {
        const far = Math.hypot(scales.x.at(c.x[i]) - px, scales.y.at(c.y[i]) - py);
        if (far < best.far) best = { far, t: c.times[i] };
      }
    if (Number.isFinite(best.t)) insp.place(insp.chosen, best.t);
  }
</script>

<div class="against">
  {#if fault}<FaultNote {fault} />{/if}
  <div class="head">
    {#each up as name (name)}<strong
        style:color={nameColour(insp.ordered.map((t) => signalOf(t, name)).find(Boolean)?.colour ?? 0, night)}
        >{name}</strong
      >
      <span class="muted">{unitOf(name)}</span>{/each}
    <span class="muted">against</span>
    <strong>{across || 'a channel that is to be chosen'}</strong> <span class="muted">{unitOf(across)}</span>
  </div>
  <div class="area" bind:clientWidth={width} bind:clientHeight={height}>
    <!-- svelte-ignore a11y_no_interactive_element_to_noninteractive_role -->
    <canvas
      bind:this={canvas}
      data-points={curves.reduce((n, c) => n + c.x.length, 0)}
      role="application"
      aria-label="{up.join(
        ', ',
      )} against {across}: a click puts the chosen cursor on the curve, arrow keys move it"
      onpointerdown={put}
      onpointermove={(e) => e.buttons === 1 && put(e)}
    ></canvas>
  </div>
</div>

<style>
  .against {
    display: flex;
    flex-direction: column;
    flex: 1;
    min-height: 0;
  }
  .head {
    padding-left: 58px;
    display: flex;
    gap: var(--space-2);
    font-size: var(--type-small);
    line-height: 20px;
    white-space: nowrap;
    overflow: hidden;
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
    touch-action: none;
    cursor: crosshair;
  }
</style>
