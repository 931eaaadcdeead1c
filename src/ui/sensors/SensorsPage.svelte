<!-- The drawer of sensors: what each is, what its sheet says, its papers, where it is used now. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { dayText } from '$core/readings';
  import { fieldText, NO_NAMES, sentenceFields } from '$core/sentence/sentence';
  import { channelKind } from '$contract/channel';
  import {
    NEW_SENSOR,
    REFERENCE,
    SENSOR_KINDS,
    sheetKeys,
    sensorSentence,
    type Sensor,
    type SensorView,
  } from '$contract/sensor';
  import { Button, Input } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import FaultNote from '../kit/FaultNote.svelte';
  import { parseNumber } from '../sentence/options';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { sensors: SensorView[] };
  let { sensors }: Props = $props();
  const shell = useShell();
  let search = $state('');
  let chosenSerial = $state<string | null>(null);
  let fault = $state<FaultText | null>(null);
  let adding = $state(false);
  let fresh = $state<{ serial: string; kind: Sensor['kind'] }>({ serial: '', kind: 'bridge sensor' });

  const found = $derived(
    sensors.filter((s) =>
      `${s.serial} ${s.kind} ${s.model} ${s.note} ${s.usedBy.map((u) => u.channel).join(' ')}`
        .toLowerCase()
        .includes(search.toLowerCase().trim()),
    ),
  );
  const chosen = $derived(sensors.find((s) => s.serial === chosenSerial) ?? found[0] ?? null);
  const kinds = [...SENSOR_KINDS.filter((kind) => sheetKeys(kind).length > 0), REFERENCE] as Sensor['kind'][];

  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
      await shell.refresh();
      return true;
    } catch (error) {
      fault = faultText(error);
      return false;
    }
  }
  const edit = async (key: string, value: unknown) => {
    const sensor = await call('POST /api/sensors', {
      body: {
        former: chosen!.serial,
        edit: { [key]: value },
      },
    });
    chosenSerial = sensor.serial;
    await shell.refresh();
  };
  async function add() {
    if (
      await attempt(() =>
        call('POST /api/sensors', { body: { former: null, edit: { ...NEW_SENSOR, ...fresh } } }),
      )
    ) {
      chosenSerial = fresh.serial.trim();
      adding = false;
      fresh = { serial: '', kind: fresh.kind };
    }
  }
  /** Values of a sheet: the settings of its kind of channel that belong to the sensor. */
  const sheetFields = (sensor: Sensor) =>
    sensor.kind === REFERENCE
      ? []
      : sentenceFields(channelKind(sensor.kind).sentence.schema).filter((f) =>
          sheetKeys(sensor.kind).includes(f.key),
        );
  const sheetText = (sensor: Sensor) =>
    sheetFields(sensor)
      .filter((f) => sensor.sheet[f.key] !== undefined)
      .map((f) => fieldText(f, { ...sensor.sheet, unit: sensor.unit }, NO_NAMES))
      .join(', ');
  const setSheet = (sensor: Sensor, key: string, text: string) =>
    attempt(async () => {
      const rest = Object.fromEntries(Object.entries(sensor.sheet).filter(([k]) => k !== key));
      const number = parseNumber(text);
      const next =
        text.trim() === '' ? rest : { ...rest, [key]: Number.isNaN(number) ? text.trim() : number };
      await call('POST /api/sensors', { body: { former: sensor.serial, edit: { sheet: next } } });
    });
  async function readList(input: HTMLInputElement) {
    const [file] = input.files ?? [];
    if (file)
      await attempt(async () => call('POST /api/sensors/list', { body: { text: await file.text() } }));
    input.value = '';
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Sensors</h1>
    <span class="aside"
      >{sensors.length} in the drawer{sensors.some((s) => s.due)
        ? ` · ${sensors.filter((s) => s.due).length} past due`
        : ''}</span
    >
    <div class="actions">
      <span class="links">
        <a class="dotted" href={resolve('/channels')}>to the channels</a>
        <a class="dotted" href={resolve('/api/sensors/list?as=csv')} download>CSV</a>
        <a class="dotted" href={resolve('/api/sensors/list?as=json')} download>JSON</a>
        <label class="dotted"
          >Import<input
            type="file"
            accept=".csv,.json"
            onchange={(e) => void readList(e.currentTarget)}
            aria-label="List of sensors"
          /></label
        ></span
      >
      <div class="search">
        <Input size="sm" placeholder="Find a sensor" bind:value={search} aria-label="Find a sensor" />
      </div>
      <Button size="sm" onclick={() => (adding = true)}>Add a sensor</Button>
    </div>
  </div>
  {#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
  {#if sensors.length === 0}
    <Empty
      says="A sensor outlives a job: its serial number, sheet and papers stay here. Add one, or read the chips of smart sensors on the rig."
      ><Button onclick={() => (adding = true)}>Add a sensor</Button></Empty
    >
  {:else}
    <div class="columns">
      <div class="card list more-aside">
        <table class="plain">
          <thead
            ><tr><th>Serial no.</th><th>Kind</th><th>Model</th><th>Sheet</th><th>Due</th><th>Used now</th></tr
            ></thead
          >
          <tbody>
            {#each found as s (s.serial)}
              <tr
                class:here={s.serial === chosen?.serial}
                data-serial={s.serial}
                onclick={() => (chosenSerial = s.serial)}
              >
                <td><button class="mono" onclick={() => (chosenSerial = s.serial)}>{s.serial}</button></td>
                <td>{s.kind}</td>
                <td class="cut" title={s.model}>{s.model}</td>
                <td class="cut" title={sheetText(s)}>{sheetText(s)}</td>
                <td class:red={s.due}>{s.due ? '▲ ' : ''}{dayText(s.calibratedUntil)}</td>
                <td class="cut" title={s.usedBy.map((u) => u.channel).join(', ')}
                  >{s.usedBy.map((u) => u.channel).join(', ')}</td
                >
              </tr>
            {:else}<tr><td colspan="6" class="muted">No sensor is called that.</td></tr>{/each}
          </tbody>
        </table>
      </div>
      {#if chosen}
        {#key chosen.serial}
          <aside class="card" aria-label="Sensor {chosen.serial}">
            <h1 class="mono">{chosen.serial}</h1>
            <SentenceView
              sentence={sensorSentence}
              value={chosen as unknown as Record<string, unknown>}
              names={NO_NAMES}
              change={edit}
            />
            <h2>Sheet</h2>
            <table class="plain">
              <tbody>
                {#each sheetFields(chosen) as f (f.key)}
                  <tr>
                    <td class="muted">{f.info.label}</td>
                    <td>
                      {#if Array.isArray(f.info.options)}
                        <select
                          aria-label={f.info.label}
                          value={String(chosen.sheet[f.key] ?? '')}
                          onchange={(e) => void setSheet(chosen, f.key, e.currentTarget.value)}
                        >
                          <option value="">not given</option>{#each f.info.options as option (option)}<option
                              >{option}</option
                            >{/each}
                        </select>
                      {:else}
                        <input
                          class="mono"
                          aria-label={f.info.label}
                          value={chosen.sheet[f.key] ?? ''}
                          placeholder="not given"
                          onchange={(e) => void setSheet(chosen, f.key, e.currentTarget.value)}
                        />
                      {/if}
                      <span class="muted"
                        >{f.info.unit ?? (f.info.unitFrom === 'unit' ? chosen.unit : '')}</span
                      >
                    </td>
                  </tr>
                {/each}
              </tbody>
            </table>
            <h2>Papers</h2>
            {#each chosen.documents as d (d.id)}
              <div class="paper">
                <a class="dotted" href={resolve(`/api/documents/${d.id}`)} download>{d.name}</a><span
                  class="muted">{(d.bytes / 1000).toFixed(0)} kB</span
                ><button
                  class="muted"
                  aria-label="Take {d.name} out"
                  onclick={() =>
                    void attempt(() => call('DELETE /api/documents/[id]', { params: { id: String(d.id) } }))}
                  >×</button
                >
              </div>
            {/each}
            <label class="dotted small"
              >Attach a certificate or sheet<input
                type="file"
                aria-label="Paper"
                onchange={(e) => {
                  const [file] = e.currentTarget.files ?? [];
                  if (file)
                    void attempt(() =>
                      call('POST /api/sensors/[serial]', { params: { serial: chosen.serial }, file }),
                    );
                }}
              /></label
            >
            <h2>Used now</h2>
            {#each chosen.usedBy as use (use.channelId)}<p class="small">
                <a class="dotted" href={resolve(`/channels#${use.channelId}`)}>{use.channel}</a>
                <span class="muted">{use.job}</span>
              </p>{:else}<p class="muted small">by no channel</p>{/each}
            <button
              class="remove"
              onclick={() =>
                void attempt(() =>
                  call('DELETE /api/sensors/[serial]', { params: { serial: chosen.serial } }),
                )}>Take it out of the drawer</button
            >
          </aside>
        {/key}
      {/if}
    </div>
  {/if}
</div>

<Dialog bind:open={adding} title="Add a sensor" size="xs">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void add();
    }}
  >
    <label>Serial number <input class="mono" bind:value={fresh.serial} required /></label>
    <label
      >Kind <select bind:value={fresh.kind}
        >{#each kinds as kind (kind)}<option>{kind}</option>{/each}</select
      ></label
    >
    <Button size="sm" type="submit">Put it in</Button>
  </form>
</Dialog>

<style>
  .actions {
    font-size: var(--type-small);
    gap: var(--space-3);
  }
  .links {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
    align-self: center;
  }
  .search {
    width: 150px;
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 346px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .list {
    overflow: auto;
  }
  thead th {
    position: sticky;
    top: 0;
    background: var(--card);
  }
  tr.here td {
    background: var(--tint);
  }
  tbody tr {
    cursor: pointer;
  }
  td {
    white-space: nowrap;
  }
  .cut {
    max-width: 132px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .red {
    color: var(--red);
  }
  aside {
    padding: var(--space-3) var(--space-4);
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
  }
  aside h1 {
    font-size: var(--type-reading);
  }
  aside h2 {
    margin-top: var(--space-1);
  }
  aside td {
    white-space: normal;
  }
  input:not([type='file']),
  select {
    font-size: var(--type-body);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-2);
    max-width: 112px;
  }
  select {
    padding-right: var(--space-6);
  }
  input[type='file'] {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  label.dotted {
    cursor: pointer;
  }
  .paper {
    display: flex;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  .small {
    font-size: var(--type-small);
    align-self: flex-start;
    margin: 0;
  }
  .remove {
    color: var(--muted);
    font-size: var(--type-small);
    text-align: left;
    margin-top: auto;
  }
  .remove:hover {
    color: var(--red);
  }
  form {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
  }
  form input,
  form select {
    display: block;
    width: 100%;
    max-width: none !important;
  }
</style>
