<!-- Where cradles are and what lies in them; recorders of one that plays are put in and taken out here. -->
<script lang="ts">
  import type { FieldView } from '$contract/field';
  import { call } from '../api';

  type Props = { field: FieldView; doing: (act: () => Promise<unknown>) => Promise<boolean> };
  let { field, doing }: Props = $props();

  let address = $state('');
  const put = (cradles: string[], fetches = field.fetches) =>
    doing(() => call('PUT /api/field/cradles', { body: { cradles, fetches } }));
  const addresses = $derived(field.cradles.map((c) => c.address));
  async function add(event: SubmitEvent) {
    event.preventDefault();
    if (await put([...addresses, address.trim()])) address = '';
  }
  const play = (act: 'put' | 'out' | 'press' | 'battery', serial: string) =>
    doing(() => call('POST /api/field/play', { body: { do: act, serial } }));
</script>

<div class="cradles" data-testid="cradles">
  <h2>Cradles</h2>
  {#each field.cradles as cradle (cradle.address)}
    <p>
      <span class="mono">{cradle.address}</span>
      <button
        class="dotted"
        aria-label="Without {cradle.address}"
        onclick={() => void put(addresses.filter((a) => a !== cradle.address))}>remove</button
      >
      <br />
      {#if cradle.state === 'answers'}
        <span class="muted">{cradle.holds ? `holds ${cradle.holds}` : 'empty: put a recorder in'}</span>
      {:else if cradle.state === 'silent'}
        <span class="warning">▲ {cradle.says}</span>
      {:else}<span class="muted">being looked for …</span>{/if}
      {#if cradle.says && cradle.state === 'answers'}<br /><span class="warning">▲ {cradle.says}</span>{/if}
    </p>
    {#if cradle.plays}
      <p class="small">
        its time runs
        <select
          aria-label="How fast the time of the cradle runs"
          onchange={(e) =>
            void doing(() =>
              call('POST /api/field/play', {
                body: { do: 'speed', serial: '', times: Number(e.currentTarget.value) },
              }),
            )}
        >
          {#each [1, 60, 600, 10_000] as times (times)}<option value={times}
              >{times === 1 ? 'as ours' : `${times} times as fast`}</option
            >{/each}
        </select>
      </p>
      <p class="muted small">It plays {cradle.plays.length} recorders: choose which one lies in it.</p>
      <p class="plays">
        <select
          aria-label="Which recorder lies in the cradle"
          value={cradle.holds ?? ''}
          onchange={(e) =>
            void (e.currentTarget.value
              ? play('put', e.currentTarget.value)
              : play('out', cradle.plays![0].serial))}
        >
          <option value="">none</option>
          {#each cradle.plays as r (r.serial)}<option value={r.serial}>{r.name || r.serial}</option>{/each}
        </select>
        {#if cradle.holds}
          {@const serial = cradle.holds}
          <button class="dotted" onclick={() => void play('press', serial)}>push its button</button>
        {/if}
      </p>
    {/if}
  {/each}
  <form onsubmit={add}>
    <input
      aria-label="Where a cradle is, as host:port"
      placeholder="host:port, /dev/tty…"
      bind:value={address}
    />
    <button class="dotted" disabled={address.trim() === ''}>add a cradle</button>
  </form>
  <label class="small"
    ><input
      type="checkbox"
      checked={field.fetches}
      onchange={(e) => void put(addresses, e.currentTarget.checked)}
    /> fetch what is put in by itself</label
  >
</div>

<style>
  .cradles {
    padding: var(--space-2) var(--space-3);
    border-top: 1px solid var(--line);
    display: grid;
    gap: var(--space-1);
    font-size: var(--type-small);
  }
  p {
    margin: 0;
  }
  .plays {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    flex-wrap: wrap;
  }
  select,
  form input {
    font: inherit;
    min-width: 0;
    max-width: 9rem;
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-1);
  }
  select {
    padding-right: var(--space-6);
  }
  form {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  form button {
    white-space: nowrap;
  }
  .warning {
    color: var(--ochre);
  }
</style>
