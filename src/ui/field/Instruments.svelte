<!-- Who is out there: stations and pocket recorders, what wants attention first. -->
<script lang="ts">
  import { readingText } from '$core/readings';
  import { agoText, stateText, wantsVisit, type RecorderView } from '$contract/field';
  import type { StationLine } from '$contract/station';
  import { markOf, momentText } from './station/words';

  type Props = {
    stations: StationLine[];
    recorders: RecorderView[];
    nowMs: number;
    /** Id of the station, serial of the recorder, or nothing. */
    chosen: string | null;
    choose: (what: 'station' | 'recorder', id: string) => void;
    all: () => void;
  };
  let { stations, recorders, nowMs, chosen, choose, all }: Props = $props();

  /** More than these are found in their table. */
  const MOST = 30;
  const last = (r: RecorderView) => {
    const value = r.state.last?.[0];
    return value === undefined || value === null
      ? ''
      : `${readingText(value, { digits: 3 })} ${r.model.measures[0].unit}`;
  };
  const seen = ({ contactMs }: StationLine) =>
    contactMs === null ? '' : nowMs - contactMs < 86_400_000 ? new Date(contactMs).toISOString().slice(11, 16) : momentText(contactMs).slice(0, -6); // prettier-ignore
  const says = (s: StationLine) => s.fetch ? `${s.fetch.rows} of ${s.fetch.of} rows` : (s.concerns[0]?.says ?? (s.contactMs === null ? 'not reached yet' : s.place || 'all is well')); // prettier-ignore
</script>

{#if stations.length}
  <h2>
    Stations {#if stations.length > 1}<button class="dotted" onclick={all}>all {stations.length}</button>{/if}
  </h2>
  <ul>
    {#each stations.slice(0, MOST) as s (s.id)}
      {@const m = markOf(s)}
      <li>
        <button
          class="one"
          aria-current={chosen === s.id}
          data-station={s.name}
          onclick={() => choose('station', s.id)}
        >
          <span class="mark {m.tone}">{m.sign}</span>
          <strong>{s.name}</strong>
          <span class="mono value">{seen(s)}</span>
          <span class="muted says">{says(s)}</span>
        </button>
      </li>
    {/each}
  </ul>
  {#if stations.length > MOST}<button class="dotted more" onclick={all}>{stations.length - MOST} more</button
    >{/if}
{/if}
<h2>Pocket recorders</h2>
<ul>
  {#each recorders as r (r.serial)}
    <li>
      <button
        class="one"
        aria-current={chosen === r.serial}
        data-recorder={r.serial}
        onclick={() => choose('recorder', r.serial)}
      >
        <span
          class="mark"
          class:alarm={wantsVisit(r)}
          class:good={!wantsVisit(r) && r.state.phase === 'records'}
          >{wantsVisit(r) ? '■' : r.state.phase === 'records' ? '●' : '○'}</span
        >
        <strong>{r.state.name || r.serial}</strong>
        <span class="mono value">{last(r)}</span>
        <span class="muted says">{r.here ? 'in the cradle, ' : ''}{stateText(r)}</span>
        {#if !r.here}<span class="muted says">seen {agoText(r.seenMs, nowMs)}</span>{/if}
      </button>
    </li>
  {:else}
    <li class="muted nobody">None has been seen yet.</li>
  {/each}
</ul>

<style>
  h2 {
    padding: 0 var(--space-3);
    display: flex;
    justify-content: space-between;
  }
  ul {
    list-style: none;
    margin: var(--space-2) 0;
    padding: 0;
  }
  .one {
    display: grid;
    grid-template-columns: 1.2rem 1fr auto;
    gap: 0 var(--space-1);
    width: 100%;
    text-align: left;
    padding: var(--space-2) var(--space-3);
    border-top: 1px solid var(--hair);
  }
  .one strong {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .one[aria-current='true'] {
    background: var(--tint);
    box-shadow: inset 3px 0 var(--plum);
  }
  .says {
    grid-column: 2 / -1;
    font-size: var(--type-small);
  }
  .mark {
    color: var(--muted);
  }
  .mark.alarm {
    color: var(--red);
  }
  .mark.warning {
    color: var(--ochre);
  }
  .mark.good {
    color: var(--moss);
  }
  .nobody,
  .more {
    padding: 0 var(--space-3);
  }
  .more {
    margin-bottom: var(--space-3);
  }
</style>
