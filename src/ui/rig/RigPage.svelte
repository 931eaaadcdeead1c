<script lang="ts">
  import { invalidateAll } from '$app/navigation';
  import type { Channel } from '$contract/channel';
  import { roleOf } from '$contract/channel';
  import type { UnitState } from '$contract/engine';
  import { Button } from 'flowbite-svelte';
  import { call, faultText } from '../api';
  import Empty from '../kit/Empty.svelte';
  import HandPanel from '../rig/HandPanel.svelte';
  import TerminalPanel from '../rig/TerminalPanel.svelte';
  import { useShell } from '../shell/shell.svelte';
  import type { Overview } from '$contract/overview';

  type Props = { overview: Overview };
  let { overview }: Props = $props();
  const { feed, say } = useShell();

  const units = $derived(feed.status.units);
  const channels = $derived(overview.channels);
  const answering = $derived(units.filter((u) => u.answering).length);
  let chosen = $state<{ serial: string; terminal: string } | null>(null);
  const shown = $derived.by(() => {
    const unit = units.find((u) => u.description.serial === chosen?.serial) ?? units[0];
    if (!unit) return null;
    const troubled = channels.find(
      (c) => c.wire?.unit === unit.description.serial && feed.stateOf(c.id) === 'open',
    )?.wire?.terminal;
    return {
      unit,
      terminal:
        chosen?.serial === unit.description.serial
          ? chosen.terminal
          : (troubled ?? unit.description.modules[0].terminals[0].id),
    };
  });

  const wiredTo = (unit: UnitState, terminal: string) =>
    channels.find((c) => c.wire?.unit === unit.description.serial && c.wire.terminal === terminal) ?? null;

  function sign(unit: UnitState, channel: Channel | null): { text: string; kind: string; words: string } {
    if (!unit.answering) return { text: '○', kind: 'free', words: 'lost' };
    if (!channel) return { text: '○', kind: 'free', words: 'free' };
    const state = feed.stateOf(channel.id);
    if (state === 'open' || state === 'over range') return { text: '◇', kind: 'open', words: state };
    if (roleOf(channel) === 'driven') return { text: '→', kind: 'driven', words: 'driven' };
    return state === 'lost' || state === 'not measured'
      ? { text: '○', kind: 'free', words: state }
      : { text: '●', kind: 'reading', words: 'reading' };
  }
  const short = (name: string) =>
    name
      .replace(/, root$/, '')
      .replace('Bearing, ', '')
      .replace('Nacelle, ', '')
      .slice(0, 13);

  async function add(kind: string) {
    try {
      await call('POST', '/api/units', { kind });
      await invalidateAll();
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
        ? 'no unit found yet'
        : `${units.length} unit${units.length > 1 ? 's' : ''} found on this bench · ${answering === units.length ? 'all answering' : `${units.length - answering} not answering`}`}</span
    >
  </div>
  {#if units.length === 0}
    <Empty
      says={feed.connected
        ? 'Plug a unit in and it is found by itself. Without hardware at hand, add a stand-in and work as if it were real.'
        : 'Connecting…'}
    >
      {#if feed.connected}
        {#each overview.catalogue as unit (unit.kind)}<Button
            color="alternative"
            onclick={() => void add(unit.kind)}>{unit.title}</Button
          >{/each}
      {/if}
    </Empty>
  {:else}
    <div class="columns">
      <div class="units">
        {#each units as unit (unit.description.serial)}
          {@const d = unit.description}
          <section class="card" aria-label={d.name}>
            <div class="head">
              <h2>{d.name}</h2>
              <span class="muted"
                >{d.modules.length} modules · serial {d.serial}{d.calibratedUntil
                  ? ` · own calibration until ${d.calibratedUntil}`
                  : ''}</span
              >
              <span class="answer" class:lost={!unit.answering} role="status"
                >{unit.answering ? '● answering' : '○ lost'}</span
              >
            </div>
            <div class="modules" class:lost={!unit.answering}>
              {#each d.modules as module (module.id)}
                <div
                  class="module"
                  class:here={shown?.unit === unit && shown.terminal.startsWith(module.id + '/')}
                >
                  <strong>{module.id}</strong><span class="muted">{module.title}</span>
                  <div class="terminals" class:big={module.terminals.length <= 4}>
                    {#each module.terminals as terminal (terminal.id)}
                      {@const channel = wiredTo(unit, terminal.id)}
                      {@const s = sign(unit, channel)}
                      <button
                        class="terminal {s.kind}"
                        aria-pressed={shown?.unit === unit && shown.terminal === terminal.id}
                        aria-label="{terminal.id}: {channel?.name ?? 'free'}, {s.words}"
                        title="{channel?.name ?? 'free'}, {s.words}"
                        onclick={() => (chosen = { serial: d.serial, terminal: terminal.id })}
                      >
                        <span class="mono">{terminal.id.split('/')[1]}</span>
                        {#if channel}<span class="name">{short(channel.name)}</span>{/if}
                        <span class="sign">{s.text}</span>
                      </button>
                    {/each}
                  </div>
                </div>
              {/each}
            </div>
            <p class="key muted">
              <span>● reading</span><span>○ free</span><span class="red">◇ open or dead</span><span
                class="plum">→ driven</span
              >
            </p>
          </section>
          {#if d.controls.length}
            <section class="card hands">
              <h2>
                Hand at the rig <span class="muted">what a person would do; this unit is a stand-in</span>
              </h2>
              <HandPanel unit={d} />
            </section>
          {/if}
        {/each}
      </div>
      {#if shown}
        {@const channel = wiredTo(shown.unit, shown.terminal)}
        <TerminalPanel
          unit={shown.unit.description}
          terminal={shown.terminal}
          {channel}
          state={channel ? feed.stateOf(channel.id) : 'not measured'}
          answering={shown.unit.answering}
        />
      {/if}
    </div>
  {/if}
</div>

<style>
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 346px;
    gap: 14px;
    flex: 1;
    min-height: 0;
  }
  .units {
    display: flex;
    flex-direction: column;
    gap: 12px;
    min-height: 0;
    overflow: auto;
  }
  section {
    padding: 14px 16px;
  }
  .head {
    display: flex;
    gap: 12px;
    align-items: baseline;
    white-space: nowrap;
  }
  .head h2 {
    font-size: 15px;
  }
  .head .muted {
    font-size: 12.5px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .answer {
    margin-left: auto;
    color: var(--moss);
    font-weight: 600;
  }
  .answer.lost {
    color: var(--red);
  }
  .modules {
    display: grid;
    grid-template-columns: repeat(6, minmax(0, 1fr));
    gap: 9px;
    margin-top: 10px;
    max-width: 1100px;
  }
  .modules.lost {
    opacity: 0.55;
  }
  .module {
    background: var(--stone);
    border: 1px solid var(--line);
    border-radius: var(--radius);
    padding: 10px 8px 8px;
    display: flex;
    flex-direction: column;
  }
  .module.here {
    background: var(--tint);
    border-color: var(--plum);
  }
  .module > strong {
    font-size: 15px;
    line-height: 1.2;
    padding-left: 4px;
  }
  .module > .muted {
    font-size: 12px;
    padding-left: 4px;
  }
  .terminals {
    display: flex;
    flex-direction: column;
    gap: 5px;
    margin-top: 10px;
    flex: 1;
  }
  .terminal {
    display: flex;
    gap: 5px;
    align-items: center;
    background: var(--card);
    border: 1px solid var(--hair);
    border-radius: 5px;
    min-height: 26px;
    padding: 0 7px;
    text-align: left;
    overflow: hidden;
  }
  .big .terminal {
    min-height: 57px;
    flex-wrap: wrap;
    align-content: center;
    row-gap: 0;
  }
  .big .name {
    order: 3;
    flex-basis: 100%;
  }
  .terminal .name {
    font-size: 11.5px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
    color: var(--muted);
  }
  .terminal .sign {
    margin-left: auto;
  }
  .terminal.free .sign {
    color: var(--line);
  }
  .terminal.open .sign,
  .red {
    color: var(--red);
  }
  .terminal.driven .sign,
  .plum {
    color: var(--plum);
  }
  .terminal[aria-pressed='true'] {
    border: 2px solid var(--plum);
    padding: 0 6px;
  }
  .terminal.open[aria-pressed='true'] {
    border-color: var(--red);
  }
  .key {
    display: flex;
    gap: 14px;
    margin: 9px 0 0;
    font-size: 12.5px;
  }
  .hands h2 {
    margin-bottom: 10px;
  }
  .hands h2 .muted {
    font-weight: 400;
    font-size: 12.5px;
    margin-left: 6px;
  }
</style>
