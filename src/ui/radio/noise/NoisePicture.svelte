<!-- Noise figure or gain over frequency: a pointer moved by hand or keys, a span dragged over to look closer. -->
<script lang="ts">
  import { canvasInk, LEFT, RIGHT } from '../../plot/canvas';
  import { courseAxis, drawCourses, type Course, type DrawnCourses } from './noise-plot';

  type Props = {
    label: string;
    courses: Omit<Course, 'colour'>[];
    fromHz: number;
    toHz: number;
    wanted?: DrawnCourses['wanted'];
    pins?: DrawnCourses['pins'];
    atHz: number | null;
    colour: string;
    night: boolean;
    point: (hz: number) => void;
    closer: (fromHz: number, toHz: number) => void;
    whole: () => void;
    step: (by: number) => void;
  };
  let {
    label,
    courses,
    fromHz,
    toHz,
    wanted = null,
    pins = [],
    atHz,
    colour,
    night,
    point,
    closer,
    whole,
    step,
  }: Props = $props();

  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  let dragged = $state.raw<[number, number] | null>(null);

  const hzAt = (px: number) => {
    const axis = courseAxis(fromHz, toHz, canvas.clientWidth);
    const share = (px - LEFT) / (canvas.clientWidth - LEFT - RIGHT);
    const [low, high] = [fromHz, toHz > fromHz ? toHz : fromHz];
    return axis ? low + Math.max(0, Math.min(1, share)) * (high - low) : low;
  };
  const nearest = (hz: number) => {
    const all = courses.find((c) => !c.behind)?.hz ?? [];
    return all.length ? all.reduce((a, b) => (Math.abs(b - hz) < Math.abs(a - hz) ? b : a)) : null;
  };
  function down(e: PointerEvent) {
    const begun = e.offsetX;
    canvas.setPointerCapture(e.pointerId);
    const move = (m: PointerEvent) => (dragged = Math.abs(m.offsetX - begun) > 6 ? [begun, m.offsetX] : null);
    const up = (u: PointerEvent) => {
      canvas.removeEventListener('pointermove', move);
      canvas.removeEventListener('pointerup', up);
      if (dragged) {
        const [a, b] = dragged.map(hzAt);
        dragged = null;
        return closer(Math.min(a, b), Math.max(a, b));
      }
      const at = nearest(hzAt(u.offsetX));
      if (at !== null) point(at);
    };
    canvas.addEventListener('pointermove', move);
    canvas.addEventListener('pointerup', up);
  }
  function keys(e: KeyboardEvent) {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (by === undefined) return;
    e.preventDefault();
    step(by);
  }

  $effect(() => {
    void night;
    if (box.width === 0) return;
    const ink = canvasInk(canvas);
    drawCourses(
      canvas,
      {
        courses: courses.map((c) => ({ ...c, colour: c.behind ? ink.muted : colour })),
        fromHz,
        toHz,
        wanted,
        atHz,
        pins,
        dragged,
      },
      ink,
    );
  });
</script>

<div class="box" bind:clientWidth={box.width} bind:clientHeight={box.height}>
  <canvas
    bind:this={canvas}
    tabindex="0"
    role="slider"
    aria-label={label}
    aria-valuenow={(atHz ?? fromHz) / 1e6}
    aria-valuemin={fromHz / 1e6}
    aria-valuemax={toHz / 1e6}
    onpointerdown={down}
    ondblclick={whole}
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
    cursor: crosshair;
  }
</style>
