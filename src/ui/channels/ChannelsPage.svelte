<!-- All channels of the job as a table of cells, the chosen one as its sentence beside it. -->
<script lang="ts">
  import { goto, replaceState } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { page } from '$app/state';
  import { onMount } from 'svelte';
  import { roleOf } from '$contract/channel';
  import { USUAL_COLUMNS } from '$contract/columns';
  import type { Overview } from '$contract/overview';
  import { Button, Input, Modal } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import AddChannel from './AddChannel.svelte';
  import ChannelPanel from './ChannelPanel.svelte';
  import ChannelTable from './ChannelTable.svelte';
  import ColumnChoice from './ColumnChoice.svelte';
  import HistoryList from './HistoryList.svelte';
  import PastePreview from './PastePreview.svelte';
  import Scales from './Scales.svelte';
  import Travel from './Travel.svelte';

  type Cell = { id: string; key: string; text: string };
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
  let pasted = $state.raw<Cell[] | null>(null);
  let drawer = $state<'columns' | 'scales' | 'history' | 'travel' | null>(null);
  let open = $state(false);
  const TITLES = {
    columns: 'Columns',
    scales: 'Scales of this job',
    history: 'What changed',
    travel: 'Take the set-up along',
  };

  const chosen = $derived(channels.find((c) => c.id === chosenId) ?? channels[0] ?? null);
  const count = (role: string) => channels.filter((c) => roleOf(c) === role).length;

  onMount(() => {
    addAt = page.url.searchParams.get('add');
    if (addAt) adding = true;
  });
  $effect(() => {
    const hash = page.url.hash.slice(1);
    if (hash) chosenId = hash;
  });
  $effect(() => {
    if (chosen) feed.want([chosen.id]);
  });
  let typed: ReturnType<typeof setTimeout> | undefined;
  function choose(id: string) {
    if (chosenId === id) return;
    chosenId = id;
    // While an arrow key is held the address follows at its end.
    clearTimeout(typed);
    typed = setTimeout(() => replaceState(resolve(`/channels#${id}`), {}), 150);
  }
  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  /** Cells typed in place: here a comma is the decimal sign, as everywhere one types a number. */
  async function write(cells: Cell[]): Promise<string | null> {
    try {
      const results = await call<{ fault: string | null }[]>('POST', '/api/channels/cells', {
        cells,
        comma: 'decimal sign',
        apply: true,
      });
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
      await call('POST', '/api/channels/remove', { ids });
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
        <ChannelTable
          {channels}
          {columns}
          {search}
          chosenId={chosen?.id ?? null}
          scales={overview.scales.map((s) => s.name)}
          {choose}
          preview={(cells) => (pasted = cells)}
          {write}
          order={(ids) => void attempt(() => call('POST', '/api/channels/order', { ids }))}
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
            onremove={() => void remove([chosen.id])}
          />{/key}{/if}
    </div>
  {/if}
</div>

<AddChannel
  bind:open={adding}
  terminal={addAt}
  {channels}
  units={feed.status.units}
  added={(id) => ((chosenId = id), void goto(resolve(`/channels#${id}`)))}
/>
<Modal
  bind:open={() => pasted !== null, (shown) => !shown && (pasted = null)}
  title="What these cells change"
  size="lg"
>
  {#if pasted}<PastePreview
      cells={pasted}
      done={() => {
        pasted = null;
        void shell.refresh();
      }}
    />{/if}
</Modal>
<Modal bind:open title={drawer ? TITLES[drawer] : ''} size="lg">
  {#if open && drawer === 'columns'}<ColumnChoice
      {columns}
      take={(wanted) => {
        open = false;
        void attempt(() => call('POST', '/api/layout', { columns: wanted }));
      }}
    />
  {:else if open && drawer === 'scales'}<Scales scales={overview.scales} {channels} />
  {:else if open && drawer === 'history'}<HistoryList takes={overview.takes} />
  {:else if open && drawer === 'travel'}<Travel done={() => (open = false)} />{/if}
</Modal>

<style>
  .search {
    width: 150px;
  }
  .actions {
    font-size: 12.5px;
    gap: 14px;
  }
  .links {
    display: flex;
    gap: 14px;
    align-items: baseline;
    align-self: center;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 330px;
    gap: 14px;
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
    gap: 18px;
    border-top: 1px solid var(--line);
    padding: 5px 10px;
    font-size: 12px;
    white-space: nowrap;
    overflow: hidden;
  }
</style>
