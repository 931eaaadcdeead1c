<!-- By comparison with a calibrated channel over a varying signal: regression, with coherence as the check that both feel the same. -->
<script lang="ts">
  import type { Comparison } from '$contract/comparison';
  import { onMount } from 'svelte';
  import { fixed, readingText } from '$core/readings';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { quantityOf } from '$core/quantities/quantities';
  import { budgetSentence, usualBudget } from '$contract/calibration';
  import type { Method } from '$contract/calibration-record';
  import { channelKind, commonOf, roleOf, type Calibration, type Channel } from '$contract/channel';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import Facts from '../kit/Facts.svelte';
  import Verdict from '../kit/Verdict.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';
  import BenchHead from './BenchHead.svelte';
  import HandBox from './HandBox.svelte';
  import PointsPlot from './PointsPlot.svelte';

  type Props = { channel: Channel; all: Channel[]; history: Calibration[]; ways: Method[] };
  let { channel, all, history, ways }: Props = $props();
  const shell = useShell();

  const { unit } = $derived(commonOf(channel));
  const kind = $derived(channelKind(channel.kind));
  const axisUnit = $derived(kind.linear ? kind.rawUnit : unit);
  const candidates = $derived(
    all.filter(
      (c) =>
        c.id !== channel.id && roleOf(c) !== 'driven' && quantityOf(commonOf(c).unit) === quantityOf(unit),
    ),
  );
  let referenceId = $state('');
  let seconds = $state(20);
  let since = $state(Date.now());
  let now = $state(Date.now());
  // svelte-ignore state_referenced_locally
  let budget = $state(usualBudget(commonOf(channel).unit));
  let found = $state.raw<(Comparison & { id: string }) | null>(null);
  let fault = $state<FaultText | null>(null);
  let accepted = $state(false);
  const chosen = $derived(referenceId || candidates[0]?.id || '');
  const waited = $derived(Math.min(seconds, (now - since) / 1000));
  const thinned = $derived.by(() => {
    if (!found) return { x: [], y: [] };
    const every = Math.ceil(found.x.length / 200);
    return { x: found.x.filter((_, i) => i % every === 0), y: found.y.filter((_, i) => i % every === 0) };
  });

  onMount(() => {
    const timer = setInterval(() => (now = Date.now()), 250);
    return () => clearInterval(timer);
  });
  let busy = $state(false);
  async function compare(accept: boolean) {
    if (busy) return;
    busy = true;
    try {
      if (accept) await call('POST /api/calibrate/comparison/accept', { body: { id: found!.id, budget } });
      else
        found = await call('POST /api/calibrate/comparison', {
          body: { channelId: channel.id, referenceId: chosen, seconds },
        });
      fault = null;
      accepted = accept;
      if (accept) await shell.refresh();
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
</script>

<div class="page">
  <BenchHead {channel} way="comparison" {ways} says={history.length ? '' : 'not calibrated here yet'}>
    <Button size="sm" disabled={!found || accepted} onclick={() => void compare(true)}>Accept</Button>
  </BenchHead>
  {#if candidates.length === 0}
    <p class="sentence">
      No other channel of this job measures the same as {channel.name}: there is nothing to compare with.
    </p>
  {:else}
    <p class="sentence">
      Vary the signal, then compare the last <select aria-label="Time" bind:value={seconds}
        >{#each [10, 20, 30, 60] as s (s)}<option value={s}>{s} s</option>{/each}</select
      >
      against
      <select
        aria-label="Reference channel"
        value={chosen}
        onchange={(e) => (referenceId = e.currentTarget.value)}
        >{#each candidates as c (c.id)}<option value={c.id}>{c.name}</option>{/each}</select
      >. Means of 50 ms are compared.
    </p>
    <div class="small">
      <SentenceView
        sentence={budgetSentence}
        value={budget}
        names={NO_NAMES}
        change={(key, value) => Promise.resolve(void (budget = { ...budget, [key]: value }))}
      />
    </div>
    {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
    <div class="columns">
      <section class="card">
        <h2>Compare</h2>
        <p class="muted">
          {waited < seconds
            ? `Keep it moving: ${Math.ceil(seconds - waited)} s still.`
            : `The last ${seconds} s are there.`}
        </p>
        <Button size="sm" class="w-full" disabled={waited < 10} onclick={() => void compare(false)}
          >Compare now</Button
        >
        <button class="dotted again" onclick={() => (since = Date.now())}>count anew</button>
        {#if found}
          <Facts
            facts={[
              {
                label: 'Slope',
                value: readingText(found.slope, { digits: 5 }),
                unit: `${unit}/${axisUnit}`,
                id: 'slope',
              },
              { label: 'Offset', value: readingText(found.offset, { digits: 4 }), unit },
              { label: 'Scatter', value: readingText(found.residualStd, { digits: 2 }), unit },
              { label: 'Coherence', value: fixed(found.coherence, 4) },
              { label: 'Range covered', value: fixed(100 * found.covered, 0), unit: '%' },
              { label: 'As found', value: readingText(found.asFound, { digits: 2 }), unit: `${unit} off` },
            ]}
          />
          {#each found.warnings as w (w)}<Verdict>{w}</Verdict>{/each}
          {#if accepted}<Verdict good>Accepted: in force from now on.</Verdict>{/if}
        {/if}
        <HandBox channels={[channel]} />
      </section>
      <section class="card plot">
        <h2>Reference over channel, {unit} over {axisUnit}</h2>
        <PointsPlot
          x={thinned.x}
          y={thinned.y}
          law={found ? { kind: 'linear', slope: found.slope, offset: found.offset } : null}
          night={shell.night}
        />
      </section>
    </div>
  {/if}
</div>

<style>
  .sentence {
    font-size: var(--type-reading);
    margin: 0;
  }
  .sentence select {
    border: 0;
    border-bottom: 2px dotted var(--plum);
    background-color: transparent;
    color: var(--plum);
    font-weight: 600;
    font-size: var(--type-reading);
    padding: 0 var(--space-8) 0 var(--space-1);
  }
  .small :global(p) {
    font-size: var(--type-small);
    line-height: 1.6;
  }
  .small {
    margin-top: calc(-1 * var(--space-1));
    color: var(--muted);
  }
  .columns {
    display: grid;
    grid-template-columns: 320px minmax(0, 1fr);
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  section {
    padding: var(--space-3);
    overflow: auto;
  }
  .plot {
    display: flex;
    flex-direction: column;
  }
  .again {
    font-size: var(--type-small);
    margin-top: var(--space-1);
  }
</style>
