<!-- All stations: health at a glance, what wants attention first, and where they are by the names of their places. -->
<script lang="ts">
  import { agoText } from '$contract/field';
  import type { StationLine } from '$contract/station';
  import { clockOffText, comingText, markOf } from './words';

  type Props = { stations: StationLine[]; nowMs: number; open: (id: string) => void };
  let { stations, nowMs, open }: Props = $props();

  let wanted = $state('');
  let worst = $state(false);
  const found = $derived(stations.filter((s) => (!worst || s.concerns.length > 0) && `${s.name} ${s.place} ${s.serial ?? ''} ${s.model ?? ''}`.toLowerCase().includes(wanted.trim().toLowerCase()))); // prettier-ignore
  const places = $derived.by(() => {
    const by = new Map<string, StationLine[]>();
    for (const s of found) by.set(s.place || 'no place', [...(by.get(s.place || 'no place') ?? []), s]);
    return [...by].sort(([a], [b]) => a.localeCompare(b, undefined, { numeric: true }));
  });
</script>

<section class="card pad" data-testid="stations">
  <header>
    <h2>Stations</h2>
    <input
      class="plain"
      type="search"
      placeholder="find by name, place, serial"
      aria-label="Find stations"
      bind:value={wanted}
    />
    <label><input type="checkbox" bind:checked={worst} /> only what wants attention</label>
    <span class="muted">{found.length} of {stations.length}</span>
  </header>
  <!-- prettier-ignore -->
  <div class="places" aria-label="Places">
    {#each places as [place, own] (place)}
      <span class="place">
        <span class="muted">{place}</span>
        {#each own as s (s.id)}{@const m = markOf(s)}<button
            class="mark {m.tone}"
            title="{s.name}{s.concerns.length ? `: ${s.concerns.map((c) => c.says).join(', ')}` : ''}"
            aria-label="Open {s.name}"
            onclick={() => open(s.id)}>{m.sign}</button
          >{/each}
      </span>
    {/each}
  </div>
  <div class="scroll">
    <table>
      <thead
        ><tr
          ><th></th><th>station</th><th>answered</th><th class="num">supply</th><th>clock</th><th
            >rows are lost</th
          ><th class="num">programme</th><th>wants attention</th></tr
        ></thead
      >
      <tbody>
        {#each found as s (s.id)}
          {@const m = markOf(s)}
          <tr onclick={() => open(s.id)}>
            <td class={m.tone}>{m.sign}</td>
            <td
              ><button class="name" onclick={() => open(s.id)}>{s.name}</button>
              <span class="muted">{s.model ?? ''}</span></td
            >
            <td>{s.contactMs === null ? 'never' : agoText(s.contactMs, nowMs)}</td>
            <td class="mono num">{s.supplyV === null ? '' : `${s.supplyV.toFixed(1)} V`}</td>
            <td>{s.contactMs === null ? '' : clockOffText(s.aheadS)}</td>
            <td>{s.losesMs === null ? '' : comingText(s.losesMs, nowMs)}</td>
            <td class="mono num">{s.version === null ? '–' : s.version}</td>
            <td class={m.tone}>{s.concerns.map((c) => c.says).join(', ')}</td>
          </tr>
        {/each}
      </tbody>
    </table>
  </div>
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
    display: flex;
    flex-direction: column;
    min-height: 0;
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
  header .muted {
    margin-left: auto;
  }
  input[type='search'] {
    width: 16rem;
  }
  .places {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-4);
    margin: var(--space-2) 0;
    font-size: var(--type-small);
  }
  .place {
    display: inline-flex;
    flex-wrap: wrap;
    align-items: center;
  }
  .place .muted {
    margin-right: var(--space-1);
  }
  .mark {
    width: 1.2rem;
    min-height: 24px;
    text-align: center;
  }
  .alarm {
    color: var(--red);
  }
  .warning {
    color: var(--ochre);
  }
  .good {
    color: var(--moss);
  }
  .none {
    color: var(--muted);
  }
  .scroll {
    overflow: auto;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--muted);
    position: sticky;
    top: 0;
    background: var(--card);
    font-size: var(--type-small);
  }
  th,
  td {
    padding: var(--space-1) var(--space-3) var(--space-1) 0;
    white-space: nowrap;
  }
  td:last-child {
    width: 100%;
    white-space: normal;
  }
  tbody tr {
    border-top: 1px solid var(--hair);
    cursor: pointer;
    content-visibility: auto;
  }
  tbody tr:hover {
    background: var(--tint);
  }
  .name {
    font-weight: 600;
  }
  .num {
    text-align: right;
  }
</style>
