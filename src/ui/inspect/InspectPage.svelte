<!-- Recorded takes: found, drawn, compared, read, judged, mended, put in series. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { onMount, untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { traceColour } from '$contract/palette';
  import type { NamedDrawing } from '$contract/drawing';
  import type { Overview } from '$contract/overview';
  import type { TakeView } from '$contract/take';
  import type { FaultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import About from './About.svelte';
  import type { Looked } from './address';
  import Against from './Against.svelte';
  import AxisEditor from './AxisEditor.svelte';
  import { Desk } from './desk.svelte';
  import Dialogs from './Dialogs.svelte';
  import { channelDrag, type ChannelDrag } from './drag';
  import Drawer from './Drawer.svelte';
  import Heading from './Heading.svelte';
  import { keysOf } from './keys';
  import ManyBar from './ManyBar.svelte';
  import Readings from './Readings.svelte';
  import SeriesPane from './SeriesPane.svelte';
  import Spectra from './Spectra.svelte';
  import Stage from './Stage.svelte';
  import ValuesTable from './ValuesTable.svelte';
  import WindowBar from './WindowBar.svelte';

  type Props = {
    overview: Overview;
    /** What the address names: the take that stands out, then those beside it; none in an empty job. */
    takes: (TakeView | { id: string; name: string; fault: FaultText | null })[];
    looked: Looked;
    drawings: NamedDrawing[];
    written: string | null;
  };
  let { overview, takes, looked, drawings, written }: Props = $props();
  const shell = useShell();
  const desk = new Desk(shell);
  const { insp, list } = desk;

  let tab = $state<'readings' | 'about'>('readings');
  let axis = $state.raw<{ channel: string; anchor: HTMLElement } | null>(null);
  let drag = $state.raw<ChannelDrag | null>(null);
  /** Files are held over the page. */
  let over = $state(false);

  /** What the page was opened with, by the address. */
  const opening = $derived(takes.map((t) => ('head' in t ? t.head.id : t.id)).join());
  $effect(() => {
    void opening;
    untrack(() => {
      insp.zone = overview.job.zone;
      insp.begin(takes, looked);
      desk.kept = drawings;
      desk.marked = new Set(insp.takes.length > 1 ? insp.takes.map((t) => t.head.id) : []);
    });
  });
  onMount(() => {
    void list.search();
    // What filters are made of is wanted later: the first curves come first.
    const later = setTimeout(() => void list.offers(), 400);
    void channelDrag((channel, onto) => desk.drop(channel, onto)).then((made) => (drag = made));
    const letGo = keysOf(insp, {
      copy: () => void desk.copy(),
      write: desk.writeHere,
      export: () => insp.main && (desk.dialog = 'export'),
      channel: () => desk.channel,
    });
    return () => {
      clearTimeout(later);
      letGo();
      desk.stop();
      drag?.stop();
    };
  });

  // Takes that come, go or change elsewhere are seen here, too.
  const known = $derived(JSON.stringify(overview.takes.map((t) => [t.id, t.name, t.state])));
  let seen = '';
  $effect(() => {
    void known;
    untrack(() => {
      if (seen && seen !== known) void desk.refresh(false);
      seen = known;
    });
  });
  const lastNote = $derived(shell.feed.notes.at(-1));
  let heard: unknown = null;
  $effect(() => {
    const note = lastNote;
    untrack(() => {
      const fresh = heard !== null && note !== heard;
      heard = note ?? 'none';
      if (fresh && (note?.kind === 'take' || note?.kind === 'calibration')) void desk.refresh(true);
    });
  });
  $effect(() => {
    const name = insp.names[0] ?? '';
    untrack(() => {
      if (name && list.stripOf !== name) list.drawStrips(name);
    });
  });

  const draggable = (name: string) => (node: HTMLElement) => drag?.draggable(name)(node);
  /** The file that was written at the end of the take that the page was opened with. */
  const writtenHere = $derived(opening.split(',')[0] === insp.front ? written : null);
  const stage = $derived({
    insp,
    night: shell.night,
    out: desk.notCounting,
    colourOf: desk.colourOf,
    onaxis: (channel: string, anchor: HTMLElement) => (axis = { channel, anchor }),
    note: desk.write,
  });
  function toggleSeries() {
    insp.series = insp.series === null ? '' : null;
    insp.tell();
  }

  const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false;
  function dragOver(event: DragEvent) {
    if (!hasFiles(event)) return;
    event.preventDefault();
    over = true;
  }
  function dropFiles(event: DragEvent) {
    over = false;
    const files = [...(event.dataTransfer?.files ?? [])];
    if (files.length === 0) return;
    event.preventDefault();
    desk.dropped = files;
    desk.dialog = 'bring';
  }
</script>

<svelte:window
  ondragover={dragOver}
  ondragleave={(e) => e.relatedTarget === null && (over = false)}
  ondrop={dropFiles}
/>
<div class="page inspect">
  <Heading {desk} />
  <div class="columns" class:serial={insp.main && insp.series !== null}>
    <div class="left">
      <Drawer
        {list}
        marked={desk.marked}
        front={insp.front}
        colourOf={desk.colourOf}
        show={(id) => desk.show(id)}
        mark={(ids) => desk.mark(ids)}
        onbin={() => (desk.dialog = 'bin')}
      />
      {#if desk.marked.size > 1}
        <ManyBar
          ids={[...desk.marked]}
          tags={list.offered.tags}
          none={desk.unmark}
          judge={() => (desk.dialog = 'judge')}
          exportAll={() => (desk.dialog = 'export')}
          bin={() => void desk.bin()}
          changed={() => void desk.refresh(false)}
        />
      {/if}
    </div>
    {#if insp.main}
      <section class="card drawings" data-stage aria-label="Drawings">
        {#if desk.legend}
          <p class="legend">
            {#each desk.legend.values as value, k (value)}<span
                ><i style:background={traceColour(k, shell.night)}></i>{desk.legend.by}
                {value || '(none)'}</span
              >{/each}
          </p>
        {/if}
        {#if insp.drawing.as === 'a curve against'}
          <Against {insp} night={shell.night} out={desk.notCounting} colourOf={desk.colourOf} />
          <!-- The same over time: the cursors run in both. -->
          <div class="beneath"><Stage {...stage} /></div>
        {:else if insp.drawing.as === 'spectra'}
          <div class="two"><Stage {...stage} /></div>
          <Spectra {insp} night={shell.night} />
        {:else}
          <Stage {...stage} />
        {/if}
        {#if insp.drawing.table !== 'no table'}<ValuesTable {insp} />{/if}
        <WindowBar {insp} write={desk.writeHere} series={insp.series !== null} onseries={toggleSeries} />
      </section>
      <aside class="card">
        <div class="tabs" role="tablist">
          <button role="tab" aria-selected={tab === 'readings'} onclick={() => (tab = 'readings')}
            >Readings</button
          >
          <button role="tab" aria-selected={tab === 'about'} onclick={() => (tab = 'about')}
            >About {insp.main.head.name}</button
          >
        </div>
        {#if tab === 'readings'}
          <Readings
            {insp}
            channel={desk.channel}
            choose={desk.choose}
            toggle={desk.toggle}
            draggable={drag ? draggable : () => () => undefined}
            mend={(signal) => desk.mend(signal)}
            make={(signal) => desk.make(signal)}
            onreadings={(reading) => (desk.reading = reading)}
          />
        {:else}
          <About
            take={insp.main}
            written={writtenHere}
            place={(atS) => insp.place(insp.chosen, atS - desk.zero)}
            judge={() => (desk.dialog = 'judge')}
            edit={(note) => desk.write(0, null, note)}
            undoMend={(id) => void desk.undoMend(id)}
            takeOut={(signal) => void desk.takeOut(signal)}
          />
        {/if}
      </aside>
      {#if insp.series !== null}
        <div class="below">
          <SeriesPane {insp} {list} onout={(out) => (desk.out = out)} lay={desk.lay} changes={desk.changes} />
        </div>
      {/if}
    {:else}
      <Empty
        says={overview.takes.length
          ? 'Choose a take.'
          : 'Nothing is recorded yet. Arm a take; it is here the second it ends.'}
        ><Button href={resolve('/record')}>To the plan</Button>
        <Button color="alternative" onclick={() => (desk.dialog = 'bring')}>Bring in a recording</Button
        ></Empty
      >
    {/if}
  </div>
  {#if over}<div class="here" aria-hidden="true">
      <strong>Drop them here</strong> to bring them in as takes
    </div>{/if}
</div>
{#if axis}<AxisEditor {insp} channel={axis.channel} anchor={axis.anchor} close={() => (axis = null)} />{/if}
<Dialogs {desk} />

<style>
  .inspect {
    gap: var(--space-2);
    position: relative;
  }
  .columns {
    display: grid;
    grid-template-columns: 224px minmax(0, 1fr) 292px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .serial {
    grid-template-rows: minmax(0, 1fr) auto;
  }
  .left {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    min-height: 0;
    min-width: 0;
  }
  .serial .left {
    grid-row: 1 / 3;
  }
  .left > :global(.drawer) {
    flex: 1;
  }
  .below {
    grid-column: 2 / 4;
    min-width: 0;
    max-height: 236px;
    display: flex;
  }
  .drawings {
    min-height: 0;
    min-width: 0;
    display: flex;
    flex-direction: column;
    padding: var(--space-1) 0;
  }
  .beneath {
    flex: 0 0 38%;
    min-height: 0;
    display: flex;
  }
  .two {
    flex: 1 1 45%;
    min-height: 0;
    display: flex;
  }
  aside {
    display: flex;
    flex-direction: column;
    min-height: 0;
    min-width: 0;
  }
  .tabs {
    display: flex;
    border-bottom: 1px solid var(--hair);
  }
  .tabs button {
    padding: var(--space-1) var(--space-3);
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    min-height: 30px;
    color: var(--muted);
  }
  .tabs button:first-child {
    flex-shrink: 0;
  }
  .tabs button[aria-selected='true'] {
    color: var(--plum);
    font-weight: 650;
    box-shadow: inset 0 -2px var(--plum);
  }
  .legend {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-3);
    margin: 0;
    padding: 0 var(--space-3);
    font-size: var(--type-small);
  }
  .legend span {
    display: inline-flex;
    gap: var(--space-1);
    align-items: center;
  }
  .legend i {
    width: 14px;
    height: 3px;
  }
  .here {
    position: absolute;
    inset: var(--space-2);
    display: grid;
    place-content: center;
    border: 2px dashed var(--plum);
    border-radius: var(--radius);
    background: color-mix(in srgb, var(--card) 88%, transparent);
    z-index: 40;
    pointer-events: none;
    text-align: center;
  }
  @media (max-width: 1100px) {
    .columns {
      grid-template-columns: 196px minmax(0, 1fr) 240px;
    }
  }
  @media (min-width: 1700px) {
    .columns {
      grid-template-columns: 280px minmax(0, 1fr) 360px;
    }
  }
</style>
