<!-- A pocket recorder: what it does in one sentence, its readings with the limits, and what they say. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { Button } from 'flowbite-svelte';
  import { readingText } from '$core/readings';
  import { sentenceText } from '$core/sentence/sentence';
  import { aheadText, recorderSentence, spanText, stateText, wantsVisit, wishOf, type RecorderReadings, type RecorderView } from '$contract/field'; // prettier-ignore
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';
  import Readings from './Readings.svelte';
  import { printRecorder } from './recorder-pdf';

  type Props = { recorder: RecorderView; doing: (act: () => Promise<unknown>) => Promise<boolean> };
  let { recorder, doing }: Props = $props();
  const shell = useShell();

  let readings = $state.raw<RecorderReadings | null>(null);
  let fault = $state<FaultText | null>(null);
  const drawn = $derived(`${recorder.takeId} ${recorder.fetched} ${recorder.state.waiting.toMs}`);
  $effect(() => {
    void drawn;
    const { serial } = recorder;
    call('GET /api/field/recorders/[serial]/readings', { params: { serial } })
      .then((got) => ((readings = got), (fault = null)))
      .catch((error) => (fault = faultText(error)));
  });

  let placing = $state<{ place: string; by: string } | null>(null);
  async function place(event: SubmitEvent) {
    event.preventDefault();
    const body = placing!;
    if (await doing(() => call('PUT /api/field/recorders/[serial]/place', { params: { serial: recorder.serial }, body }))) placing = null; // prettier-ignore
  }
  let password = $state('');
  const given = $derived(password ? { password } : {});
  const unfetched = $derived(recorder.state.end - Math.max(recorder.fetched, recorder.state.first));
  const said = $derived(recorder.state);
  const celsius = (v: number | undefined) =>
    v === undefined || !Number.isFinite(v) ? '–' : `${readingText(v, { digits: 3 })} °C`;
  const facts = $derived.by((): [string, string, string?][] => {
    const f = recorder.findings;
    const { setup } = said;
    if (!f) return [];
    const beyond = (minutes: number, degrees: number): string => (minutes > 0 ? `${spanText(minutes)}, ${readingText(degrees, { digits: 3 })} °C·min` : 'never'); // prettier-ignore
    return [
      ['lowest and highest', `${celsius(f.lowest)} to ${celsius(f.highest)}`],
      ['mean', celsius(f.mean)],
      ['mean kinetic temperature', celsius(f.meanKinetic)],
      ...(setup?.high ? [[`above ${celsius(setup.high.at)}`, beyond(f.minutesAbove, f.degreeMinutesAbove), 'above'] as [string, string, string]] : []), // prettier-ignore
      ...(setup?.low ? [[`below ${celsius(setup.low.at)}`, beyond(f.minutesBelow, f.degreeMinutesBelow), 'below'] as [string, string, string]] : []), // prettier-ignore
      ['readings', `${f.count}${f.missing ? `, ${f.missing} missing` : ''}`],
    ];
  });
</script>

<section class="card pad">
  <header>
    <div>
      <h2 class="name">{said.name || recorder.serial}</h2>
      <p class:alarm={wantsVisit(recorder)} data-testid="state">{stateText(recorder)}</p>
      <p class="muted">
        {recorder.serial}, model {recorder.model.name} · battery {said.battery.volts.toFixed(2)} V, {Math.round(
          said.battery.share * 100,
        )} % · {aheadText(recorder.aheadS)}{said.display
          ? ` · its display shows ${said.display}`
          : ''}{said.lamp && said.lamp !== 'dark' ? ` · its lamp blinks ${said.lamp}` : ''}
      </p>
      {#if placing}
        <form class="placing" onsubmit={place}>
          <label>it stands <input aria-label="Where it stands" bind:value={placing.place} /></label>
          <label>put there by <input aria-label="Who put it there" bind:value={placing.by} /></label>
          <button class="dotted">keep</button>
        </form>
      {:else}
        <button class="dotted" onclick={() => (placing = { ...(recorder.placed ?? { place: '', by: '' }) })}
          >{recorder.placed?.place
            ? `stands ${recorder.placed.place}${recorder.placed.by ? `, put there by ${recorder.placed.by}` : ''}`
            : 'who put it where?'}</button
        >
      {/if}
    </div>
    <div class="acts">
      {#if recorder.here}
        {#if said.locked === 'fetching too' && !recorder.open}
          <input
            type="password"
            aria-label="Password of the recorder"
            placeholder="its password"
            bind:value={password}
          />
        {/if}
        {#if unfetched > 0}
          <Button
            size="sm"
            color="alternative"
            onclick={() =>
              void doing(() =>
                call('POST /api/field/recorders/[serial]/fetch', {
                  params: { serial: recorder.serial },
                  body: given,
                }),
              )}>Fetch {unfetched} readings</Button
          >
        {/if}
        {#if (said.alarms.high !== null || said.alarms.low !== null) && !said.alarms.cleared}
          <button
            class="dotted"
            onclick={() =>
              void doing(() =>
                call('POST /api/field/recorders/[serial]/clear', { params: { serial: recorder.serial } }),
              )}>clear its alarm</button
          >
        {/if}
        {#if said.phase !== 'asleep' && said.phase !== 'blank'}
          <button
            class="dotted"
            onclick={() =>
              void doing(() =>
                call('POST /api/field/recorders/[serial]/sleep', {
                  params: { serial: recorder.serial },
                  body: given,
                }),
              )}>put it to sleep</button
          >
        {/if}
      {/if}
      {#if recorder.takeId}<button
          class="dotted"
          onclick={() => void doing(() => printRecorder(recorder, shell.files))}>its report</button
        >{/if}
      {#if recorder.takeId}<a class="dotted" href={resolve(`/inspect/${recorder.takeId}`)}>inspect the take</a
        >{/if}
    </div>
  </header>
  {#if fault}<FaultNote {fault} />{/if}
  {#if readings && readings.curves.length}
    <Readings {recorder} {readings} night={shell.night} />
  {:else if said.end > 0}
    <p class="muted">
      {recorder.here
        ? 'What it holds is not fetched yet.'
        : 'Put it into the cradle: what it holds is fetched and drawn.'}
    </p>
  {:else}
    <p class="muted">It holds no readings.</p>
  {/if}
</section>

<div class="two">
  <section class="card pad" data-testid="says">
    <h2>What its readings say</h2>
    <table>
      <tbody>
        {#each facts as [label, value, id] (label)}
          <tr data-says={id ?? label}><th>{label}</th><td class="mono">{value}</td></tr>
        {:else}<tr><td class="muted">Nothing yet.</td></tr>{/each}
      </tbody>
    </table>
    {#if said.setup && said.setup.settleS > 0}<p class="muted small">
        Limits count from {spanText(said.setup.settleS / 60)} after its start.
      </p>{/if}
  </section>
  <section class="card pad">
    <h2>How it was set up</h2>
    {#if said.setup}
      <p>{sentenceText(recorderSentence, wishOf(said.setup))}</p>
      {#if said.breaks.length}
        <h2 class="second">What went wrong</h2>
        <ul>
          {#each said.breaks as b (b.at)}<li>
              {b.why}
              {b.count ? `${b.count} readings are missing.` : ''}
            </li>{/each}
        </ul>
      {/if}
    {:else}<p class="muted">Not yet. Put it into the cradle and set it up.</p>{/if}
    {#if said.locked !== 'nothing'}<p class="muted">
        It asks for a password for {said.locked === 'setting up' ? 'setting up' : 'setting up and fetching'}.
      </p>{/if}
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
  header p {
    margin: 0;
  }
  .name {
    font-size: var(--type-title);
  }
  .alarm {
    color: var(--red);
    font-weight: 650;
  }
  .acts {
    display: flex;
    gap: var(--space-3);
    align-items: start;
    flex-wrap: wrap;
    justify-content: end;
  }
  .placing {
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
  .placing input,
  .acts input {
    font: inherit;
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-half) var(--space-2);
    width: 8rem;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: var(--space-3);
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--muted);
  }
  th,
  td {
    padding: var(--space-1) 0;
    border-bottom: 1px solid var(--hair);
  }
  td {
    text-align: right;
  }
  .small {
    font-size: var(--type-small);
  }
  .second {
    margin-top: var(--space-3);
  }
</style>
