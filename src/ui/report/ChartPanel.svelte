<!-- Of a chart: how each curve looks, and the chosen channels in every form, to be chosen by looking. -->
<script lang="ts">
  import { CHART_FORMS, type ChartForm } from '$core/figures/forms';
  import { NO_NAMES } from '$core/sentence/sentence';
  import type { Block } from '$contract/report';
  import { curveSentence, PLAIN_CURVE, type CurveSetting } from '$contract/report-chart';
  import { usualStrips, type TakeView } from '$contract/take';
  import { faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import type { ReportDraft } from './draft.svelte';

  type Props = {
    draft: ReportDraft;
    block: Block;
    take: TakeView | null;
    set: (settings: Record<string, unknown>) => void;
  };
  let { draft, block, take, set }: Props = $props();

  const channels = $derived(block.settings.channels as string[]);
  const looks = $derived((block.settings.looks ?? {}) as Record<string, Partial<CurveSetting>>);
  const meant = $derived(
    take
      ? channels.length ? channels.flatMap((id) => take.signals.find((s) => s.channelId === id) ?? []) : usualStrips(take.signals).slice(0, 3) // prettier-ignore
      : [],
  );
  let open = $state<'looks' | 'forms' | null>(null);
  const look = (id: string, key: string, value: unknown) =>
    set({ looks: { ...looks, [id]: { ...looks[id], [key]: value } } });

  /** The forms drawn small; again when what is drawn changes. */
  let forms = $state.raw<{ form: ChartForm; svg: string; says: string | null }[]>([]);
  let fault = $state<FaultText | null>(null);
  const asked = $derived(JSON.stringify({ ...block.settings, form: '', looks }));
  $effect(() => {
    if (open !== 'forms') return;
    const settings = JSON.parse(asked) as Block['settings'];
    let late = false;
    const small = { names: 'left out', marks: 'left out', caption: '', text: 5 };
    draft
      .drawnApart(
        CHART_FORMS.map((form) => ({
          ...block,
          id: form,
          w: 66,
          h: 36,
          settings: { ...settings, ...small, form },
        })),
      ) // prettier-ignore
      .then((drawn) => {
        if (!late) [forms, fault] = [CHART_FORMS.map((form, k) => ({ form, ...drawn[k] })), null];
      })
      .catch((error) => !late && (fault = faultText(error)));
    return () => (late = true);
  });
</script>

<p class="acts">
  <button
    class="dotted"
    aria-expanded={open === 'looks'}
    onclick={() => (open = open === 'looks' ? null : 'looks')}>look of the curves</button
  >
  <button
    class="dotted"
    aria-expanded={open === 'forms'}
    onclick={() => (open = open === 'forms' ? null : 'forms')}>choose by looking</button
  >
</p>
{#if open === 'looks'}
  {#if meant.length === 0}<p class="muted">Shown for a take, its curves stand here.</p>{/if}
  <ul class="looks">
    {#each meant as signal (signal.id)}
      {#if signal.channelId}
        {@const id = signal.channelId}
        <li data-curve={signal.name}>
          <strong>{signal.name}</strong>{#if signal.unit}<span class="muted">, {signal.unit},</span>{/if}
          <SentenceView
            sentence={curveSentence}
            value={{ ...PLAIN_CURVE, ...looks[id] }}
            names={NO_NAMES}
            change={async (key, value) => look(id, key, value)}
          />
          {#if looks[id]}
            <button
              class="dotted"
              onclick={() =>
                set({ looks: Object.fromEntries(Object.entries(looks).filter(([of]) => of !== id)) })}
              >as it comes</button
            >
          {/if}
        </li>
      {/if}
    {/each}
  </ul>
{:else if open === 'forms'}
  {#if fault}<FaultNote {fault} />{/if}
  <ul class="forms" data-testid="forms">
    {#each forms as { form, svg, says } (form)}
      <li>
        <button aria-pressed={block.settings.form === form} title={says ?? ''} onclick={() => set({ form })}>
          <!-- eslint-disable-next-line svelte/no-at-html-tags -- drawn by our own server, words escaped -->
          {@html svg}
          <span>{form}</span>
        </button>
      </li>
    {/each}
  </ul>
{/if}

<style>
  .acts {
    display: flex;
    gap: var(--space-3);
    margin-top: var(--space-2);
  }
  .looks,
  .forms {
    list-style: none;
    margin: var(--space-2) 0 0;
    padding: 0;
  }
  .looks li + li {
    border-top: 1px solid var(--hair);
    margin-top: var(--space-1);
    padding-top: var(--space-1);
  }
  .forms {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: var(--space-2);
  }
  .forms button {
    width: 100%;
    text-align: left;
    font-size: var(--type-small);
    color: var(--muted);
  }
  .forms button :global(svg) {
    display: block;
    width: 100%;
    height: auto;
    background: white;
    outline: 1px solid var(--line);
    margin-bottom: var(--space-1);
  }
  .forms button[aria-pressed='true'] {
    color: var(--plum);
    font-weight: 650;
  }
  .forms button[aria-pressed='true'] :global(svg) {
    outline: 2px solid var(--plum);
  }
</style>
