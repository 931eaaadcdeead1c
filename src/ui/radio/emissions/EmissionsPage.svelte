<!-- Emissions before the laboratory: ranges over a logarithmic axis against limits, suspects as pins and as a list, measured one by one or all. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { resolve } from '$app/paths';
  import { highestOf } from '$core/emissions/picture';
  import { secondsText } from '$core/radio/words';
  import { fixed } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { EMISSIONS, RANGE, type EmissionRun, type EmissionView } from '$contract/radio-emissions';
  import type { Correction, LimitSet } from '$contract/radio-kept';
  import { addressOf } from '$contract/api/address';
  import { traceColour } from '$contract/palette';
  import Empty from '../../kit/Empty.svelte';
  import SentenceView from '../../sentence/SentenceView.svelte';
  import { useShell } from '../../shell/shell.svelte';
  import Places from '../Places.svelte';
  import { watchReceivers } from '../receivers';
  import { EmissionDesk } from './emission-desk.svelte';
  import EmissionPicture from './EmissionPicture.svelte';
  import Kept from './Kept.svelte';
  import Looks from './Looks.svelte';
  import Suspects from './Suspects.svelte';

  type Props = { views: EmissionView[]; runs: EmissionRun[]; limits: LimitSet[]; corrections: Correction[] };
  let props: Props = $props();
  const shell = useShell();
  const desk = new EmissionDesk(shell);
  $effect.pre(() => {
    desk.all = props.views;
    desk.runs = props.runs;
    desk.limits = props.limits;
    desk.corrections = props.corrections;
    untrack(() => void desk.fetch());
  });
  $effect(() => untrack(() => shell.feed.watchBench('emissions', () => void desk.look())));
  const receivers = watchReceivers(shell);
  $effect(() => receivers(() => void desk.look()));

  const view = $derived(desk.view);
  const run = $derived(desk.run);
  const running = $derived(view?.running ?? null);
  const options = $derived({
    limits: desk.limits.map((l) => l.name),
    corrections: desk.corrections.map((c) => c.name),
  });
  const change = (key: string, value: unknown) => desk.change({ [key]: value });
  let keptOpen = $state(false);
  let looksAt = $state<HTMLElement | null>(null);
  let highest = $state(false);

  const settings = $derived(run?.settings ?? view?.settings);
  const drawn = $derived.by(() => {
    if (!settings) return null;
    const own = (run && desk.lines.get(run.id)) ?? [];
    const behind = desk.behind
      .filter((id) => id !== run?.id)
      .flatMap((id) => {
        const lines = desk.lines.get(id);
        const of = desk.runs.find((r) => r.id === id);
        return lines && of ? [{ lines, name: `look ${of.number}` }] : [];
      });
    const looks =
      highest && behind.length
        ? [{ lines: highestOf([own, ...behind.map((b) => b.lines)]), name: 'the highest' }]
        : [{ lines: own, name: 'this' }, ...behind];
    return {
      fromHz: Math.min(...settings.ranges.map((r) => r.from)) * 1e6,
      toHz: Math.max(...settings.ranges.map((r) => r.to)) * 1e6,
      edges: settings.ranges.flatMap((r) => [r.from * 1e6, r.to * 1e6]),
      looks,
      limits: (run ? run.limits : desk.limits.find((l) => l.name === view?.settings.limits))?.lines ?? [],
      suspects: run?.suspects ?? [],
      chosen: desk.chosen,
    };
  });
  const over = $derived(run?.suspects.filter((s) => s.room < 0 && !s.ambient).length ?? 0);
  const known = $derived(Math.max(...(run?.expanded ?? []).filter(Number.isFinite)));
  const units = $derived([...new Set(run?.unit ?? [])].join(', '));
  const says = $derived.by(() => {
    if (running) {
      const left = Number.isFinite(running.leftS) ? `, some ${secondsText(Math.max(1, Math.round(running.leftS)))} to go` : ''; // prettier-ignore
      const what = running.what === 'look' ? (running.ambient ? 'looking without the device' : 'looking') : `measuring suspect ${running.suspect}`; // prettier-ignore
      return `${what}, ${Math.round(100 * running.share)} %${left}`;
    }
    if (!run) return view ? `a look takes ${secondsText(Math.max(1, Math.ceil(view.takesS)))} or more` : '';
    return `${run.settings.ranges.length} ranges · look ${run.number}${run.ambient ? ', without the device' : ''}${run.partly ? ', ended before its end' : ''}, ${new Date(run.atMs).toTimeString().slice(0, 5)} · ${secondsText(Math.max(1, Math.round(run.tookS)))}`; // prettier-ignore
  });
  /** What was set up since the look that is shown. */
  const older = $derived(
    run && view && !running && JSON.stringify([run.settings, run.limits?.name ?? null]) !== JSON.stringify([view.settings, view.settings.limits]), // prettier-ignore
  );
  const file = (kind: 'csv' | 'pdf') =>
    run ? addressOf(`GET /api/radio/emissions/runs/[id]/${kind}`, { params: { id: run.id } }) : undefined;

  function keys(e: KeyboardEvent) {
    if ((e.target as HTMLElement).closest('input, textarea, select, [role=dialog], [role=radiogroup]') || e.ctrlKey || e.metaKey || e.altKey) return; // prettier-ignore
    const acts: Record<string, () => void> = {
      ArrowRight: () => desk.next(1),
      ArrowLeft: () => desk.next(-1),
      m: () => !running && run?.suspects.length && void desk.measure([]),
    };
    const act = acts[e.key];
    if (!act) return;
    e.preventDefault();
    act();
  }
</script>

<svelte:window onkeydown={keys} />
<div class="page" style:--mark-average={traceColour(3, shell.night)}>
  <div class="page-head">
    <h1>
      Emissions of
      {#if view}
        <SentenceView
          sentence={{ ...EMISSIONS, template: () => '{device}' }}
          value={view.settings}
          names={NO_NAMES}
          {change}
        />
      {:else}a device{/if}
    </h1>
    {#if desk.all.length > 1}
      <select class="plain" aria-label="Receiver" bind:value={desk.unit}>
        {#each desk.all as v (v.unit)}<option value={v.unit}>{v.name}</option>{/each}
      </select>
    {/if}
    <span class="aside" role="status">{says}</span>
    <div class="actions">
      <Places />
      <Button size="sm" color="alternative" onclick={() => (keptOpen = true)}>Tables</Button>
      <Button
        size="sm"
        color="alternative"
        disabled={desk.runs.length === 0}
        onclick={(e: MouseEvent) => (looksAt = looksAt ? null : (e.currentTarget as HTMLElement))}
        >Looks laid over</Button
      >
      <Button size="sm" color="alternative" href={file('csv')} download disabled={!run || run.partly}
        >CSV</Button
      >
      <Button size="sm" color="alternative" href={file('pdf')} download disabled={!run || !!running}
        >Report</Button
      >
    </div>
  </div>
  {#if !view}
    <Empty says="No receiver is there yet: add one to the rig, and emissions are looked for with it.">
      <Button href={resolve('/rig')}>Open the rig</Button>
    </Empty>
  {:else}
    <SentenceView
      sentence={EMISSIONS}
      value={view.settings}
      names={NO_NAMES}
      {options}
      size="large"
      {change}
    />
    {#if view.fault}<p class="ochre" role="alert">{view.fault}</p>{/if}
    {#if view.says}<p class="red" role="alert">{view.says}</p>{/if}
    <section class="card picture" aria-label="The look">
      <header>
        <b class="plum">range {desk.range + 1}</b>
        <SentenceView
          sentence={RANGE}
          value={view.settings.ranges[desk.range] ?? view.settings.ranges[0]}
          names={NO_NAMES}
          {options}
          size="small"
          change={(key, value) => desk.changeRange({ [key]: value })}
        />
        <span class="right">
          {#if run?.overloaded.length}<b class="red"
              >overloaded in range {run.overloaded.map((k) => k + 1).join(', ')}</b
            >{/if}
          {#if older}<span class="ochre">the look was made otherwise</span>{/if}
          <button type="button" class="quiet" onclick={() => void desk.splitRange()}>split the range</button>
          <button
            type="button"
            class="quiet"
            disabled={view.settings.ranges.length < 2}
            onclick={() => void desk.dropRange()}>take it away</button
          >
          <span class="muted">{units || 'dBµV'}</span>
        </span>
      </header>
      {#if drawn && settings}
        <EmissionPicture
          {drawn}
          ranges={settings.ranges}
          range={desk.range}
          night={shell.night}
          chooseRange={(k) => (desk.range = k)}
          choose={(id) => (desk.chosen = id)}
        />
      {/if}
    </section>
    <section class="card list" aria-label="Suspects">
      {#if run?.suspects.length}
        <Suspects
          {run}
          chosen={desk.chosen}
          measuring={running?.what === 'measure' ? running.suspect : null}
          busy={running !== null}
          choose={(id) => (desk.chosen = id)}
          measure={(ids) => void desk.measure(ids)}
          note={(id, c) => void desk.note(id, c)}
        />
      {:else}
        <p class="muted empty">
          {#if running}Suspects are found when the look is done.
          {:else if !run}Nothing was looked at yet. Look without the device first: what is in the air is then
            told apart.
          {:else if !run.limits}No limits were chosen: without them nothing is suspect.
          {:else}Nothing comes within {fixed(run.settings.margin, 1)} dB of the limits.{/if}
        </p>
      {/if}
    </section>
    <footer>
      <span class="muted"
        >This is a look before the laboratory, not its verdict{Number.isFinite(known)
          ? `: ± ${fixed(known, 1)} dB`
          : ''}{over ? `; ${over} over the limit` : ''}.</span
      >
      <div class="acts">
        {#if running}
          <Button size="sm" color="alternative" onclick={() => void desk.stop()}>Stop</Button>
        {:else}
          <Button size="sm" color="alternative" disabled={!run?.suspects.length} onclick={() => desk.next(1)}
            >Next suspect <kbd>→</kbd></Button
          >
          <Button
            size="sm"
            color="alternative"
            disabled={!run?.suspects.length}
            onclick={() => void desk.measure([])}>Measure all suspects <kbd>M</kbd></Button
          >
          <Button size="sm" color="alternative" disabled={!!view.fault} onclick={() => void desk.begin(true)}
            >Look without the device</Button
          >
          <Button size="sm" disabled={!!view.fault} onclick={() => void desk.begin(false)}
            >{run ? 'Look again' : 'Look'}</Button
          >
        {/if}
      </div>
    </footer>
  {/if}
</div>
<Kept
  bind:open={keptOpen}
  corrections={desk.corrections}
  limits={desk.limits}
  changed={(kept) => {
    Object.assign(desk, kept);
    void desk.look();
  }}
/>
{#if looksAt}<Looks {desk} anchor={looksAt} bind:highest close={() => (looksAt = null)} />{/if}

<style>
  h1 {
    white-space: nowrap;
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .picture {
    display: flex;
    flex-direction: column;
    flex: 5;
    min-height: 180px;
    padding: var(--space-2) 0;
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    padding-inline: var(--space-4);
    font-size: var(--type-small);
  }
  .plum {
    color: var(--plum);
    white-space: nowrap;
  }
  .right {
    margin-left: auto;
    display: flex;
    gap: var(--space-3);
    white-space: nowrap;
  }
  .quiet {
    color: var(--muted);
  }
  .quiet:hover {
    color: var(--plum);
  }
  .list {
    flex: 4;
    min-height: 96px;
    overflow: auto;
    scrollbar-width: thin;
    padding: 0 var(--space-3);
  }
  .empty {
    display: grid;
    place-content: center;
    height: 100%;
  }
  .ochre {
    color: var(--ochre);
  }
  .red {
    color: var(--red);
  }
  footer {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: var(--space-4);
    border-top: 1px solid var(--line);
    padding-top: var(--space-3);
  }
  .acts {
    display: flex;
    gap: var(--space-2);
    flex-shrink: 0;
  }
</style>
