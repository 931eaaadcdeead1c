<!-- The page as it will print: blocks are dragged, resized and moved by keys; several can be marked at once. -->
<script lang="ts">
  import interact from 'interactjs';
  import { untrack } from 'svelte';
  import { GRID_MM, pageMm, type Block, type Page } from '$contract/report';
  import { blockKind } from '$contract/report-blocks';
  import { PAPER } from '$contract/palette';
  import type { ReportDraft } from './draft.svelte';
  import { around, moved, resized, type Edges, type Guide, type Rect } from './placing';

  type Props = {
    draft: ReportDraft;
    page: Page;
    chosen: string[];
    /** Something of the list was dropped here, mm. */
    onput: (kind: string, at: { x: number; y: number }) => void;
    onremove: () => void;
    oncopy: () => void;
  };
  let { draft, page, chosen = $bindable(), onput, onremove, oncopy }: Props = $props();

  const FINE_MM = 0.1;
  const POINTS_A_MM = 72 / 25.4;

  let sheet = $state<HTMLElement | null>(null);
  let wide = $state(1);
  const size = $derived(pageMm(draft.body.paper));
  const scale = $derived(wide / size[0]);
  const inner = $derived.by((): Rect => {
    const m = draft.body.paper.marginMm;
    return { x: m, y: m, w: size[0] - 2 * m, h: size[1] - 2 * m };
  });

  /** Where blocks are while they are dragged, before they are let go. */
  let moving = $state.raw<Map<string, Rect> | null>(null);
  let guides = $state.raw<Guide[]>([]);
  const placeOf = (block: Block): Rect => moving?.get(block.id) ?? block;

  function choose(id: string, more: boolean) {
    if (more) chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
    else if (!chosen.includes(id)) chosen = [id];
  }
  function commit() {
    const places = moving;
    moving = null;
    guides = [];
    if (!places) return;
    const differs = page.blocks.some((b) => {
      const to = places.get(b.id);
      return to && (to.x !== b.x || to.y !== b.y || to.w !== b.w || to.h !== b.h);
    });
    if (differs)
      draft.page(page.id, (p) => ({
        ...p,
        blocks: p.blocks.map((b) => ({ ...b, ...places.get(b.id) })),
      }));
  }

  /** Makes a block one that is dragged and resized by hand. */
  function handled(node: HTMLElement, id: string) {
    let from: Block[] = [];
    const others = () => page.blocks.filter((b) => !from.some((f) => f.id === b.id));
    const begin = () => {
      if (!chosen.includes(id)) chosen = [id];
      from = page.blocks.filter((b) => chosen.includes(b.id));
    };
    /** How far the hand has come since it took hold, mm. */
    interface Hand {
      clientX: number;
      clientY: number;
      clientX0: number;
      clientY0: number;
    }
    const way = ({ clientX, clientY, clientX0, clientY0 }: Hand): [number, number] => [
      (clientX - clientX0) / scale,
      (clientY - clientY0) / scale,
    ];
    const at = interact(node)
      .draggable({
        listeners: {
          start: begin,
          move: (hand: Hand) => {
            const [dx, dy] = way(hand);
            const box = around(from);
            const to = moved({ ...box, x: box.x + dx, y: box.y + dy }, others(), inner);
            guides = to.guides;
            moving = new Map(
              from.map(({ id, x, y, w, h }) => [id, { x: tenth(x + to.x - box.x), y: tenth(y + to.y - box.y), w, h }]), // prettier-ignore
            );
          },
          end: commit,
        },
      })
      .resizable({
        edges: { left: '.l', right: '.r', top: '.t', bottom: '.b' },
        listeners: {
          start: () => {
            begin();
            from = page.blocks.filter((b) => b.id === id);
          },
          move: (hand: Hand & { edges: Edges }) => {
            const { edges } = hand;
            const [dx, dy] = way(hand);
            const [{ x, y, w, h }] = from;
            const pulled = {
              x: edges.left ? x + dx : x,
              w: edges.left ? w - dx : edges.right ? w + dx : w,
              y: edges.top ? y + dy : y,
              h: edges.top ? h - dy : edges.bottom ? h + dy : h,
            };
            const { guides: shown, ...to } = resized(pulled, edges, others(), inner);
            guides = shown;
            moving = new Map([[id, to]]);
          },
          end: commit,
        },
      })
      .styleCursor(false);
    return { destroy: () => at.unset() };
  }
  const tenth = (v: number) => Math.round(v * 10) / 10;

  function keys(event: KeyboardEvent, id: string) {
    const ways: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    const way = ways[event.key];
    if (way) {
      event.preventDefault();
      event.stopPropagation();
      if (!chosen.includes(id)) chosen = [id];
      const step = event.altKey ? FINE_MM : GRID_MM;
      const [dx, dy] = [way[0] * step, way[1] * step];
      draft.page(
        page.id,
        (p) => ({
          ...p,
          blocks: p.blocks.map((b) =>
            !chosen.includes(b.id)
              ? b
              : event.shiftKey
                ? { ...b, w: tenth(Math.max(5, b.w + dx)), h: tenth(Math.max(2, b.h + dy)) }
                : { ...b, x: tenth(b.x + dx), y: tenth(b.y + dy) },
          ),
        }),
        `keys ${event.shiftKey} ${chosen.join()}`,
      );
    } else if (event.key === 'Enter' || event.key === ' ') {
      event.preventDefault();
      choose(id, event.shiftKey || event.ctrlKey || event.metaKey);
    } else if (event.key === 'Delete' || event.key === 'Backspace') {
      event.preventDefault();
      if (!chosen.includes(id)) chosen = [id];
      onremove();
    } else if (event.key.toLowerCase() === 'd' && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      if (!chosen.includes(id)) chosen = [id];
      oncopy();
    } else if (event.key === 'Escape') chosen = [];
  }

  function dropped(event: DragEvent) {
    const kind = event.dataTransfer?.getData('application/x-farrier-block');
    if (!kind || !sheet) return;
    event.preventDefault();
    const { left, top } = sheet.getBoundingClientRect();
    onput(kind, { x: (event.clientX - left) / scale, y: (event.clientY - top) / scale });
  }
  // Blocks that are gone are not marked any more.
  $effect(() => {
    const ids = new Set(page.blocks.map((b) => b.id));
    const marked = untrack(() => chosen);
    if (marked.some((id) => !ids.has(id))) chosen = marked.filter((id) => ids.has(id));
  });
  const label = (b: Block) =>
    `${blockKind(b.kind)?.title ?? b.kind}, ${b.x} mm from the left, ${b.y} mm from the top, ${b.w} by ${b.h} mm`;
</script>

<div
  class="sheet"
  data-testid="page"
  bind:this={sheet}
  bind:clientWidth={wide}
  style:aspect-ratio="{size[0]} / {size[1]}"
  style:--wide={size[0] / size[1]}
  style:--accent={PAPER.plum}
  style:background="white"
  style:color={PAPER.ink}
  role="listbox"
  aria-label="The page"
  aria-multiselectable="true"
  tabindex="-1"
  ondragover={(e) => e.dataTransfer?.types.includes('application/x-farrier-block') && e.preventDefault()}
  ondrop={dropped}
  onpointerdown={(e) => e.target === e.currentTarget && (chosen = [])}
>
  <!-- Drawn by the server, with every word escaped. -->
  <!-- eslint-disable-next-line svelte/no-at-html-tags -->
  <div class="ink" style:zoom={scale / POINTS_A_MM}>{@html draft.frames.get(page.id) ?? ''}</div>
  {#each page.blocks as block (block.id)}
    {@const place = placeOf(block)}
    {@const drawn = draft.drawn.get(block.id)}
    <div
      class="block"
      class:chosen={chosen.includes(block.id)}
      class:faulty={drawn?.says}
      data-kind={block.kind}
      role="option"
      aria-selected={chosen.includes(block.id)}
      aria-label={label(block)}
      title={drawn?.says ?? undefined}
      tabindex="0"
      style:left="{place.x * scale}px"
      style:top="{place.y * scale}px"
      style:width="{place.w * scale}px"
      style:height="{place.h * scale}px"
      use:handled={block.id}
      onpointerdown={(e) => choose(block.id, e.shiftKey || e.ctrlKey || e.metaKey)}
      onkeydown={(e) => keys(e, block.id)}
    >
      {#if drawn}
        <!-- The server draws it, with every word escaped: the same drawing goes into the PDF. -->
        <!-- eslint-disable-next-line svelte/no-at-html-tags -->
        <div class="ink" style:zoom={scale / POINTS_A_MM}>{@html drawn.svg}</div>
      {/if}
      {#if chosen.length === 1 && chosen[0] === block.id}
        {#each ['t l', 't', 't r', 'l', 'r', 'b l', 'b', 'b r'] as side (side)}<span class="handle {side}"
          ></span>{/each}
      {/if}
    </div>
  {/each}
  {#each guides as guide, k (k)}
    {#if 'x' in guide}<div class="guide upright" style:left="{guide.x * scale}px"></div>
    {:else}<div class="guide across" style:top="{guide.y * scale}px"></div>{/if}
  {/each}
</div>

<style>
  .sheet {
    position: relative;
    width: min(100%, calc((100cqh - 2 * var(--space-3)) * var(--wide)));
    margin: var(--space-3) auto;
    outline: 1px solid var(--line);
    overflow: hidden;
    touch-action: none;
    user-select: none;
  }
  .block {
    position: absolute;
    cursor: move;
    outline: 1px dashed transparent;
  }
  .block:hover {
    outline-color: var(--line);
  }
  .block.faulty {
    outline-color: var(--ochre-fill);
  }
  .block.chosen,
  .block:focus-visible {
    outline: 1.5px solid var(--accent);
  }
  .ink {
    position: absolute;
    left: 0;
    top: 0;
    pointer-events: none;
  }
  .ink :global(svg) {
    display: block;
    overflow: visible;
  }
  .ink :global([font-weight='bold']) {
    font-weight: 600;
  }
  .handle {
    position: absolute;
    width: 9px;
    height: 9px;
    left: calc(50% - 4.5px);
    top: calc(50% - 4.5px);
    background: var(--on-fill);
    border: 1.5px solid var(--accent);
  }
  .handle.l {
    left: -4.5px;
    cursor: ew-resize;
  }
  .handle.r {
    left: auto;
    right: -4.5px;
    cursor: ew-resize;
  }
  .handle.t {
    top: -4.5px;
    cursor: ns-resize;
  }
  .handle.b {
    top: auto;
    bottom: -4.5px;
    cursor: ns-resize;
  }
  .handle.t.l,
  .handle.b.r {
    cursor: nwse-resize;
  }
  .handle.t.r,
  .handle.b.l {
    cursor: nesw-resize;
  }
  .guide {
    position: absolute;
    background: var(--accent);
    opacity: 0.7;
    pointer-events: none;
  }
  .guide.upright {
    top: 0;
    bottom: 0;
    width: 1px;
  }
  .guide.across {
    left: 0;
    right: 0;
    height: 1px;
  }
</style>
