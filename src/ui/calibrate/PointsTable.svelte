<!-- The points of a run: each with what it read, how far it lies off, and what can be done with it. -->
<script lang="ts">
  import { fixed, readingText } from '$core/readings';
  import { fitAxis } from '$contract/calibration';
  import type { Channel } from '$contract/channel';
  import type { PointsRunState } from './points-run.svelte';

  type Props = { bench: PointsRunState; channel: Channel; axisUnit: string; off: number[]; decimals: number };
  let { bench, channel, axisUnit, off, decimals }: Props = $props();
  /** Point whose reason for leaving out is typed. */
  let leaving = $state<number | null>(null);

  function leave(i: number, input: HTMLInputElement) {
    const reason = input.value.trim();
    if (reason) bench.drop(i, reason);
    leaving = null;
  }
  /** Asks why a point is left out, or takes it in again. */
  export function dropOrKeep(i: number) {
    if (!bench.taken[i]) return;
    if (bench.taken[i].dropped) bench.drop(i, null);
    else leaving = i;
  }
  const focus = (node: HTMLInputElement) => node.focus();
</script>

<table class="plain">
  <thead
    ><tr
      ><th class="num">{bench.run.unit}</th><th></th><th class="num">{axisUnit}</th><th class="num">off by</th
      ><th></th></tr
    ></thead
  >
  <tbody>
    {#each bench.planned as planned, i (`${planned.target} ${planned.going}`)}
      {@const p = bench.taken[i]}
      <tr
        class:here={i === bench.measuring}
        class:chosen={i === bench.selected}
        class:out={p?.dropped}
        onclick={() => (bench.selected = i)}
      >
        <td class="num">{p && bench.run.against ? readingText(p.target, { digits: 5 }) : planned.target}</td>
        <td class="muted going">{bench.run.going === 'up' ? '' : planned.going}</td>
        <td class="num"
          >{p?.readings[channel.id]
            ? readingText(fitAxis(channel, p.readings[channel.id].raw), { digits: 5 })
            : i === bench.measuring
              ? '…'
              : ''}</td
        >
        <td class="num">
          {#if p}
            <span class:bad={Math.abs(off[i]) > bench.run.good}
              >{p.dropped
                ? 'left out'
                : Number.isNaN(off[i])
                  ? ''
                  : `${off[i] > 0 ? '+' : ''}${fixed(off[i], decimals)}`}</span
            >
          {/if}
        </td>
        <td class="acts">
          {#if p}
            <button
              class="dotted again"
              onclick={() => bench.begin(i)}
              aria-label="Measure {planned.target} {bench.run.unit}{planned.going === 'down'
                ? ' going down'
                : ''} again">again</button
            >
            <button
              class="dotted again"
              onclick={() => dropOrKeep(i)}
              aria-label="{p.dropped ? 'Take in' : 'Leave out'} {planned.target} {bench.run.unit}"
              title={p.dropped ?? 'Leave it out, with a reason'}>{p.dropped ? 'in' : 'out'}</button
            >
          {/if}
        </td>
      </tr>
      {#if leaving === i}
        <tr
          ><td colspan="5"
            ><input
              use:focus
              placeholder="Why is it left out?"
              aria-label="Why is it left out?"
              maxlength="200"
              onkeydown={(e) => {
                if (e.key === 'Enter') leave(i, e.currentTarget);
                if (e.key === 'Escape') leaving = null;
              }}
            /></td
          ></tr
        >
      {/if}
    {/each}
  </tbody>
</table>

<style>
  tr.here td {
    background: var(--tint);
  }
  tr.chosen td:first-child {
    box-shadow: inset 3px 0 var(--plum);
  }
  tr.out td {
    color: var(--muted);
    text-decoration: line-through;
    text-decoration-color: var(--tooth);
  }
  tr.out td :global(.dotted) {
    text-decoration: none;
  }
  td,
  th {
    padding-inline: var(--space-half);
  }
  td {
    font-size: var(--type-small);
  }
  .acts {
    white-space: nowrap;
    text-align: right;
  }
  .going {
    font-size: var(--type-fine);
  }
  .again {
    font-size: var(--type-small);
    font-family: var(--font-sans);
    margin-left: var(--space-1);
  }
  .bad {
    color: var(--ochre);
  }
  input {
    width: 100%;
    font-size: var(--type-body);
    padding: var(--space-half) var(--space-2);
    border: 1px solid var(--plum);
    border-radius: var(--radius);
    background: var(--paper);
  }
</style>
