<!-- Things on a grid of columns, moved by a handle of theirs and sized at their edges; told once they were. -->
<script lang="ts" generics="T extends { id: string; x: number; y: number; w: number; h: number }">
  import 'gridstack/dist/gridstack.min.css';
  import type { GridItemHTMLElement, GridStack, GridStackNode } from 'gridstack';
  import { onMount, type Snippet } from 'svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = {
    things: readonly T[];
    columns?: number;
    /** Height of a row, px. */
    rowPx: number;
    /** What a thing is moved by: selectors within it. */
    handle: string;
    moved: (things: T[]) => void;
    thing: Snippet<[T]>;
  };
  let { things, columns = 24, rowPx, handle, moved, thing }: Props = $props();
  const shell = useShell();
  let box: HTMLElement;
  let grid: GridStack | undefined;
  let ready = $state(false);
  const items = new Map<string, HTMLElement>();

  /** Brings a thing into sight. */
  export const show = (id: string): void => items.get(id)?.scrollIntoView({ block: 'nearest' });
  /** The cell under a pointer. */
  export function cellAt({ clientX, clientY }: MouseEvent): { x: number; y: number } {
    const at = box.getBoundingClientRect();
    return {
      x: Math.floor(((clientX - at.left) / at.width) * columns),
      y: Math.max(0, Math.floor((clientY - at.top) / rowPx)),
    };
  }

  /** Where the grid puts a thing. */
  const placed = ({ id, x, y, w, h }: T) =>
    ({ 'gs-id': id, 'gs-x': x, 'gs-y': y, 'gs-w': w, 'gs-h': h, 'gs-min-w': 2 }) as Record<string, unknown>;
  /** Hands one element to the grid, and takes it back when it goes. */
  const item = (id: string) => (element: HTMLElement) => {
    items.set(id, element);
    grid?.makeWidget(element);
    return () => {
      items.delete(id);
      grid?.removeWidget(element, false, false);
    };
  };
  // What others arranged moves here, too.
  $effect(() => {
    const places = things;
    if (!ready || !grid) return;
    grid.batchUpdate();
    for (const { id, x, y, w, h } of places) {
      const element = items.get(id) as GridItemHTMLElement | undefined;
      const node = element?.gridstackNode;
      if (node && (node.x !== x || node.y !== y || node.w !== w || node.h !== h))
        grid.update(element, { x, y, w, h });
    }
    grid.batchUpdate(false);
  });
  $effect(() => {
    if (ready) grid?.cellHeight(rowPx);
  });
  function changed() {
    const nodes = new Map((grid!.engine.nodes as GridStackNode[]).map((n) => [n.id, n]));
    const next = things.map((t) => {
      const n = nodes.get(t.id);
      return n ? { ...t, x: n.x ?? t.x, y: n.y ?? t.y, w: n.w ?? t.w, h: n.h ?? t.h } : t;
    });
    if (JSON.stringify(next) !== JSON.stringify(things)) moved(next);
  }
  onMount(() => {
    let gone = false;
    void import('gridstack').then(
      ({ GridStack }) => {
        if (gone) return;
        const made = GridStack.init(
          {
            column: columns,
            cellHeight: rowPx,
            margin: 4,
            mode: 'float',
            handle,
            animate: false,
            resizable: { handles: 'e,s,se' },
          },
          box,
        )!;
        made.on('change', changed);
        grid = made;
        ready = true;
      },
      () => shell.say({ what: 'What arranges the page could not be fetched.', next: 'Reload the page.' }),
    );
    return () => {
      gone = true;
      grid?.destroy(false);
    };
  });
</script>

<div class="grid-stack" bind:this={box}>
  {#each things as t (t.id)}
    <div class="grid-stack-item" {...placed(t)} {@attach item(t.id)}>
      <div class="grid-stack-item-content">{@render thing(t)}</div>
    </div>
  {/each}
</div>

<style>
  .grid-stack {
    min-height: 100%;
  }
  .grid-stack :global(.grid-stack-item-content) {
    overflow: hidden;
  }
  .grid-stack :global(.grid-stack-placeholder > .placeholder-content) {
    background: var(--tint);
    border: 1px dashed var(--plum);
    border-radius: var(--radius);
  }
</style>
