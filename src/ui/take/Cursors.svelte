<!-- Over the strips: two cursors, a dragged span to zoom into, the wheel, marks and gaps. -->
<script lang="ts">
  import { placeLabels } from '$core/layout/labels';
  import { clockText } from '$core/readings';
  import type { TakeNote } from '$contract/take';
  import { PLOT_LEFT, PLOT_RIGHT } from '../plot/strip-plot';

  type Props = {
    from: number;
    to: number;
    durationS: number;
    cursors: [number, number];
    chosen: 0 | 1;
    notes: TakeNote[];
    gaps: { fromS: number; toS: number; reason: string }[];
    zoom: (from: number, to: number) => void;
    place: (which: 0 | 1, atS: number) => void;
  };
  let { from, to, durationS, cursors, chosen, notes, gaps, zoom, place }: Props = $props();

  let box: HTMLDivElement;
  let drag = $state<{ startX: number; x: number; cursor: 0 | 1 | null } | null>(null);

  const share = (s: number) => ((s - from) / (to - from)) * 100;
  const inView = (s: number) => s >= from && s <= to;
  const secondsAt = (clientX: number) => {
    const { left, width } = box.getBoundingClientRect();
    return from + Math.min(1, Math.max(0, (clientX - left) / width)) * (to - from);
  };

  function down(event: PointerEvent) {
    if (event.button !== 0) return;
    const cursor = (event.target as HTMLElement).dataset.cursor;
    drag = {
      startX: event.clientX,
      x: event.clientX,
      cursor: cursor === undefined ? null : (Number(cursor) as 0 | 1),
    };
    box.setPointerCapture(event.pointerId);
  }
  function move(event: PointerEvent) {
    if (!drag) return;
    drag.x = event.clientX;
    if (drag.cursor !== null) place(drag.cursor, secondsAt(event.clientX));
  }
  function up(event: PointerEvent) {
    if (!drag) return;
    const { startX, cursor } = drag;
    drag = null;
    if (cursor !== null) return;
    if (Math.abs(event.clientX - startX) < 5) return place(chosen, secondsAt(event.clientX));
    const [a, b] = [secondsAt(startX), secondsAt(event.clientX)].sort((p, q) => p - q);
    zoom(a, b);
  }
  function wheel(event: WheelEvent) {
    event.preventDefault();
    const at = secondsAt(event.clientX);
    const factor = Math.exp(Math.min(1, Math.max(-1, event.deltaY / 240)));
    zoom(Math.max(0, at - (at - from) * factor), Math.min(durationS, at + (to - at) * factor));
  }
  const nonPassive = (node: HTMLElement) => {
    node.addEventListener('wheel', wheel, { passive: false });
    return () => node.removeEventListener('wheel', wheel);
  };
  const told = $derived(
    notes.filter((n) => inView(n.atS) && n.kind !== 'armed').sort((a, b) => a.atS - b.atS),
  );
  let width = $state(0);
  const places = $derived(
    placeLabels(
      told.map((n) => ({ x: (share(n.atS) / 100) * width, text: n.says })),
      width,
    ),
  );
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && (drag = null)} />

<!-- Everything here can be done by the page's keys, too. -->
<div
  class="over"
  bind:this={box}
  bind:clientWidth={width}
  {@attach nonPassive}
  style:left="{PLOT_LEFT}px"
  style:right="{PLOT_RIGHT}px"
  role="application"
  aria-label="Time axis: click places the chosen cursor, drag zooms, arrow keys move the cursor"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => (drag = null)}
>
  {#each gaps.filter((g) => g.toS > from && g.fromS < to) as gap (gap.fromS)}
    <div
      class="gap"
      title={gap.reason}
      style:left="{Math.max(0, share(gap.fromS))}%"
      style:width="{share(Math.min(to, gap.toS)) - Math.max(0, share(gap.fromS))}%"
    ></div>
  {/each}
  {#each told as note, i (note.id)}
    <div
      class="note {note.kind}"
      class:late={places[i].left}
      style:left="{share(note.atS)}%"
      title="{clockText(note.atS, 2)}  {note.says}"
    >
      {#if places[i].text}<span style:bottom="{2 + places[i].row * 15}px">{places[i].text}</span>{/if}
    </div>
  {/each}
  {#if drag && drag.cursor === null && Math.abs(drag.x - drag.startX) >= 5}
    {@const [a, b] = [share(secondsAt(drag.startX)), share(secondsAt(drag.x))].sort((p, q) => p - q)}
    <div class="span" style:left="{a}%" style:width="{b - a}%"></div>
  {/if}
  {#each cursors as at, k (k)}
    {#if inView(at)}
      <div class="cursor" class:chosen={k === chosen} style:left="{share(at)}%" data-cursor={k}>
        <b data-cursor={k}>{k + 1}</b>
      </div>
    {/if}
  {/each}
</div>

<style>
  .over {
    position: absolute;
    inset-block: 0;
    cursor: crosshair;
    touch-action: none;
    user-select: none;
  }
  .cursor {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 9px;
    margin-left: calc(-1 * var(--space-1));
    cursor: ew-resize;
    background: linear-gradient(to right, transparent 4px, var(--muted) 4px 5px, transparent 5px);
  }
  .cursor.chosen {
    background: linear-gradient(to right, transparent 4px, var(--plum) 4px 5.5px, transparent 5.5px);
  }
  .cursor b {
    position: absolute;
    top: 0;
    left: -3px;
    width: 15px;
    text-align: center;
    font-size: var(--type-fine);
    line-height: 15px;
    border-radius: calc(var(--radius) / 3);
    color: var(--paper);
    background: var(--muted);
  }
  .cursor.chosen b {
    background: var(--plum);
  }
  .span {
    position: absolute;
    top: 0;
    bottom: 0;
    background: color-mix(in srgb, var(--plum) 12%, transparent);
    border-inline: 1px solid var(--plum);
  }
  .note {
    position: absolute;
    top: 18px;
    bottom: 0;
    border-left: 1px dotted var(--ink);
    width: 0;
    pointer-events: none;
  }
  .note.limit,
  .note.unit {
    border-left-color: var(--line);
  }
  .note span {
    position: absolute;
    left: 3px;
    font-size: var(--type-fine);
    line-height: 14px;
    white-space: nowrap;
    background: color-mix(in srgb, var(--card) 82%, transparent);
    padding: 0 var(--space-half);
  }
  .note.late span {
    left: auto;
    right: 3px;
  }
  .note.limit span,
  .note.unit span {
    display: none;
  }
  .gap {
    position: absolute;
    top: 0;
    bottom: 0;
    background: repeating-linear-gradient(45deg, var(--line) 0 1px, transparent 1px 6px);
  }
</style>
