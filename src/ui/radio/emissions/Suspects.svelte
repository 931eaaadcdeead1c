<!-- Suspects as a list: three readings as three marks on one line beside the hatched limit, the room that is left, a note. -->
<script lang="ts">
  import { fixed } from '$core/readings';
  import type { EmissionRun, Suspect } from '$contract/radio-emissions';

  type Props = {
    run: EmissionRun;
    chosen: number | null;
    measuring: number | null;
    busy: boolean;
    choose: (id: number) => void;
    measure: (ids: number[]) => void;
    note: (id: number, change: { note?: string; ambient?: boolean }) => void;
  };
  let { run, chosen, measuring, busy, choose, measure, note }: Props = $props();

  const WIDE = 224;
  /** Levels that the lines of marks span: the same for all, around the limit. */
  const BELOW = 28;
  const ABOVE = 14;
  const at = (s: Suspect, level: number) =>
    Math.max(2, Math.min(WIDE - 2, ((level - s.limit + BELOW) / (BELOW + ABOVE)) * WIDE));
  const cell = (v: number | null | undefined) => (v === null || v === undefined ? '—' : fixed(v, 1));
  const order = $derived(
    [...run.suspects].sort((a, b) => Number(a.ambient) - Number(b.ambient) || a.room - b.room),
  );

  let rows: Record<number, HTMLElement> = $state({});
  $effect(() => {
    if (chosen !== null) rows[chosen]?.scrollIntoView({ block: 'nearest' });
  });
</script>

<table class="plain" aria-label="Suspects">
  <thead>
    <tr>
      <th></th>
      <th class="num">MHz</th>
      <th class="marks"
        ><span class="bar" aria-hidden="true"></span> average <span class="lozenge" aria-hidden="true"></span>
        quasi-peak <span class="ring" aria-hidden="true"></span> peak</th
      >
      <th class="num">peak</th>
      <th class="num">quasi-p.</th>
      <th class="num">average</th>
      <th class="num">limit</th>
      <th></th>
      <th>note</th>
      <th></th>
    </tr>
  </thead>
  <tbody>
    {#each order as s (s.id)}
      {@const m = s.measured}
      <tr
        class:here={s.id === chosen}
        class:ambient={s.ambient}
        bind:this={rows[s.id]}
        onclick={() => choose(s.id)}
      >
        <td><b>{s.id}</b></td>
        <td class="num">{fixed((m?.hz ?? s.hz) / 1e6, (m?.hz ?? s.hz) < 30e6 ? 4 : 2)}</td>
        <td class="marks">
          <svg width={WIDE} height="22" aria-hidden="true">
            <defs
              ><pattern id="hatch" width="7" height="7" patternUnits="userSpaceOnUse"
                ><path d="M0 7L7 0" class="hatch" /></pattern
              ></defs
            >
            <rect x={at(s, s.limit)} y="3" width={WIDE - at(s, s.limit)} height="16" fill="url(#hatch)" />
            <path d="M0 11H{WIDE}" class="hair" />
            <path d="M{at(s, s.limit)} 1V21" class="limit" />
            {#if m}
              <path d="M{at(s, m.average)} 11H{at(s, m.peak)}" class="span" />
              <rect x={at(s, m.average) - 1.5} y="5" width="3" height="12" class="average" />
              {#if m.quasiPeak !== null}
                <path d="M{at(s, m.quasiPeak)} 5.5l5.5 5.5l-5.5 5.5l-5.5 -5.5z" class="quasi" />
              {/if}
              <circle cx={at(s, m.peak)} cy="11" r="4.5" class="peak" />
            {:else}
              <circle cx={at(s, s.level)} cy="11" r="4.5" class="peak" />
            {/if}
          </svg>
        </td>
        <td class="num">{cell(m?.peak ?? s.level)}</td>
        <td class="num">{cell(m?.quasiPeak)}</td>
        <td class="num">{cell(m?.average)}</td>
        <td class="num" title="for the {s.limitOf}">{cell(s.limit)}</td>
        <td class="verdict">
          {#if s.ambient}<span class="muted">ambient</span>
          {:else if s.room < 0}<b class="red">■ over by {fixed(-s.room, 1)} dB</b>
          {:else}<b class="moss">● {fixed(s.room, 1)} dB to spare</b>{/if}
          {#if m?.overload}<span class="red">overloaded</span>{/if}
        </td>
        <td class="note">
          <input
            class="plain"
            aria-label="Note on suspect {s.id}"
            value={s.note}
            maxlength="500"
            onchange={(e) => note(s.id, { note: e.currentTarget.value })}
          />
        </td>
        <td class="acts">
          {#if measuring === s.id}<span class="muted">measuring</span>
          {:else}<button type="button" class="dotted" disabled={busy} onclick={() => measure([s.id])}
              >{m ? 'measure anew' : 'measure'}</button
            >{/if}
          <button type="button" class="quiet" onclick={() => note(s.id, { ambient: !s.ambient })}
            >{s.ambient ? 'not ambient' : 'ambient'}</button
          >
        </td>
      </tr>
    {/each}
  </tbody>
</table>
{#if run.more > 0}<p class="muted">and {run.more} more: narrow the margin to list the nearest only.</p>{/if}

<style>
  table {
    width: 100%;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
    z-index: 1;
  }
  :is(td, th) {
    white-space: nowrap;
    vertical-align: middle;
    padding-block: var(--space-1);
  }
  tbody tr {
    cursor: pointer;
  }
  .here {
    background: var(--tint);
  }
  .ambient > td:not(.acts, .note) {
    opacity: 0.65;
  }
  .marks {
    font-size: var(--type-small);
  }
  svg {
    display: block;
  }
  .hatch {
    stroke: var(--muted);
    stroke-width: 0.75;
    opacity: 0.55;
  }
  .hair {
    stroke: var(--line);
  }
  .limit {
    stroke: var(--ink);
    stroke-width: 1.5;
  }
  .span {
    stroke: var(--muted);
    stroke-width: 1.5;
  }
  .average {
    fill: var(--mark-average);
  }
  .quasi {
    fill: var(--plum);
  }
  .peak {
    fill: var(--card);
    stroke: var(--ochre);
    stroke-width: 2;
  }
  .bar,
  .lozenge,
  .ring {
    display: inline-block;
    vertical-align: middle;
    margin-inline: var(--space-2) var(--space-half);
  }
  .bar {
    width: 3px;
    height: 12px;
    background: var(--mark-average);
    margin-left: 0;
  }
  .lozenge {
    width: 8px;
    height: 8px;
    rotate: 45deg;
    background: var(--plum);
  }
  .ring {
    width: 9px;
    height: 9px;
    box-sizing: border-box;
    border: 2px solid var(--ochre);
    border-radius: 50%;
  }
  .red {
    color: var(--red);
  }
  .moss {
    color: var(--moss);
  }
  .verdict,
  .acts,
  p {
    font-size: var(--type-small);
  }
  .note {
    width: 18%;
  }
  .note input {
    width: 100%;
    min-width: 60px;
    border-color: transparent;
    background: none;
    font-size: var(--type-small);
  }
  .note input:is(:hover, :focus) {
    border-color: var(--line);
    background: var(--card);
  }
  .acts {
    text-align: right;
  }
  .quiet {
    color: var(--muted);
    margin-left: var(--space-2);
  }
  .quiet:hover {
    color: var(--plum);
  }
</style>
