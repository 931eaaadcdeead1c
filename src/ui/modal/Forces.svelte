<!-- What drove the structure: each hit with what speaks against it, taken in or left out one by one; how far each force reaches, and how much of the answers it explains. -->
<script lang="ts">
  import { HIT_RULE } from '$core/modal/hits';
  import { fixed } from '$core/readings';
  import type { SetView } from '$contract/modal';
  import type { Driven } from './analysis.svelte';
  import PairPicture from './PairPicture.svelte';

  type Props = { set: SetView; driving: Driven; dtS: number; night: boolean; turn: (key: string) => void };
  let { set, driving, dtS, night, turn }: Props = $props();
  let chosen = $state('');
  const facts = $derived(set.facts!);
  const { hits, forces } = $derived(facts);
  const at = $derived(Math.max(0, hits.findIndex((h) => h.key === chosen))); // prettier-ignore
  const hit = $derived(hits[at]);
  const counting = $derived(hits.filter((h) => h.counts).length);
  const several = $derived(set.takes.length > 1);

  /** The force from a little before the hit to well after its window, and within its window. */
  const drawn = $derived.by(() => {
    const course = driving.courses[at];
    if (!course?.length || !hit) return null;
    const kept = driving.ahead + Math.ceil(set.correlate.keepS / dtS);
    const end = Math.min(course.length, Math.max(driving.ahead + 24, 3 * kept - 2 * driving.ahead));
    const first = Math.max(0, driving.ahead - Math.ceil((end - driving.ahead) / 5));
    const within = Float64Array.from({ length: end - first }, (_, k) => (first + k <= kept ? course[first + k] : NaN)); // prettier-ignore
    return {
      from: (first - driving.ahead) * dtS,
      to: (end - 1 - driving.ahead) * dtS,
      unit: 's',
      zero: false,
      ends: null,
      courses: [
        { values: course.subarray(first, end), ink: 'muted' as const },
        { values: within, ink: 'plum' as const },
      ],
    };
  });
  const byForce = $derived(
    forces.map((f, q) => {
      const own = facts.responses.map((r, i) => ({
        name: r.name,
        is: facts.coherence[i * forces.length + q],
      }));
      const least = own.reduce((a, b) => (b.is < a.is ? b : a));
      return {
        ...f,
        mean: own.reduce((sum, o) => sum + o.is, 0) / own.length,
        least,
        reach: facts.reachHz[q],
      };
    }),
  );
  const step = (by: number) => (chosen = hits[(at + by + hits.length) % hits.length].key);
</script>

<div class="both">
  {#if hits.length}
    <div class="list">
      <p>
        {counting} of {hits.length}
        {hits.length === 1 ? 'hit counts' : 'hits count'}{counting < 3 * forces.length
          ? '; ± needs three of each force'
          : ''}.
        <span class="muted" title={HIT_RULE}>A press turns one.</span>
      </p>
      <div class="scroll">
        <table class="plain" aria-label="Hits">
          {#each byForce as f, q (f.id)}
            <tbody>
              <tr class="head"
                ><th colspan="4" title="Least of all: {f.least.is.toFixed(3)} for {f.least.name}"
                  >{f.name}
                  <span class="muted">to {fixed(f.reach, 0)} Hz, coherent to {f.mean.toFixed(2)}</span></th
                ></tr
              >
              {#each hits.filter((h) => h.force === q) as h (h.key)}
                <tr class:here={h.key === hit?.key} class:out={!h.counts}>
                  <td class="num"
                    ><button
                      class="at"
                      aria-pressed={h.key === hit?.key}
                      title={several ? set.takes[h.record] : undefined}
                      onclick={() => (chosen = h.key)}>{fixed(h.atS, 2)} s</button
                    ></td
                  >
                  <td class="num">{fixed(h.peak, 0)} {f.unit}</td>
                  <td class="late">{h.faults.join(', ')}</td>
                  <td class="does"
                    ><button
                      class="dotted"
                      aria-pressed={h.counts}
                      disabled={h.faults.includes('cut short') || h.faults.includes('a sample is missing')}
                      onclick={() => turn(h.key)}>{h.counts ? 'counts' : 'left out'}</button
                    ></td
                  >
                </tr>
              {/each}
            </tbody>
          {/each}
        </table>
      </div>
    </div>
  {/if}
  <div class="force">
    {#if drawn && hit}
      <p class="muted">
        {fixed(1000 * hit.widthS, 1)} ms wide, counts for {fixed(1000 * set.correlate.keepS, 0)} ms
      </p>
      <PairPicture {drawn} {night} {step} label="Force of the hit at {fixed(hit.atS, 2)} s over time" />
    {:else}
      <p>{facts.pieces} segments.</p>
      {#each byForce as f (f.id)}
        <p>
          {f.name}: reaches {fixed(f.reach, 0)} Hz; coherence {f.mean.toFixed(3)} in the mean, least {f.least.is.toFixed(
            3,
          )}
          for {f.least.name}.
        </p>
      {/each}
    {/if}
  </div>
</div>

<style>
  .both {
    display: flex;
    gap: var(--space-4);
    flex: 1;
    min-height: 0;
  }
  .list {
    flex: 2;
    min-width: 0;
    display: flex;
    flex-direction: column;
  }
  .scroll {
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  .force {
    flex: 1;
    min-width: 0;
    display: flex;
    flex-direction: column;
  }
  p {
    margin: 0;
    font-size: var(--type-small);
  }
  table {
    font-size: var(--type-small);
    width: 100%;
  }
  table.plain td {
    padding-block: 0;
    line-height: 22px;
    white-space: nowrap;
  }
  .head th {
    text-align: left;
    padding: var(--space-half) 0;
    line-height: 20px;
  }
  .head .muted {
    font-weight: 400;
  }
  .does {
    text-align: right;
  }
  .here td {
    background: var(--tint);
  }
  .out td:not(:last-child, .late) {
    color: var(--muted);
  }
  .late {
    color: var(--ochre);
  }
  .at {
    font-variant-numeric: tabular-nums;
  }
</style>
