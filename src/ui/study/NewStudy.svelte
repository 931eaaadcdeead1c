<!-- Begins a study: which kind, on which take; the rest is changed in its sentence. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import { STUDY_KINDS } from '$core/studies/registry';
  import { sentenceFields } from '$core/sentence/sentence';
  import type { StudyKind } from '$core/studies/study';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';

  type Props = {
    open: boolean;
    takeId: string;
    /** Takes that are looked at, that one first: for kinds that compare several. */
    takes?: string[];
    span: [number, number];
    whole: boolean;
    channels: string[];
    /** Spans that were written on the take. */
    spans?: { says: string; from: number; to: number }[];
  };
  let { open = $bindable(), takeId, takes = [takeId], span, whole, channels, spans = [] }: Props = $props();
  /** The span that was written on the take and is studied, instead of what is looked at. */
  let written = $state('');
  const chosen = $derived(spans.find((s) => s.says === written));

  let fault = $state<FaultText | null>(null);
  const round = (s: number) => Number(s.toFixed(3));

  async function begin({ kind, sentence, takes: several }: StudyKind) {
    const has = (key: string) => sentenceFields(sentence.schema).some((f) => f.key === key);
    const looked = chosen
      ? { from: round(chosen.from), to: round(chosen.to) }
      : { from: whole ? 0 : round(span[0]), to: whole ? null : round(span[1]) };
    try {
      const made = await call('POST /api/studies', {
        body: {
          kind,
          takeId,
          ...(several && takes.length >= several.least && { takes: takes.slice(0, several.most) }),
          shown: channels,
          settings: has('from') && has('to') ? looked : {},
        },
      });
      open = false;
      await goto(resolve(`/study/${made.id}`), { invalidateAll: true });
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

<Dialog bind:open title="Study this" size="sm">
  <p class="muted">
    Of the {channels.length || 'all'} channels shown, {whole
      ? 'the whole take'
      : `from ${round(span[0])} to ${round(span[1])} s`}.
  </p>
  {#if spans.length}
    <label class="spans"
      >or <select bind:value={written} aria-label="Span"
        ><option value="">what is looked at</option>{#each spans as s (s.says + s.from)}<option value={s.says}
            >“{s.says}”, {round(s.from)} to {round(s.to)} s</option
          >{/each}</select
      ></label
    >
  {/if}
  {#each STUDY_KINDS as kind (kind.kind)}
    <button class="kind" onclick={() => void begin(kind)}
      ><strong>{kind.title}</strong><span class="muted">{kind.purpose}</span></button
    >
  {/each}
  {#if fault}<FaultNote {fault} />{/if}
</Dialog>

<style>
  .spans {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  .spans select {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background-color: var(--paper);
    padding: var(--space-1) var(--space-6) var(--space-1) var(--space-2);
    font-size: var(--type-body);
  }
  .kind {
    display: flex;
    flex-direction: column;
    width: 100%;
    text-align: left;
    padding: var(--space-2) var(--space-3);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    margin-top: var(--space-2);
  }
  .kind:hover,
  .kind:focus-visible {
    background: var(--tint);
    border-color: var(--plum);
  }
</style>
