<script lang="ts">
  import { goto, invalidate } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { studyKind } from '$core/studies/registry';
  import type { TrailStep } from '$contract/study';
  import { Button, Select } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import LineFigure from '../plot/LineFigure.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { provideChoices } from '../sentence/choices';
  import { useShell } from '../shell/shell.svelte';
  import ResultTable from '../study/ResultTable.svelte';
  import Findings from '../study/Findings.svelte';
  import { tableText } from '../study/table-text';
  import TakeStrips from '../take/TakeStrips.svelte';
  import type { StudyView } from '$contract/study';
  import type { TakeView } from '$contract/take';

  type Props = { study: StudyView; take: TakeView };
  let { study, take }: Props = $props();
  const shell = useShell();

  const kind = $derived(studyKind(study.kind));
  const signals = $derived(take.signals);
  // Here the editors offer the channels of the take, as they were.
  provideChoices(() =>
    signals.map((s) => ({ id: s.channelId!, name: s.name, unit: s.unit, driven: s.role === 'driven' })),
  );
  const names = $derived({ channel: (id: string) => signals.find((s) => s.channelId === id) });

  let trail = $state<TrailStep[] | null>(null);
  let copied = $state(false);
  let tableAt = $state(0);

  $effect(() => {
    if (study.state !== 'running') return;
    const timer = setInterval(() => void invalidate('farrier:studies'), 300);
    return () => clearInterval(timer);
  });
  $effect(() => {
    void study.id;
    trail = null;
    tableAt = 0;
  });

  const change = async (key: string, value: unknown) => {
    await call('PATCH', `/api/studies/${study.id}`, { [key]: value });
    await invalidate('farrier:studies');
  };
  async function act(work: () => Promise<unknown>) {
    try {
      await work();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const table = $derived(study.result?.tables[Math.min(tableAt, study.result.tables.length - 1)]);
  const copy = () =>
    act(async () => {
      if (!table) return;
      await navigator.clipboard.writeText(tableText(table));
      copied = true;
      setTimeout(() => (copied = false), 2000);
    });
  const remove = () =>
    act(async () => {
      await call('DELETE', `/api/studies/${study.id}`);
      await goto(resolve('/study'), { invalidateAll: true });
    });
  const showTrail = () =>
    act(async () => void (trail = await call<TrailStep[]>('GET', `/api/studies/${study.id}/trail`)));
  const from = $derived(study.settings.from as number);
  const to = $derived((study.settings.to as number | null) ?? take.durationS);
  const looked = $derived(
    signals
      .filter(
        (s) =>
          (study.settings.channels as string[]).length === 0 ||
          (study.settings.channels as string[]).includes(s.channelId!),
      )
      .slice(0, 2),
  );
  const share = (s: number) => (s / take.durationS) * 100;
</script>

<div class="page">
  <div class="page-head">
    <h1>{study.name}</h1>
    <span class="aside">{kind.title} · from {study.takeName}</span>
    <div class="actions">
      {#if study.outOfDate}<Button
          size="sm"
          color="alternative"
          onclick={() => void act(() => change('from', study.settings.from))}>Bring up to date</Button
        >{/if}
      <Button size="sm" color="alternative" onclick={() => void remove()}>Remove</Button>
      <Button size="sm" color="alternative" disabled={!table} onclick={() => void copy()}
        >{copied ? 'Copied' : 'Copy table'}</Button
      >
      <Button size="sm" href={resolve(`/report?take=${study.takeId}`)}>Put in report</Button>
    </div>
  </div>
  <SentenceView sentence={kind.sentence} value={study.settings} {names} {change} size="large" />
  {#if study.outOfDate}<p class="late">◔ Out of date: something it depends on has changed since.</p>{/if}
  {#if study.state === 'running'}
    <div class="card running" role="status">
      <p>Computing, {Math.round(study.progress * 100)} %. It goes on when you leave this page.</p>
      <progress max="1" value={study.progress}></progress>
      <Button
        size="sm"
        color="alternative"
        onclick={() => void act(() => call('PATCH', `/api/studies/${study.id}?cancel`, {}))}>Cancel</Button
      >
    </div>
  {:else if study.state === 'failed' && study.fault}
    <FaultNote fault={study.fault} />
  {:else if study.state === 'cancelled'}
    <div class="card running">
      <p>It was cancelled before it was done.</p>
      <Button size="sm" onclick={() => void act(() => change('from', study.settings.from))}>Compute it</Button
      >
    </div>
  {:else if study.result}
    <div class="result" class:figures={study.result.figures.length > 0}>
      {#each study.result.figures as figure (figure.title)}
        <section class="card figure">
          <h2>{figure.title}</h2>
          {#key study.result}<LineFigure {figure} night={shell.night} />{/key}
        </section>
      {/each}
      <section class="card table">
        <div class="head">
          {#if study.result.tables.length > 1}
            <Select
              size="sm"
              class="w-72"
              aria-label="Table"
              bind:value={tableAt}
              items={study.result.tables.map((t, i) => ({ value: i, name: t.title }))}
            />
          {:else}<h2>{table?.title}</h2>{/if}
        </div>
        {#if table}<div class="scroll"><ResultTable {table} /></div>{/if}
      </section>
      <section class="card from">
        <h2>Where it came from</h2>
        <div class="strips">
          <TakeStrips takeId={study.takeId} signals={looked} from={0} to={take.durationS} night={shell.night}>
            {#snippet overlay()}<div class="over">
                <div class="span" style:left="{share(from)}%" style:width="{share(to) - share(from)}%"></div>
              </div>{/snippet}
          </TakeStrips>
        </div>
      </section>
      <section class="card findings">
        <h2>Findings</h2>
        <Findings findings={study.result.findings} />
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
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  .result.figures {
    grid-template-areas: 'figure table' 'from findings';
    grid-template-rows: minmax(0, 1.35fr) minmax(0, 1fr);
  }
  section {
    padding: 12px 0 8px;
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
  section h2,
  .head {
    padding: 0 14px;
  }
  .figure {
    grid-area: figure;
  }
  .table {
    grid-area: table;
  }
  .from {
    grid-area: from;
  }
  .findings {
    grid-area: findings;
    padding-inline: 14px;
    overflow: auto;
  }
  .findings h2 {
    padding: 0;
  }
  .scroll {
    overflow: auto;
    flex: 1;
    padding: 0 6px;
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
    padding: 20px;
    display: grid;
    gap: 10px;
    justify-items: start;
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
    margin-top: 8px;
  }
  .trail {
    list-style: none;
    padding: 0;
    margin: 8px 0 0;
    font-size: 12.5px;
  }
  .trail li {
    border-left: 2px solid var(--plum);
    padding: 2px 0 5px 10px;
  }
</style>
