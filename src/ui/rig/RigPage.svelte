<!-- The rig: all units, the chosen one with its front and what it says, the chosen terminal. -->
<script lang="ts">
  import { goto } from '$app/navigation';
  import { resolve } from '$app/paths';
  import type { Overview } from '$contract/overview';
  import { Button } from 'flowbite-svelte';
  import Dialog from '../kit/Dialog.svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import { useShell } from '../shell/shell.svelte';
  import Catalogue from './Catalogue.svelte';
  import HandPanel from './HandPanel.svelte';
  import Monitor from './Monitor.svelte';
  import TerminalPanel from './TerminalPanel.svelte';
  import UnitFront from './UnitFront.svelte';
  import UnitHead from './UnitHead.svelte';
  import UnitList from './UnitList.svelte';
  import UnitSettings from './UnitSettings.svelte';

  type Props = { overview: Overview; serial: string | null };
  let { overview, serial }: Props = $props();
  const shell = useShell();
  const { feed, say } = shell;

  const units = $derived(feed.status.units);
  const channels = $derived(overview.channels);
  const answering = $derived(units.filter((u) => u.answering).length);
  const unit = $derived(units.find((u) => u.description.serial === serial) ?? units[0] ?? null);
  const known = $derived(overview.units.find((u) => u.serial === unit?.description.serial));
  const own = $derived(channels.filter((c) => c.wire?.unit === unit?.description.serial));
  /** A few units stand side by side above, many in a list. */
  const few = $derived(units.length <= 5);
  let adding = $state(false);
  let chosen = $state<{ serial: string; terminal: string } | null>(null);
  const terminal = $derived.by(() => {
    if (!unit) return null;
    const all = unit.description.modules.flatMap((m) => m.terminals);
    if (chosen?.serial === unit.description.serial && all.some((t) => t.id === chosen!.terminal))
      return chosen.terminal;
    const troubled = own.find((c) => ['open', 'short', 'silent'].includes(feed.stateOf(c.id)))?.wire
      ?.terminal;
    return troubled ?? all[0]?.id ?? null;
  });
  const channel = $derived(own.find((c) => c.wire!.terminal === terminal) ?? null);
  const ownControls = $derived(unit?.description.controls.filter((c) => !c.terminal) ?? []);

  async function add(kind: string) {
    try {
      const made = await call('POST /api/units', { body: { kind } });
      adding = false;
      await shell.refresh();
      await goto(resolve(`/rig/${made.serial}`));
    } catch (error) {
      say(faultText(error));
    }
  }
</script>

<div class="page">
  <div class="page-head">
    <h1>Rig</h1>
    <span class="aside"
      >{units.length === 0
        ? 'no unit yet'
        : `${units.length} unit${units.length > 1 ? 's' : ''} on this bench · ${answering === units.length ? 'all answering' : `${units.length - answering} not answering`}`}</span
    >
    {#if units.length}<div class="actions">
        <Button size="sm" onclick={() => (adding = true)}>Add a unit</Button>
      </div>{/if}
  </div>
  {#if !unit}
    <Empty
      says={feed.connected
        ? 'Add the unit that your sensors are wired to, or a stand-in to work as if it were real.'
        : 'Connecting…'}
    >
      {#if feed.connected}<Button onclick={() => (adding = true)}>Add a unit</Button>{/if}
    </Empty>
  {:else}
    {#if units.length > 1 && few}<UnitList across {units} {channels} chosen={unit.description.serial} />{/if}
    <div class="columns" class:single={few} class:alone={few && !terminal}>
      {#if !few}<UnitList {units} {channels} chosen={unit.description.serial} />{/if}
      <div class="middle">
        {#key unit.description.serial}
          <section class="card">
            <UnitHead
              {unit}
              channels={own.length}
              removed={async () => {
                await goto(resolve('/rig'));
                await shell.refresh();
              }}
            />
            {#if known && (known.config.database || Object.keys(known.config.settings).length || unit.description.abilities.includes('monitor'))}
              <div class="settings"><UnitSettings {known} {unit} takes={overview.takes} /></div>
            {/if}
            {#if unit.description.modules.some((m) => m.terminals.length)}
              <UnitFront
                {unit}
                {channels}
                chosen={terminal}
                choose={(t) => (chosen = { serial: unit.description.serial, terminal: t })}
              />
            {/if}
          </section>
          {#if known && unit.description.abilities.includes('monitor')}
            <section class="card"><Monitor {unit} {known} /></section>
          {/if}
          {#if ownControls.length}
            <section class="card hands">
              <h2>
                Hand at the rig <span class="muted">what a person would do; this unit is a stand-in</span>
              </h2>
              <HandPanel unit={unit.description} only={ownControls.map((c) => c.id)} />
            </section>
          {/if}
        {/key}
      </div>
      {#if terminal}
        <TerminalPanel
          unit={unit.description}
          {terminal}
          {channel}
          state={channel ? feed.stateOf(channel.id) : 'not measured'}
          answering={unit.answering}
        />
      {/if}
    </div>
  {/if}
</div>

<Dialog bind:open={adding} title="Add a unit" size="md"><Catalogue add={(kind) => void add(kind)} /></Dialog>

<style>
  .columns {
    display: grid;
    grid-template-columns: 176px minmax(0, 1fr) 330px;
    gap: var(--space-3);
    flex: 1;
    min-height: 0;
  }
  .columns.single {
    grid-template-columns: minmax(0, 1fr) 346px;
  }
  .columns.alone {
    grid-template-columns: minmax(0, 1fr);
  }
  .middle {
    display: flex;
    flex-direction: column;
    gap: var(--space-3);
    min-height: 0;
    overflow: auto;
  }
  section {
    padding: var(--space-3) var(--space-4);
  }
  .settings {
    border-top: 1px solid var(--line);
    margin-top: var(--space-2);
    padding-top: var(--space-2);
  }
  .hands h2 {
    margin-bottom: var(--space-2);
  }
  .hands h2 .muted {
    font-weight: 400;
    font-size: var(--type-small);
    margin-left: var(--space-1);
  }
</style>
