<!-- What stands beside the samples of a take: what was thought of it, facts, plan, seal, what is mended, shunts, clocks, marks. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { clockText, fixed, readingText } from '$core/readings';
  import type { SealState, TakeNote, TakeView } from '$contract/take';
  import { driftText } from '../take/labels';
  import { call } from '../api';

  type Props = {
    take: TakeView;
    written: string | null;
    place: (atS: number) => void;
    judge: () => void;
    /** A note is written anew. */
    edit: (note: TakeNote) => void;
    undoMend: (id: string) => void;
    takeOut: (signal: number) => void;
  };
  let { take, written, place, judge, edit, undoMend, takeOut }: Props = $props();

  // Checking reads the whole file, so it comes when it comes.
  let seal = $state.raw<SealState | null>(null);
  const file = $derived(`${take.head.id} ${take.head.state}`);
  $effect(() => {
    const [id, state] = file.split(' ');
    seal = null;
    if (state === 'recording') return;
    let wanted = true;
    call('GET /api/takes/[id]/seal', { params: { id } }).then(
      (found) => wanted && (seal = found),
      () => undefined,
    );
    return () => (wanted = false);
  });
  const last = $derived(take.judgements.at(-1));
  const day = (ms: number) =>
    new Date(ms).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' });
  const made = $derived(take.signals.filter((s) => s.made !== null));
  const mended = $derived(take.signals.flatMap((s) => s.mends.map((m) => ({ ...m, channel: s.name }))));
</script>

<section class="facts" aria-label="About the take">
  <h2>Verdict</h2>
  <p class="small" data-testid="verdict">
    {#if last}<button class="dotted" onclick={judge}>{last.verdict}</button>{last.reason
        ? `: ${last.reason}`
        : ''}
      <span class="muted">{last.by}, {day(last.at)}</span>
    {:else}<button class="dotted" onclick={judge}>not judged yet</button>{/if}
  </p>
  {#if take.judgements.length > 1}
    <ul class="former">
      {#each take.judgements.slice(0, -1).reverse() as j (j.at)}<li class="muted">
          before: {j.verdict}{j.reason ? `: ${j.reason}` : ''} ({j.by}, {day(j.at)})
        </li>{/each}
    </ul>
  {/if}
  <h2>Facts</h2>
  <dl>
    {#each Object.entries(take.head.facts) as [name, value] (name)}<dt class="muted">{name}</dt>
      <dd>{value}</dd>{/each}
    {#if take.head.from}<dt class="muted">Brought in</dt>
      <dd>{take.head.from}</dd>{/if}
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
  {#if mended.length}
    <h2>Mended beside the recording</h2>
    <ul data-testid="mends">
      {#each mended as m (`${m.id} ${m.channel}`)}<li>
          <strong>{m.channel}.</strong>
          {m.says} <span class="muted">{m.why} ({m.by}, {day(m.at)})</span>
          <button class="dotted" onclick={() => undoMend(m.id)}>take it back</button>
        </li>{/each}
    </ul>
  {/if}
  {#if made.length}
    <h2>Made from what was recorded</h2>
    <ul data-testid="made">
      {#each made as s (s.id)}<li>
          <strong>{s.name}.</strong>
          {s.made}
          <button class="dotted" onclick={() => takeOut(s.id)}>take it out</button>
        </li>{/each}
    </ul>
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
  <ul data-testid="notes">
    {#each take.notes as note (note.id)}<li>
        <button class="go" onclick={() => place(note.atS)}
          ><span class="mono"
            >{clockText(note.atS)}{note.untilS === null ? '' : ` to ${clockText(note.untilS)}`}</span
          >
          {note.says}</button
        >{#if note.kind === 'mark' || note.kind === 'note'}<button
            class="muted"
            title="Written by {note.by}; write it anew"
            aria-label="Write “{note.says}” anew"
            onclick={() => edit(note)}>✎</button
          >{/if}
      </li>{/each}
    {#each take.gaps as gap (`${gap.fromS} ${gap.signals.join()} ${gap.reason}`)}<li
        class:red={gap.reason !== 'outside the windows'}
      >
        <span class="mono">{clockText(gap.fromS)}</span>
        {gap.reason === 'outside the windows' ? 'log only for' : 'gap of'}
        {(gap.toS - gap.fromS).toFixed(2)} s: {gap.reason}
      </li>{/each}
  </ul>
</section>

<style>
  .facts {
    padding: var(--space-2) var(--space-3);
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  .proofs td,
  .proofs th {
    font-size: var(--type-small);
    padding: var(--space-half) var(--space-1);
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: var(--space-half) var(--space-3);
    margin: 0 0 var(--space-2);
  }
  dd {
    font-weight: 600;
    overflow-wrap: anywhere;
  }
  .small {
    font-size: var(--type-small);
    margin: var(--space-half) 0 var(--space-2);
  }
  li {
    font-size: var(--type-small);
  }
  .former {
    margin-bottom: var(--space-2);
  }
  .go {
    text-align: left;
    min-height: 24px;
  }
  .go:hover {
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
  ul {
    margin-bottom: var(--space-2);
  }
</style>
