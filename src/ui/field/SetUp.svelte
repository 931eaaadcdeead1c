<!-- How the next recorder is to work: a sentence, what it will do on a line of time, what is checked before, and the same onto the next. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { NO_NAMES } from '$core/sentence/sentence';
  import { RECORDER_MODELS, faultsOf, intervalFor, nextName } from '$core/field/recorder/plan';
  import { NEW_WISH, aheadText, recorderSentence, setupOf, spanText, wishOf, type FieldView, type RecorderWish } from '$contract/field'; // prettier-ignore
  import { call } from '../api';
  import SentenceView from '../sentence/SentenceView.svelte';
  import PlanLine from './PlanLine.svelte';

  type Props = {
    field: FieldView;
    doing: (act: () => Promise<unknown>) => Promise<boolean>;
    onset: () => void;
  };
  let { field, doing, onset }: Props = $props();

  const KEPT = 'farrier.recorder-wish';
  /** What was wished the last time here; else what the recorder in the cradle was set up to. */
  function first(): RecorderWish {
    const kept = localStorage.getItem(KEPT);
    if (kept) {
      try {
        return { ...NEW_WISH, ...(JSON.parse(kept) as RecorderWish) };
      } catch {
        // it is forgotten
      }
    }
    const setup = field.recorders.find((r) => r.here)?.state.setup;
    return setup ? { ...wishOf(setup), name: setup.name.replace(/\d+/, '{n}') } : NEW_WISH;
  }
  let wish = $state.raw<RecorderWish>(untrack(first));
  function change(next: RecorderWish) {
    wish = next;
    localStorage.setItem(KEPT, JSON.stringify(next));
  }
  /** Name under which this set-up is about to be kept. */
  let keeping = $state<string | null>(null);
  async function keep(event: SubmitEvent) {
    event.preventDefault();
    const name = keeping!.trim();
    if (name && (await doing(() => call('PUT /api/field/templates/[name]', { params: { name }, body: { wish } })))) keeping = null; // prettier-ignore
  }
  async function forget() {
    const name = keeping!;
    if (await doing(() => call('DELETE /api/field/templates/[name]', { params: { name } }))) keeping = null;
  }
  const recorder = $derived(field.recorders.find((r) => r.here));
  const model = $derived(recorder?.model ?? RECORDER_MODELS[0]);
  const name = $derived(nextName(wish.name, field.recorders.filter((r) => r !== recorder).map((r) => r.state.name))); // prettier-ignore
  const setup = $derived(setupOf(wish, name));
  const nowMs = $derived(recorder?.state.worldMs ?? Date.now());
  const faults = $derived(faultsOf(model, setup, nowMs));
  const bad = $derived(faults.some((f) => f.bad));
  const room = $derived(Math.floor(model.memory / model.measures.length));

  let lock = $state('');
  let lockFor = $state<'setting up' | 'fetching too'>('setting up');
  let password = $state('');
  const said = $derived(recorder?.state);
  const locked = $derived(said ? said.locked !== 'nothing' : false);
  const warm = $derived(setup.high && said?.last?.[0] !== null && said?.last?.[0] !== undefined && said.last[0] > setup.high.at ? said.last[0] : null); // prettier-ignore
  const checks = $derived.by((): { good: boolean; says: string }[] => {
    if (!recorder || !said) return [];
    const left = said.end - Math.max(recorder.fetched, said.first);
    return [
      { good: left <= 0, says: said.end === 0 ? 'it holds nothing' : left <= 0 ? `its ${said.end - said.first} readings are fetched` : `${left} readings are fetched first` }, // prettier-ignore
      { good: true, says: `${aheadText(recorder.aheadS)}: it is set` },
      { good: said.battery.share > 0.1, says: `its battery has ${said.battery.volts.toFixed(2)} V` },
      ...(warm === null ? [] : [{ good: false, says: `still ${warm.toFixed(0)} °C: leave it a while, or let it settle longer` }]), // prettier-ignore
    ];
  });
  async function set() {
    if (!recorder || bad) return;
    const { serial } = recorder;
    const body = {
      wish,
      ...(password && { password }),
      ...(lock && { lock: { password: lock, for: lockFor } }),
    };
    if (await doing(() => call('POST /api/field/recorders/[serial]/setup', { params: { serial }, body }))) {
      [lock, password] = ['', ''];
      onset();
    }
  }
  const batch = (on: boolean) =>
    doing(() => call('PUT /api/field/batch', { body: { wish: on ? wish : null } }));
</script>

<section class="card pad" data-testid="wish">
  <header>
    <h2>
      {recorder
        ? `${recorder.serial}, model ${model.name}, is in the cradle`
        : 'No recorder is in the cradle: put one in'}
    </h2>
    <span class="kept">
      {#if field.templates.length}
        <select
          aria-label="Begin from a kept set-up"
          onchange={(e) => {
            const found = field.templates.find((t) => t.name === e.currentTarget.value);
            if (found) change(found.wish);
          }}
        >
          <option value="">begin from …</option>
          {#each field.templates as t (t.name)}<option>{t.name}</option>{/each}
        </select>
      {/if}
      {#if keeping === null}
        <button class="dotted" onclick={() => (keeping = wish.name.replace('{n}', '').trim())}
          >keep as a template</button
        >
      {:else}
        <form onsubmit={keep}>
          <input aria-label="Name of the template" bind:value={keeping} />
          <button class="dotted">keep</button>
          {#if field.templates.some((t) => t.name === keeping)}<button
              class="dotted"
              type="button"
              onclick={() => void forget()}>take it away</button
            >{/if}
        </form>
      {/if}
      <Button size="sm" disabled={!recorder || bad} onclick={() => void set()}>Set this one up</Button>
    </span>
  </header>
  <SentenceView
    sentence={recorderSentence}
    value={wish}
    names={NO_NAMES}
    change={async (key, value) => change({ ...wish, [key]: value })}
  />
  {#if wish.name.includes('{n}')}<p class="muted">This one: <strong>{name}</strong>.</p>{/if}
  {#each faults as { bad, says } (says)}<p class={bad ? 'bad' : 'warning'} data-testid="fault">
      ▲ {says}
    </p>{/each}
</section>

<PlanLine {setup} {model} {nowMs} />

<div class="three">
  <section class="card pad">
    <h2>Interval, number, time: give two</h2>
    <label
      >every <input
        type="number"
        min="1"
        value={wish.intervalS}
        onchange={(e) =>
          change({ ...wish, intervalS: Math.max(1, Math.round(Number(e.currentTarget.value))) })}
      /> s</label
    >
    <label
      >readings <input
        type="number"
        min="1"
        aria-label="Readings"
        value={setup.readings}
        onchange={(e) =>
          change({
            ...wish,
            days: Number(((Number(e.currentTarget.value) * wish.intervalS) / 86_400).toPrecision(8)),
          })}
      /></label
    >
    <label
      >for <input
        type="number"
        min="0"
        step="any"
        value={wish.days}
        onchange={(e) => change({ ...wish, days: Number(e.currentTarget.value) || wish.days })}
      /> d</label
    >
    <p class="muted">
      <span class="bar" role="img" aria-label="{setup.readings} of {room} readings"
        ><span style:width="{Math.min(100, (setup.readings / room) * 100)}%"></span></span
      >
      {setup.readings} of {room} readings.
      {#if setup.readings > room}<button
          class="dotted"
          onclick={() => change({ ...wish, intervalS: intervalFor(model, room, wish.days * 86_400) + 1 })}
          >read so that {spanText(wish.days * 1440)} fit</button
        >{/if}
    </p>
  </section>
  <section class="card pad">
    <h2>Who may set it up and fetch</h2>
    {#if locked}
      <label>Its password <input type="password" aria-label="Its password" bind:value={password} /></label>
    {/if}
    <label
      >{locked ? 'A new one' : 'Ask for a password'}
      <input type="password" aria-label="A password from now on" bind:value={lock} /></label
    >
    {#if lock}
      <label><input type="radio" bind:group={lockFor} value="setting up" /> for setting up</label>
      <label><input type="radio" bind:group={lockFor} value="fetching too" /> for fetching, too</label>
      <p class="warning">
        ▲ <strong>Write it down.</strong> Nobody can recover it, we neither: it stands only on the recorder, and
        only as a hash.
      </p>
    {/if}
    <h2 class="second">Before it is set up</h2>
    {#each checks as { good, says } (says)}
      <p class={good ? 'good' : 'warning'}>{good ? '✓' : '▲'} <span>{says}</span></p>
    {:else}<p class="muted">Put a recorder in.</p>{/each}
  </section>
  <section class="card pad" data-testid="batch">
    <h2>The same onto the next</h2>
    {#if field.batch}
      <table>
        <tbody>
          {#each field.batch.done as d (d.serial)}
            <tr>
              <td><strong>{d.name}</strong></td><td class="mono">{d.serial}</td>
              <td class={d.state === 'set up' ? 'good' : 'bad'} title={d.says}
                >{d.state === 'set up' ? '✓ set up' : `▲ ${d.says}`}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      <p class="muted">Take it out, put the next one in: it is fetched, and set up by itself.</p>
      <button class="dotted" onclick={() => void batch(false)}>that is all</button>
    {:else}
      <p class="muted">
        Whatever is put in from now on is fetched, named by the pattern and set up so, one after the other.
      </p>
      <button class="dotted" disabled={bad} onclick={() => void batch(true)}
        >set up all that are put in</button
      >
    {/if}
  </section>
</div>

<style>
  .pad {
    padding: var(--space-3) var(--space-4);
  }
  header {
    display: flex;
    justify-content: space-between;
    gap: var(--space-4);
    margin-bottom: var(--space-2);
  }
  .kept,
  .kept form {
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
  .three {
    display: grid;
    grid-template-columns: repeat(3, minmax(0, 1fr));
    gap: var(--space-3);
  }
  label {
    display: flex;
    gap: var(--space-2);
    align-items: center;
    padding: var(--space-1) 0;
  }
  select,
  input:not([type='radio']) {
    font: inherit;
    min-width: 0;
    width: 7rem;
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-2);
  }
  p {
    margin: var(--space-1) 0;
  }
  .bar {
    display: block;
    height: 0.5rem;
    background: var(--stone);
    border-radius: var(--radius);
    overflow: hidden;
    margin: var(--space-2) 0 var(--space-1);
  }
  .bar span {
    display: block;
    height: 100%;
    background: var(--moss);
  }
  .good {
    color: var(--moss);
  }
  .good span {
    color: var(--ink);
  }
  .warning {
    color: var(--ochre);
  }
  .bad {
    color: var(--red);
  }
  .second {
    margin-top: var(--space-3);
  }
  td {
    padding: var(--space-half) var(--space-2) var(--space-half) 0;
  }
</style>
