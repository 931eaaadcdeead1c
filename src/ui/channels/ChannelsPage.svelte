<!-- All channels of the job as a grid, the chosen one as its sentence beside it. -->
<script lang="ts">
  import { afterNavigate, goto, replaceState } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { page } from '$app/state';
  import { onDestroy, onMount } from 'svelte';
  import { roleOf } from '$contract/channel';
  import { USUAL_COLUMNS } from '$contract/columns';
  import type { Overview } from '$contract/overview';
  import { Button, Input } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import Late from '../kit/Late.svelte';
  import { useShell } from '../shell/shell.svelte';
  import ChannelPanel from './ChannelPanel.svelte';
  import ChannelGrid from './ChannelGrid.svelte';
  import type { Cell, PastedBlock } from './blocks';
  import Follows from './Follows.svelte';

  type Followed = { what: string; before: string; after: string };
  type Props = { overview: Overview };
  let { overview }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const channels = $derived(overview.channels);
  const columns = $derived(overview.columns ?? USUAL_COLUMNS);
  let search = $state('');
  let chosenId = $state<string | null>(null);
  let selectedIds = $state.raw<string[]>([]);
  let adding = $state(false);
  let addAt = $state<string | null>(null);
  let pasted = $state.raw<PastedBlock | null>(null);
  let drawer = $state<'columns' | 'scales' | 'history' | 'travel' | null>(null);
  let open = $state(false);
  const TITLES = {
    columns: 'Columns',
    scales: 'Scales of this job',
    history: 'What changed',
    travel: 'Take the set-up along',
  };

  const chosen = $derived(channels.find((c) => c.id === chosenId) ?? channels[0] ?? null);
  const chosenStrip = $derived(chosen?.id);
  const count = (role: string) => channels.filter((c) => roleOf(c) === role).length;

  onMount(() => {
    addAt = page.url.searchParams.get('add');
    if (addAt) adding = true;
  });
  // An address chooses a channel once, as it is opened: not again each time the page is fetched anew.
  afterNavigate(({ to }) => {
    const hash = to?.url.hash.slice(1);
    if (hash) chosenId = hash;
  });
  $effect(() => {
    if (chosenStrip) return feed.watch([chosenStrip]);
  });
  let typed: ReturnType<typeof setTimeout> | undefined;
  // The address of another page is not ours to write.
  let here = true;
  onDestroy(() => (here = false));
  function choose(id: string) {
    if (chosenId === id) return;
    chosenId = id;
    // While an arrow key is held the address follows at its end.
    clearTimeout(typed);
    typed = setTimeout(() => here && replaceState(resolve(`/channels#${id}`), {}), 150);
  }
  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  /** What a change brings along or stops is shown before it is done. */
  let asked = $state.raw<{
    title: string;
    act: string;
    follows: Followed[];
    decide: (yes: boolean) => void;
  } | null>(null);
  function agreed(title: string, act: string, follows: Followed[]): Promise<boolean> {
    if (follows.length === 0) return Promise.resolve(true);
    return new Promise((resolve) => (asked = { title, act, follows, decide: resolve }));
  }
  function decide(yes: boolean) {
    asked?.decide(yes);
    asked = null;
  }
  /** Cells typed in place: here a comma is the decimal sign, as everywhere one types a number. */
  async function write(cells: Cell[]): Promise<string | null> {
    const post = (apply: boolean) =>
      call('POST /api/channels/cells', {
        body: {
          cells,
          comma: 'decimal sign',
          apply,
        },
      });
    try {
      if (cells.some((c) => c.key === 'unit' || c.key === 'name')) {
        const { follows, cells: before } = await post(false);
        const fault = before.find((r) => r.fault)?.fault;
        if (fault) return fault;
        const units = cells.some((c) => c.key === 'unit');
        if (units && !(await agreed('A new unit is followed by', 'Change it all', follows))) return null;
      }
      const { cells: results } = await post(true);
      await shell.refresh();
      return results.find((r) => r.fault)?.fault ?? null;
    } catch (error) {
      const { what, next } = faultText(error);
      return [what, next].filter(Boolean).join(' ');
    }
  }
  const show = (what: NonNullable<typeof drawer>) => {
    drawer = what;
    open = true;
  };
  const remove = (ids: string[]) =>
    attempt(async () => {
      const uses = await call('POST /api/channels/remove', { body: { ids, apply: false } });
      if (!(await agreed('What uses it, and what stops working', 'Remove it all the same', uses))) return;
      await call('POST /api/channels/remove', { body: { ids, anyway: true } });
      chosenId = null;
    });
</script>

<div class="page">
  <div class="page-head">
    <h1>Channels</h1>
    <span class="aside"
      >{count('measured')} measured · {count('driven')} driven · {count('computed')} computed</span
    >
    <div class="actions">
      <span class="links">
        <button class="dotted" onclick={() => show('columns')}>Columns</button>
        <button class="dotted" onclick={() => show('scales')}>Scales</button>
        <a class="dotted" href={resolve('/channels/sensors')}>Sensors</a>
        <button class="dotted" onclick={() => show('history')}>What changed</button>
        <button class="dotted" onclick={() => show('travel')}>Take along</button></span
      >
      <div class="search">
        <Input size="sm" placeholder="Find a channel" bind:value={search} aria-label="Find a channel" />
      </div>
      <Button size="sm" onclick={() => ((addAt = null), (adding = true))}>Add channel</Button>
    </div>
  </div>
  {#if channels.length === 0}
    <Empty
      says="A channel is a name for what a terminal measures. Add the first one from a free terminal of the rig, or bring a set-up along."
    >
      <Button onclick={() => (adding = true)}>Add channel</Button>
      <Button color="alternative" onclick={() => show('travel')}>Import a set-up</Button>
    </Empty>
  {:else}
    <div class="columns">
      <div class="card list">
        <ChannelGrid
          {channels}
          {columns}
          {search}
          chosenId={chosen?.id ?? null}
          scales={overview.scales.map((s) => s.name)}
          {choose}
          preview={(block) => (pasted = block)}
          {write}
          order={(ids) => void attempt(() => call('POST /api/channels/order', { body: { ids } }))}
          selected={(ids) => (selectedIds = ids)}
        />
        <div class="foot muted">
          {#if selectedIds.length > 1}
            <span><strong>{selectedIds.length} channels</strong></span>
            <span>Ctrl+Enter writes to all</span><span>Ctrl+D fills down</span>
            <button class="dotted" onclick={() => void remove(selectedIds)}>Remove them</button>
          {:else}
            <span>Enter edits</span><span>Shift+arrows select</span><span
              >Ctrl+C, Ctrl+V with a spreadsheet</span
            ><span>Alt+↑↓ or drag moves</span>
          {/if}
        </div>
      </div>
      {#if chosen}{#key chosen.id}<ChannelPanel
            channel={chosen}
            {channels}
            scales={overview.scales}
            units={feed.status.units}
            {write}
            onremove={() => void remove([chosen.id])}
          />{/key}{/if}
    </div>
  {/if}
</div>

<Late wanted={adding} part={() => import('./AddChannel.svelte')}>
  {#snippet children(AddChannel)}
    <AddChannel
      bind:open={adding}
      terminal={addAt}
      {channels}
      units={feed.status.units}
      added={(id) => ((chosenId = id), void goto(resolve(`/channels#${id}`)))}
    />
  {/snippet}
</Late>
<Dialog
  bind:open={() => pasted !== null, (shown) => !shown && (pasted = null)}
  title="What these cells change"
  size="lg"
>
  {#if pasted}{@const block = pasted}<Late part={() => import('./PastePreview.svelte')}>
      {#snippet children(PastePreview)}
        <PastePreview
          {block}
          done={() => {
            pasted = null;
            void shell.refresh();
          }}
        />
      {/snippet}
    </Late>
  {/if}
</Dialog>
<Dialog
  bind:open={() => asked !== null, (shown) => !shown && decide(false)}
  title={asked?.title ?? ''}
  size="md"
>
  {#if asked}
    <Follows follows={asked.follows} />
    <div class="row">
      <Button size="sm" onclick={() => decide(true)}>{asked.act}</Button>
      <Button size="sm" color="alternative" onclick={() => decide(false)}>Leave it as it is</Button>
      <span class="muted">One undo takes it all back.</span>
    </div>
  {/if}
</Dialog>
<Dialog bind:open title={drawer ? TITLES[drawer] : ''} size="lg">
  {#if open && drawer === 'columns'}
    <Late part={() => import('./ColumnChoice.svelte')}>
      {#snippet children(ColumnChoice)}
        <ColumnChoice
          {columns}
          take={(wanted) => {
            open = false;
            void attempt(() => call('POST /api/layout', { body: { columns: wanted } }));
          }}
        />
      {/snippet}
    </Late>
  {:else if open && drawer === 'scales'}
    <Late part={() => import('./Scales.svelte')}>
      {#snippet children(Scales)}<Scales scales={overview.scales} {channels} />{/snippet}
    </Late>
  {:else if open && drawer === 'history'}
    <Late part={() => import('./HistoryList.svelte')}>
      {#snippet children(HistoryList)}<HistoryList takes={overview.takes} />{/snippet}
    </Late>
  {:else if open && drawer === 'travel'}
    <Late part={() => import('./Travel.svelte')}>
      {#snippet children(Travel)}<Travel done={() => (open = false)} />{/snippet}
    </Late>
  {/if}
</Dialog>

<style>
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-top: var(--space-3);
    font-size: var(--type-small);
  }
  .search {
    width: 150px;
  }
  .actions {
    font-size: var(--type-small);
    gap: var(--space-3);
  }
  .links {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    align-self: center;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 330px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .list {
    display: flex;
    flex-direction: column;
    overflow: hidden;
  }
  .foot {
    display: flex;
    gap: var(--space-4);
    border-top: 1px solid var(--line);
    padding: var(--space-1) var(--space-2);
    font-size: var(--type-small);
    white-space: nowrap;
    overflow: hidden;
  }
</style>
