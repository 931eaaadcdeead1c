<!-- The page's name and paper, what the report is about, and the take it is shown for. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import type { Overview } from '$contract/overview';
  import { DIRECTIONS, PAPER_SIZES, type Page, type PaperSize, type ReportView } from '$contract/report';
  import { ALL_TAKES } from '$contract/take-list';
  import type { TakeView } from '$contract/take';
  import { useShell } from '../shell/shell.svelte';
  import TakesChoice from '../study/TakesChoice.svelte';
  import TakeSelect from '../take/TakeSelect.svelte';
  import type { ReportDraft } from './draft.svelte';

  type Props = {
    overview: Overview;
    report: ReportView;
    draft: ReportDraft;
    page: Page;
    take: TakeView | null;
    onaway: () => Promise<void>;
  };
  let { overview, report, draft, page, take, onaway }: Props = $props();
  const shell = useShell();
</script>

<section class="card pad">
  <h2>The page</h2>
  <p class="line">
    <label
      >Name <input
        value={page.name}
        onchange={(e) => draft.page(page.id, (p) => ({ ...p, name: e.currentTarget.value }))}
      /></label
    >
  </p>
  <p class="line">
    Paper
    <select
      aria-label="Size of the paper"
      value={draft.body.paper.size}
      onchange={(e) =>
        draft.change({
          ...draft.body,
          paper: { ...draft.body.paper, size: e.currentTarget.value as PaperSize },
        })}
    >
      {#each Object.keys(PAPER_SIZES) as of (of)}<option>{of}</option>{/each}
    </select>
    <select
      aria-label="Direction of the paper"
      value={draft.body.paper.direction}
      onchange={(e) =>
        draft.change({
          ...draft.body,
          paper: { ...draft.body.paper, direction: e.currentTarget.value as 'upright' | 'across' },
        })}
    >
      {#each DIRECTIONS as of (of)}<option>{of}</option>{/each}
    </select>
    margins
    <input
      class="short"
      type="number"
      min="0"
      max="60"
      aria-label="Margins, mm"
      value={draft.body.paper.marginMm}
      onchange={(e) =>
        draft.change({
          ...draft.body,
          paper: {
            ...draft.body.paper,
            marginMm: Math.min(60, Math.max(0, Number(e.currentTarget.value) || 0)),
          },
        })}
    /> mm
  </p>
  <h2>Bound to</h2>
  {#if draft.body.filter || draft.body.takes.length}
    <TakesChoice
      takes={overview.takes}
      chosen={draft.body.filter ? report.now.map((t) => t.id) : draft.body.takes}
      least={0}
      most={200}
      filter={draft.body.filter}
      filtered
      change={async (what) => {
        draft.change({
          ...draft.body,
          takes: 'takes' in what ? what.takes : [],
          filter: 'filter' in what ? what.filter : null,
        });
        await draft.save();
        shell.refresh();
      }}
    />
    <button class="dotted" onclick={() => draft.change({ ...draft.body, takes: [], filter: null })}
      >whichever take it is run over</button
    >
  {:else}
    <p>Whichever take it is run over.</p>
    <p class="line">
      <button class="dotted" onclick={() => draft.change({ ...draft.body, filter: ALL_TAKES })}
        >all that fit …</button
      >
      {#if take}<button class="dotted" onclick={() => draft.change({ ...draft.body, takes: [take.head.id] })}
          >only {take.head.name}</button
        >{/if}
    </p>
  {/if}
  {#if overview.takes.length}
    <p class="line">
      <span>Shown for</span>
      <TakeSelect
        label="Shown for"
        takes={overview.takes.filter((t) => t.state !== 'recording')}
        value={take?.head.id ?? ''}
        onchange={(id) =>
          void goto(resolve(`/report/${report.id}?take=${id}`), { keepFocus: true, noScroll: true })}
      />
    </p>
  {/if}
  <p><button class="dotted" onclick={onaway}>Take this report away</button></p>
</section>

<style>
  .pad {
    padding: var(--space-3);
  }
  .line {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: var(--space-2);
    margin: var(--space-1) 0 var(--space-2);
  }
  .line input,
  .line select {
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: calc(var(--radius) / 3);
    padding: var(--space-half) var(--space-1);
    font: inherit;
  }
  .line select {
    padding-right: var(--space-6);
  }
  .short {
    width: 3.6rem;
  }
</style>
