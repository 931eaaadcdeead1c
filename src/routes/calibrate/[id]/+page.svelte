<script lang="ts">
  import Late from '$ui/kit/Late.svelte';
  import { useShell } from '$ui/shell/shell.svelte';
  import { page } from '$app/state';
  import type { PageProps } from './$types';

  let { data }: PageProps = $props();
  const shell = useShell();
  const all = $derived(shell.overview.channels);
  const usual = $derived(data.tones ? 'tone' : data.ways.includes('by points') ? 'points' : 'sheet');
  const way = $derived(page.url.searchParams.get('way') ?? usual);
  const together = $derived((page.url.searchParams.get('with') ?? '').split(',').filter(Boolean));
  const channels = $derived([
    data.channel,
    ...together.flatMap((id) => all.find((c) => c.id === id && c.id !== data.channel.id) ?? []),
  ]);
</script>

{#key `${data.channel.id} ${together.join()} ${way}`}
  {#if way === 'sheet'}
    <Late part={() => import('$ui/calibrate/SheetBench.svelte')}>
      {#snippet children(SheetBench)}
        <SheetBench channel={data.channel} ways={data.ways} present={data.present} />
      {/snippet}
    </Late>
  {:else if way === 'tone'}
    <Late part={() => import('$ui/calibrate/ToneBench.svelte')}>
      {#snippet children(ToneBench)}
        <ToneBench
          channel={data.channel}
          history={data.history}
          ways={data.ways}
          references={data.references}
        />
      {/snippet}
    </Late>
  {:else if way === 'comparison'}
    <Late part={() => import('$ui/calibrate/ComparisonBench.svelte')}>
      {#snippet children(ComparisonBench)}
        <ComparisonBench channel={data.channel} {all} history={data.history} ways={data.ways} />
      {/snippet}
    </Late>
  {:else if way === 'history'}
    <Late part={() => import('$ui/calibrate/HistoryView.svelte')}>
      {#snippet children(HistoryView)}
        <HistoryView
          channel={data.channel}
          history={data.history}
          undone={data.undone}
          proof={data.proof}
          budget={data.budget}
          ways={data.ways}
        />
      {/snippet}
    </Late>
  {:else}
    <Late part={() => import('$ui/calibrate/PointsBench.svelte')}>
      {#snippet children(PointsBench)}
        <PointsBench
          {channels}
          {all}
          history={data.history}
          present={data.present}
          ways={data.ways}
          references={data.references}
          draft={data.draft}
        />
      {/snippet}
    </Late>
  {/if}
{/key}
