<!-- The whole picture over time as a strip, with the region that is looked at closer: its ends and itself are dragged. -->
<script lang="ts">
  import { overTime } from '$core/radio/over-time';
  import { secondsText } from '$core/radio/words';
  import { traceColour } from '$contract/palette';
  import { begin, MONO, canvasInk, RIGHT, WORDS } from '../plot/canvas';
  import { timeUnit } from './time-plot';

  type Props = {
    iq: Float32Array;
    sampleRateHz: number;
    zero: number;
    /** Shares of the picture, 0 to 1. */
    region: { from: number; to: number };
    night: boolean;
    change: (region: { from: number; to: number }) => void;
  };
  let { iq, sampleRateHz, zero, region, night, change }: Props = $props();
  const power = $derived(overTime(iq, 'power', sampleRateHz));
  const SIDE = RIGHT;

  function attach(canvas: HTMLCanvasElement) {
    const watch = new ResizeObserver(() => paint(canvas));
    watch.observe(canvas);
    $effect(() => {
      void [power, region, night, zero];
      paint(canvas);
    });
    return () => watch.disconnect();
  }
  function paint(canvas: HTMLCanvasElement) {
    const started = begin(canvas);
    const n = power.length;
    if (!started || n < 2) return;
    const { c, width, height } = started;
    const ink = canvasInk(canvas);
    const [top, bottom] = [6, height - 18];
    const columns = Math.round(width - 2 * SIDE);
    let [low, high] = [Infinity, -Infinity];
    const tops = Float32Array.from({ length: columns }, (_, k) => {
      let best = -Infinity;
      for (
        let i = Math.floor((k * n) / columns);
        i < Math.max(Math.floor((k * n) / columns) + 1, ((k + 1) * n) / columns) && i < n;
        i++
      )
        if (power[i] > best) best = power[i];
      if (best < low) low = best;
      if (best > high) high = best;
      return best;
    });
    const y = (v: number) => bottom - ((v - low) / (high - low || 1)) * (bottom - top);
    const [a, b] = [SIDE + region.from * columns, SIDE + region.to * columns];
    c.fillStyle = ink.tint;
    c.fillRect(a, top - 4, b - a, bottom - top + 8);
    c.strokeStyle = traceColour(0, night);
    c.lineWidth = 1.25;
    c.beginPath();
    tops.forEach((v, k) => (k ? c.lineTo(SIDE + k, y(v)) : c.moveTo(SIDE, y(v))));
    c.stroke();
    c.strokeStyle = ink.plum;
    c.lineWidth = 1.5;
    c.strokeRect(Math.round(a) + 0.5, top - 3.5, Math.round(b - a), bottom - top + 7);
    const { by, unit } = timeUnit(n / sampleRateHz);
    c.font = MONO;
    c.fillStyle = ink.muted;
    c.textBaseline = 'bottom';
    c.textAlign = 'left';
    const at = (sample: number) => Number((((sample - zero) / sampleRateHz) * by).toPrecision(3));
    c.fillText(String(at(0)).replace('-', '−'), SIDE, height);
    c.textAlign = 'right';
    c.fillText(`${at(n)} ${unit}`, width - SIDE, height);
    c.font = WORDS;
    c.fillStyle = ink.plum;
    c.textAlign = 'center';
    c.fillText(
      `looked at closer: ${secondsText(((region.to - region.from) * n) / sampleRateHz)}`,
      Math.max(120, Math.min(width - 120, (a + b) / 2)),
      height,
    );
  }

  let drag: { what: 'from' | 'to' | 'both' | 'new'; at: number; was: { from: number; to: number } } | null =
    null;
  const shareAt = (e: PointerEvent) => {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    return Math.max(0, Math.min(1, (e.clientX - box.left - SIDE) / (box.width - 2 * SIDE)));
  };
  function down(e: PointerEvent) {
    const at = shareAt(e);
    const near = 0.008;
    const what =
      Math.abs(at - region.from) < near
        ? 'from'
        : Math.abs(at - region.to) < near
          ? 'to'
          : at > region.from && at < region.to
            ? 'both'
            : 'new';
    drag = { what, at, was: region };
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
  }
  const LEAST = 0.002;
  function move(e: PointerEvent) {
    if (!drag) return;
    const at = shareAt(e);
    const { what, was } = drag;
    if (what === 'from') change({ from: Math.min(at, was.to - LEAST), to: was.to });
    else if (what === 'to') change({ from: was.from, to: Math.max(at, was.from + LEAST) });
    else if (what === 'both') {
      const by = Math.max(-was.from, Math.min(1 - was.to, at - drag.at));
      change({ from: was.from + by, to: was.to + by });
    } else if (Math.abs(at - drag.at) > LEAST)
      change({ from: Math.min(at, drag.at), to: Math.max(at, drag.at) });
  }
  function keys(e: KeyboardEvent) {
    const step = (region.to - region.from) / 10;
    const by = { ArrowLeft: -step, ArrowRight: step }[e.key];
    if (by !== undefined) {
      const held = Math.max(-region.from, Math.min(1 - region.to, by));
      change({ from: region.from + held, to: region.to + held });
    } else if (e.key === '+' || e.key === '-') {
      const half = ((region.to - region.from) / 2) * (e.key === '+' ? 0.7 : 1.4);
      const middle = (region.from + region.to) / 2;
      change({ from: Math.max(0, middle - half), to: Math.min(1, middle + half) });
    } else return;
    e.preventDefault();
  }
</script>

<canvas
  {@attach attach}
  tabindex="0"
  role="slider"
  aria-label="What is looked at closer"
  aria-valuenow={Math.round(region.from * 100)}
  aria-valuetext="{(region.from * 100).toFixed(1)} to {(region.to * 100).toFixed(1)} % of the picture"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={() => (drag = null)}
  onpointercancel={() => (drag = null)}
  onkeydown={keys}
></canvas>

<style>
  canvas {
    width: 100%;
    height: 100%;
    display: block;
    touch-action: none;
    cursor: ew-resize;
  }
</style>
