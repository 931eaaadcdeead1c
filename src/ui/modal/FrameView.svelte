<!-- A wireframe, at rest or moving in a shape: turned by dragging, nearer by the wheel, looked at along its axes; also by keys. -->
<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { PerspectiveCamera } from 'three';
  import { OrbitControls } from 'three/addons/controls/OrbitControls.js';
  import type { Wireframe } from '$core/wireframe/wireframe';
  import { begin, canvasInk } from '../plot/canvas';
  import {
    drawFrame,
    flatPlaces,
    projected,
    readyFrame,
    type DrawnShape,
    type FrameLook,
  } from './frame-plot';

  type Props = {
    frame: Wireframe;
    shapes?: readonly DrawnShape[];
    look: FrameLook;
    /** Turns a second of the phase; 0 stands still. */
    speed?: number;
    night: boolean;
    label: string;
    /** Whether it moves by itself; at rest nothing is drawn anew. */
    moving?: boolean;
    clicked?: (point: string | null) => void;
  };
  let { frame, shapes = [], look, speed = 0, night, label, moving = false, clicked }: Props = $props();

  let canvas: HTMLCanvasElement;
  let box = $state({ width: 0, height: 0 });
  const ready = $derived(readyFrame(frame));
  const camera = new PerspectiveCamera(32, 1, 0.01, 1e5);
  camera.up.set(0, 0, 1);
  let controls: OrbitControls | null = null;
  let phase = 0;

  export function from(direction: readonly [number, number, number]): void {
    const [x, y, z] = ready.middle;
    // All of it is seen, from wherever.
    const far = ready.radius * 3.3;
    const long = Math.hypot(...direction);
    camera.position.set(x + (direction[0] / long) * far, y + (direction[1] / long) * far, z + (direction[2] / long) * far); // prettier-ignore
    controls?.target.set(x, y, z);
    camera.near = ready.size / 100;
    camera.far = ready.size * 100;
    camera.lookAt(x, y, z);
    controls?.update();
    draw();
  }
  const ASKEW = [-1, -1.35, 0.75] as const;

  function draw() {
    const started = canvas && begin(canvas);
    if (!started) return;
    camera.aspect = started.width / started.height;
    camera.updateProjectionMatrix();
    camera.updateMatrixWorld();
    const now = moving && speed > 0 ? { ...look, phase } : look;
    drawFrame(started.c, started.width, started.height, ready, shapes, camera, now, canvasInk(canvas));
  }
  /** A picture of a phase in some size, for a file. */
  export function pictureAt(at: number, width: number, height: number): ImageData {
    const other = document.createElement('canvas');
    [other.width, other.height] = [width, height];
    const c = other.getContext('2d', { willReadFrequently: true })!;
    const ink = canvasInk(canvas);
    c.fillStyle = ink.card;
    c.fillRect(0, 0, width, height);
    camera.aspect = width / height;
    camera.updateProjectionMatrix();
    drawFrame(c, width, height, ready, shapes, camera, { ...look, phase: at }, ink);
    return c.getImageData(0, 0, width, height);
  }
  /** The point of the wireframe near a place of the picture. */
  export function pointAt(clientX: number, clientY: number, reach = 18): string | null {
    const r = canvas.getBoundingClientRect();
    const [px, py] = [clientX - r.left, clientY - r.top];
    if (px < 0 || py < 0 || px > r.width || py > r.height) return null;
    const p = projected(flatPlaces(ready.places), camera, r.width, r.height);
    let best = -1;
    let far = reach;
    for (let i = 0; i < p.x.length; i++) {
      const d = Math.hypot(p.x[i] - px, p.y[i] - py);
      if (d < far) [best, far] = [i, d];
    }
    return best < 0 ? null : frame.points[best].name;
  }

  onMount(() => {
    controls = new OrbitControls(camera, canvas);
    controls.enableDamping = false;
    controls.addEventListener('change', draw);
    from(ASKEW);
    return () => controls?.dispose();
  });
  // Another wireframe is looked at whole.
  let seen = '';
  $effect(() => {
    const key = `${ready.places.length > 0} ${frame.name}`;
    if (key === seen) return;
    seen = key;
    untrack(() => from(ASKEW));
  });
  $effect(() => {
    void [box.width, box.height, night, ready, shapes, look, speed, moving];
    draw();
  });
  $effect(() => {
    if (!moving || !(speed > 0) || shapes.length === 0) return;
    let last = performance.now();
    let waiting = requestAnimationFrame(function step(now) {
      // A page that was hidden goes on where it was.
      phase = (phase + Math.min(0.1, (now - last) / 1000) * speed * 2 * Math.PI) % (2 * Math.PI);
      last = now;
      draw();
      waiting = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(waiting);
  });

  let pressed: [number, number] | null = null;
  function keys(e: KeyboardEvent) {
    const turn = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    const nearer = { '+': 0.9, '-': 1 / 0.9 }[e.key];
    if (!turn && !nearer) return;
    e.preventDefault();
    const [x, y, z] = ready.middle;
    const d = [camera.position.x - x, camera.position.y - y, camera.position.z - z];
    const far = Math.hypot(...d) * (nearer ?? 1);
    const around = Math.atan2(d[1], d[0]) + (turn?.[0] ?? 0) * 0.12;
    const up = Math.max(-1.5, Math.min(1.5, Math.asin(d[2] / Math.hypot(...d)) + (turn?.[1] ?? 0) * 0.12));
    camera.position.set(x + far * Math.cos(up) * Math.cos(around), y + far * Math.cos(up) * Math.sin(around), z + far * Math.sin(up)); // prettier-ignore
    controls?.update();
    draw();
  }
</script>

<!-- A picture that is turned by dragging and by keys -->
<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="box"
  role="group"
  aria-label={label}
  tabindex="0"
  onkeydown={keys}
  bind:clientWidth={box.width}
  bind:clientHeight={box.height}
>
  <canvas
    bind:this={canvas}
    aria-hidden="true"
    onpointerdown={(e) => (pressed = [e.clientX, e.clientY])}
    onpointerup={(e) => {
      if (pressed && Math.hypot(e.clientX - pressed[0], e.clientY - pressed[1]) < 4)
        clicked?.(pointAt(e.clientX, e.clientY));
      pressed = null;
    }}
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
    cursor: grab;
    touch-action: none;
  }
  canvas:active {
    cursor: grabbing;
  }
</style>
