<!-- What stands beside the samples of a take: facts, plan, seal, shunts, clocks, marks. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { clockText, fixed, readingText } from '$core/readings';
  import type { SealState, TakeView } from '$contract/take';
  import { driftText } from './labels';
  import { call } from '../api';

  type Props = { take: TakeView; written: string | null; place: (atS: number) => void };
  let { take, written, place }: Props = $props();

  // Checking reads the whole file, so it comes when it comes.
  let seal = $state.raw<SealState | null>(null);
  $effect(() => {
    const { id, state } = take.head;
    seal = null;
    if (state === 'recording') return;
    let wanted = true;
    call('GET /api/takes/[id]/seal', { params: { id } }).then(
      (found) => wanted && (seal = found),
      () => undefined,
    );
    return () => (wanted = false);
  });
</script>

<section class="card facts">
  <h2>Facts</h2>
  <dl>
    {#each Object.entries(take.head.facts) as [name, value] (name)}<dt class="muted">{name}</dt>
      <dd>{value}</dd>{/each}
  </dl>
  <p class="small">{take.head.planText}</p>
  {#if seal}
    <p class="small seal {seal.state.replace(' ', '-')}" data-testid="seal" title={seal.hash ?? ''}>
      {#if seal.state === 'sealed'}● Sealed {new Date(seal.at!).toLocaleString('en-GB')}; nothing was changed
        since.
        <span class="mono muted">{seal.hash!.slice(0, 16)}…</span>
      {:else if seal.state === 'changed'}◆ Changed since it was sealed: {seal.changed.join(', ')}. Restore it
        from a copy.
      {:else}○ Not sealed: it was recorded by an earlier version.{/if}
    </p>
  {/if}
  {#if written}
    <p class="small">
      Written at its end: <a class="dotted" href={resolve(`/api/takes/${take.head.id}/written`)} download
        >{written}</a
      >
    </p>
  {/if}
  {#if take.proofs.length}
    <h2>Shunts around the take</h2>
    <table class="plain proofs" data-testid="proofs">
      <thead
        ><tr
          ><th>Bridge</th><th class="num">step</th><th class="num">zero moved</th><th class="num"
            >step moved</th
          ></tr
        ></thead
      >
      <tbody>
        {#each take.proofs as p (p.name)}
          <tr data-name={p.name}>
            <td>{p.name}</td>
            <td class="num"
              >{p.stepBefore === null ? '–' : readingText(p.stepBefore, { digits: 4 })} {p.unit}</td
            >
            <td class="num">{p.zeroMoved === null ? '–' : readingText(p.zeroMoved, { digits: 2 })}</td>
            <td class="num">{p.stepMoved === null ? '–' : `${fixed(100 * p.stepMoved, 2)} %`}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#if take.timing.length}
    <h2>Clocks of the units</h2>
    <ul class="clocks" data-testid="clocks">
      {#each take.timing as t (t.unit)}<li>
          {t.name}: {fixed(t.offsetMs, 1)} ms late, {driftText(t)}
        </li>{/each}
    </ul>
  {/if}
  <h2>Marks and events</h2>
  <ul>
    {#each take.notes as note (note.id)}<li>
        <button onclick={() => place(note.atS)}
          ><span class="mono">{clockText(note.atS)}</span> {note.says}</button
        >
      </li>{/each}
    {#each take.gaps as gap (gap.fromS)}<li class:red={gap.reason !== 'outside the windows'}>
        <span class="mono">{clockText(gap.fromS)}</span>
        {gap.reason === 'outside the windows' ? 'log only for' : 'gap of'}
        {(gap.toS - gap.fromS).toFixed(2)} s: {gap.reason}
      </li>{/each}
  </ul>
</section>

<style>
  .proofs td,
  .proofs th {
    font-size: var(--type-small);
    padding: var(--space-half) var(--space-1);
  }
  .facts {
    padding: var(--space-2) var(--space-3);
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  dl {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-half) var(--space-2);
  }
  dd {
    font-weight: 600;
    margin-right: var(--space-2);
  }
  .small {
    font-size: var(--type-small);
    margin: var(--space-1) 0 var(--space-2);
  }
  li {
    font-size: var(--type-small);
  }
  li button {
    text-align: left;
  }
  li button:hover {
    background: var(--tint);
  }
  li .mono {
    color: var(--muted);
    font-size: var(--type-small);
  }
  .red {
    color: var(--red);
  }
  .seal.sealed {
    color: var(--moss);
  }
  .seal.changed {
    color: var(--red);
  }
  .clocks {
    margin-bottom: var(--space-2);
  }
</style>
