<!-- A result: its figures, what it came from, its findings, its tables. Where two figures stand side by side, findings and tables share a card. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { Select } from 'flowbite-svelte';
  import { resultTables, type StudyKind, type StudyResult } from '$core/studies/study';
  import type { StudyView, TrailStep } from '$contract/study';
  import type { TakeView } from '$contract/take';
  import { call, faultText } from '../api';
  import FigureView from '../plot/FigureView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import TakeStrips from '../take/TakeStrips.svelte';
  import Findings from './Findings.svelte';
  import ResultTable from './ResultTable.svelte';
  import { saveCsv, savePng, saveSvg } from './take-out';
  import { tableText } from './table-text';
  import { classTouched, placeIn, touchedIn, type Touched } from '$core/figures/together';
  import type { Table } from '$core/figures/table';

  type Props = {
    study: StudyView;
    take: TakeView;
    kind: StudyKind;
    result: StudyResult;
    /** It is that of other settings: a newer one is being computed. */
    former: boolean;
    tableAt: number;
  };
  let { study, take, kind, result, former, tableAt = $bindable() }: Props = $props();
  const shell = useShell();

  const tables = $derived(resultTables(result));
  const table = $derived(tables[Math.min(tableAt, tables.length - 1)]);
  const several = $derived(result.figures.length > 1);
  let shown = $state<'findings' | 'numbers'>('findings');

  let trail = $state<TrailStep[] | null>(null);
  $effect(() => {
    void study.id;
    trail = null;
  });
  /** What is touched in one drawing is marked in all that share its axis, and its class in the table. */
  let touched = $state.raw<Touched | null>(null);
  const touchedClass = $derived(touched && classTouched(result.figures, touched));
  function touchClass(name: string | null) {
    const figure = result.figures.find((f) => name !== null && f.x.classes?.includes(name));
    touched = figure ? touchedIn(figure, figure.x.classes!.indexOf(name!)) : null;
  }
  let method = $state(false);
  let copied = $state(false);
  async function safely(work: () => Promise<unknown>) {
    try {
      await work();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const copy = (of: Table) =>
    safely(async () => {
      await navigator.clipboard.writeText(tableText(of));
      copied = true;
      setTimeout(() => (copied = false), 2000);
    });
  async function mark() {
    const { written } = await call('POST /api/studies/[id]/marks', { params: { id: study.id } });
    shell.say({
      what: written ? `${written} spans are written on ${take.head.name}.` : 'They stand there already.',
    });
  }
  async function showTrail() {
    try {
      trail = await call('GET /api/studies/[id]/trail', { params: { id: study.id } });
    } catch (error) {
      shell.say(faultText(error));
    }
  }

  /** The span that is looked at, for kinds that have one. */
  const span = $derived(
    typeof study.settings.from === 'number'
      ? { from: study.settings.from, to: (study.settings.to as number | null) ?? take.durationS }
      : null,
  );
  /** What stands in its roles, the first two of it. */
  const looked = $derived.by(() => {
    const ids = kind.roles
      .flatMap(({ key }) => study.settings[key] as string | string[] | null)
      .filter(Boolean);
    const of = take.signals.filter((s) => ids.length === 0 || ids.includes(s.channelId!));
    return of.slice(0, 2);
  });
  const share = (s: number) => (s / take.durationS) * 100;
</script>

{#snippet numbers()}
  <div class="head">
    {#if tables.length > 1}
      <Select
        size="sm"
        class="w-72"
        aria-label="Table"
        bind:value={tableAt}
        items={tables.map((t, i) => ({ value: i, name: t.title }))}
      />
    {:else}<h2>{table?.title}</h2>{/if}
    {#if table}<span class="out">
        <button class="dotted" onclick={() => void copy(table)}>{copied ? 'copied' : 'copy'}</button>
        {#if result.thinned}<a
            class="dotted"
            href={resolve(`/api/studies/${study.id}/tables/${tableAt}`)}
            download
            title="All rows of it">CSV</a
          >{:else}<button class="dotted" onclick={() => saveCsv(table)}>CSV</button>{/if}
      </span>{/if}
  </div>
  {#if table}<div class="scroll more-aside">
      <ResultTable {table} touched={touchedClass} ontouch={touchClass} />
    </div>{/if}
{/snippet}

{#if result.thinned}
  <p class="thinned muted">
    This result is too large to be shown whole: curves are drawn through their extremes, tables show their
    first rows. CSV holds all of it.
  </p>
{/if}
<div class="result" class:figures={result.figures.length === 1} class:several class:former aria-busy={former}>
  {#if result.figures.length}
    <div class="drawn">
      {#each result.figures as figure (figure.title)}
        <section class="card figure">
          <div class="head">
            <h2>{figure.title}</h2>
            <span class="out">
              <button class="dotted" title="Save the figure as vectors" onclick={() => saveSvg(figure)}
                >SVG</button
              >
              <button
                class="dotted"
                title="Save the figure as a picture"
                onclick={() => void safely(() => savePng(figure))}>PNG</button
              >
            </span>
          </div>
          <FigureView
            {figure}
            night={shell.night}
            touched={touched && placeIn(figure, touched)}
            ontouch={(place) => (touched = place === null ? null : touchedIn(figure, place))}
          />
        </section>
      {/each}
    </div>
  {/if}
  {#if !several}<section class="card table">{@render numbers()}</section>{/if}
  <section class="card from">
    <h2>Where it came from</h2>
    <div class="strips">
      <TakeStrips takeId={study.takeId} signals={looked} from={0} to={take.durationS} night={shell.night}>
        {#snippet overlay()}{#if span}<div class="over">
              <div
                class="span"
                style:left="{share(span.from)}%"
                style:width="{share(span.to) - share(span.from)}%"
              ></div>
            </div>{/if}{/snippet}
      </TakeStrips>
    </div>
  </section>
  <section class="card findings" class:table={several && shown === 'numbers'}>
    {#if several}
      <div class="tabs" role="tablist">
        <button role="tab" aria-selected={shown === 'findings'} onclick={() => (shown = 'findings')}
          >Findings</button
        >
        <button role="tab" aria-selected={shown === 'numbers'} onclick={() => (shown = 'numbers')}
          >Tables</button
        >
      </div>
    {:else}<h2>Findings</h2>{/if}
    {#if several && shown === 'numbers'}
      {@render numbers()}
    {:else}
      <div class="found">
        <Findings findings={result.findings} />
        {#if trail}
          <ol class="trail">
            {#each trail as step, i (i)}<li><strong>{step.what}</strong> {step.says}</li>{/each}
          </ol>
        {:else}
          <button class="dotted" onclick={() => void showTrail()}>Show the trail</button>
        {/if}
        {#if result.spans?.length}
          <button class="dotted" onclick={() => void safely(mark)}
            >Mark {result.spans.length === 1 ? 'it' : `all ${result.spans.length}`} in the take</button
          >
        {/if}
        {#if method}
          <ol class="trail" data-testid="method">
            {#each kind.method as { says, source } (says)}<li>
                {says} <span class="muted">({source})</span>
              </li>{/each}
          </ol>
        {:else}
          <button class="dotted" onclick={() => (method = true)}>How it is computed</button>
        {/if}
      </div>
    {/if}
  </section>
</div>

<style>
  .thinned {
    margin: 0 0 var(--space-2);
    font-size: var(--type-small);
  }
  .result {
    display: grid;
    grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
    grid-template-areas: 'table table' 'from findings';
    grid-template-rows: minmax(0, 1fr) minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .result.figures {
    grid-template-areas: 'figure table' 'from findings';
    grid-template-rows: minmax(0, 1.35fr) minmax(0, 1fr);
  }
  .result.several {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    grid-template-areas: 'figure figure' 'from findings';
    grid-template-rows: minmax(0, 1.1fr) minmax(0, 1fr);
  }
  section {
    padding: var(--space-3) 0 var(--space-2);
    min-height: 0;
    min-width: 0;
    display: flex;
    flex-direction: column;
  }
  section h2,
  .head {
    padding: 0 var(--space-3);
  }
  .head {
    display: flex;
    align-items: baseline;
    gap: var(--space-2);
  }
  .head h2 {
    padding: 0;
  }
  .out {
    margin-left: auto;
    display: flex;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  .out .dotted {
    margin: 0;
  }
  .drawn {
    grid-area: figure;
    display: grid;
    grid-auto-columns: minmax(0, 1fr);
    grid-auto-flow: column;
    gap: var(--space-3);
    min-height: 0;
  }
  .table {
    grid-area: table;
  }
  .from {
    grid-area: from;
  }
  .findings {
    grid-area: findings;
  }
  .found {
    overflow: auto;
    padding: 0 var(--space-3);
  }
  .tabs {
    display: flex;
    padding: 0 var(--space-3);
    gap: var(--space-4);
    margin-bottom: var(--space-1);
  }
  .tabs button {
    color: var(--muted);
    font-weight: 650;
    min-height: 24px;
  }
  .tabs button[aria-selected='true'] {
    color: var(--ink);
    box-shadow: inset 0 -2px var(--plum);
  }
  .scroll {
    overflow: auto;
    flex: 1;
    padding: 0 var(--space-1);
  }
  .strips {
    flex: 1;
    min-height: 0;
  }
  .over {
    position: absolute;
    inset: 18px 14px 0 58px;
    pointer-events: none;
  }
  .span {
    position: absolute;
    top: 0;
    bottom: 0;
    background: color-mix(in srgb, var(--plum) 10%, transparent);
    border-inline: 1.5px solid var(--plum);
  }
  .former {
    opacity: 0.55;
  }
  .dotted {
    align-self: flex-start;
    margin: var(--space-2) var(--space-4) 0 0;
  }
  .trail {
    list-style: none;
    padding: 0;
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
  }
  .trail li {
    border-left: 2px solid var(--plum);
    padding: var(--space-half) 0 var(--space-1) var(--space-2);
  }
</style>
