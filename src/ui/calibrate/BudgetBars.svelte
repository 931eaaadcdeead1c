<!-- What makes up the ±: each line of the budget at a reading, as bar and number; the whole table on request. -->
<script lang="ts">
  import { readingText } from '$core/readings';
  import { standardUncertainty, uncertaintyAt, type Contribution } from '$core/uncertainty/budget';

  type Props = { budget: Contribution[]; at: number; unit: string };
  let { budget, at, unit }: Props = $props();
  let table = $state(false);

  const parts = $derived(
    budget.map((part) => ({ part, u: standardUncertainty(part, at) })).sort((a, b) => b.u - a.u),
  );
  const most = $derived(Math.max(...parts.map((p) => p.u), 1e-300));
  const total = $derived(uncertaintyAt(budget, at));
</script>

<div class="row">
  <h2>What makes up the ±</h2>
  <button class="dotted" onclick={() => (table = !table)} aria-expanded={table}
    >{table ? 'bars' : 'table'}</button
  >
</div>
{#if table}
  <table class="plain" data-testid="budget">
    <thead
      ><tr
        ><th>At {readingText(at, { digits: 4 })} {unit}</th><th>Type</th><th class="num">u</th><th class="num"
          >ν</th
        ></tr
      ></thead
    >
    <tbody>
      {#each parts as { part, u } (part.name)}
        <tr>
          <td>{part.name}<span class="muted"> {part.distribution}</span></td>
          <td>{part.type}</td>
          <td class="num">{readingText(u, { digits: 2 })}</td>
          <td class="num">{part.dof === null ? '∞' : Math.floor(part.dof)}</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="muted">
    Together {readingText(total.standard, { digits: 2 })}
    {unit} with {Number.isFinite(total.dof) ? Math.floor(total.dof) : '∞'} effective degrees of freedom; times {total.factor.toFixed(
      2,
    )} for about 95 %.
  </p>
{:else}
  <dl>
    {#each parts.slice(0, 6) as { part, u } (part.name)}
      <dt title={part.name}>{part.name}</dt>
      <dd class="bar"><span style:width="{Math.max(1.5, (100 * u) / most)}%"></span></dd>
      <dd class="mono">{readingText(u, { digits: 2 })}</dd>
    {/each}
  </dl>
  <p class="muted">Standard uncertainties at {readingText(at, { digits: 4 })} {unit}.</p>
{/if}

<style>
  .row {
    display: flex;
    justify-content: space-between;
  }
  dl {
    display: grid;
    grid-template-columns: 122px 1fr 52px;
    gap: var(--space-half) var(--space-2);
    align-items: center;
    font-size: var(--type-small);
    margin: var(--space-1) 0 0;
  }
  dt {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  dd {
    margin: 0;
  }
  .bar span {
    display: block;
    height: 11px;
    background: color-mix(in srgb, var(--plum) 38%, var(--card));
  }
  dd.mono {
    text-align: right;
    font-size: var(--type-small);
    color: var(--muted);
  }
  p {
    margin: var(--space-1) 0 0;
    font-size: var(--type-small);
  }
  table {
    font-size: var(--type-small);
  }
  td .muted {
    font-size: var(--type-fine);
  }
</style>
