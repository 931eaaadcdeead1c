<script lang="ts">
  import { untrack } from 'svelte';
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { studyKind } from '$core/studies/registry';
  import { suits } from '$core/studies/inputs';
  import type { StudyResult } from '$core/studies/study';
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import FloatBox from '../kit/FloatBox.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { provideChoices } from '../sentence/choices';
  import { useShell } from '../shell/shell.svelte';
  import ResultView from './ResultView.svelte';
  import TakesChoice from '../study/TakesChoice.svelte';
  import { fetchResult } from '../study/result';
  import type { StudyView } from '$contract/study';
  import type { TakeView } from '$contract/take';
  import type { TakeFilter } from '$contract/take-list';
  import Variants from './Variants.svelte';

  type Props = { overview: Overview; study: StudyView; take: TakeView; variants: StudyView[] };
  let { overview, study: opened, take, variants }: Props = $props();
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
  let tableAt = $state(0);

  $effect(() => {
    if (study.state !== 'running') return;
    const { id } = study;
    const timer = setInterval(() => void ask(id), POLL_MS);
    return () => clearInterval(timer);
  });
  $effect(() => {
    void opened.id;
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

  type Change = { settings?: Record<string, unknown>; takes?: string[]; filter?: TakeFilter | null };
  const patch = async (what: Change) => {
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
  /** The same again, to be changed: both stay, and are shown side by side. */
  const vary = () =>
    act(async () => {
      const { kind: of, takes, takeId, settings, filter = null, name } = study;
      const body = {
        kind: of,
        takeId,
        takes,
        settings,
        filter,
        name,
        variantOf: study.variantOf ?? study.id,
      };
      const made = await call('POST /api/studies', { body });
      await goto(resolve(`/study/${made.id}`), { invalidateAll: true });
    });
  let beside = $state(false);
  /** Where the name of a recipe is asked for. */
  let naming = $state<HTMLElement | null>(null);
  let recipe = $state('');
  const keep = () =>
    act(async () => {
      await call('POST /api/recipes', { body: { study: study.id, name: recipe } });
      shell.say({ what: `“${recipe.trim()}” is kept: it is offered wherever a study is begun.` });
      naming = null;
    });
  const remove = () =>
    act(async () => {
      await call('DELETE /api/studies/[id]', { params: { id: study.id } });
      await goto(resolve('/study'), { invalidateAll: true });
    });
</script>

<div class="page">
  <div class="page-head">
    <h1>{study.name}</h1>
    <span class="aside">{kind.title} · from {study.takeName}</span>
    <div class="actions">
      {#if study.outOfDate}<Button size="sm" color="alternative" onclick={() => void again()}
          >Bring up to date</Button
        >{/if}
      {#if variants.length > 1}<Button
          size="sm"
          color="alternative"
          aria-pressed={beside}
          onclick={() => (beside = !beside)}>{beside ? 'One alone' : 'Side by side'}</Button
        >{/if}
      <Button size="sm" color="alternative" onclick={() => void vary()}>Try another way</Button>
      <Button size="sm" color="alternative" onclick={() => void remove()}>Remove</Button>
      <Button
        size="sm"
        color="alternative"
        onclick={(e: MouseEvent) => (naming = e.currentTarget as HTMLElement)}>Keep for other takes</Button
      >
      <Button size="sm" href={resolve(`/report?take=${study.takeId}`)}>Put in report</Button>
    </div>
  </div>
  {#if naming}
    <FloatBox anchor={naming} label="Keep for other takes" close={() => (naming = null)}>
      <form
        class="naming"
        onsubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <label>Keep these settings as <input type="text" bind:value={recipe} maxlength="80" /></label>
        <button class="dotted" disabled={!recipe.trim()}>keep</button>
      </form>
    </FloatBox>
  {/if}
  {#if beside && variants.length > 1}
    <Variants {variants} {kind} {names} here={study.id} />
  {:else}
    <TakesChoice
      takes={overview.takes.filter((t) => t.state !== 'recording')}
      chosen={study.takes}
      {...kind.takes ?? { least: 1, most: 200 }}
      filter={study.filter ?? null}
      filtered={!kind.takes}
      change={(what) => act(() => patch(what))}
    />
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
    {:else if study.state === 'cancelled' || study.state === 'interrupted'}
      <div class="card running">
        <p>
          {study.state === 'cancelled'
            ? 'It was cancelled before it was done.'
            : 'It was interrupted: the server stopped while it ran.'}
        </p>
        <Button size="sm" onclick={() => void again()}>Compute it</Button>
      </div>
    {/if}
    {#if result}
      <ResultView {study} {take} {kind} {result} {former} bind:tableAt />
    {/if}
  {/if}
</div>

<style>
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
  progress {
    width: 320px;
    accent-color: var(--plum-fill);
  }
  .late {
    color: var(--ochre);
    margin: 0;
  }
  .naming {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
</style>
