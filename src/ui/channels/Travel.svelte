<!-- The set-up as a file, and a file into this job: shown before it is done, units mapped, all or nothing. Also the list as CSV. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { ImportPreview, UnitMapping } from '$contract/setup-file';
  import type { Comma } from '$contract/columns';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { done: () => void };
  let { done }: Props = $props();
  const shell = useShell();
  let text = $state('');
  let mapping = $state<UnitMapping>({});
  let sameWires = $state(false);
  let preview = $state.raw<ImportPreview | null>(null);
  let csv = $state('');
  let comma = $state<Comma | null>(null);
  let csvPreview = $state.raw<{ added: string[]; changed: number; faults: string[] } | null>(null);
  let fault = $state<FaultText | null>(null);

  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  const look = () =>
    attempt(
      async () => (preview = await call('POST /api/setup/preview', { body: { text, mapping, sameWires } })),
    );
  const take = () =>
    attempt(async () => {
      await call('POST /api/setup', { body: { text, mapping, sameWires } });
      await shell.refresh();
      done();
    });
  const lookCsv = () =>
    attempt(
      async () =>
        (csvPreview = await call('POST /api/channels/csv', { body: { text: csv, comma, apply: false } })),
    );
  const takeCsv = () =>
    attempt(async () => {
      await call('POST /api/channels/csv', { body: { text: csv, comma, apply: true } });
      await shell.refresh();
      done();
    });
  async function read(input: HTMLInputElement, then: (text: string) => Promise<unknown>) {
    const [file] = input.files ?? [];
    preview = null;
    csvPreview = null;
    if (file) await then(await file.text());
    input.value = '';
  }
  const list = (of: { name: string; fate: string }[], fate: string) =>
    of.filter((o) => o.fate === fate).map((o) => o.name);
  const nothingNew = (p: ImportPreview) =>
    p.rules.fate === 'as they are' &&
    [p.channels, p.scales, p.sensors, p.plans, p.boards, p.wireframes]
      .flat()
      .every((o) => o.fate === 'as it is') &&
    p.units.every((u) => u.present);
  const short = (names: string[]) =>
    `${names.slice(0, 6).join(', ')}${names.length > 6 ? ` and ${names.length - 6} more` : ''}`;
</script>

<div class="row">
  <a class="button" href={resolve('/api/setup')} download>Export this set-up</a>
  <label class="button"
    >Import a set-up<input
      type="file"
      accept=".json"
      onchange={(e) =>
        void read(e.currentTarget, (t) => {
          text = t;
          mapping = {};
          sameWires = false;
          return look();
        })}
      aria-label="Set-up file"
    /></label
  >
  <span class="muted"
    >units, channels, sensors, scales, calibrations, plans, rules and boards in one file; recordings and
    passwords stay behind</span
  >
</div>
<div class="row">
  <a class="button" href={resolve('/api/channels/csv')} download>Channel list as CSV</a>
  <label class="button"
    >Take channels from CSV<input
      type="file"
      accept=".csv"
      onchange={(e) =>
        void read(e.currentTarget, (t) => {
          csv = t;
          return lookCsv();
        })}
      aria-label="CSV file"
    /></label
  >
</div>
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if csvPreview}
  <p>
    {csvPreview.added.length} new channels{csvPreview.added.length ? ` (${short(csvPreview.added)})` : ''}, {csvPreview.changed}
    cells changed.
  </p>
  {#each csvPreview.faults.slice(0, 12) as f (f)}<p class="wrong">◆ {f}</p>{/each}
  {#if csvPreview.faults.some((f) => f.includes('comma'))}
    <div class="row">
      A comma is {#each ['decimal sign', 'between thousands'] as const as choice (choice)}<label
          ><input type="radio" bind:group={comma} value={choice} onchange={() => void lookCsv()} />
          {choice}</label
        >{/each}
    </div>
  {/if}
  <Button size="sm" disabled={csvPreview.faults.length > 0} onclick={() => void takeCsv()}>Take them</Button>
{/if}
{#if preview}
  <h3>{preview.job}</h3>
  <table class="plain">
    <thead><tr><th>Unit of the file</th><th>becomes here</th></tr></thead>
    <tbody>
      {#each preview.units as unit (unit.serial)}
        <tr>
          <td>{unit.name} <span class="muted">{unit.serial}, {unit.kind}</span></td>
          <td>
            <select
              aria-label="Unit for {unit.serial}"
              value={unit.takes ?? ''}
              onchange={(e) => {
                mapping = { ...mapping, [unit.serial]: e.currentTarget.value || null };
                void look();
              }}
            >
              <option value="">{unit.present ? 'the same one, which is here' : 'added to the list'}</option>
              {#each unit.choices as choice (choice.serial)}<option value={choice.serial}
                  >{choice.name} ({choice.serial})</option
                >{/each}
            </select>
          </td>
        </tr>
      {/each}
    </tbody>
  </table>
  <ul>
    {#each [['Channels', preview.channels], ['Scales', preview.scales], ['Sensors', preview.sensors], ['Plans', preview.plans], ['Boards', preview.boards], ['Wireframes', preview.wireframes]] as const as [what, of] (what)}
      {#each ['added', 'replaced'] as fate (fate)}
        {#if list(of, fate).length}<li>
            {what}
            {fate}: <strong>{list(of, fate).length}</strong>
            <span class="muted">{short(list(of, fate))}</span>
          </li>{/if}
      {/each}
    {/each}
    {#if preview.rules.fate === 'replaced'}<li>
        {preview.rules.count === 1 ? 'Its rule takes' : `Its ${preview.rules.count} rules take`} the place of those
        here.
      </li>{/if}
    {#if nothingNew(preview)}<li>All that is in the file is here already, as it is there.</li>{/if}
    <li>Armed next: plan “{preview.armedNext}”.</li>
    {#if preview.left.length}<li>
        Left as they are: {preview.left.length} channels <span class="muted">{short(preview.left)}</span>
      </li>{/if}
  </ul>
  {#if preview.throughOthers.length}
    <label class="same"
      ><input type="checkbox" bind:checked={sameWires} />
      <span
        >{preview.throughOthers.length === 1
          ? `The calibration of ${preview.throughOthers[0].channel} was`
          : `${preview.throughOthers.length} calibrations (${short(preview.throughOthers.map((t) => t.channel))}) were`}
        made through {[...new Set(preview.throughOthers.map((t) => t.from))].join(', ')}. The same sensors are
        on the same terminals of {[...new Set(preview.throughOthers.map((t) => t.to))].join(', ')} now, which reads
        as well: they hold.
        <span class="muted">Unticked, they read “changed since” until they are made again.</span></span
      ></label
    >
  {/if}
  {#each preview.notes as note (note)}<p class="muted">{note}</p>{/each}
  {#each preview.addresses as { address, listed } (address)}
    <p class={listed ? 'muted' : 'ochre'}>
      {listed ? '' : '▲ '}Its rules call {address}{listed
        ? '.'
        : ', whose host is not on the list here: nothing is sent until somebody puts it there.'}
    </p>
  {/each}
  {#each preview.faults as f (f)}<p class="wrong">◆ {f}</p>{/each}
  <div class="row">
    <Button size="sm" disabled={preview.faults.length > 0} onclick={() => void take()}>Import it</Button><span
      class="muted">As one change: undo takes it back.</span
    >
  </div>
{/if}

<style>
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    flex-wrap: wrap;
    margin-bottom: var(--space-2);
    font-size: var(--type-body);
  }
  .button {
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: var(--space-1) var(--space-3);
    color: var(--ink);
    cursor: pointer;
    background: var(--paper);
  }
  .button:hover,
  .button:focus-within {
    border-color: var(--plum);
    color: var(--plum);
  }
  .button input {
    position: absolute;
    width: 1px;
    height: 1px;
    opacity: 0;
  }
  h3 {
    font-size: var(--type-body);
    font-weight: 650;
    margin: var(--space-1) 0;
  }
  ul {
    margin: var(--space-2) 0;
    padding-left: var(--space-4);
    list-style: disc;
  }
  select {
    font: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-6) var(--space-half) var(--space-2);
  }
  .wrong {
    color: var(--red);
    margin: var(--space-half) 0;
  }
  p {
    margin: var(--space-1) 0;
  }
  .same {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
    margin: var(--space-1) 0;
  }
</style>
