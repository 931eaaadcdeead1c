<!-- The block that is marked, as a sentence; words are written below it. -->
<script lang="ts">
  import { sentenceText } from '$core/sentence/sentence';
  import type { Block, Page } from '$contract/report';
  import { blockKind } from '$contract/report-blocks';
  import { resultTables, type StudyResult } from '$core/studies/study';
  import type { StudyView } from '$contract/study';
  import type { TakeView } from '$contract/take';
  import { call, faultText } from '../api';
  import ChartPanel from './ChartPanel.svelte';
  import { saveDrawing, savePicture } from './print';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import { fetchResult } from '../study/result';
  import type { ReportDraft } from './draft.svelte';

  type Props = {
    draft: ReportDraft;
    page: Page;
    block: Block;
    take: TakeView | null;
    studies: StudyView[];
    onremove: () => void;
    oncopy: () => void;
    onorder: (to: 'front' | 'back') => void;
  };
  let { draft, page, block, take, studies, onremove, oncopy, onorder }: Props = $props();

  const shell = useShell();
  const kind = $derived(blockKind(block.kind)!);
  const names = $derived({
    channel: (id: string) => {
      const signal = take?.signals.find((s) => s.channelId === id);
      return signal ?? (draft.body.called[id] ? { name: draft.body.called[id], unit: '' } : undefined);
    },
  });
  const study = $derived(studies.find((s) => s.name === block.settings.study) ?? studies[0]);
  let result = $state.raw<StudyResult | null>(null);
  $effect(() => {
    result = null;
    if (!study?.resultId || !('study' in block.settings)) return;
    const { id, resultId } = study;
    fetchResult(id, resultId)
      .then((got) => study?.resultId === resultId && (result = got))
      .catch(() => undefined); // nothing is offered then; the page itself says what is wrong
  });
  let series = $state.raw<string[]>([]);
  $effect(() => {
    if (block.kind !== 'series') return;
    call('GET /api/series')
      .then((all) => (series = all.map((s) => s.name)))
      .catch(() => undefined); // nothing is offered then
  });
  const options = $derived({
    series,
    study: studies.map((s) => s.name),
    figure: result?.figures.map((f) => f.title) ?? [],
    table: result ? resultTables(result).map((t) => t.title) : [],
  });

  const set = (change: Partial<Block>, step = '') =>
    draft.page(
      page.id,
      (p) => ({ ...p, blocks: p.blocks.map((b) => (b.id === block.id ? { ...b, ...change } : b)) }),
      step,
    );
  const change = async (key: string, value: unknown) =>
    set({ settings: { ...block.settings, [key]: value } });

  async function choosePicture(file: File | undefined) {
    if (!file) return;
    try {
      await change('picture', (await call('POST /api/pictures', { file })).id);
    } catch (error) {
      shell.say(faultText(error));
    }
  }

  const says = $derived(draft.drawn.get(block.id)?.says);
</script>

<section class="card" data-testid="block">
  <h2>This block: {kind.title.toLowerCase()}</h2>
  {#key block.id}
    <SentenceView sentence={kind.sentence} value={block.settings} {names} {options} {change} />
  {/key}
  {#if block.kind === 'chart'}
    {#key block.id}
      <ChartPanel
        {draft}
        {block}
        {take}
        set={(settings) => set({ settings: { ...block.settings, ...settings } })}
      />
    {/key}
  {/if}
  {#if block.kind === 'picture'}
    <p>
      <input
        type="file"
        accept=".png,.jpg,.jpeg"
        aria-label="Picture"
        onchange={(e) => void choosePicture(e.currentTarget.files?.[0])}
      />
    </p>
  {/if}
  {#if kind.words}
    {#await import('./WordsEditor.svelte') then { default: WordsEditor }}
      {#key block.id}
        <WordsEditor
          text={String(block.settings.text)}
          values={draft.values}
          change={(text) => set({ settings: { ...block.settings, text } }, `words ${block.id}`)}
        />
      {/key}
    {/await}
  {/if}
  {#if says}<p class="warning" role="status">{says}</p>{/if}
  <p class="acts">
    <button class="dotted" onclick={oncopy}>copy it</button>
    <button
      class="dotted"
      onclick={() => saveDrawing(draft.drawn.get(block.id)?.svg ?? '', `${page.name} ${kind.title}`)}
      >save the drawing</button
    >
    <button
      class="dotted"
      onclick={() =>
        void savePicture(draft.drawn.get(block.id)?.svg ?? '', `${page.name} ${kind.title}`).catch((error) =>
          shell.say(faultText(error)),
        )}>the picture</button
    >
    <button class="dotted" onclick={() => onorder('front')}>to the front</button>
    <button class="dotted" onclick={() => onorder('back')}>to the back</button>
    <button class="dotted" onclick={onremove}>take it away</button>
  </p>
  <p class="muted small place" title={sentenceText(kind.sentence, block.settings as never, names)}>
    {block.x} mm from the left, {block.y} mm from the top; {block.w} × {block.h} mm.
  </p>
</section>

<style>
  section {
    padding: var(--space-3);
  }
  .small {
    font-size: var(--type-small);
  }
  .warning {
    color: var(--ochre);
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-2);
    margin-top: var(--space-2);
  }
</style>
