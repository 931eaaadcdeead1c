<!-- A station that is opened: it is reached, and says how; its programme as sentences, what it holds, what was fetched, values now, and sending. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { remarksOn } from '$core/field/station/check';
  import { EMPTY_PROGRAMME, type Programme as Asked } from '$core/field/station/programme';
  import { programmeOf, programmeText } from '$core/field/station/text';
  import { agoText } from '$contract/field';
  import type { StationView } from '$contract/station';
  import { call } from '../../api';
  import { useShell } from '../../shell/shell.svelte';
  import Care from './Care.svelte';
  import Holds from './Holds.svelte';
  import LiveNow from './LiveNow.svelte';
  import Programme from './Programme.svelte';
  import ProgrammeText from './ProgrammeText.svelte';
  import Sending from './Sending.svelte';
  import TableGraph from './TableGraph.svelte';
  import Wiring from './Wiring.svelte';
  import { linkText, momentText } from './words';

  type Props = {
    id: string;
    doing: (act: () => Promise<unknown>) => Promise<boolean>;
    ongone: () => void;
  };
  let { id, doing, ongone }: Props = $props();
  const shell = useShell();

  let station = $state.raw<StationView | null>(null);
  let nowMs = $state(Date.now());
  let shown = $state<string | null>(null);
  let below = $state<'graph' | 'live' | 'wiring' | 'text' | 'care'>('graph');
  /** The programme as it is being written here; null as long as nothing was changed. */
  let written = $state<string | null>(null);
  let sent = Promise.resolve<unknown>(undefined);

  const ask = async (reach = true) => {
    station = reach
      ? await call('POST /api/field/stations/[id]/reach', { params: { id } })
      : await call('GET /api/field/stations/[id]', { params: { id } });
    nowMs = Date.now();
  };
  /** While it is looked at, it is reached and asked. */
  $effect(() => {
    let ended = false;
    let timer: ReturnType<typeof setTimeout>;
    const again = async () => {
      await ask().catch(() => undefined); // the shell says that the server is gone
      if (!ended) timer = setTimeout(() => void again(), 1000);
    };
    untrack(() => void again());
    return () => ((ended = true), clearTimeout(timer));
  });

  const text = $derived(written ?? (station?.draft || station?.runs || programmeText({ ...EMPTY_PROGRAMME, model: station?.model ?? EMPTY_PROGRAMME.model }))); // prettier-ignore
  const read = $derived(programmeOf(text));
  /** What the station would refuse it for is known before. */
  const another = $derived(station?.model && read.programme.model && read.programme.model !== station.model ? [{ bad: true, says: `It is for ${read.programme.model}; the station that answers is ${station.model}.`, line: read.lines.head, at: { part: 'head' as const } }] : []); // prettier-ignore
  const remarks = $derived(read.remarks.length ? read.remarks : [...another, ...remarksOn(read.programme, read.lines)]); // prettier-ignore
  const errors = $derived(remarks.filter((r) => r.bad));
  const warnings = $derived(remarks.filter((r) => !r.bad));
  function put(next: string) {
    written = next;
    sent = sent.then(() => call('PUT /api/field/stations/[id]/draft', { params: { id }, body: { text: next } })).catch(() => undefined); // prettier-ignore
  }
  const change = (programme: Asked) => put(programmeText(programme));
  const version = $derived(station?.versions.find((v) => v.text === text));
  const table = $derived(station?.tables.find((t) => t.name === shown) ?? station?.tables.find((t) => t.takeId) ?? station?.tables[0]); // prettier-ignore
  const fetching = $derived(station?.fetch ?? null);
  const left = $derived.by(() => {
    if (!fetching || fetching.rows === 0) return '';
    const s = (((nowMs - fetching.sinceMs) / fetching.rows) * (fetching.of - fetching.rows)) / 1000;
    return s > 1 ? `, ${Math.ceil(s)} s left` : '';
  });
  const TABS = [
    ['graph', 'what was fetched'],
    ['live', 'values now'],
    ['wiring', 'wiring'],
    ['text', 'as text'],
    ['care', 'how it is looked after'],
  ] as const;
</script>

{#if station}
  <header class="top">
    <div>
      <h2 class="name">{station.name}</h2>
      <span class="muted" data-testid="link"
        ><span class="lamp {station.link.state}" aria-hidden="true"></span>
        {linkText(station.link, nowMs)}{station.contactMs !== null && station.link.state !== 'there'
          ? ` · answered ${agoText(station.contactMs, nowMs)}`
          : ''}{station.serial ? ` · ${station.serial}, model ${station.model}` : ''}</span
      >
      {#each station.concerns as c (c.key)}<p class={c.level === 'alarm' ? 'bad' : 'warning'}>
          ▲ {c.says}
        </p>{/each}
    </div>
    <div class="acts">
      {#if fetching}
        <span class="mono small">{fetching.table}: {fetching.rows} of {fetching.of} rows{left}</span>
        <button
          class="dotted"
          onclick={() => void doing(() => call('DELETE /api/field/stations/[id]/fetch', { params: { id } }))}
          >stop</button
        >
      {:else}
        <Button
          size="sm"
          color="alternative"
          onclick={() =>
            void doing(() => call('POST /api/field/stations/[id]/fetch', { params: { id }, body: {} })).then(
              () => ask(false),
            )}>Fetch what is new</Button
        >
      {/if}
    </div>
  </header>

  {#if read.remarks.length}
    <p class="bad" data-testid="unread">
      ▲ Line {read.remarks[0].line}: {read.remarks[0].says}
      <button class="dotted" onclick={() => (below = 'text')}>mend it in the text</button>
    </p>
  {:else}
    <Programme programme={read.programme} {remarks} {change} />
  {/if}
  <p class="check" data-testid="check">
    {#if errors.length}<strong class="bad"
        >▲ {errors.length} {errors.length === 1 ? 'error' : 'errors'}</strong
      >:
      <span class="bad">{errors[0].says}</span>
    {:else}<strong class="good">✓ checked, no errors</strong>{/if}
    {#if warnings.length}<span class="warning" title={warnings.map((w) => w.says).join('\n')}
        >· {warnings.length} {warnings.length === 1 ? 'thing' : 'things'} to know: {warnings[0].says}</span
      >{/if}
    <span class="muted"
      >·
      {text === station.runs
        ? `version ${station.version ?? '–'}, on the station${station.state?.sinceMs ? ` since ${momentText(station.state.sinceMs)}` : ''}`
        : version
          ? `version ${version.number}, not on the station`
          : 'not sent yet'}</span
    >
    {#if station.runs && text !== station.runs}<button class="dotted" onclick={() => put(station!.runs)}
        >back to what runs</button
      >{/if}
  </p>

  <Holds
    tables={station.tables}
    {nowMs}
    shown={table?.name ?? null}
    fetch={fetching}
    show={(name) => ((shown = name), (below = 'graph'))}
  />
  <!-- prettier-ignore -->

  <div class="lower">
    <div class="left">
      <div class="tabs" role="tablist">
        {#each TABS as [tab, says] (tab)}<button
            role="tab"
            aria-selected={below === tab}
            onclick={() => (below = tab)}>{says}</button
          >{/each}
      </div>
      {#if below === 'graph'}
        {#if table}{#key table.name}<TableGraph
              {table}
              earlier={station.earlier.filter((e) => e.table === table.name).map((e) => e.number)}
              night={shell.night}
            />{/key}
        {:else}<section class="card none muted">
            Nothing yet: once a programme runs, its tables are fetched and drawn here.
          </section>{/if}
      {:else if below === 'live'}
        {#if station.live && station.state}<LiveNow
            {id}
            live={station.live}
            state={station.state}
            aheadS={station.aheadS}
            batteryV={station.wish.batteryV}
            plays={station.plays}
            {doing}
          />
        {:else}<section class="card none muted">It has not been reached yet.</section>{/if}
      {:else if below === 'wiring'}
        <Wiring programme={read.programme} />
      {:else if below === 'text'}
        <ProgrammeText {text} {remarks} versions={station.versions} runs={station.runs} change={put} />
      {:else}
        <Care {station} {doing} onchange={() => void ask(false)} {ongone} />
      {/if}
    </div>
    <Sending {station} {text} faulty={errors.length > 0} {doing} />
  </div>
{/if}

<style>
  .top {
    display: flex;
    justify-content: space-between;
    gap: var(--space-4);
  }
  .top p {
    margin: 0;
  }
  .name {
    font-size: var(--type-title);
    display: inline;
    margin-right: var(--space-3);
  }
  .acts {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    white-space: nowrap;
  }
  .small {
    font-size: var(--type-small);
  }
  .lamp {
    display: inline-block;
    width: 0.6rem;
    height: 0.6rem;
    border-radius: var(--radius);
    background: var(--line);
  }
  .lamp.there {
    background: var(--moss);
  }
  .lamp.calling {
    background: var(--ochre-fill);
  }
  .lamp.silent {
    background: var(--red);
  }
  .check {
    margin: 0;
  }
  .good {
    color: var(--moss);
  }
  .bad {
    color: var(--red);
  }
  .warning {
    color: var(--ochre);
  }
  .lower {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 16rem;
    gap: var(--space-3);
    align-items: start;
  }
  .tabs {
    display: flex;
    gap: var(--space-4);
    padding: 0 var(--space-1);
  }
  .tabs button {
    color: var(--muted);
    min-height: 28px;
    border-bottom: 2px solid transparent;
  }
  .tabs button[aria-selected='true'] {
    color: var(--plum);
    font-weight: 600;
    border-color: var(--plum);
  }
  .none {
    padding: var(--space-4);
  }
</style>
