<!-- Who a unit is, how it is, and what it can be asked: self-test, reset, chips, wiring list. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { dayText } from '$core/readings';
  import type { UnitState } from '$contract/unit';
  import type { SelfTest } from '$contract/unit';
  import { findUnitKind } from '$contract/units/kinds';
  import { Button } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import { useShell } from '../shell/shell.svelte';
  import ChipScan from './ChipScan.svelte';

  type Props = { unit: UnitState; channels: number; removed: () => void };
  let { unit, channels, removed }: Props = $props();
  const shell = useShell();
  const d = $derived(unit.description);
  const kind = $derived(findUnitKind(d.kind));
  const params = $derived({ serial: d.serial });

  let naming = $state(false);
  let fault = $state<FaultText | null>(null);
  let test = $state.raw<SelfTest | null>(null);
  let resetting = $state(false);
  let removing = $state(false);
  let scanning = $state(false);
  const focus = (input: HTMLInputElement) => input.select();

  async function act(work: () => Promise<unknown>) {
    try {
      await work();
      fault = null;
      return true;
    } catch (error) {
      fault = faultText(error);
      return false;
    }
  }
  async function rename(name: string) {
    if (!naming) return;
    naming = false;
    if (name.trim() === d.name) return;
    await act(() => call('PATCH /api/units/[serial]', { params, body: { name } }));
    await shell.refresh();
  }
  async function reset() {
    resetting = false;
    await act(() => call('POST /api/units/[serial]/reset', { params }));
  }
  async function remove() {
    removing = false;
    if (await act(() => call('DELETE /api/units/[serial]', { params }))) removed();
  }
  const facts = $derived(
    [
      d.serial,
      kind && kind.title !== d.name ? kind.title : '',
      d.standIn ? 'stand-in' : '',
      d.firmware && `firmware ${d.firmware}`,
      d.calibratedUntil && `calibrated until ${dayText(d.calibratedUntil)}`,
      d.temperature !== null ? `${d.temperature.toFixed(1)} °C inside` : '',
    ].filter(Boolean),
  );
</script>

<div class="head">
  {#if naming}
    <input
      value={d.name}
      {@attach focus}
      aria-label="Name of the unit"
      onblur={(e) => void rename(e.currentTarget.value)}
      onkeydown={(e) =>
        e.key === 'Enter' ? void rename(e.currentTarget.value) : e.key === 'Escape' && (naming = false)}
    />
  {:else}
    <h2><button title="Rename" onclick={() => (naming = true)}>{d.name}</button></h2>
  {/if}
  <span class="answer" class:lost={!unit.answering}>{unit.answering ? '● answering' : '◌ not answering'}</span
  >
</div>
<div class="row">
  <span class="muted facts">{facts.join(' · ')}</span>
  <div class="acts">
    {#if d.abilities.includes('self-test')}<button
        class="dotted"
        onclick={() => act(async () => (test = await call('POST /api/units/[serial]/test', { params })))}
        >Self-test</button
      >{/if}
    {#if d.abilities.includes('chips')}<button class="dotted" onclick={() => (scanning = true)}
        >Read smart sensors</button
      >{/if}
    {#if d.abilities.includes('reset')}<button class="dotted" onclick={() => (resetting = true)}
        >{d.standIn ? 'Reset' : 'Connect anew'}</button
      >{/if}
    {#if d.abilities.includes('log')}<a class="dotted" href={resolve(`/api/units/${d.serial}/log`)} download
        >Save the log</a
      >{/if}
    {#if d.modules.some((m) => m.bandwidthShare > 0)}<a
        class="dotted"
        href={resolve(`/api/units/${d.serial}/wiring`)}
        download>Wiring list</a
      >{/if}
    <button class="dotted" onclick={() => (removing = true)}>Remove</button>
  </div>
</div>
{#if !unit.answering && unit.says}<p class="wrong" role="status">◌ {unit.says}</p>{/if}
{#if d.counts.length}
  <p class="muted counts">
    {#each d.counts as { what, count } (what)}<span>{count.toLocaleString('en-GB')} {what}</span>{/each}
  </p>
{/if}
{#if fault}<FaultNote {fault} onclose={() => (fault = null)} />{/if}
{#if test}
  <div class="test" role="status">
    <strong class={test.ok ? 'well' : 'wrong'}
      >{test.ok ? '● Self-test passed' : '◆ Self-test found something'}</strong
    >
    <span class="muted">{new Date(test.atMs).toLocaleTimeString('en-GB')}</span>
    <button class="dotted" onclick={() => (test = null)}>close</button>
    <ul>
      {#each test.checks as check (check.what)}<li class:wrong={!check.ok}>
          {check.ok ? '●' : '◆'}
          {check.what}{check.ok ? '' : `: ${check.says}`}
        </li>{/each}
    </ul>
  </div>
{/if}

<Dialog bind:open={resetting} title={d.standIn ? `Reset ${d.name}?` : `Connect ${d.name} anew?`} size="xs">
  <p>
    Outputs go to rest, lines become inputs, counts start from 0, and the {channels} channel{channels === 1
      ? ''
      : 's'} on it miss{channels === 1 ? 'es' : ''} some samples. A take that is armed or recorded is not disturbed:
    the unit refuses then.
  </p>
  <Button size="sm" onclick={() => void reset()}>{d.standIn ? 'Reset it' : 'Connect anew'}</Button>
</Dialog>
<Dialog bind:open={removing} title="Remove {d.name}?" size="xs">
  <p>
    {channels
      ? `${channels} channel${channels > 1 ? 's' : ''} wired to it will say that the unit is missing. `
      : ''}Undo brings it back.
  </p>
  <Button size="sm" onclick={() => void remove()}>Remove it</Button>
</Dialog>
<Dialog bind:open={scanning} title="Smart sensors on {d.name}" size="lg">
  {#if scanning}<ChipScan serial={d.serial} done={() => (scanning = false)} />{/if}
</Dialog>

<style>
  .head {
    display: flex;
    gap: var(--space-3);
    align-items: baseline;
  }
  h2 {
    font-size: var(--type-reading);
  }
  input {
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: 1px var(--space-1);
    font-size: var(--type-reading);
  }
  .answer {
    margin-left: auto;
    color: var(--moss);
    font-weight: 600;
    white-space: nowrap;
  }
  .answer.lost,
  .wrong {
    color: var(--red);
  }
  .well {
    color: var(--moss);
  }
  .row {
    display: flex;
    gap: var(--space-1) var(--space-4);
    flex-wrap: wrap;
    align-items: baseline;
    font-size: var(--type-small);
  }
  .acts {
    display: flex;
    gap: var(--space-3);
    flex-wrap: wrap;
    align-items: baseline;
    margin-left: auto;
  }
  p {
    margin: var(--space-1) 0 0;
  }
  .counts {
    display: flex;
    gap: var(--space-4);
    font-size: var(--type-small);
  }
  .test {
    border-left: 3px solid var(--line);
    padding-left: var(--space-2);
    margin-top: var(--space-2);
    font-size: var(--type-small);
  }
  .test ul {
    columns: 4;
    list-style: none;
    margin: var(--space-1) 0 0;
    padding: 0;
  }
</style>
