<!-- What a station holds: each table as a bar, what of it is not fetched yet, and when it begins to overwrite. -->
<script lang="ts">
  import { spanOf } from '$core/field/station/text';
  import type { FetchView, TableView } from '$contract/station';
  import { spanText } from '$contract/field';
  import { comingText } from './words';

  type Props = {
    tables: TableView[];
    nowMs: number;
    shown: string | null;
    fetch: FetchView | null;
    show: (table: string) => void;
  };
  let { tables, nowMs, shown, fetch, show }: Props = $props();

  const SOON = 36 * 3_600_000;
  const every = ({ everyS }: TableView) =>
    everyS === 0 ? 'at events' : everyS === 86_400 ? 'every midnight' : `every ${spanOf(everyS)}`;
  function says(t: TableView): { before: string; strong: string; after: string; soon: boolean } {
    if (t.end === 0)
      return t.everyS === 0
        ? { before: 'nothing yet: its first row comes with the first event', strong: '', after: '', soon: false } // prettier-ignore
        : { before: 'nothing yet: first row ', strong: t.nextMs === null ? '' : t.everyS === 86_400 ? 'at midnight' : comingText(t.nextMs, nowMs), after: t.everyS === 86_400 && t.nextMs !== null ? `, in ${spanText((t.nextMs - nowMs) / 60_000)}` : '', soon: false }; // prettier-ignore
    const lost = t.first - t.fetched;
    if (lost > 0) return { before: `${lost} rows were `, strong: 'overwritten before they were fetched', after: '', soon: true }; // prettier-ignore
    if (t.wrapsMs === null) return { before: `${t.end} rows`, strong: '', after: '', soon: false };
    const soon = t.losesMs !== null && t.losesMs - nowMs < SOON && t.end > t.fetched;
    return t.end - t.first >= t.room
      ? { before: 'goes round; ', strong: t.losesMs === null || t.end <= t.fetched ? 'all of it is fetched' : `what is not fetched is lost ${comingText(t.losesMs, nowMs)}`, after: '', soon } // prettier-ignore
      : { before: 'oldest is overwritten ', strong: comingText(t.wrapsMs, nowMs), after: soon ? ': fetch before' : '', soon }; // prettier-ignore
  }
  const share = (t: TableView, from: number, to: number) =>
    `${(Math.max(0, to - Math.max(from, t.first)) / Math.max(1, t.room)) * 100}%`;
</script>

<section class="card pad" data-testid="holds">
  <header>
    <h2>What the station holds</h2>
    <span class="key"
      ><span class="swatch here"></span> fetched <span class="swatch new"></span> not fetched yet</span
    >
  </header>
  {#each tables as t (t.name)}
    {@const said = says(t)}
    <button class="one" aria-pressed={shown === t.name} onclick={() => show(t.name)} data-table={t.name}>
      <span class="name"
        ><strong>{t.name}</strong><span class="muted"
          >{every(t)}, {t.columns.length} {t.columns.length === 1 ? 'column' : 'columns'}</span
        ></span
      >
      <span
        class="bar"
        role="img"
        aria-label="{t.end - t.first} of {t.room} rows, {t.end - Math.max(t.first, t.fetched)} not fetched"
        ><span class="here" style:width={share(t, t.first, t.fetched)}></span><span
          class="new"
          class:soon={said.soon}
          style:width={share(t, t.fetched, t.end)}
        ></span></span
      >
      <span class:warning={said.soon}>{said.before}<strong>{said.strong}</strong>{said.after}</span>
      <span class="mono rows"
        >{#if fetch?.table === t.name}{fetch.rows} of {fetch.of}{:else}{t.end - t.first} rows{#if t.end > Math.max(t.first, t.fetched)},
            {t.end - Math.max(t.first, t.fetched)} new{/if}{/if}</span
      >
    </button>
  {:else}
    <p class="muted">No table: send it a programme that keeps something.</p>
  {/each}
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    margin-bottom: var(--space-1);
  }
  .key {
    color: var(--muted);
    font-size: var(--type-small);
    display: flex;
    align-items: center;
    gap: var(--space-1);
  }
  .swatch {
    width: 0.8rem;
    height: 0.5rem;
    margin-left: var(--space-2);
  }
  .one {
    display: grid;
    grid-template-columns: 11rem minmax(6rem, 14rem) minmax(0, 1fr) auto;
    gap: var(--space-3);
    align-items: center;
    width: 100%;
    text-align: left;
    padding: var(--space-1) 0;
    border-top: 1px solid var(--hair);
  }
  .one > span > strong {
    white-space: nowrap;
  }
  .one[aria-pressed='true'] .name strong {
    color: var(--plum);
  }
  .name {
    display: grid;
    line-height: 1.3;
  }
  .name .muted {
    font-size: var(--type-small);
  }
  .bar {
    display: flex;
    height: 1rem;
    background: var(--stone);
    border-radius: var(--radius);
    overflow: hidden;
  }
  .here {
    background: var(--moss);
  }
  .new {
    background: var(--plum);
  }
  .new.soon {
    background: var(--ochre);
  }
  .warning {
    color: var(--ochre);
  }
  .rows {
    font-size: var(--type-small);
    white-space: nowrap;
  }
</style>
