<!-- Chooses one of the takes, listed under their folders with number and time: the newest at once, any other by searching. -->
<script lang="ts">
  import type { Overview } from '$contract/overview';
  import type { TakeLine } from '$contract/take-list';
  import { call } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { takesByFolder, takeTag } from './labels';

  type Take = Overview['takes'][number];
  type Props = {
    takes: Overview['takes'];
    value: string;
    label: string;
    /** What stands before the takes: the choice of none. */
    none?: string;
    onchange?: (id: string) => void;
  };
  let { takes, value = $bindable(), label, none, onchange }: Props = $props();
  const shell = useShell();

  /** One that was searched for stands among the newest from then on. */
  let found = $state.raw<Take[]>([]);
  const folders = $derived(
    takesByFolder([...takes, ...found.filter((f) => !takes.some((t) => t.id === f.id))]),
  );
  const more = $derived(shell.overview.taken.count > shell.overview.takes.length);

  const SEARCH = 'search';
  let anchor = $state<HTMLElement | null>(null);
  let words = $state('');
  let hits = $state.raw<TakeLine[]>([]);
  let select: HTMLSelectElement;

  function choose(id: string) {
    if (id === SEARCH) {
      select.value = value;
      anchor = select;
      words = '';
      void search('');
      return;
    }
    value = id;
    onchange?.(id);
  }
  let asked = 0;
  async function search(text: string) {
    const own = ++asked;
    const query = { filter: JSON.stringify({ words: text.slice(0, 200), conditions: [] }), count: 30 };
    const got = await call('GET /api/takes', { query }).catch(() => null);
    if (own === asked && got) hits = got.takes;
  }
  function take(line: TakeLine) {
    found = [...found, line];
    anchor = null;
    choose(line.id);
  }
</script>

{#snippet options(of: Overview['takes'])}
  {#each of as take (take.id)}<option value={take.id}>{take.name} ({takeTag(take)})</option>{/each}
{/snippet}

<select bind:this={select} aria-label={label} {value} onchange={(e) => choose(e.currentTarget.value)}>
  {#if none}<option value="">{none}</option>{/if}
  {#each folders as { folder, takes: of } (folder)}
    {#if folder}<optgroup label={folder}>{@render options(of)}</optgroup>{:else}{@render options(of)}{/if}
  {/each}
  {#if more}<option value={SEARCH}>an older one …</option>{/if}
</select>
{#if anchor}
  <FloatBox {anchor} label="{label}: search" close={() => (anchor = null)}>
    <div class="search">
      <input
        type="search"
        aria-label="Find a take or fact"
        placeholder="Find a take or fact"
        bind:value={words}
        oninput={() => void search(words)}
      />
      <ul>
        {#each hits as line (line.id)}
          <li>
            <button onclick={() => take(line)}>{line.name} <span class="muted">{takeTag(line)}</span></button>
          </li>
        {:else}<li class="muted">None is like that.</li>{/each}
      </ul>
    </div>
  </FloatBox>
{/if}

<style>
  select {
    font: inherit;
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--card);
    color: var(--ink);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    max-width: 250px;
    text-overflow: ellipsis;
  }
  .search {
    width: 280px;
  }
  input {
    width: 100%;
  }
  ul {
    max-height: 280px;
    overflow: auto;
    margin-top: var(--space-1);
  }
  li button {
    width: 100%;
    text-align: left;
    min-height: 28px;
    padding: 0 var(--space-1);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  li button:hover,
  li button:focus-visible {
    background: var(--tint);
  }
</style>
