<!-- Calibration by points: set the reference, measure until steady, look at the points against the line, accept. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { uncertaintyAt } from '$core/uncertainty/budget';
  import { channelKind, commonOf, type Calibration, type Channel } from '$contract/channel';
  import {
    budgetSentence,
    commonContributions,
    evenlySpaced,
    fitAxis,
    pointContributions,
    pointsSentence,
  } from '$contract/calibration';
  import type { Method } from '$contract/calibration-record';
  import { Button } from 'flowbite-svelte';
  import { tinykeys } from 'tinykeys';
  import FaultNote from '../kit/FaultNote.svelte';
  import Verdict from '../kit/Verdict.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText, namesOf } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import BenchHead from './BenchHead.svelte';
  import BudgetBars from './BudgetBars.svelte';
  import FarView from './FarView.svelte';
  import HandBox from './HandBox.svelte';
  import PointsPlot from './PointsPlot.svelte';
  import PointsResult from './PointsResult.svelte';
  import PointsTable from './PointsTable.svelte';
  import { PointsRunState } from './points-run.svelte';
  import type { ReferenceChoice } from './references';
  import ToleranceStrip from './ToleranceStrip.svelte';
  import Trend from './Trend.svelte';

  type Props = {
    /** Calibrated together; the one of the page first. */
    channels: Channel[];
    all: Channel[];
    history: Calibration[];
    present: { slope: number; offset: number };
    ways: Method[];
    references: ReferenceChoice[];
    draft: unknown;
  };
  let { channels, all, history, present, ways, references, draft }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  // The bench is made anew for each set of channels, so its first values are taken once.
  // svelte-ignore state_referenced_locally
  const bench = new PointsRunState(channels, draft);
  let shownId = $state('');
  let far = $state(false);
  let table: PointsTable | undefined = $state();

  const channel = $derived(channels.find((c) => c.id === shownId) ?? channels[0]);
  const kind = $derived(channelKind(channel.kind));
  const { unit } = $derived(commonOf(channel));
  const axisUnit = $derived(kind.linear ? kind.rawUnit : unit);
  const found = $derived(bench.fitOf(channel));
  const off = $derived(bench.distances(channel, found.fit));
  const counted = $derived(bench.pointsOf(channel).filter((p) => !p.dropped));
  const decimals = $derived(Math.max(0, Math.ceil(-Math.log10(bench.run.good)) + 1));
  const reference = $derived(references.find((r) => r.serial === bench.budget.reference) ?? null);
  const budget = $derived(
    found.fit
      ? [
          ...pointContributions(found.fit, counted),
          ...commonContributions(
            bench.budget,
            reference && {
              serial: reference.serial,
              name: reference.name,
              absolute: reference.goodTo,
              relative: reference.goodToShare / 100,
              due: reference.due,
            },
          ),
        ]
      : [],
  );
  const end = $derived.by(() => {
    const { min, max } = commonOf(channel).range;
    return Math.max(Math.abs(min), Math.abs(max));
  });
  const worst = $derived.by(() => {
    const i = off.findIndex((d) => Math.abs(d) === found.fit?.largestResidual);
    if (i < 0) return null;
    const { target, going } = bench.planned[i];
    return `${target} ${unit}${bench.run.going === 'up' ? '' : `, going ${going},`}`;
  });
  const ready = $derived(
    bench.measuring === null && !bench.accepted && channels.every((c) => bench.fitOf(c).fit !== null),
  );
  const planned = $derived(bench.next >= 0 ? bench.planned[bench.next] : null);

  /** As many values as asked for, from one end of the range to the other. */
  function spread(count: number) {
    const { min, max } = commonOf(channels[0]).range;
    if (Number.isInteger(count) && count >= 2 && count <= 50)
      void bench.change('targets', evenlySpaced(min, max, count));
  }
  async function accept() {
    await bench.accept();
    if (bench.accepted) await shell.refresh();
  }

  onMount(() => {
    const look = feed.watch(channels.map((c) => c.id));
    const stop = bench.watch();
    const free = (act: () => void) => (event: KeyboardEvent) => {
      if ((event.target as HTMLElement).closest('input, button, select, a, [role=dialog]:not(.far)')) return;
      event.preventDefault();
      act();
    };
    const step = (by: number) => () =>
      (bench.selected = Math.min(bench.taken.length - 1, Math.max(0, bench.selected + by)));
    const keys = tinykeys(window, {
      Space: free(() => (bench.measuring === null ? bench.begin(bench.next) : bench.stop())),
      ArrowDown: free(step(1)),
      ArrowUp: free(step(-1)),
      m: free(() => bench.begin(bench.selected)),
      x: free(() => table?.dropOrKeep(bench.selected)),
      l: free(() => (far = !far)),
      Escape: () => (far = false),
      Enter: free(() => ready && void accept()),
    });
    return () => {
      look();
      stop();
      keys();
    };
  });
</script>

<div class="page">
  <BenchHead
    {channel}
    way="points"
    {ways}
    says="{channel.wire?.terminal.replace('/', ' terminal ')} · {history.length
      ? `last done ${new Date(history[0].at).toLocaleDateString('en-GB', { dateStyle: 'medium' })}`
      : 'never done before'}"
  >
    <Button size="sm" color="alternative" onclick={() => (far = true)}>Large type <kbd>L</kbd></Button>
    <Button size="sm" disabled={!ready} onclick={() => void accept()}>Accept <kbd>Enter</kbd></Button>
  </BenchHead>
  {#if channels.length > 1}
    <div class="together" role="group" aria-label="Channels of this run">
      {#each channels as c (c.id)}<button class:here={c.id === channel.id} onclick={() => (shownId = c.id)}
          >{c.name}{bench.fitOf(c).fit && bench.fitOf(c).fit!.largestResidual > bench.run.good
            ? ' ▲'
            : ''}</button
        >{/each}
    </div>
  {/if}
  <SentenceView
    sentence={pointsSentence}
    value={bench.run}
    names={namesOf(all)}
    change={bench.change}
    size="large"
  />
  <div class="small">
    <SentenceView
      sentence={budgetSentence}
      value={bench.budget}
      names={namesOf(all)}
      change={bench.changeBudget}
      options={{ references: references.map((r) => r.serial) }}
    />
  </div>
  {#if bench.fault}<FaultNote fault={bench.fault} onclose={() => (bench.fault = null)} />{/if}
  <div class="columns">
    <section class="card points">
      <div class="row">
        <h2>Points</h2>
        <label class="even muted"
          ><input
            type="number"
            min="2"
            max="50"
            aria-label="How many values"
            value={bench.run.targets.length}
            onchange={(e) => spread(Number(e.currentTarget.value))}
          /> evenly spaced</label
        >
        <span class="muted" data-testid="done"
          >{bench.taken.filter(Boolean).length} of {bench.taken.length}</span
        >
      </div>
      <PointsTable bind:this={table} {bench} {channel} {axisUnit} {off} {decimals} />
      {#if bench.measuring !== null}
        {@const now = bench.planned[bench.measuring]}
        <Button size="sm" color="alternative" class="mt-2 w-full" onclick={bench.stop}
          >Stop measuring {now.target} {unit}</Button
        >
        <p class="muted" role="status">
          Hold it at <strong>{now.target} {unit}</strong>: {bench.says}.
        </p>
      {:else if planned}
        <Button size="sm" class="mt-2 w-full" onclick={() => bench.begin(bench.next)}
          >Measure {planned.target} {unit} <kbd>Space</kbd></Button
        >
        <p class="muted">
          {bench.run.against ? 'Bring both to about' : 'Set the reference to'}
          <strong>{planned.target} {unit}</strong>{bench.run.going === 'up'
            ? ''
            : `, going ${planned.going}`}, then hold it still.
        </p>
      {:else if bench.accepted}
        <Verdict good>Accepted: in force from now on. Undo takes it back.</Verdict>
      {:else}
        <p class="muted">
          All points are measured. Measure one again, accept, or
          <button class="dotted" onclick={() => bench.clear()}>begin anew</button>.
        </p>
      {/if}
      <HandBox {channels} />
    </section>
    <div class="plots">
      <section class="card">
        <h2>Points and line, {unit} over {axisUnit}</h2>
        <PointsPlot
          x={counted.map((p) => fitAxis(channel, p.raw))}
          y={counted.map((p) => p.target)}
          law={found.fit?.law ?? null}
          night={shell.night}
        />
      </section>
      <section class="card">
        <h2>Off by, {unit}: reading less reference</h2>
        <PointsPlot
          x={counted.map((p) => p.target)}
          y={found.fit ? Array.from(found.fit.residuals, (r) => -r) : []}
          band={bench.run.good}
          law={null}
          night={shell.night}
        />
      </section>
      <section class="card">
        <div class="row">
          <h2>Now</h2>
          <span class="muted mono">{liveText(channel, feed.value(channel.id))} {unit} · {bench.says}</span>
        </div>
        <ToleranceStrip {channel} {feed} tolerance={bench.run.tolerance} />
      </section>
    </div>
    <div class="side">
      <section class="card">
        <PointsResult
          fit={found.fit}
          fault={found.fault}
          good={bench.run.good}
          {unit}
          {axisUnit}
          expanded={budget.length ? uncertaintyAt(budget, end).expanded : null}
          present={kind.linear ? present : null}
          {worst}
          curved={bench.curved && kind.linear}
          oncurve={() => void bench.change('form', 'parabola')}
        />
      </section>
      {#if budget.length && found.fit && found.fit.dof > 0}
        <section class="card"><BudgetBars {budget} at={end} {unit} /></section>
      {/if}
      <section class="card">
        <h2>Slope over the years</h2>
        <Trend {history} at={end} now={found.fit} />
      </section>
    </div>
  </div>
</div>
{#if far}<FarView
    state={bench}
    reading={liveText(bench.main, feed.value(bench.main.id))}
    onclose={() => (far = false)}
  />{/if}

<style>
  .small :global(p) {
    font-size: var(--type-small);
    line-height: 1.6;
  }
  .small {
    margin-top: calc(-1 * var(--space-1));
    color: var(--muted);
  }
  .together {
    display: flex;
    gap: var(--space-1);
    flex-wrap: wrap;
  }
  .together button {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 1px var(--space-2);
    font-size: var(--type-small);
  }
  .together .here {
    border-color: var(--plum);
    color: var(--plum);
    font-weight: 600;
  }
  .columns {
    display: grid;
    grid-template-columns: 318px minmax(0, 1fr) 290px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  section {
    padding: var(--space-3);
  }
  .points {
    overflow: auto;
  }
  .points p {
    margin: var(--space-2) 0 0;
  }
  .plots {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: minmax(0, 1.2fr) minmax(0, 1fr) minmax(0, 0.85fr);
    gap: var(--space-3);
    min-height: 0;
  }
  .plots section {
    display: flex;
    flex-direction: column;
    min-height: 0;
    padding-bottom: var(--space-1);
  }
  .side {
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
    overflow: auto;
  }
  .row {
    display: flex;
    justify-content: space-between;
    gap: var(--space-2);
    white-space: nowrap;
    overflow: hidden;
  }
  .row .muted {
    font-size: var(--type-small);
  }
  .even {
    font-size: var(--type-small);
  }
  .even input {
    width: 46px;
    padding: 0 var(--space-1);
    font-size: var(--type-small);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
</style>
