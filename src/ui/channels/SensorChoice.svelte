<!-- Which sensor is on a channel, and what taking over its sheet would change. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import type { Channel } from '$contract/channel';
  import type { SensorView, SheetDifference } from '$contract/sensor';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { channel: Channel };
  let { channel }: Props = $props();
  const shell = useShell();
  let sensors = $state.raw<SensorView[] | null>(null);
  let wanted = $state<string | null>(null);
  let differences = $state.raw<SheetDifference[]>([]);
  let fault = $state<FaultText | null>(null);

  async function attempt(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
    } catch (error) {
      fault = faultText(error);
    }
  }
  const list = () => attempt(async () => (sensors = await call('GET /api/sensors')));
  const compare = (serial: string) =>
    attempt(async () => {
      differences = await call('GET /api/channels/[id]/sheet', {
        params: { id: channel.id },
        query: { serial },
      });
      wanted = serial;
    });
  const take = () =>
    attempt(async () => {
      await call('POST /api/channels/[id]/sheet', { params: { id: channel.id }, body: { serial: wanted! } });
      wanted = sensors = null;
      await shell.refresh();
    });
</script>

<p>
  <strong>Sensor</strong>
  {channel.sensorSerial || 'none named'}
  {#if sensors}
    <select aria-label="Sensor" value={wanted ?? ''} onchange={(e) => void compare(e.currentTarget.value)}>
      <option value="" disabled>choose one</option>
      {#each sensors as s (s.serial)}<option value={s.serial}
          >{s.serial} {s.kind}{s.due ? ', past due' : ''}</option
        >{/each}
    </select>
    {#if sensors.length === 0}<a class="dotted" href={resolve('/channels/sensors')}>The drawer is empty.</a
      >{/if}
  {:else}
    <button class="dotted" onclick={() => void list()}>from the drawer</button>
  {/if}
</p>
{#if wanted}
  {#if differences.length}
    <table class="plain">
      <tbody>
        {#each differences as d (d.key)}<tr
            ><td class="muted">{d.label}</td><td>{d.now}</td><td class="next">{d.next}</td></tr
          >{/each}
      </tbody>
    </table>
    <button class="dotted take" onclick={() => void take()}>Take its sheet over</button>
  {:else}<p class="muted">The channel is set just as its sheet says.</p>{/if}
{/if}
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}

<style>
  p {
    margin: 0;
    font-size: var(--type-small);
  }
  table {
    font-size: var(--type-small);
  }
  .next {
    color: var(--plum);
    font-weight: 600;
  }
  .take {
    font-size: var(--type-small);
    align-self: flex-start;
  }
  select {
    font: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: 0 var(--space-6) 0 var(--space-1);
    max-width: 190px;
  }
</style>
