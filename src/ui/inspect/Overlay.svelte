<!-- Over the drawings: two cursors, a span that is dragged, the wheel, what is written on the axis, what is missing, and why a curve ends. -->
<script lang="ts">
  import { momentOf } from '$core/figures/clock';
  import { placeLabels } from '$core/layout/labels';
  import { call } from '../api';
  import type { Inspection } from './inspection.svelte';
  import { signalOf } from './panels';
  import type { Windows } from './windows.svelte';

  type Props = {
    insp: Inspection;
    left: number;
    right: number;
    out: ReadonlyMap<string, string>;
    several: boolean;
    windows: Windows;
    note: (from: number, to: number | null) => void;
  };
  let { insp, left, right, out, several, note }: Props = $props();

  let box: HTMLDivElement;
  let width = $state(0);
  type Drag = { startX: number; x: number; what: 'span' | 'pan' | 0 | 1; from: number };
  let drag = $state<Drag | null>(null);

  const from = $derived(insp.window[0]);
  const to = $derived(insp.window[1]);
  const share = (s: number) => ((s - from) / (to - from)) * 100;
  const inView = (s: number) => s >= from && s <= to;
  const perPixel = $derived((to - from) / Math.max(1, width));
  const secondsAt = (clientX: number) => {
    const { left: edge, width: px } = box.getBoundingClientRect();
    return from + Math.min(1, Math.max(0, (clientX - edge) / px)) * (to - from);
  };

  const SNAP_PX = 12;
  const WHAT = { peaks: 'peak', valleys: 'valley', crossings: 'crossing' } as const;
  /** Puts a cursor, onto what is near where it should stick to something. */
  async function put(which: 0 | 1, at: number) {
    insp.place(which, at);
    const { main, snap } = insp;
    const signal = main && signalOf(main, insp.names[0]);
    if (snap === 'nothing' || !signal) return;
    const zero = insp.zero(main.head.id);
    const reach = SNAP_PX * perPixel;
    try {
      const found = await call('GET /api/takes/[id]/near', {
        params: { id: main.head.id },
        query: {
          signal: signal.id,
          from: at + zero - reach,
          to: at + zero + reach,
          what: WHAT[snap],
          level: insp.drawing.level,
          at: at + zero,
        },
      });
      if (found.s !== null && insp.cursors[which] === at) insp.place(which, found.s - zero);
    } catch {
      // it stays where it was put
    }
  }

  function down(event: PointerEvent) {
    if (event.button > 1) return;
    const cursor = (event.target as HTMLElement).dataset.cursor;
    event.preventDefault();
    box.setPointerCapture(event.pointerId);
    const what =
      cursor !== undefined
        ? (Number(cursor) as 0 | 1)
        : event.shiftKey || event.button === 1
          ? 'pan'
          : 'span';
    if (typeof what === 'number') insp.chosen = what;
    if (what === 'pan') insp.remember();
    drag = { startX: event.clientX, x: event.clientX, what, from };
  }
  function move(event: PointerEvent) {
    if (!drag) return;
    drag.x = event.clientX;
    if (typeof drag.what === 'number') insp.place(drag.what, secondsAt(event.clientX));
    if (drag.what === 'pan') insp.pan(drag.from - (event.clientX - drag.startX) * perPixel - from);
  }
  function up(event: PointerEvent) {
    if (!drag) return;
    const { startX, what } = drag;
    drag = null;
    if (typeof what === 'number') return void put(what, secondsAt(event.clientX));
    if (what === 'pan') return;
    const [a, b] = [startX, event.clientX].map(secondsAt).sort((p, q) => p - q);
    if (Math.abs(event.clientX - startX) < 5) void put(insp.chosen, secondsAt(event.clientX));
    else if (event.altKey) note(a, b);
    else insp.look(a, b);
  }
  let turned = 0;
  function wheel(event: WheelEvent) {
    event.preventDefault();
    // One step back for one turn of the wheel, not for each of its notches.
    if (event.timeStamp - turned > 400) insp.remember();
    turned = event.timeStamp;
    const sideways = event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY);
    if (sideways) return insp.pan(((event.deltaX || event.deltaY) / 600) * (to - from));
    insp.zoom(secondsAt(event.clientX), Math.exp(Math.min(1, Math.max(-1, event.deltaY / 240))));
  }
  const nonPassive = (node: HTMLElement) => {
    node.addEventListener('wheel', wheel, { passive: false });
    return () => node.removeEventListener('wheel', wheel);
  };

  const zero = $derived(insp.main ? insp.zero(insp.main.head.id) : 0);
  const QUIET = ['armed', 'limit', 'unit'];
  const told = $derived(
    (insp.main?.notes ?? [])
      .map((n) => ({ ...n, at: n.atS - zero, until: n.untilS === null ? null : n.untilS - zero }))
      .filter(
        (n) => n.kind !== 'armed' && (inView(n.at) || (n.until !== null && n.at < to && n.until > from)),
      )
      .sort((a, b) => a.at - b.at),
  );
  const places = $derived(
    placeLabels(
      told.map((n) => ({
        x: Math.max(0, (share(n.at) / 100) * width),
        text: QUIET.includes(n.kind) ? '' : n.says,
      })),
      width,
    ),
  );
  const shown = $derived(
    insp.main?.signals.filter((s) => insp.names.includes(s.name)).map((s) => s.id) ?? [],
  );
  const gaps = $derived(
    (insp.main?.gaps ?? [])
      .filter((g) => g.signals.some((s) => shown.includes(s)))
      .map((g) => ({ from: g.fromS - zero, to: g.toS - zero, reason: g.reason }))
      .filter((g) => g.to > from && g.from < to),
  );
  /** Why curves of the others end where they do: those that do not count. */
  const ends = $derived(
    several
      ? insp.takes
          .filter((t) => out.has(t.head.id))
          .map((t) => ({
            id: t.head.id,
            at: t.durationS - insp.zero(t.head.id),
            says: `${t.head.name}: ${out.get(t.head.id)}`,
          }))
          .filter((e) => e.at > from && share(e.at) > 5)
      : [],
  );
  const digits = $derived(Math.min(insp.digits, Math.max(1, Math.ceil(-Math.log10(perPixel)))));
</script>

<svelte:window onkeydown={(e) => e.key === 'Escape' && (drag = null)} />

<!-- Everything here can be done by the page's keys, too. -->
<div
  class="over"
  class:panning={drag?.what === 'pan'}
  bind:this={box}
  bind:clientWidth={width}
  {@attach nonPassive}
  style:left="{left}px"
  style:right="{right}px"
  role="application"
  aria-label="Time axis: click places the chosen cursor, drag looks at a part, with Shift it moves, arrow keys move the cursor"
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointercancel={() => (drag = null)}
>
  {#each gaps as gap (`${gap.from} ${gap.reason}`)}
    <div
      class="gap"
      title={gap.reason}
      style:left="{Math.max(0, share(gap.from))}%"
      style:width="{share(Math.min(to, gap.to)) - Math.max(0, share(gap.from))}%"
    ></div>
  {/each}
  {#each told as n, i (n.id)}
    {#if n.until !== null}
      <div
        class="noted"
        title="{n.says} ({n.by})"
        style:left="{Math.max(0, share(n.at))}%"
        style:width="{share(Math.min(to, n.until)) - Math.max(0, share(n.at))}%"
      ></div>
    {/if}
    <div
      class="note"
      class:quiet={QUIET.includes(n.kind)}
      class:late={places[i].left}
      style:left="{Math.max(0, share(n.at))}%"
      title="{momentOf(insp.scale, n.at, 2)}  {n.says}"
    >
      {#if places[i].text}<span style:bottom="{2 + places[i].row * 15}px">{places[i].text}</span>{/if}
    </div>
  {/each}
  {#each ends as end, k (end.id)}
    <span
      class="end"
      style:left="{Math.min(100, share(end.at))}%"
      style:top="{40 + (k % 4) * 16}px"
      title={end.says}>{end.says}</span
    >
  {/each}
  {#if drag?.what === 'span' && Math.abs(drag.x - drag.startX) >= 5}
    {@const [a, b] = [share(secondsAt(drag.startX)), share(secondsAt(drag.x))].sort((p, q) => p - q)}
    <div class="span" style:left="{a}%" style:width="{b - a}%"></div>
  {/if}
  {#each insp.cursors as at, k (k)}
    {#if at !== null && inView(at)}
      <div class="cursor" class:chosen={k === insp.chosen} style:left="{share(at)}%" data-cursor={k}>
        <b class="mono" class:back={share(at) > 88} data-cursor={k}
          >{k + 1}&ensp;{momentOf(insp.scale, at, digits, insp.whole[1])}</b
        >
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
    overflow: hidden;
  }
  .panning {
    cursor: grabbing;
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
    background: linear-gradient(to right, transparent 4px, var(--ink) 4px 5.5px, transparent 5.5px);
  }
  .cursor b {
    position: absolute;
    /* Under the names of the plot. */
    top: 20px;
    left: 4px;
    padding: 0 var(--space-1);
    font-size: var(--type-fine);
    line-height: 16px;
    font-weight: 500;
    white-space: nowrap;
    border-radius: calc(var(--radius) / 3);
    color: var(--paper);
    background: var(--muted);
  }
  .cursor b.back {
    left: auto;
    right: 4px;
  }
  .cursor.chosen b {
    background: var(--ink);
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
  .note.quiet {
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
  .noted {
    position: absolute;
    bottom: 0;
    height: 4px;
    background: color-mix(in srgb, var(--plum) 45%, transparent);
  }
  .end {
    position: absolute;
    transform: translateX(-100%);
    max-width: 45%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: var(--type-fine);
    color: var(--ochre);
    background: color-mix(in srgb, var(--card) 82%, transparent);
    padding: 0 var(--space-1);
  }
  .gap {
    position: absolute;
    top: 0;
    bottom: 0;
    background: repeating-linear-gradient(45deg, var(--line) 0 1px, transparent 1px 6px);
  }
</style>
