<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { clockText } from '$core/readings';
  import { Button } from 'flowbite-svelte';
  import { faultText, send } from '../api';
  import CheckList from '../kit/CheckList.svelte';
  import Empty from '../kit/Empty.svelte';
  import Late from '../kit/Late.svelte';
  import FigureView from '../plot/FigureView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import ResultTable from '../study/ResultTable.svelte';
  import TakeSelect from '../take/TakeSelect.svelte';
  import TakeStrips from '../take/TakeStrips.svelte';
  import type { Overview } from '$contract/overview';
  import { usualStrips, type TakeView } from '$contract/take';
  import type { StudyView } from '$contract/study';
  import { resultTables, type StudyResult } from '$core/studies/study';
  import { fetchResult } from '../study/result';

  type Props = { overview: Overview; take: TakeView | null; studies: StudyView[] };
  let { overview, take, studies: known }: Props = $props();
  const shell = useShell();

  let strips = $state<number[]>([]);
  let studies = $state<string[]>([]);
  let busy = $state(false);
  let exporting = $state(false);

  $effect(() => {
    strips = usualStrips(take?.signals ?? []).map((s) => s.id);
    studies = known.map((s) => s.id);
  });
  let results = $state.raw<Record<string, StudyResult>>({});
  $effect(() => {
    for (const { id, resultId } of known)
      if (resultId)
        void fetchResult(id, resultId)
          .then((result) => (results = { ...results, [id]: result }))
          .catch((error) => shell.say(faultText(error)));
  });

  async function make() {
    if (!take) return;
    busy = true;
    try {
      const response = await send('GET /api/takes/[id]/report', {
        params: { id: take.head.id },
        query: { signals: strips.length ? strips : 'none', studies },
      });
      const link = Object.assign(document.createElement('a'), {
        href: URL.createObjectURL(await response.blob()),
        download: `${take.head.name}.pdf`,
      });
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
    } catch (error) {
      shell.say(faultText(error));
    } finally {
      busy = false;
    }
  }
  const start = $derived(take ? new Date(Number(BigInt(take.head.startNs) / 1_000_000n)) : null);
</script>

<div class="page">
  <div class="page-head">
    <h1>Report</h1>
    <span class="aside">{take ? `of ${take.head.name}` : ''}</span>
    {#if take}
      <div class="actions">
        <Button size="sm" color="alternative" onclick={() => (exporting = true)}>Save as a file</Button>
        <Button size="sm" disabled={busy} onclick={() => void make()}
          >{busy ? 'Making it…' : 'Make the PDF'}</Button
        >
      </div>
    {/if}
  </div>
  {#if !take}
    <Empty says="A report is made from a take. Record one first."
      ><Button href={resolve('/record')}>To the plan</Button></Empty
    >
  {:else}
    <div class="columns">
      <aside class="card">
        <h2>Take</h2>
        <TakeSelect
          takes={overview.takes.filter((t) => t.state !== 'recording')}
          value={take.head.id}
          label="Take"
          onchange={(id) => void goto(resolve(`/report/take?take=${id}`))}
        />
        <h2>Strips <span class="muted">up to 6</span></h2>
        <div class="list">
          <CheckList items={take.signals} chosen={strips} most={6} change={(ids) => (strips = ids)} />
        </div>
        <h2>Studies</h2>
        <CheckList items={known} chosen={studies} change={(ids) => (studies = ids)} />
        {#if known.length === 0}<p class="muted">None of this take yet.</p>{/if}
      </aside>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="desk" role="region" aria-label="The report as it prints" tabindex="0">
        <article class="sheet">
          <div class="dash"></div>
          <p class="muted">{take.head.job}</p>
          <h1>{take.head.name}</h1>
          <p class="muted">
            {start?.toISOString().slice(0, 16).replace('T', ', ')} UTC, {clockText(take.durationS)} long
          </p>
          <dl>
            {#each Object.entries(take.head.facts) as [name, value] (name)}<div>
                <dt>{name}</dt>
                <dd>{value}</dd>
              </div>{/each}
            <div>
              <dt>Channels</dt>
              <dd>{take.signals.length}</dd>
            </div>
            <div>
              <dt>Take</dt>
              <dd>no. {take.head.number}</dd>
            </div>
          </dl>
          <h2>How it was recorded</h2>
          <p>{take.head.planText}</p>
          <h2>What was recorded</h2>
          <div class="strips" style:height="{strips.length * 92 + 24}px">
            <TakeStrips
              takeId={take.head.id}
              signals={take.signals.filter((s) => strips.includes(s.id))}
              from={0}
              to={take.durationS}
              night={shell.night}
            />
          </div>
          {#each known.filter((s) => studies.includes(s.id) && results[s.id]) as s (s.id)}
            <h2>{s.name}</h2>
            <p>{s.says}</p>
            {#each results[s.id].figures as figure (figure.title)}<div class="figure">
                <FigureView {figure} night={shell.night} zoomable={false} />
              </div>{/each}
            {#each resultTables(results[s.id]).slice(0, 1) as table (table.title)}<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
              <div class="wide more-aside" role="region" aria-label={table.title} tabindex="0">
                <ResultTable {table} />
              </div>{/each}
          {/each}
          <h2>Where the numbers come from</h2>
          {#each take.signals as s (s.id)}<p class="source">
              <strong>{s.name}</strong>
              {s.sentence} <span class="muted">Calibration {s.calibration}.</span>
            </p>{/each}
        </article>
      </div>
    </div>
    <Late wanted={exporting} part={() => import('../take/ExportForm.svelte')}>
      {#snippet children(ExportForm)}
        <ExportForm bind:open={exporting} takes={[take.head.id]} signals={take.signals} />
      {/snippet}
    </Late>
  {/if}
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: 230px minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  aside {
    padding: var(--space-3);
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-1);
  }
  aside h2:not(:first-child) {
    margin-top: var(--space-2);
  }
  .list {
    display: flex;
    flex-direction: column;
    gap: var(--space-half);
  }
  .desk {
    background: var(--stone);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    overflow: auto;
    padding: var(--space-5);
  }
  .sheet {
    background: var(--card);
    border: 1px solid var(--line);
    max-width: 760px;
    margin: 0 auto;
    padding: 44px 48px;
  }
  .dash {
    width: 46px;
    height: 4px;
    background: var(--plum-fill);
    margin-bottom: var(--space-3);
  }
  .sheet h1 {
    font-size: var(--type-display);
    line-height: 1.2;
  }
  .sheet h2 {
    font-size: var(--type-reading);
    margin: var(--space-5) 0 var(--space-1);
  }
  p {
    margin: 0 0 var(--space-1);
  }
  dl {
    display: flex;
    flex-wrap: wrap;
    border-block: 1px solid var(--line);
    padding: var(--space-2) 0;
    margin-top: var(--space-3);
    gap: var(--space-1) var(--space-8);
  }
  dt {
    font-size: var(--type-small);
    color: var(--muted);
  }
  dd {
    font-weight: 650;
    font-size: var(--type-reading);
    margin: 0;
  }
  .strips {
    margin: 0 calc(-1 * var(--space-3));
  }
  .figure {
    height: 260px;
    margin: 0 calc(-1 * var(--space-3));
  }
  .wide {
    overflow-x: auto;
    margin-top: var(--space-1);
  }
  .source {
    font-size: var(--type-small);
    border-top: 1px solid var(--hair);
    padding-top: var(--space-1);
  }
</style>
