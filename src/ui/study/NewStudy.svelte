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

  type Props = { open: boolean; takeId: string; span: [number, number]; whole: boolean; channels: string[] };
  let { open = $bindable(), takeId, span, whole, channels }: Props = $props();

  let fault = $state<FaultText | null>(null);
  const round = (s: number) => Number(s.toFixed(3));

  async function begin({ kind, sentence }: StudyKind) {
    const has = (key: string) => sentenceFields(sentence.schema).some((f) => f.key === key);
    const looked = { from: whole ? 0 : round(span[0]), to: whole ? null : round(span[1]) };
    try {
      const made = await call('POST /api/studies', {
        body: {
          kind,
          takeId,
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
  {#each STUDY_KINDS as kind (kind.kind)}
    <button class="kind" onclick={() => void begin(kind)}
      ><strong>{kind.title}</strong><span class="muted">{kind.purpose}</span></button
    >
  {/each}
  {#if fault}<FaultNote {fault} />{/if}
</Dialog>

<style>
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
