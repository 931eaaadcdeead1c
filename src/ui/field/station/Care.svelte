<!-- How a station is reached and looked after, and which of its values are watched. -->
<script lang="ts">
  import { NO_NAMES } from '$core/sentence/sentence';
  import { stationSentence, type StationView, type StationWish } from '$contract/station';
  import { call } from '../../api';
  import SentenceView from '../../sentence/SentenceView.svelte';

  type Props = {
    station: StationView;
    doing: (act: () => Promise<unknown>) => Promise<boolean>;
    onchange: () => void;
    ongone: () => void;
  };
  let { station, doing, onchange, ongone }: Props = $props();

  const { wish } = $derived(station);
  const put = (next: StationWish) => call('PUT /api/field/stations/[id]', { params: { id: station.id }, body: { wish: next } }).then(onchange); // prettier-ignore
  const values = $derived(station.live?.values.map((v) => v.name) ?? []);
  let of = $state('');
  let side = $state<'above' | 'below'>('above');
  let at = $state('');
  async function add(event: SubmitEvent) {
    event.preventDefault();
    if (await doing(() => put({ ...wish, limits: [...wish.limits, { of, side, at: Number(at) }] }))) at = '';
  }
</script>

<section class="card pad" data-testid="care">
  <h2>How it is looked after</h2>
  <SentenceView
    sentence={stationSentence}
    value={wish as never}
    names={NO_NAMES}
    change={(key, value) => put({ ...wish, [key]: value })}
  />
  {#if wish.limits.length}
    <p class="limits">
      Alarm
      {#each wish.limits as l, k (k)}<span class="limit"
          >when <strong>{l.of}</strong> is {l.side} <span class="mono">{l.at}</span>
          <button
            class="dotted"
            aria-label="Without the limit of {l.of}"
            onclick={() => void doing(() => put({ ...wish, limits: wish.limits.filter((_, i) => i !== k) }))}
            >remove</button
          ></span
        >{/each}
    </p>
  {/if}
  <form onsubmit={add}>
    {wish.limits.length ? 'and when' : 'Alarm when'}
    <select class="plain" bind:value={of} aria-label="Value that is watched" required>
      <option value="" disabled>a value</option>
      {#each values as name (name)}<option>{name}</option>{/each}
    </select>
    is
    <select class="plain" bind:value={side} aria-label="Side"
      ><option value="above">above</option><option value="below">below</option></select
    >
    <input class="plain" type="number" step="any" aria-label="Limit" bind:value={at} required />
    <button class="dotted">watch it</button>
  </form>
  <p>
    <button
      class="dotted"
      onclick={() =>
        void doing(() => call('DELETE /api/field/stations/[id]', { params: { id: station.id } })).then(
          (ok) => ok && ongone(),
        )}>let it go</button
    >
    <span class="muted">Its takes and versions stay.</span>
  </p>
</section>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  .limits,
  p {
    margin: var(--space-2) 0;
  }
  .limit {
    margin-right: var(--space-3);
  }
  form {
    display: flex;
    gap: var(--space-2);
    align-items: center;
  }
  input {
    width: 6rem;
  }
</style>
