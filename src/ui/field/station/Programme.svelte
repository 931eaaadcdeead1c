<!-- A programme as sentences: what is measured, and which tables keep what of it. A part that is touched opens beneath, with what is wrong with it. -->
<script lang="ts">
  import { NO_NAMES } from '$core/sentence/sentence';
  import { WAYS, stationModel, terminalsFor, type Way } from '$core/field/station/model';
  import { valuesOf, type Measure, type Programme, type Table } from '$core/field/station/programme';
  import { withTerminals } from '$core/field/station/check';
  import { spanOf, spanS, type Remark } from '$core/field/station/text';
  import { headSentence, measureSentence, tableSentence } from '$contract/station';
  import SentenceView from '../../sentence/SentenceView.svelte';
  import Keeps from './Keeps.svelte';
  import { keepsText, momentOf, wayOf } from './words';

  type Props = { programme: Programme; remarks: Remark[]; change: (programme: Programme) => void };
  let { programme, remarks, change }: Props = $props();

  let opened = $state<{ part: 'measure' | 'table'; index: number } | null>(null);
  const model = $derived(stationModel(programme.model));
  const measure = $derived(opened?.part === 'measure' ? programme.measures[opened.index] : undefined);
  const table = $derived(opened?.part === 'table' ? programme.tables[opened.index] : undefined);
  const faults = (part: 'measure' | 'table', index: number) =>
    remarks.filter((r) => r.at?.part === part && 'index' in r.at && r.at.index === index);
  const bad = (part: 'measure' | 'table', index: number) => faults(part, index).some((r) => r.bad);
  const toggle = (part: 'measure' | 'table', index: number) => (opened = opened?.part === part && opened.index === index ? null : { part, index }); // prettier-ignore

  const free = (name: string, names: readonly string[]) => {
    for (let n = 1; ; n++) {
      const next = n === 1 ? name : `${name}${n}`;
      if (!names.includes(next)) return next;
    }
  };
  function addMeasure() {
    const name = free('Value', programme.measures.map((m) => m.name)); // prettier-ignore
    const next: Measure = { name, unit: 'V', way: 'volts', kind: '5 V', terminal: '', times: 1, plus: 0 };
    opened = { part: 'measure', index: programme.measures.length };
    change(withTerminals({ ...programme, measures: [...programme.measures, next] }));
  }
  function addTable() {
    const name = free('table', programme.tables.map((t) => t.name)); // prettier-ignore
    const next: Table = { name, moment: { kind: 'every', seconds: Math.max(60, programme.wakeS) }, rows: 0, keeps: [] }; // prettier-ignore
    opened = { part: 'table', index: programme.tables.length };
    change({ ...programme, tables: [...programme.tables, next] });
  }
  const drop = (part: 'measures' | 'tables', index: number) => {
    opened = null;
    change({ ...programme, [part]: (programme[part] as unknown[]).filter((_, k) => k !== index) });
  };

  async function changeMeasure(key: string, value: unknown) {
    const index = opened!.index;
    const before = programme.measures[index];
    let next = { ...before, [key]: value } as Measure;
    if (key === 'way') {
      const way = value as Way;
      next = { ...next, way, kind: WAYS[way].kinds[0], terminal: '', unit: WAYS[way].unit || before.unit };
    }
    const measures = programme.measures.map((m, k) => (k === index ? next : m));
    // Whoever keeps a value goes on keeping it under its new name.
    const tables =
      key === 'name'
        ? programme.tables.map((t): Table => ({ ...t, moment: t.moment.kind === 'event' && t.moment.of === before.name ? { ...t.moment, of: next.name } : t.moment, keeps: t.keeps.map((k) => ({ ...k, of: k.of === before.name ? next.name : k.of, from: k.from === before.name ? next.name : k.from })) })) // prettier-ignore
        : programme.tables;
    const changed = { ...programme, measures, tables };
    change(key === 'way' ? withTerminals(changed) : changed);
  }
  const tableValue = ({ name, moment, rows }: Table) => ({
    name,
    when: moment.kind === 'event' ? 'at an event' : 'every so often',
    every: spanOf(moment.kind === 'every' ? moment.seconds : programme.wakeS),
    of: moment.kind === 'event' ? moment.of : '',
    turns: moment.kind === 'event' ? moment.turns : 'rises above',
    level: moment.kind === 'event' ? moment.level : 0,
    rows: rows === 0 ? null : rows,
  });
  async function changeTable(key: string, value: unknown) {
    const index = opened!.index;
    const next = { ...tableValue(programme.tables[index]), [key]: value } as ReturnType<typeof tableValue>;
    const moment = next.when === 'at an event' ? ({ kind: 'event', of: next.of, turns: next.turns as 'rises above', level: next.level } as const) : ({ kind: 'every', seconds: spanS(next.every) } as const); // prettier-ignore
    put(index, { name: next.name, moment, rows: next.rows ?? 0 });
  }
  const put = (index: number, part: Partial<Table>) =>
    change({ ...programme, tables: programme.tables.map((t, k) => (k === index ? { ...t, ...part } : t)) });
  const kinds = $derived(measure ? [...WAYS[measure.way].kinds] : []);
  const terminals = $derived(measure && model ? ['', ...terminalsFor(model, measure.way)] : []);
</script>

{#snippet remarked(part: 'measure' | 'table', index: number)}
  {#each faults(part, index) as r (r.says)}<p class={r.bad ? 'bad' : 'warning'} data-testid="fault">
      ▲ {r.says}
    </p>{/each}
{/snippet}

<div class="programme" data-testid="programme">
  <SentenceView
    sentence={headSentence}
    value={programme as never}
    names={NO_NAMES}
    change={async (key, value) => change({ ...programme, [key]: value })}
  />
  <p class="flow">
    Measure
    {#each programme.measures as m, k (k)}<span class="item"
        ><button
          class="dotted"
          class:bad={bad('measure', k)}
          aria-expanded={opened?.part === 'measure' && opened.index === k}
          onclick={() => toggle('measure', k)}>{m.name} by {wayOf(m.way)} on {m.terminal || 'nothing'}</button
        >,</span
      >{/each}{programme.measures.length ? 'and ' : ''}the supply and the board as always.
    <button class="add" onclick={addMeasure}>+ a value</button>
  </p>
  {#if measure}
    <div class="part" data-testid="measure">
      <SentenceView
        sentence={measureSentence}
        value={measure as never}
        names={NO_NAMES}
        options={{ kinds, terminals }}
        change={changeMeasure}
      />
      {@render remarked('measure', opened!.index)}
      <button class="dotted" onclick={() => drop('measures', opened!.index)}>take it out</button>
    </div>
  {/if}
  <p class="flow">
    {#each programme.tables as t, k (k)}<span class="item"
        >{momentOf(t.moment).replace(/^./, (c) => c.toUpperCase())} keep in
        <button
          class="dotted"
          class:bad={bad('table', k)}
          aria-expanded={opened?.part === 'table' && opened.index === k}
          onclick={() => toggle('table', k)}>{t.name}: {keepsText(t.keeps)}</button
        >.</span
      >{/each}
    <button class="add" onclick={addTable}>+ a table</button>
  </p>
  {#if table}
    <div class="part" data-testid="table">
      <SentenceView
        sentence={tableSentence}
        value={tableValue(table)}
        names={NO_NAMES}
        options={{ values: valuesOf(programme).map((v) => v.name) }}
        change={changeTable}
      />
      {@render remarked('table', opened!.index)}
      <Keeps {programme} {table} change={(keeps) => put(opened!.index, { keeps })} />
      <button class="dotted" onclick={() => drop('tables', opened!.index)}>take it out</button>
    </div>
  {/if}
</div>

<style>
  .flow {
    margin: 0;
    line-height: 1.95;
  }
  .item {
    margin-right: var(--space-1);
  }
  .flow .dotted {
    line-height: 1.4;
  }
  .dotted.bad {
    color: var(--red);
    text-decoration-color: var(--red);
  }
  .add {
    color: var(--muted);
    padding: 0 var(--space-2);
    min-height: 24px;
    white-space: nowrap;
  }
  .add:hover {
    color: var(--plum);
  }
  .part {
    border-left: 3px solid var(--plum);
    background: var(--card);
    padding: var(--space-2) var(--space-4);
    margin: var(--space-1) 0;
  }
  .part p {
    margin: 0;
  }
  .bad {
    color: var(--red);
  }
  .warning {
    color: var(--ochre);
  }
</style>
