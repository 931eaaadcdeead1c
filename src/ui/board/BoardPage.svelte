<!-- A board: live views arranged on a grid by drag and resize, kept as made. -->
<script lang="ts">
  import 'gridstack/dist/gridstack.min.css';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { GridStack, type GridItemHTMLElement, type GridStackNode } from 'gridstack';
  import { onMount, tick, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import { commonOf, roleOf } from '$contract/channel';
  import {
    VIEW_KINDS,
    VIEW_PURPOSES,
    VIEW_SIZES,
    VIEW_TITLES,
    fittingView,
    withChange,
    type BoardChange,
    type Board,
    type View,
    type ViewKind,
  } from '$contract/board';
  import { stripKey } from '$contract/live';
  import { traceColour } from '$contract/palette';
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import RecordTabs from '../record/RecordTabs.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { BoardDraft } from './draft.svelte';
  import { BoardContext, provideBoard } from './context.svelte';
  import ViewFrame from './ViewFrame.svelte';
  import ViewSettings from './ViewSettings.svelte';

  type Props = { overview: Overview; board: Board };
  let { overview, board }: Props = $props();
  const shell = useShell();
  const channels = $derived(overview.channels);
  const context = new BoardContext(() => overview.channels);
  provideBoard(context);

  const COLUMNS = 24;
  const ROW_PX = 34;
  // svelte-ignore state_referenced_locally
  const draft = new BoardDraft(
    board.views,
    (change, leaving) => call<Board>('PATCH', `/api/boards/${board.id}`, change, leaving),
    (error) => shell.say(faultText(error)),
  );
  const views = $derived(draft.views);
  $effect(() => {
    const { views: server } = board;
    untrack(() => draft.follow(server));
  });
  let chosen = $state<string | null>(null);
  let adding = $state(false);
  let drawer = $state(false);
  let page: HTMLElement;
  let grid: GridStack | undefined;
  const items = new Map<string, HTMLElement>();

  const channelsOf = (view: View) => view.channels.flatMap((id) => channels.find((c) => c.id === id) ?? []);

  // What the views draw is asked for once, for all of them.
  $effect(() => {
    const strips = new Set<string>();
    const waves = new Set<string>();
    for (const view of views)
      for (const { id } of channelsOf(view)) {
        if (view.kind === 'strip') strips.add(stripKey(id, view.span));
        if (view.kind === 'level') strips.add(stripKey(id, view.span, 'rms'));
        if (view.kind === 'xy') strips.add(id);
        if (view.kind === 'burst' || view.kind === 'spectrum') waves.add(id);
      }
    shell.feed.want([...strips].slice(0, 64), [...waves].slice(0, 64));
  });

  const keep = (next: View[]) => draft.keep(next);
  const change = (id: string) => (edit: Partial<View>) =>
    keep(views.map((v) => (v.id === id ? { ...v, ...edit } : v)));

  async function add(kind: ViewKind, ids: string[], at?: { x: number; y: number }) {
    const [w, h] = VIEW_SIZES[kind];
    const id = crypto.randomUUID().slice(0, 8);
    const bottom = Math.max(0, ...views.map((v) => v.y + v.h));
    const view: View = {
      id,
      kind,
      channels: ids,
      x: Math.min(at?.x ?? 0, COLUMNS - w),
      y: at?.y ?? bottom,
      w,
      h,
      span: kind === 'burst' ? 0.2 : 60,
      range: null,
      level: 0,
      title: '',
      text: '',
      picture: null,
      spots: [],
      style: 'slider',
    };
    keep([...views, view]);
    adding = false;
    if (ids.length === 0 && kind !== 'text') chosen = id;
    await tick();
    items.get(id)?.scrollIntoView({ block: 'nearest' });
  }
  function remove(id: string) {
    chosen = null;
    keep(views.filter((v) => v.id !== id));
  }
  /** Where the grid puts a view. */
  const placed = ({ id, x, y, w, h }: View) =>
    ({ 'gs-id': id, 'gs-x': x, 'gs-y': y, 'gs-w': w, 'gs-h': h, 'gs-min-w': 2 }) as Record<string, unknown>;
  /** Hands one element to the grid, and takes it back when it goes. */
  const item = (view: View) => (element: HTMLElement) => {
    items.set(view.id, element);
    grid?.makeWidget(element);
    return () => {
      items.delete(view.id);
      grid?.removeWidget(element, false, false);
    };
  };
  // What others arranged moves here, too.
  $effect(() => {
    const places = views;
    if (!grid) return;
    grid.batchUpdate();
    for (const { id, x, y, w, h } of places) {
      const element = items.get(id) as GridItemHTMLElement | undefined;
      const node = element?.gridstackNode;
      if (node && (node.x !== x || node.y !== y || node.w !== w || node.h !== h))
        grid.update(element, { x, y, w, h });
    }
    grid.batchUpdate(false);
  });
  function moved() {
    const nodes = new Map((grid!.engine.nodes as GridStackNode[]).map((n) => [n.id, n]));
    const next = views.map((v) => {
      const n = nodes.get(v.id);
      return n ? { ...v, x: n.x ?? v.x, y: n.y ?? v.y, w: n.w ?? v.w, h: n.h ?? v.h } : v;
    });
    if (JSON.stringify(next) !== JSON.stringify(views)) keep(next);
  }
  function drop(event: DragEvent) {
    const id = event.dataTransfer?.getData('text/farrier-channel');
    const channel = channels.find((c) => c.id === id);
    if (!channel) return;
    event.preventDefault();
    const box = grid!.el.getBoundingClientRect();
    const at = {
      x: Math.floor(((event.clientX - box.left) / box.width) * COLUMNS),
      y: Math.max(0, Math.floor((event.clientY - box.top) / ROW_PX)),
    };
    const { unit, rateHz } = commonOf(channel);
    void add(fittingView({ role: roleOf(channel), unit, rateHz }), [channel.id], at);
  }

  const typed = (act: () => void) => (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest('input, textarea, select, [role=dialog]')) return;
    event.preventDefault();
    act();
  };
  const full = () =>
    document.fullscreenElement ? void document.exitFullscreen() : void page.requestFullscreen();
  const beginAnew = () => call('POST', '/api/live/reset', {}).catch((e) => shell.say(faultText(e)));
  onMount(() => {
    const made = GridStack.init(
      {
        column: COLUMNS,
        cellHeight: ROW_PX,
        margin: 4,
        mode: 'float',
        handle: '.view-head',
        animate: false,
        resizable: { handles: 'e,s,se' },
      },
      page.querySelector<HTMLElement>('.grid-stack')!,
    )!;
    grid = made;
    made.on('change', moved);
    const keys = tinykeys(window, {
      h: typed(() => (context.held = !context.held)),
      'Shift+F': typed(full),
      p: typed(() => void beginAnew()),
    });
    // A page that is loaded anew may be made before what it sent on leaving has arrived: it remembers it.
    const mine = `farrier-board-${board.id}`;
    const left = sessionStorage.getItem(mine);
    sessionStorage.removeItem(mine);
    if (left) keep(withChange(draft.views, JSON.parse(left) as BoardChange));
    const leave = () => {
      const change = draft.leave();
      if (change) sessionStorage.setItem(mine, JSON.stringify(change));
    };
    addEventListener('pagehide', leave);
    return () => {
      keys();
      removeEventListener('pagehide', leave);
      draft.leave();
      grid?.destroy(false);
    };
  });
  $effect(() => {
    if (!context.held) context.cursor = null;
  });
  async function rename(name: string) {
    try {
      await call('PATCH', `/api/boards/${board.id}`, { name });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  async function act(work: () => Promise<unknown>) {
    try {
      await work();
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const copy = () =>
    act(async () => {
      const { id } = await call<{ id: string }>('POST', '/api/boards', {
        name: `${board.name}, copy`,
        from: board.id,
      });
      await goto(resolve('/record/boards/[id]', { id }));
    });
  const removeBoard = () =>
    act(async () => {
      await call('DELETE', `/api/boards/${board.id}`);
      await goto(resolve('/record'));
    });
  const settingsOf = $derived(views.find((v) => v.id === chosen));
</script>

<div class="page" bind:this={page} data-saved={draft.saved}>
  <RecordTabs boards={overview.boards} />
  <div class="page-head">
    <input
      class="name"
      value={board.name}
      aria-label="Name of the board"
      maxlength="60"
      onchange={(e) => void rename(e.currentTarget.value)}
    />
    {#if context.held}<span class="held">Holding the view; recording goes on</span>{/if}
    <div class="actions">
      <Button size="sm" color="alternative" aria-expanded={drawer} onclick={() => (drawer = !drawer)}
        >Channels</Button
      >
      <Button size="sm" color="alternative" aria-expanded={adding} onclick={() => (adding = !adding)}
        >Add a view</Button
      >
      <Button
        size="sm"
        color="alternative"
        aria-pressed={context.held}
        onclick={() => (context.held = !context.held)}
        >{context.held ? 'Let it run' : 'Hold the view'} <kbd>H</kbd></Button
      >
      <Button
        size="sm"
        color="alternative"
        title="Lowest, highest, mean and peak begin anew"
        onclick={() => void beginAnew()}>Peaks anew <kbd>P</kbd></Button
      >
      <Button size="sm" color="alternative" onclick={full}>Full screen <kbd>⇧F</kbd></Button>
      <button class="dotted small" onclick={() => void copy()}>copy</button>
      <button class="dotted small" onclick={() => void removeBoard()}>remove</button>
    </div>
  </div>
  {#if adding}
    <div class="kinds card" role="group" aria-label="Kinds of views">
      {#each VIEW_KINDS as kind (kind)}<button onclick={() => void add(kind, [])}
          ><strong>{VIEW_TITLES[kind]}</strong> <span class="muted">{VIEW_PURPOSES[kind]}</span></button
        >{/each}
    </div>
  {/if}
  <div class="below">
    {#if drawer}
      <aside class="card" aria-label="Channels">
        <p class="muted">Drag one onto the board, or onto a view; Enter adds it.</p>
        {#each channels as c (c.id)}
          <button
            class="channel"
            draggable="true"
            ondragstart={(e) => e.dataTransfer?.setData('text/farrier-channel', c.id)}
            onclick={() => {
              const { unit, rateHz } = commonOf(c);
              void add(fittingView({ role: roleOf(c), unit, rateHz }), [c.id]);
            }}><span class="dot" style:background={traceColour(c.colour, shell.night)}></span>{c.name}</button
          >
        {/each}
      </aside>
    {/if}
    <div class="scroll" role="group" aria-label="Views" ondragover={(e) => e.preventDefault()} ondrop={drop}>
      {#if views.length === 0}<p class="empty">
          Nothing is shown yet: add a view, or drag a channel here; it gets the view that fits it.
        </p>{/if}
      <div class="grid-stack">
        {#each views as view (view.id)}
          <div class="grid-stack-item" {...placed(view)} {@attach item(view)}>
            <div class="grid-stack-item-content">
              <ViewFrame
                {view}
                channels={channelsOf(view)}
                all={channels}
                change={change(view.id)}
                settings={() => (chosen = chosen === view.id ? null : view.id)}
              />
            </div>
          </div>
        {/each}
      </div>
    </div>
  </div>
</div>
{#if settingsOf}
  <ViewSettings
    view={settingsOf}
    {channels}
    change={change(settingsOf.id)}
    remove={() => remove(settingsOf.id)}
    close={() => (chosen = null)}
  />
{/if}

<style>
  .page {
    background: var(--paper);
  }
  .name {
    font-size: 20px;
    font-weight: 700;
    letter-spacing: -0.01em;
    border: 1px solid transparent;
    background: none;
    padding: 0 4px;
    border-radius: 6px;
    min-width: 120px;
    flex: 1;
  }
  .name:hover,
  .name:focus {
    border-color: var(--line);
  }
  .held {
    color: var(--ochre);
    white-space: nowrap;
  }
  .small {
    font-size: 12.5px;
  }
  .kinds {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 2px 14px;
    padding: 10px 14px;
  }
  .kinds button {
    text-align: left;
    padding: 3px 6px;
    border-radius: 5px;
    font-size: 12.5px;
  }
  .kinds button:hover,
  .kinds button:focus-visible {
    background: var(--tint);
  }
  .below {
    display: flex;
    gap: 10px;
    flex: 1;
    min-height: 0;
  }
  aside {
    width: 210px;
    overflow: auto;
    padding: 8px 10px;
    flex-shrink: 0;
  }
  aside p {
    margin: 0 0 6px;
    font-size: 12px;
  }
  .channel {
    display: flex;
    gap: 8px;
    align-items: center;
    width: 100%;
    text-align: left;
    padding: 3px 4px;
    border-radius: 5px;
    cursor: grab;
  }
  .channel:hover {
    background: var(--tint);
  }
  .dot {
    width: 9px;
    height: 9px;
    border-radius: 3px;
    flex-shrink: 0;
  }
  .scroll {
    flex: 1;
    min-width: 0;
    overflow: auto;
    margin: 0 -4px;
    position: relative;
  }
  .empty {
    position: absolute;
    inset: 40% 0 auto;
    text-align: center;
    font-size: 16px;
    margin: 0;
  }
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
