<!-- What can be made of a take, arranged by what one wants to know. A click brings a first result; its sentence is changed there. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { STUDY_KINDS } from '$core/studies/registry';
  import { QUESTIONS, type StudyKind } from '$core/studies/study';
  import { sentenceFields } from '$core/sentence/sentence';
  import type { RecipeView } from '$contract/study';
  import type { TakeView } from '$contract/take';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import Sketch from './Sketch.svelte';

  type Props = {
    /** The take that is looked at; null where nothing is recorded yet. */
    take: TakeView | null;
    /** Takes that are looked at, that one first: for kinds that compare several. */
    takes: string[];
    channels: string[];
    from: number | null;
    to: number | null;
  };
  let { take, takes, channels, from, to }: Props = $props();

  const round = (s: number) => Number(s.toFixed(3));
  const spans = $derived((take?.notes ?? []).filter((n) => n.untilS !== null));
  /** The span that was written on the take and is studied, instead of what is looked at. */
  let written = $state('');
  const chosen = $derived(spans.find((s) => String(s.id) === written));
  const span = $derived(
    chosen ? { from: round(chosen.atS), to: round(chosen.untilS!) } : { from: round(from ?? 0), to },
  );
  const names = $derived(channels.flatMap((id) => take?.signals.find((s) => s.channelId === id)?.name ?? []));
  const about = $derived(
    [
      span.from === 0 && span.to === null
        ? 'the whole take'
        : `${span.from} s to ${span.to === null ? 'the end' : `${span.to} s`}`,
      names.length > 2 ? `${names.length} channels` : names.join(' and '),
    ]
      .filter(Boolean)
      .join(' · '),
  );

  let recipes = $state.raw<RecipeView[]>([]);
  $effect(() => {
    if (!take) return;
    call('GET /api/recipes', { query: { take: take.head.id } })
      .then((got) => (recipes = got))
      .catch((error) => (fault = faultText(error)));
  });
  async function beginKept({ kind, settings, name }: RecipeView) {
    if (!take || begun) return;
    begun = name;
    try {
      const own = STUDY_KINDS.find((k) => k.kind === kind)!;
      const spanned = sentenceFields(own.sentence.schema).some((f) => f.key === 'from');
      const body = { kind, takeId: take.head.id, name, settings: { ...settings, ...(spanned && span) } };
      const made = await call('POST /api/studies', { body });
      await goto(resolve(`/study/${made.id}`), { invalidateAll: true });
    } catch (error) {
      fault = faultText(error);
    } finally {
      begun = '';
    }
  }
  async function forget({ id }: RecipeView) {
    try {
      await call('DELETE /api/recipes/[id]', { params: { id } });
      recipes = recipes.filter((r) => r.id !== id);
    } catch (error) {
      fault = faultText(error);
    }
  }

  let wanted = $state('');
  const fits = ({ title, purpose, asks }: StudyKind) =>
    wanted
      .toLowerCase()
      .split(/\s+/)
      .every((w) => `${title} ${purpose} ${asks}`.toLowerCase().includes(w));
  const groups = $derived(
    QUESTIONS.map((question) => ({
      question,
      kinds: STUDY_KINDS.filter((k) => k.asks === question && fits(k)),
    })).filter((g) => g.kinds.length > 0),
  );

  let fault = $state<FaultText | null>(null);
  let begun = $state('');
  async function begin({ kind, sentence, takes: several }: StudyKind) {
    if (!take || begun) return;
    begun = kind;
    const has = (key: string) => sentenceFields(sentence.schema).some((f) => f.key === key);
    try {
      const made = await call('POST /api/studies', {
        body: {
          kind,
          takeId: take.head.id,
          ...(several && takes.length >= several.least && { takes: takes.slice(0, several.most) }),
          shown: channels,
          settings: has('from') && has('to') ? span : {},
        },
      });
      await goto(resolve(`/study/${made.id}`), { invalidateAll: true });
    } catch (error) {
      fault = faultText(error);
    } finally {
      begun = '';
    }
  }
</script>

<div class="page kinds">
  <div class="page-head">
    <h1>{take ? `A study of ${take.head.name}` : 'A study'}</h1>
    {#if take}<span class="aside"
        >{about}{takes.length > 1 ? ` · with ${takes.length - 1} more` : ''} · what do you want to know?</span
      >{/if}
    <div class="actions">
      {#if spans.length}
        <select bind:value={written} aria-label="Span"
          ><option value="">what is looked at</option>{#each spans as s (s.id)}<option value={String(s.id)}
              >“{s.says}”, {round(s.atS)} to {round(s.untilS!)} s</option
            >{/each}</select
        >
      {/if}
      <input
        type="search"
        placeholder="Find a kind or a word"
        aria-label="Find a kind or a word"
        bind:value={wanted}
      />
    </div>
  </div>
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  {#if !take}
    <Empty says="Studies are made from takes. Record one first.">
      <Button href={resolve('/record')}>To the plan</Button>
    </Empty>
  {:else}
    {#if recipes.length}
      <ul class="kept" data-testid="recipes">
        <li class="muted">Kept:</li>
        {#each recipes as r (r.id)}
          <li>
            <button
              class="dotted"
              disabled={r.lacks !== null}
              title={r.lacks ?? r.says}
              aria-busy={begun === r.name}
              onclick={() => void beginKept(r)}>{r.name}</button
            >
            <span class="muted">{r.lacks === null ? r.title : 'not of this take'}</span>
            <button class="muted" aria-label="Forget {r.name}" onclick={() => void forget(r)}>✕</button>
          </li>
        {/each}
      </ul>
    {/if}
    <div class="groups">
      {#each groups as { question, kinds } (question)}
        <section aria-label={question}>
          <h2>{question}</h2>
          {#each kinds as kind (kind.kind)}
            <button
              class="card kind"
              data-kind={kind.kind}
              aria-busy={begun === kind.kind}
              onclick={() => void begin(kind)}
            >
              <Sketch sketch={kind.sketch} />
              <span><strong>{kind.title}</strong><span class="muted">{kind.purpose}</span></span>
            </button>
          {/each}
        </section>
      {:else}
        <p class="muted">No kind of study is called like that.</p>
      {/each}
    </div>
    <p class="foot muted">The first result comes with usual settings; then its sentence is changed.</p>
  {/if}
</div>

<style>
  .kinds {
    overflow: auto;
  }
  .actions input {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--card);
    padding: var(--space-1) var(--space-3);
    font-size: var(--type-body);
    width: 220px;
  }
  .actions select {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--card);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-3);
    font-size: var(--type-body);
    max-width: 260px;
  }
  .kept {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-4);
    list-style: none;
    margin: 0;
    padding: 0;
  }
  /* Down one column, then the next: questions with many kinds leave no holes beside those with few. */
  .groups {
    columns: 290px;
    column-gap: var(--space-4);
  }
  section {
    display: grid;
    gap: var(--space-1);
    min-width: 0;
    break-inside: avoid-column;
    margin-bottom: var(--space-3);
  }
  .kind {
    display: flex;
    align-items: center;
    gap: var(--space-3);
    padding: var(--space-1) var(--space-3);
    text-align: left;
  }
  .kind > span {
    display: flex;
    flex-direction: column;
    min-width: 0;
  }
  .kind span span {
    font-size: var(--type-small);
  }
  .kind:hover,
  .kind:focus-visible {
    background: var(--tint);
    border-color: var(--plum);
  }
  .foot {
    margin: auto 0 0;
    padding-top: var(--space-2);
    border-top: 1px solid var(--line);
    font-size: var(--type-small);
    text-align: right;
  }
</style>
