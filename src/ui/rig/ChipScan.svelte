<!-- Reads the chips of all smart sensors of a unit: what each says, what it would change, and the choice to take it over. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { ReadChip } from '$contract/sensor';
  import { Button } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';

  type Props = { serial: string; done: () => void };
  let { serial, done }: Props = $props();
  const shell = useShell();
  let chips = $state.raw<ReadChip[] | null>(null);
  let wanted = $state<string[]>([]);
  let open = $state<string | null>(null);
  let fault = $state<FaultText | null>(null);

  onMount(async () => {
    try {
      const read = await call('GET /api/units/[serial]/chips', { params: { serial } });
      chips = read;
      wanted = read.filter((c) => c.sensor && c.differences.length).map((c) => c.terminal);
    } catch (error) {
      fault = faultText(error);
    }
  });
  async function take() {
    try {
      await call('POST /api/units/[serial]/chips', { params: { serial }, body: { terminals: wanted } });
      await shell.refresh();
      done();
    } catch (error) {
      fault = faultText(error);
    }
  }
</script>

{#if fault}<FaultNote {fault} />{/if}
{#if !chips}
  {#if !fault}<p class="muted">Reading the chips…</p>{/if}
{:else if chips.length === 0}
  <p class="muted">No sensor on this unit has a chip.</p>
{:else}
  {#each chips as chip (chip.terminal)}
    <section data-terminal={chip.terminal}>
      <label class="head">
        <input
          type="checkbox"
          bind:group={wanted}
          value={chip.terminal}
          disabled={!chip.sensor}
          aria-label="Take over {chip.terminal}"
        />
        <strong class="mono">{chip.terminal}</strong>
        <span>{chip.sensor ? `${chip.title}, ${chip.sensor.serial}` : chip.title}</span>
        <span class="muted to">{chip.channel ? `→ ${chip.channel}` : 'free: a channel is made'}</span>
      </label>
      {#if chip.fault}<p class="wrong">◆ {chip.fault}</p>
      {:else if chip.channel && chip.differences.length === 0}<p class="muted">
          The channel is set just as the chip says.
        </p>
      {:else if chip.differences.length}
        <table class="plain">
          <thead><tr><th>Setting</th><th>Now</th><th>By the chip</th></tr></thead>
          <tbody>
            {#each chip.differences as d (d.key)}<tr
                ><td class="muted">{d.label}</td><td>{d.now}</td><td class="next">{d.next}</td></tr
              >{/each}
          </tbody>
        </table>
      {/if}
      <button class="dotted small" onclick={() => (open = open === chip.terminal ? null : chip.terminal)}
        >{open === chip.terminal ? 'less' : 'all that the chip says'}</button
      >
      {#if open === chip.terminal}
        <dl>
          {#each chip.sheet as line (line.label)}<dt class="muted">{line.label}</dt>
            <dd>{line.text}</dd>{/each}
        </dl>
      {/if}
    </section>
  {/each}
  <div class="row">
    <Button size="sm" disabled={wanted.length === 0} onclick={() => void take()}
      >Take over {wanted.length}</Button
    ><span class="muted">Nothing is replaced before. Undo brings the former values back.</span>
  </div>
{/if}

<style>
  section {
    border-bottom: 1px solid var(--line);
    padding: var(--space-2) 0;
  }
  .head {
    display: flex;
    gap: var(--space-2);
    align-items: baseline;
  }
  .to {
    margin-left: auto;
    font-size: var(--type-small);
  }
  p {
    margin: var(--space-1) 0 0 var(--space-6);
  }
  table {
    margin: var(--space-1) 0 var(--space-1) var(--space-6);
    width: calc(100% - 24px);
    font-size: var(--type-body);
  }
  .next {
    color: var(--plum);
    font-weight: 600;
  }
  .small {
    font-size: var(--type-small);
    margin-left: var(--space-6);
  }
  dl {
    display: grid;
    grid-template-columns: max-content 1fr max-content 1fr;
    gap: var(--space-half) var(--space-3);
    margin: var(--space-1) 0 0 var(--space-6);
    font-size: var(--type-small);
  }
  dd {
    margin: 0;
  }
  .row {
    display: flex;
    gap: var(--space-3);
    align-items: center;
    margin-top: var(--space-3);
    font-size: var(--type-small);
  }
  .wrong {
    color: var(--red);
  }
</style>
