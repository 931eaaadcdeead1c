<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { studyKind } from '$core/studies/registry';
  import { suits } from '$core/studies/inputs';
  import { resultTables, type StudyResult } from '$core/studies/study';
  import type { Overview } from '$contract/overview';
  import type { TrailStep } from '$contract/study';
  import { Button, Select } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import FigureView from '../plot/FigureView.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { provideChoices } from '../sentence/choices';
  import { useShell } from '../shell/shell.svelte';
  import ResultTable from '../study/ResultTable.svelte';
  import Findings from '../study/Findings.svelte';
  import { tableText } from '../study/table-text';
  import TakesChoice from '../study/TakesChoice.svelte';
  import { fetchResult } from '../study/result';
  import TakeStrips from '../take/TakeStrips.svelte';
  import type { StudyView } from '$contract/study';
  import type { TakeView } from '$contract/take';

  type Props = { overview: Overview; study: StudyView; take: TakeView };
  let { overview, study: opened, take }: Props = $props();
  const shell = useShell();

  /** As it was opened, until it is told anew: a study that runs is asked by itself. */
  let told = $state.raw<StudyView | null>(null);
  const study = $derived(told?.id === opened.id ? told : opened);
  // A page that was fetched while the study ran may come after what was told of its end: the study itself is asked.
  $effect(() => {
    const { id } = opened;
    if (untrack(() => told)) void ask(id);
  });
  /** The result that is shown: until a newer one is there, the former one. */
  let held = $state.raw<{ study: string; id: string; result: StudyResult } | null>(null);
  const result = $derived(
    held?.study === study.id && (study.state === 'running' || study.state === 'done') ? held.result : null,
  );
  const former = $derived(held?.id !== study.resultId);

  const kind = $derived(studyKind(study.kind));
  const signals = $derived(take.signals);
  // Here the editors offer the channels of the take, as they were.
  provideChoices((field) => {
    const role = kind.roles.find((r) => r.key === field);
    return signals
      .map((s) => ({ id: s.channelId!, name: s.name, unit: s.unit, width: s.width }))
      .filter((s) => !role || suits(role, s));
  });
  const names = $derived({ channel: (id: string) => signals.find((s) => s.channelId === id) });

  const POLL_MS = 300;
  let trail = $state<TrailStep[] | null>(null);
  let copied = $state(false);
  let tableAt = $state(0);

  $effect(() => {
    if (study.state !== 'running') return;
    const { id } = study;
    const timer = setInterval(() => void ask(id), POLL_MS);
    return () => clearInterval(timer);
  });
  $effect(() => {
    void opened.id;
    trail = null;
    tableAt = 0;
  });

  $effect(() => {
    const { id, resultId } = study;
    if (!resultId) return;
    fetchResult(id, resultId)
      .then((fetched) => {
        if (study.resultId === resultId) held = { study: id, id: resultId, result: fetched };
      })
      .catch((error) => {
        held = null;
        shell.say(faultText(error));
      });
  });
  async function ask(id: string) {
    const now = await call('GET /api/studies/[id]', { params: { id } }).catch(() => null);
    if (now && now.id === opened.id) told = now;
  }

  const patch = async (what: { settings?: Record<string, unknown>; takes?: string[] }) => {
    told = await call('PATCH /api/studies/[id]', { params: { id: study.id }, body: what });
  };
  const change = (key: string, value: unknown) => patch({ settings: { [key]: value } });
  const again = () => act(() => patch({}));
  async function act(work: () => Promise<unknown>) {
    try {
      await work();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const tables = $derived(result ? resultTables(result) : []);
  const table = $derived(tables[Math.min(tableAt, tables.length - 1)]);
  const copy = () =>
    act(async () => {
      if (!table) return;
      await navigator.clipboard.writeText(tableText(table));
      copied = true;
      setTimeout(() => (copied = false), 2000);
    });
  const remove = () =>
    act(async () => {
      await call('DELETE /api/studies/[id]', { params: { id: study.id } });
      await goto(resolve('/study'), { invalidateAll: true });
    });
  const showTrail = () =>
    act(async () => void (trail = await call('GET /api/studies/[id]/trail', { params: { id: study.id } })));
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
    const of = signals.filter((s) => ids.length === 0 || ids.includes(s.channelId!));
    return of.slice(0, 2);
  });
  const share = (s: number) => (s / take.durationS) * 100;
</script>

<div class="page">
  <div class="page-head">
    <h1>{study.name}</h1>
    <span class="aside">{kind.title} · from {study.takeName}</span>
    <div class="actions">
      {#if study.outOfDate}<Button size="sm" color="alternative" onclick={() => void again()}
          >Bring up to date</Button
        >{/if}
      <Button size="sm" color="alternative" onclick={() => void remove()}>Remove</Button>
      <Button size="sm" color="alternative" disabled={!table} onclick={() => void copy()}
        >{copied ? 'Copied' : 'Copy table'}</Button
      >
      <Button size="sm" href={resolve(`/report?take=${study.takeId}`)}>Put in report</Button>
    </div>
  </div>
  {#if kind.takes}<TakesChoice
      takes={overview.takes.filter((t) => t.state !== 'recording')}
      chosen={study.takes}
      {...kind.takes}
      change={(takes) => void act(() => patch({ takes }))}
    />{/if}
  <SentenceView sentence={kind.sentence} value={study.settings} {names} {change} size="large" />
  {#if study.outOfDate}<p class="late">◔ Out of date: something it depends on has changed since.</p>{/if}
  {#if study.state === 'running'}
    <div class="card running" class:slim={result} role="status">
      <p>Computing, {Math.round(study.progress * 100)} %. It goes on when you leave this page.</p>
      <progress max="1" value={study.progress}></progress>
      <Button
        size="sm"
        color="alternative"
        onclick={() =>
          void act(async () => {
            await call('POST /api/studies/[id]/cancel', { params: { id: study.id } });
            await ask(study.id);
          })}>Cancel</Button
      >
    </div>
  {:else if study.state === 'failed' && study.fault}
    <FaultNote fault={study.fault} />
  {:else if study.state === 'cancelled'}
    <div class="card running">
      <p>It was cancelled before it was done.</p>
      <Button size="sm" onclick={() => void again()}>Compute it</Button>
    </div>
  {/if}
  {#if result}
    <div class="result" class:figures={result.figures.length > 0} class:former aria-busy={former}>
      {#if result.figures.length}
        <div class="drawn">
          {#each result.figures as figure (figure.title)}
            <section class="card figure">
              <h2>{figure.title}</h2>
              <FigureView {figure} night={shell.night} />
            </section>
          {/each}
        </div>
      {/if}
      <section class="card table">
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
        </div>
        {#if table}<div class="scroll more-aside"><ResultTable {table} /></div>{/if}
      </section>
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
      <section class="card findings">
        <h2>Findings</h2>
        <Findings findings={result.findings} />
        {#if trail}
          <ol class="trail">
            {#each trail as step, i (i)}<li><strong>{step.what}</strong> {step.says}</li>{/each}
          </ol>
        {:else}
          <button class="dotted" onclick={() => void showTrail()}>Show the trail</button>
        {/if}
      </section>
    </div>
  {/if}
</div>

<style>
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
  section {
    padding: var(--space-3) 0 var(--space-2);
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
  section h2,
  .head {
    padding: 0 var(--space-3);
  }
  .head h2 {
    padding: 0;
  }
  .drawn {
    grid-area: figure;
    display: grid;
    grid-auto-flow: row;
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
    padding-inline: var(--space-3);
    overflow: auto;
  }
  .findings h2 {
    padding: 0;
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
  .running {
    padding: var(--space-5);
    display: grid;
    gap: var(--space-2);
    justify-items: start;
  }
  .running.slim {
    display: flex;
    align-items: center;
    gap: var(--space-3);
    padding: var(--space-1) var(--space-3);
  }
  .former {
    opacity: 0.55;
  }
  progress {
    width: 320px;
    accent-color: var(--plum-fill);
  }
  .late {
    color: var(--ochre);
    margin: 0;
  }
  .dotted {
    align-self: flex-start;
    margin-top: var(--space-2);
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
