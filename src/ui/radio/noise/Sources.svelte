<!-- Noise sources that are kept: typed, pasted from a sheet or read from CSV, as MHz, dB and ±. A table may hold for this time only. -->
<script lang="ts">
  import { Button } from 'flowbite-svelte';
  import { NoiseSource } from '$contract/radio-noise';
  import { call, faultText } from '../../api';
  import Dialog from '../../kit/Dialog.svelte';
  import DayField from '../../kit/DayField.svelte';
  import { readRows } from '../words';

  type Props = {
    open: boolean;
    sources: NoiseSource[];
    changed: (sources: NoiseSource[]) => void;
    /** Uses the table that is written for this time only; where a source is used. */
    forNow: ((points: NoiseSource['points']) => Promise<unknown>) | null;
  };
  let { open = $bindable(), sources, changed, forNow }: Props = $props();

  let serial = $state('');
  let name = $state('');
  let calibrated = $state('');
  let text = $state('');
  let says = $state('');
  const read = $derived.by(() => {
    const rows = readRows(text, 'MHz, excess noise ratio in dB, and ± in dB where it is known', 2, 3);
    if (!Array.isArray(rows)) return rows;
    return rows.map(([mhz, enr, expanded = 0.2]) => ({ hz: mhz * 1e6, enr, expanded }));
  });
  function show(source: NoiseSource) {
    ({ serial, name, calibrated } = source);
    text = source.points.map((p) => `${p.hz / 1e6}\t${p.enr}\t${p.expanded}`).join('\n');
    says = '';
  }
  async function doing(work: () => Promise<unknown>, done: string) {
    try {
      await work();
      says = done;
    } catch (error) {
      const { what, why } = faultText(error);
      says = [what, why].filter(Boolean).join(' ');
    }
  }
  const keep = () =>
    doing(async () => {
      if (!Array.isArray(read)) throw new Error(read.fault);
      changed(await call('PUT /api/radio/sources', { body: { serial, name, calibrated, points: read } }));
    }, `${serial} is kept.`);
  const drop = (source: NoiseSource) =>
    doing(
      async () =>
        changed(await call('DELETE /api/radio/sources/[serial]', { params: { serial: source.serial } })),
      `${source.serial} was taken away.`,
    );
  async function file(e: Event & { currentTarget: HTMLInputElement }) {
    const picked = e.currentTarget.files?.[0];
    if (picked) text = await picked.text();
    e.currentTarget.value = '';
  }
</script>

<Dialog bind:open title="Noise sources" size="md">
  <div class="columns">
    <ul>
      {#each sources as source (source.serial)}
        <li>
          <button type="button" class="dotted" onclick={() => show(source)}>{source.serial}</button>
          <span class="muted"
            >{[
              source.name,
              `${source.points.length} points`,
              source.calibrated && `calibrated ${source.calibrated}`,
            ]
              .filter(Boolean)
              .join(', ')}</span
          >
          <button type="button" class="quiet" onclick={() => void drop(source)}>take away</button>
        </li>
      {:else}
        <li class="muted">None is kept yet: its certificate has a table of excess noise over frequency.</li>
      {/each}
    </ul>
    <form
      onsubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <label>Serial number <input class="plain" bind:value={serial} maxlength="40" required /></label>
      <label>Name <input class="plain" bind:value={name} maxlength="60" /></label>
      <label>Calibrated <DayField bind:value={calibrated} label="Calibrated" /></label>
      <label class="wide"
        >MHz, excess noise ratio in dB, ± in dB
        <textarea class="plain mono" rows="9" bind:value={text} placeholder="10  15.2  0.16"
        ></textarea></label
      >
      <p class="muted" role="status">
        {says ||
          (!text.trim()
            ? 'One point a line; or read a file of them.'
            : Array.isArray(read)
              ? `${read.length} points`
              : read.fault)}
      </p>
      <div class="acts">
        <label class="file"
          ><span class="dotted">Read CSV</span><input
            type="file"
            accept=".csv,.txt,text/*"
            onchange={file}
          /></label
        >
        {#if forNow}
          <Button
            size="sm"
            color="alternative"
            disabled={!Array.isArray(read) || read.length === 0}
            onclick={() =>
              void doing(
                () => forNow(read as NoiseSource['points']),
                'Used for this time only: what is kept stays.',
              )}>Use for this time</Button
          >
        {/if}
        <Button size="sm" type="submit" disabled={!Array.isArray(read) || read.length === 0}>Keep it</Button>
      </div>
    </form>
  </div>
</Dialog>

<style>
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
    gap: var(--space-5);
  }
  ul,
  form {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    align-items: stretch;
  }
  li {
    display: flex;
    flex-wrap: wrap;
    gap: 0 var(--space-2);
    align-items: baseline;
  }
  label {
    display: grid;
    grid-template-columns: 120px 1fr;
    align-items: center;
    gap: var(--space-2);
  }
  .wide {
    grid-template-columns: 1fr;
  }
  textarea {
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    font-size: var(--type-small);
  }
  .file .dotted {
    white-space: nowrap;
  }
  .quiet,
  p {
    font-size: var(--type-small);
    color: var(--muted);
  }
  .acts {
    display: flex;
    justify-content: flex-end;
    align-items: center;
    gap: var(--space-3);
  }
  .file {
    display: block;
    margin-right: auto;
    cursor: pointer;
  }
  .file input {
    position: absolute;
    opacity: 0;
    width: 1px;
  }
</style>
