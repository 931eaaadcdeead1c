<!-- A column of a series: a fact, a finding of a study, or a measure as a sentence. -->
<script lang="ts">
  import { MEASURE_KINDS } from '$core/measures/registry';
  import type { Names } from '$core/sentence/sentence';
  import type { SeriesColumn } from '$contract/series';
  import type { StudyView } from '$contract/study';
  import { call } from '../api';
  import FloatBox from '../kit/FloatBox.svelte';
  import { provideChoices } from '../sentence/choices';
  import SentenceView from '../sentence/SentenceView.svelte';

  type Props = {
    /** Null for a new one. */
    column: SeriesColumn | null;
    anchor: HTMLElement;
    channels: readonly { name: string; unit: string }[];
    facts: readonly string[];
    close: () => void;
    /** Null takes it away. */
    put: (column: SeriesColumn | null) => void;
  };
  let { column, anchor, channels, facts, close, put }: Props = $props();

  const [first, second] = [0, 1].map((k) => channels[k]?.name ?? '');
  // svelte-ignore state_referenced_locally
  let now = $state.raw<SeriesColumn>(column ?? measureOf('level'));
  let studies = $state.raw<StudyView[]>([]);
  $effect(() => {
    void call('GET /api/studies').then(
      (found) => (studies = found),
      () => undefined,
    );
  });
  function measureOf(kind: string): SeriesColumn {
    const { defaults } = MEASURE_KINDS.find((k) => k.kind === kind)!;
    const settings: Record<string, unknown> = { ...defaults };
    // The first channels that there are, so that the sentence says something at once.
    const free = [first, second];
    for (const key of ['y', 'x', 'read', 'channel'])
      if (settings[key] === '') settings[key] = free.shift() ?? first;
    return { of: 'measure', title: '', measure: { kind, settings } };
  }
  function choose(key: string) {
    const [of, ...rest] = key.split(' ');
    if (of === 'fact') now = { of: 'fact', name: facts[0] ?? '' };
    else if (of === 'finding')
      now = { of: 'finding', study: studies[0]?.name ?? '', label: studies[0]?.findings[0]?.label ?? '' };
    else now = measureOf(rest.join(' '));
  }
  const key = $derived(now.of === 'measure' ? `measure ${now.measure.kind}` : now.of);
  const kind = $derived(
    now.of === 'measure'
      ? MEASURE_KINDS.find((k) => k.kind === (now as { measure: { kind: string } }).measure.kind)!
      : null,
  );
  const names: Names = {
    channel: (name) => ({ name: name || '…', unit: channels.find((c) => c.name === name)?.unit ?? '' }),
  };
  provideChoices(() => channels.map((c) => ({ id: c.name, name: c.name, unit: c.unit })));
  const change = (field: string, value: unknown) => {
    if (now.of === 'measure')
      now = { ...now, measure: { ...now.measure, settings: { ...now.measure.settings, [field]: value } } };
    return Promise.resolve();
  };
  const named = $derived([...new Set(studies.map((s) => s.name))]);
  const labels = $derived([
    ...new Set(
      studies
        .filter((s) => now.of === 'finding' && s.name === now.study)
        .flatMap((s) => s.findings.map((f) => f.label)),
    ),
  ]);
</script>

<FloatBox {anchor} label="Column" {close}>
  <div class="column">
    <select
      aria-label="What stands in the column"
      value={key}
      onchange={(e) => choose(e.currentTarget.value)}
    >
      <option value="fact">a fact</option>
      {#if studies.length}<option value="finding">a finding of a study</option>{/if}
      {#each MEASURE_KINDS as m (m.kind)}<option value="measure {m.kind}">{m.title}</option>{/each}
    </select>
    {#if now.of === 'fact'}
      <select
        aria-label="Fact"
        value={now.name}
        onchange={(e) => (now = { of: 'fact', name: e.currentTarget.value })}
      >
        {#each facts as fact (fact)}<option>{fact}</option>{/each}
      </select>
    {:else if now.of === 'finding'}
      <select
        aria-label="Study"
        value={now.study}
        onchange={(e) =>
          (now = {
            of: 'finding',
            study: e.currentTarget.value,
            label: studies.find((s) => s.name === e.currentTarget.value)?.findings[0]?.label ?? '',
          })}
      >
        {#each named as name (name)}<option>{name}</option>{/each}
      </select>
      <select
        aria-label="Finding"
        value={now.label}
        onchange={(e) => now.of === 'finding' && (now = { ...now, label: e.currentTarget.value })}
      >
        {#each labels as label (label)}<option>{label}</option>{/each}
      </select>
    {:else if kind}
      <SentenceView sentence={kind.sentence} value={now.measure.settings} {names} {change} />
      <label
        >Title <input
          type="text"
          maxlength="80"
          value={now.title}
          placeholder={kind.name(now.measure.settings)}
          onchange={(e) => now.of === 'measure' && (now = { ...now, title: e.currentTarget.value })}
        /></label
      >
    {/if}
    <p>
      <button class="take" onclick={() => put(now)}>{column ? 'Take it over' : 'Add it'}</button>
      {#if column}<button class="dotted" onclick={() => put(null)}>take the column away</button>{/if}
    </p>
  </div>
</FloatBox>

<style>
  .column {
    display: grid;
    gap: var(--space-2);
  }
  p {
    margin: 0;
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
  .take {
    background: var(--plum-fill);
    color: var(--on-fill);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-3);
  }
</style>
