<script lang="ts">
  import { useShell } from '$ui/shell/shell.svelte';
  import { page } from '$app/state';
  import ComparisonBench from '$ui/calibrate/ComparisonBench.svelte';
  import HistoryView from '$ui/calibrate/HistoryView.svelte';
  import PointsBench from '$ui/calibrate/PointsBench.svelte';
  import SheetBench from '$ui/calibrate/SheetBench.svelte';
  import ToneBench from '$ui/calibrate/ToneBench.svelte';
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
    <SheetBench channel={data.channel} ways={data.ways} present={data.present} />
  {:else if way === 'tone'}
    <ToneBench channel={data.channel} history={data.history} ways={data.ways} references={data.references} />
  {:else if way === 'comparison'}
    <ComparisonBench channel={data.channel} {all} history={data.history} ways={data.ways} />
  {:else if way === 'history'}
    <HistoryView
      channel={data.channel}
      history={data.history}
      undone={data.undone}
      proof={data.proof}
      budget={data.budget}
      ways={data.ways}
    />
  {:else}
    <PointsBench
      {channels}
      {all}
      history={data.history}
      present={data.present}
      ways={data.ways}
      references={data.references}
      draft={data.draft}
    />
  {/if}
{/key}
