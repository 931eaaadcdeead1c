<!-- Which takes a study compares, in their order: the first is the one it stands under. -->
<script lang="ts">
  import type { Overview } from '$contract/overview';
  import type { Offered } from '$contract/api/inspect';
  import { ALL_TAKES, type TakeFilter } from '$contract/take-list';
  import { call } from '../api';
  import FilterSentence from '../inspect/FilterSentence.svelte';
  import TakeSelect from '../take/TakeSelect.svelte';

  type Props = {
    takes: Overview['takes'];
    chosen: string[];
    least: number;
    most: number;
    /** The filter that says which, where one does. */
    filter: TakeFilter | null;
    /** Whether a filter can say it: of a study that runs once for each take. */
    filtered: boolean;
    change: (what: { takes: string[] } | { filter: TakeFilter }) => Promise<void>;
  };
  let { takes, chosen, least, most, filter, filtered, change }: Props = $props();
  let offered = $state.raw<Offered>({ facts: {}, tags: [], folders: [], plans: [], channels: [] });
  $effect(() => {
    if (filter)
      call('GET /api/takes/offered')
        .then((got) => (offered = got))
        .catch(() => undefined); // filters are made without offers, then
  });
  const fitting = {
    get filter() {
      return filter ?? ALL_TAKES;
    },
    get offered() {
      return offered;
    },
    search: (next: { filter: TakeFilter }) => change(next),
  };
  const nameOf = (id: string) => takes.find((t) => t.id === id)?.name ?? 'a take that is gone';
  const left = $derived(takes.filter((t) => !chosen.includes(t.id)));
</script>

<p class="takes">
  {#if filter}
    <span>Of all takes where</span>
    <FilterSentence list={fitting} />
    <span class="muted">{chosen.length === 1 ? '1 fits' : `${chosen.length} fit`}; new ones join.</span>
    <button class="dotted" onclick={() => void change({ takes: chosen })}>name them one by one</button>
  {:else}
    <span>{chosen.length > 1 || least > 1 ? 'Of the takes' : 'Of the take'}</span>
    {#each chosen as id (id)}
      <span class="take"
        >{nameOf(id)}{#if chosen.length > least}<button
            class="dotted"
            aria-label="Leave out {nameOf(id)}"
            onclick={() => void change({ takes: chosen.filter((c) => c !== id) })}>✕</button
          >{/if}</span
      >
    {/each}
    {#if chosen.length < most && left.length}
      <TakeSelect
        takes={left}
        value=""
        label="Add a take"
        none="add a take"
        onchange={(id) => id && void change({ takes: [...chosen, id] })}
      />
    {/if}
    {#if filtered}<button class="dotted" onclick={() => void change({ filter: ALL_TAKES })}
        >all that fit …</button
      >{/if}
  {/if}
</p>

<style>
  .takes {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: var(--space-1) var(--space-3);
    margin: 0;
    font-size: var(--type-body);
  }
  .take {
    display: inline-flex;
    gap: var(--space-1);
    align-items: baseline;
    font-weight: 600;
  }
</style>
