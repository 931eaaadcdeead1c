<!-- All calibrations of a channel: what each found, its certificate, the trend over the years; and the takes that hang on it. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { dayText, readingText } from '$core/readings';
  import { uncertaintyAt, type Contribution } from '$core/uncertainty/budget';
  import type { Method } from '$contract/calibration-record';
  import { commonOf, type Calibration, type Channel } from '$contract/channel';
  import type { Proof } from '$contract/proof';
  import BenchHead from './BenchHead.svelte';
  import BudgetBars from './BudgetBars.svelte';
  import CorrectTakes from './CorrectTakes.svelte';
  import Trend from './Trend.svelte';
  import { VERDICT_SIGN } from './verdicts';

  type Props = {
    channel: Channel;
    history: Calibration[];
    /** Ids of those that were taken back. */
    undone: string[];
    proof: Proof;
    budget: Contribution[] | null;
    ways: Method[];
  };
  let { channel, history, undone, proof, budget, ways }: Props = $props();

  const { unit } = $derived(commonOf(channel));
  const end = $derived.by(() => {
    const { min, max } = commonOf(channel).range;
    return Math.max(Math.abs(min), Math.abs(max));
  });
  const expanded = (c: Calibration) => (c.budget.length ? uncertaintyAt(c.budget, end).expanded : null);
</script>

<div class="page">
  <BenchHead
    {channel}
    way="history"
    {ways}
    says="{VERDICT_SIGN[proof.verdict]} {proof.verdict}. {proof.why} {proof.next}"
  >
    <a class="dotted" href={resolve(`/api/calibrate/history/${channel.id}?as=csv`)} download>CSV</a>
    <a class="dotted" href={resolve(`/api/calibrate/history/${channel.id}?as=json`)} download>JSON</a>
  </BenchHead>
  <div class="columns">
    <section class="card list">
      <h2>Calibrations and checks</h2>
      {#if history.length === 0}<p class="muted">None yet.</p>
      {:else}
        <table class="plain">
          <thead
            ><tr
              ><th>Date</th><th>Method</th><th>By</th><th class="num">Slope</th><th class="num">As found</th
              ><th class="num">As left</th><th class="num">± 95 %</th><th>Reference</th><th></th></tr
            ></thead
          >
          <tbody>
            {#each history as c (c.id)}
              <tr class:inforce={c.id === channel.calibration?.id} class:undone={undone.includes(c.id)}>
                <td class="mono">{dayText(new Date(c.at).toISOString().slice(0, 10))}</td>
                <td
                  >{c.method}{c.finding === 'right' ? '' : `: ${c.finding}`}{c.id === channel.calibration?.id
                    ? ' · in force'
                    : undone.includes(c.id)
                      ? ' · undone'
                      : ''}</td
                >
                <td>{c.by}</td>
                <td class="num">{readingText(c.slope, { digits: 5 })}</td>
                <td class="num">{c.asFound === null ? '' : readingText(c.asFound, { digits: 2 })}</td>
                <td class="num">{c.points.length > 2 ? readingText(c.largestResidual, { digits: 2 }) : ''}</td
                >
                <td class="num">{expanded(c) === null ? '' : readingText(expanded(c)!, { digits: 2 })}</td>
                <td>{c.reference?.serial ?? ''}</td>
                <td
                  ><a class="dotted" href={resolve(`/api/calibrate/certificate/${c.id}`)} download
                    >certificate</a
                  ></td
                >
              </tr>
            {/each}
          </tbody>
        </table>
        <p class="muted">
          Slopes in {history[0].unit}/{history[0].rawUnit}; deviations and ± in {unit}, ± at {readingText(
            end,
          )}
          {unit}.
        </p>
      {/if}
    </section>
    <section class="card">
      <h2>Slope over the years</h2>
      <Trend {history} at={end} height={130} />
    </section>
    <section class="card"><CorrectTakes {channel} /></section>
    <section class="card">
      {#if budget?.length}<BudgetBars {budget} at={end} {unit} />
      {:else}<h2>What makes up the ±</h2>
        <p class="muted">Nothing says how good it is yet.</p>{/if}
    </section>
  </div>
</div>

<style>
  .undone td {
    color: var(--muted);
    text-decoration: line-through;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 310px;
    gap: var(--space-3);
    align-items: start;
  }
  section {
    padding: var(--space-3) var(--space-4);
  }
  td.mono,
  td.num {
    white-space: nowrap;
    font-size: var(--type-small);
  }
  tr.inforce td {
    background: var(--tint);
  }
  p {
    margin: var(--space-2) 0 0;
    font-size: var(--type-small);
  }
</style>
