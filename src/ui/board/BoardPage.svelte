<!-- A board: live views arranged on a grid by drag and resize, kept as made. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { onMount, tick, untrack } from 'svelte';
  import { tinykeys } from 'tinykeys';
  import type { Channel } from '$contract/channel';
  import { withChange, type BoardChange, type Board, View } from '$contract/board';
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Arranged from '../kit/Arranged.svelte';
  import RecordTabs from '../record/RecordTabs.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { BoardDraft } from './draft.svelte';
  import { BoardContext, provideBoard } from './context.svelte';
  import ViewFrame from './ViewFrame.svelte';
  import ViewSettings from './ViewSettings.svelte';
  import { fittingView } from './views/registry';
  import type { BoardView } from './views/view';
  import KindChoice from './KindChoice.svelte';
  import ChannelDrawer from './ChannelDrawer.svelte';

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
    (change, leaving) =>
      call('PATCH /api/boards/[id]', { params: { id: board.id }, body: change }, { keepalive: leaving }),
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
  let grid: Arranged<View>;

  const channelsOf = (view: View) => view.channels.flatMap((id) => channels.find((c) => c.id === id) ?? []);

  const keep = (next: View[]) => draft.keep(next);
  const change = (id: string) => (edit: Partial<View>) =>
    keep(views.map((v) => (v.id === id ? { ...v, ...edit } : v)));

  async function add(kind: BoardView, ids: string[], at?: { x: number; y: number }) {
    const [w, h] = kind.size;
    const id = crypto.randomUUID().slice(0, 8);
    const bottom = Math.max(0, ...views.map((v) => v.y + v.h));
    const view = View.parse({
      id,
      kind: kind.kind,
      channels: ids,
      x: Math.min(at?.x ?? 0, COLUMNS - w),
      y: at?.y ?? bottom,
      w,
      h,
      ...kind.begins,
    });
    keep([...views, view]);
    adding = false;
    if (ids.length === 0 && (kind.channels !== 'none' || kind.settings)) chosen = id;
    await tick();
    grid.show(id);
  }
  function remove(id: string) {
    chosen = null;
    keep(views.filter((v) => v.id !== id));
  }
  function drop(event: DragEvent) {
    const id = event.dataTransfer?.getData('text/farrier-channel');
    const channel = channels.find((c) => c.id === id);
    if (!channel) return;
    event.preventDefault();
    void add(fittingView(channel), [channel.id], grid.cellAt(event));
  }

  const typed = (act: () => void) => (event: KeyboardEvent) => {
    if ((event.target as HTMLElement).closest('input, textarea, select, [role=dialog]')) return;
    event.preventDefault();
    act();
  };
  const full = () =>
    document.fullscreenElement ? void document.exitFullscreen() : void page.requestFullscreen();
  const beginAnew = () => call('POST /api/live/reset', { body: {} }).catch((e) => shell.say(faultText(e)));
  onMount(() => {
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
    };
  });
  $effect(() => {
    if (!context.held) context.cursor = null;
  });
  async function rename(name: string) {
    try {
      await call('PATCH /api/boards/[id]', { params: { id: board.id }, body: { name } });
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
      const { id } = await call('POST /api/boards', {
        body: {
          name: `${board.name}, copy`,
          from: board.id,
        },
      });
      await goto(resolve('/record/boards/[id]', { id }));
    });
  const removeBoard = () =>
    act(async () => {
      await call('DELETE /api/boards/[id]', { params: { id: board.id } });
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
  {#if adding}<KindChoice choose={(kind) => void add(kind, [])} />{/if}
  <div class="below">
    {#if drawer}<ChannelDrawer {channels} add={(c: Channel) => void add(fittingView(c), [c.id])} />{/if}
    <div class="scroll" role="group" aria-label="Views" ondragover={(e) => e.preventDefault()} ondrop={drop}>
      {#if views.length === 0}<p class="empty">
          Nothing is shown yet: add a view, or drag a channel here; it gets the view that fits it.
        </p>{/if}
      <Arranged bind:this={grid} things={views} rowPx={ROW_PX} handle=".view-head" moved={keep}>
        {#snippet thing(view)}
          <ViewFrame
            {view}
            channels={channelsOf(view)}
            all={channels}
            change={change(view.id)}
            settings={() => (chosen = chosen === view.id ? null : view.id)}
          />
        {/snippet}
      </Arranged>
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
    font-size: var(--type-title);
    font-weight: 700;
    letter-spacing: -0.01em;
    border: 1px solid transparent;
    background: none;
    padding: 0 var(--space-1);
    border-radius: var(--radius);
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
    font-size: var(--type-small);
  }
  .below {
    display: flex;
    gap: var(--space-2);
    flex: 1;
    min-height: 0;
  }
  .scroll {
    flex: 1;
    min-width: 0;
    overflow: auto;
    margin: 0 calc(-1 * var(--space-1));
    position: relative;
  }
  .empty {
    position: absolute;
    inset: 40% 0 auto;
    text-align: center;
    font-size: var(--type-reading);
    margin: 0;
  }
</style>
