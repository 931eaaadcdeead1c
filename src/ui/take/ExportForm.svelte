<script lang="ts">
  import type { TakeSignal } from '$contract/take';
  import { Button, Input, Label, Modal, Select } from 'flowbite-svelte';
  import { faultText, Fault, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { parseNumber } from '../sentence/options';

  type Props = { open: boolean; takeId: string; signals: TakeSignal[] };
  let { open = $bindable(), takeId, signals }: Props = $props();

  let chosen = $state<number[]>([]);
  let step = $state('0.1');
  let decimal = $state('.');
  let fault = $state<FaultText | null>(null);
  let busy = $state(false);

  $effect(() => {
    if (open) chosen = signals.map((s) => s.id);
  });
  const toggle = (id: number) =>
    (chosen = chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id]);

  async function save() {
    const stepS = step.trim() === '' ? null : parseNumber(step);
    if (chosen.length === 0)
      return void (fault = { what: 'No channel is chosen.', next: 'Choose at least one.' });
    if (stepS !== null && !(stepS > 0))
      return void (fault = {
        what: `“${step}” is no time step.`,
        next: 'Give seconds above 0, or leave it empty for the samples as taken.',
      });
    busy = true;
    try {
      const response = await fetch(
        `/api/takes/${takeId}/csv?signals=${chosen.join()}&decimal=${decimal}${stepS === null ? '' : `&step=${stepS}`}`,
      );
      if (!response.ok)
        throw new Fault(((await response.json()) as { error: FaultText }).error, response.status);
      const name =
        /filename\*=UTF-8''([^;]+)/.exec(response.headers.get('content-disposition') ?? '')?.[1] ??
        'take.csv';
      saveAs(await response.blob(), decodeURIComponent(name));
      fault = null;
      open = false;
    } catch (error) {
      fault = faultText(error);
    } finally {
      busy = false;
    }
  }
  function saveAs(blob: Blob, name: string) {
    const link = Object.assign(document.createElement('a'), {
      href: URL.createObjectURL(blob),
      download: name,
    });
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  }
</script>

<Modal bind:open title="Export as CSV" size="sm">
  <form
    onsubmit={(e) => {
      e.preventDefault();
      void save();
    }}
  >
    <div class="channels">
      {#each signals as s (s.id)}<label
          ><input type="checkbox" checked={chosen.includes(s.id)} onchange={() => toggle(s.id)} />
          {s.name} <span class="muted">{s.unit}</span></label
        >{/each}
    </div>
    <p>
      <button type="button" class="dotted" onclick={() => (chosen = [])}>none</button>
      <button type="button" class="dotted" onclick={() => (chosen = signals.map((s) => s.id))}>all</button>
    </p>
    <div class="two">
      <div>
        <Label for="csv-step" class="mb-1">Time step, s</Label>
        <Input id="csv-step" bind:value={step} placeholder="as sampled" autocomplete="off" />
      </div>
      <div>
        <Label for="csv-decimal" class="mb-1">Decimal sign</Label>
        <Select
          id="csv-decimal"
          bind:value={decimal}
          items={[
            { value: '.', name: 'point' },
            { value: ',', name: 'comma' },
          ]}
        />
      </div>
    </div>
    <p class="muted">
      An empty time step keeps the samples as they were taken. Marks, calibrations and raw values stay in the
      take.
    </p>
    {#if fault}<FaultNote {fault} />{/if}
    <Button type="submit" disabled={busy} class="mt-3">{busy ? 'Writing…' : 'Save the file'}</Button>
  </form>
</Modal>

<style>
  .channels {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 3px 12px;
    max-height: 260px;
    overflow: auto;
  }
  label {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 12px;
    margin: 8px 0;
  }
</style>
