<!-- Values as they are now: what was read, what it means, how it went since the page is open; what can be set by hand. -->
<script lang="ts">
  import { readingText } from '$core/readings';
  import { WAYS, stationModel } from '$core/field/station/model';
  import { supplyText } from '$core/field/station/health';
  import type { LiveValues, StationState } from '$core/field/station/state';
  import { call } from '../../api';
  import { momentText } from './words';

  type Props = {
    id: string;
    live: LiveValues;
    state: StationState;
    aheadS: number;
    batteryV: number;
    plays: boolean;
    doing: (act: () => Promise<unknown>) => Promise<boolean>;
  };
  let { id, live, state: said, aheadS, batteryV, plays, doing }: Props = $props();

  /** Values since the page is open, by their names. */
  let past = $state.raw<{ at: number; values: (number | null)[] }[]>([]);
  const MOST = 300;
  $effect(() => {
    const { atMs, values } = live;
    if (atMs === null) return;
    const names = values.length;
    if (past.at(-1)?.at === atMs) return;
    past = [...past.filter((p) => p.values.length === names), { at: atMs, values: values.map((v) => v.value) }].slice(-MOST); // prettier-ignore
  });
  /** A curve on a scale of its own; where there was no number it is broken. */
  function curve(k: number): string {
    const values = past.map((p) => p.values[k]);
    const known = values.filter((v): v is number => v !== null);
    if (known.length < 2) return '';
    const [low, high] = [Math.min(...known), Math.max(...known)];
    const size = high - low || 1;
    let pen = 'M';
    return values
      .map((v, i) => {
        if (v === null) return ((pen = 'M'), '');
        const at = `${pen}${((i / Math.max(1, values.length - 1)) * 120).toFixed(1)} ${(22 - ((v - low) / size) * 20).toFixed(1)}`; // prettier-ignore
        pen = 'L';
        return at;
      })
      .join('');
  }
  const text = (v: number | null) => (v === null ? 'no number' : readingText(v, { digits: 4 }));
  let setting = $state<{ name: string; value: string } | null>(null);
  async function set(event: SubmitEvent) {
    event.preventDefault();
    const { name, value } = setting!;
    if (await doing(() => call('POST /api/field/stations/[id]/set', { params: { id }, body: { what: 'plus', name, value: Number(value) } }))) setting = null; // prettier-ignore
  }
  const ILLS = [
    ['warm', 'a hand warms the sensors'],
    ['broken', 'the thermocouple breaks'],
    ['reversed', 'the thermocouple is the wrong way round'],
    ['battery low', 'the battery runs down'],
    ['cable', 'it runs from the cable'],
    ['none', 'nothing is wrong'],
  ] as const;
</script>

<section class="card pad" data-testid="live">
  <header>
    <h2>Values now</h2>
    <span class="muted"
      >{live.atMs === null
        ? 'it has not woken yet'
        : `woke ${momentText(live.atMs)}:${new Date(live.atMs).toISOString().slice(17, 19)}`}</span
    >
    <!-- prettier-ignore -->
  </header>
  <table>
    <thead
      ><tr><th>value</th><th class="num">read</th><th class="num">means</th><th></th><th>how it went</th><th></th></tr></thead
    > <!-- prettier-ignore -->
    <tbody>
      {#each live.values as v, k (v.name)}
        <tr data-value={v.name}>
          <td
            ><strong>{v.name}</strong>
            <span class="muted">{v.way === 'own' ? 'its own' : `${v.terminal}, ${WAYS[v.way].label}`}</span></td
          >
          <td class="mono num muted">{v.way === 'own' ? '' : text(v.reading)}</td>
          <td class="mono num" class:bad={v.value === null}>{text(v.value)}</td>
          <td class="muted">{v.value === null ? '' : v.unit}</td>
          <td
            ><svg viewBox="0 0 120 24" role="img" aria-label="How {v.name} went"><path d={curve(k)} /></svg></td
          >
          <td class="muted small"
            >{#if v.value === null}a broken wire, or nothing on its terminal{:else if k === 0}{supplyText(
                v.value,
                batteryV,
              )}{:else if v.way !== 'own'}{#if setting?.name === v.name}<form onsubmit={set}>
                  plus <input
                    class="plain"
                    aria-label="Plus of {v.name}"
                    type="number"
                    step="any"
                    bind:value={setting.value}
                  />
                  <button class="dotted">set</button>
                </form>{:else}<button
                  class="dotted"
                  onclick={() => (setting = { name: v.name, value: String(said.adjusted[v.name] ?? 0) })}
                  >{v.name in said.adjusted ? `plus ${said.adjusted[v.name]} by hand` : 'set its plus'}</button
                >{/if}{/if}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="facts">
    Its clock says <span class="mono"
      >{new Date(said.saidMs).toISOString().slice(0, 19).replace('T', ' ')} UTC</span
    >,
    {Math.abs(aheadS) < 0.5
      ? 'as ours'
      : `${readingText(Math.abs(aheadS), { digits: 2 })} s ${aheadS > 0 ? 'ahead of' : 'behind'} ours`}.
    <button
      class="dotted"
      onclick={() => void doing(() => call('POST /api/field/stations/[id]/clock', { params: { id } }))}
      >set it to ours</button
    >
    {#if said.output !== null && stationModel(said.model)?.terminals.K}
      Its output K1 is {said.output ? 'on' : 'off'}:
      <button
        class="dotted"
        onclick={() =>
          void doing(() =>
            call('POST /api/field/stations/[id]/set', {
              params: { id },
              body: { what: 'output', name: '', value: said.output ? 0 : 1 },
            }),
          )}>switch it {said.output ? 'off' : 'on'}</button
      >
    {/if}
  </p>
  {#if plays}
    <p class="facts muted">
      It is a stand-in, which can fall ill:
      <select
        class="plain"
        aria-label="What ails the station"
        onchange={(e) =>
          void doing(() =>
            call('POST /api/field/stations/[id]/play', {
              params: { id },
              body: { do: e.currentTarget.value as 'none' },
            }),
          )}
      >
        <option value="none" selected>choose</option>
        {#each ILLS as [ill, says] (ill)}<option value={ill}>{says}</option>{/each}
      </select>
      <button
        class="dotted"
        onclick={() =>
          void doing(() =>
            call('POST /api/field/stations/[id]/play', {
              params: { id },
              body: { do: 'power', seconds: 20 },
            }),
          )}>cut its power for 20 s</button
      >
    </p>
    <p class="facts muted">
      Its time runs
      <select
        class="plain"
        aria-label="How fast its time runs"
        onchange={(e) =>
          void doing(() =>
            call('POST /api/field/stations/[id]/play', {
              params: { id },
              body: { do: 'speed', times: Number(e.currentTarget.value) },
            }),
          )}
      >
        {#each [1, 60, 600, 10_000] as times (times)}<option value={times}
            >{times === 1 ? 'as ours' : `${times} times as fast`}</option
          >{/each}
      </select>
    </p>
  {/if}
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  header {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--muted);
    font-size: var(--type-small);
  }
  th,
  td {
    padding: var(--space-1) var(--space-2) var(--space-1) 0;
  }
  tbody tr {
    border-top: 1px solid var(--hair);
  }
  .num {
    text-align: right;
    white-space: nowrap;
  }
  .bad {
    color: var(--red);
  }
  .small {
    font-size: var(--type-small);
  }
  .small button {
    white-space: nowrap;
  }
  svg {
    width: 8rem;
    height: 1.5rem;
    display: block;
  }
  path {
    fill: none;
    stroke: var(--plum);
    stroke-width: 1.4;
  }
  .facts {
    margin: var(--space-2) 0 0;
  }
  select {
    max-width: 16rem;
  }
  input {
    width: 6rem;
  }
</style>
