<!-- Who is out there and what wants a look: stations, pocket recorders and their cradles, one of them opened or set up. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { Button } from 'flowbite-svelte';
  import { wantsVisit, type FieldView, type RecorderView } from '$contract/field';
  import { NEW_STATION, type StationsView } from '$contract/station';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import Cradles from './Cradles.svelte';
  import Instruments from './Instruments.svelte';
  import Recorder from './Recorder.svelte';
  import SetUp from './SetUp.svelte';
  import StationPage from './station/StationPage.svelte';
  import StationTable from './station/StationTable.svelte';

  type Props = { field: FieldView; out: StationsView; shown: string | null };
  let { field, out, shown }: Props = $props();
  const shell = useShell();

  let now = $state.raw(untrack(() => field));
  let far = $state.raw(untrack(() => out));
  let nowMs = $state(Date.now());
  const look = async () => {
    [now, far] = await Promise.all([call('GET /api/field'), call('GET /api/field/stations')]);
    nowMs = Date.now();
  };
  /** While the page is looked at it asks how things are. */
  $effect(() => {
    let ended = false;
    let timer: ReturnType<typeof setTimeout>;
    const ask = async () => {
      await look().catch(() => undefined); // the shell says that the server is gone
      if (!ended) timer = setTimeout(() => void ask(), 700);
    };
    timer = setTimeout(() => void ask(), 300);
    return () => ((ended = true), clearTimeout(timer));
  });

  let chosen = $state<{ what: 'station' | 'recorder' | 'stations'; id: string } | null>(
    untrack(() => (shown ? { what: far.stations.some((s) => s.id === shown) ? 'station' : 'recorder', id: shown } : null)), // prettier-ignore
  );
  let settingUp = $state(false);
  const here = $derived(now.recorders.find((r) => r.here));
  const nameOf = (r: RecorderView) => r.state.name || r.serial;
  const sorted = $derived([...now.recorders].sort((a, b) => Number(wantsVisit(b)) - Number(wantsVisit(a)) || Number(b.here) - Number(a.here) || nameOf(a).localeCompare(nameOf(b), undefined, { numeric: true }))); // prettier-ignore
  const station = $derived(chosen?.what === 'station' ? far.stations.find((s) => s.id === chosen!.id) : !chosen && !here && far.stations.length === 1 ? far.stations[0] : undefined); // prettier-ignore
  /** What is opened: what was chosen, else what lies in the cradle, else the stations, else what wants a look. */
  const recorder = $derived(now.recorders.find((r) => r.serial === chosen?.id) ?? here ?? sorted[0]);
  const many = $derived(chosen?.what === 'stations' || (!chosen && !here && far.stations.length > 1));
  const attention = $derived(now.recorders.filter(wantsVisit).length + far.stations.filter((s) => s.concerns.length).length); // prettier-ignore
  const counted = (n: number, one: string) => (n === 0 ? [] : [n === 1 ? `1 ${one}` : `${n} ${one}s`]);
  const says = $derived([...counted(far.stations.length, 'station'), ...counted(now.recorders.length, 'pocket recorder'), ...(attention ? [`${attention} ${attention === 1 ? 'wants' : 'want'} a look`] : [])].join(' · ')); // prettier-ignore

  async function doing(act: () => Promise<unknown>): Promise<boolean> {
    try {
      await act();
      await look();
      return true;
    } catch (error) {
      shell.say(faultText(error));
      return false;
    }
  }
  async function addStation() {
    const names = new Set(far.stations.map((s) => s.name));
    let n = far.stations.length + 1;
    while (names.has(`Station ${n}`)) n++;
    let id = '';
    const wish = { ...NEW_STATION, name: `Station ${n}`, address: adding!.trim() };
    if (await doing(async () => ({ id } = await call('POST /api/field/stations', { body: { wish } })))) [chosen, adding] = [{ what: 'station', id }, null]; // prettier-ignore
  }
  let adding = $state<string | null>(null);
</script>

<div class="page">
  <div class="page-head">
    <h1>Field</h1>
    <span class="muted">{says || 'nobody is out there yet'}</span>
    <div class="actions">
      {#if settingUp}
        <Button size="sm" color="alternative" onclick={() => (settingUp = false)}>Back to the readings</Button
        >
      {:else}
        <Button
          size="sm"
          color="alternative"
          disabled={!here && !now.batch}
          onclick={() => (settingUp = true)}>Set up a recorder</Button
        >
        {#if adding === null}
          <Button size="sm" onclick={() => (adding = '')}>Add a station</Button>
        {:else}
          <form
            class="add"
            onsubmit={(e) => {
              e.preventDefault();
              void addStation();
            }}
          >
            <!-- svelte-ignore a11y_autofocus -->
            <input
              class="plain"
              aria-label="Address of the station"
              placeholder="address, or none: it calls in"
              bind:value={adding}
              autofocus
              onkeydown={(e) => e.key === 'Escape' && (adding = null)}
            />
            <Button size="sm" type="submit">Add</Button>
          </form>
        {/if}
      {/if}
    </div>
  </div>

  <div class="columns">
    <nav class="card" aria-label="Instruments">
      <Instruments
        stations={far.stations}
        recorders={sorted}
        {nowMs}
        chosen={station?.id ?? (many ? null : recorder?.serial) ?? null}
        choose={(what, id) => ((settingUp = false), (chosen = { what, id }))}
        all={() => (chosen = { what: 'stations', id: '' })}
      />
      {#if far.listens}<p class="muted listens">
          Stations call in at port <span class="mono">{far.listens}</span>.
        </p>{/if}
      <Cradles field={now} {doing} />
    </nav>

    <div class="right">
      {#if settingUp}
        <SetUp field={now} {doing} onset={() => (settingUp = false)} />
      {:else if station}
        {#key station.id}<StationPage id={station.id} {doing} ongone={() => (chosen = null)} />{/key}
      {:else if many}
        <StationTable stations={far.stations} {nowMs} open={(id) => (chosen = { what: 'station', id })} />
      {:else if recorder}
        {#key recorder.serial}<Recorder {recorder} {doing} />{/key}
      {:else}
        <Empty
          says={now.cradles.length
            ? 'Put a recorder into the cradle: it is seen within a second, and what it holds is fetched and drawn by itself.'
            : 'Say where the cradle is: at the left, as host:port. Recorders that are put into it are seen within a second.'}
        />
      {/if}
    </div>
  </div>
</div>

<style>
  .columns {
    flex: 1;
    min-height: 0;
    display: grid;
    grid-template-columns: 16.5rem minmax(0, 1fr);
    gap: var(--space-3);
  }
  nav {
    overflow: auto;
    padding: var(--space-3) 0;
  }
  .listens {
    padding: 0 var(--space-3);
    font-size: var(--type-small);
  }
  .right {
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
  }
  .add {
    display: flex;
    gap: var(--space-2);
  }
  .add input {
    width: 17rem;
  }
</style>
