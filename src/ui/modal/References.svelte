<!-- What speaks for these references: mutual coherence of all responses as advice found it, and of the chosen ones with each other. -->
<script lang="ts">
  import { referenceOf, type SetView } from '$contract/modal';
  import type { SetLines } from './lines.worker';

  type Props = { set: SetView; made: SetLines };
  let { set, made }: Props = $props();
  const facts = $derived(set.facts!);
  const names = $derived(facts.references.map((_, q) => referenceOf(facts, q)?.name ?? '?'));
  let at = $state('');
</script>

<div class="both">
  {#if set.advice}
    <div>
      <h2>Who knows of whom</h2>
      <table aria-label="Mean coherence of all responses with each other">
        <tbody>
          {#each set.advice.coherence as row, i (i)}
            <tr>
              <th scope="row" class:advised={set.advice.advised.includes(i)}>{set.advice.names[i]}</th>
              {#each row as value, j (j)}<td
                  style:--share={value}
                  onpointerenter={() =>
                    (at = `${set.advice!.names[i]} · ${set.advice!.names[j]}: ${value.toFixed(2)}`)}
                  onpointerleave={() => (at = '')}
                ></td>{/each}
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="muted" role="status">
        {at || `Advised: ${set.advice.advised.map((i) => set.advice!.names[i]).join(', ')}`}
      </p>
    </div>
  {/if}
  <div>
    <h2>The references with each other</h2>
    <table class="plain">
      <tbody>
        {#each made.coherence as row, i (i)}
          <tr
            ><th scope="row">{names[i]}</th>{#each row as value, j (j)}<td class="num">{value.toFixed(2)}</td
              >{/each}</tr
          >
        {/each}
      </tbody>
    </table>
    <p class="muted">
      Mean coherence over the lines: near 1, one says what the other does, and one of them would do.
    </p>
  </div>
</div>

<style>
  .both {
    display: flex;
    gap: var(--space-5);
    overflow: auto;
    flex: 1;
    min-height: 0;
  }
  h2 {
    margin: 0 0 var(--space-1);
  }
  .both > div:first-child table {
    border-collapse: separate;
    border-spacing: 1px;
  }
  .both > div:first-child td {
    min-width: 9px;
    height: 11px;
    padding: 0;
    background: color-mix(in srgb, var(--plum-fill) calc(var(--share) * 100%), var(--hair));
  }
  th {
    font-weight: 400;
    font-size: var(--type-fine);
    line-height: 1;
    text-align: left;
    padding-right: var(--space-2);
    white-space: nowrap;
    color: var(--muted);
  }
  th.advised {
    color: var(--plum);
    font-weight: 600;
  }
  p {
    font-size: var(--type-small);
    margin: var(--space-1) 0 0;
    max-width: 44ch;
  }
</style>
