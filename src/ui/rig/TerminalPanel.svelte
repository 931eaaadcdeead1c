<!-- One terminal: what is wired to it, what it reads raw, what is wrong, and the stand-in's faults. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { channelKind, type Channel } from '$contract/channel';
  import type { Clue } from '$contract/clues';
  import { FAULTS, type Probe as PlainProbe, type UnitDescription } from '$contract/unit';
  import type { ChannelState } from '$contract/engine-status';
  import { Button, Select } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import BridgeDrawing from './BridgeDrawing.svelte';
  import HandPanel from './HandPanel.svelte';
  import Spark from './Spark.svelte';
  import TryOut from './TryOut.svelte';

  type Probe = PlainProbe & { clues: Clue[] };

  type Props = {
    unit: UnitDescription;
    terminal: string;
    channel: Channel | null;
    state: ChannelState;
    answering: boolean;
  };
  let { unit, terminal, channel, state: channelState, answering }: Props = $props();

  let probe = $state.raw<Probe | null>(null);
  let trail = $state.raw<number[]>([]);
  let fault = $state<FaultText | null>(null);

  // These stay the same while the unit's live description changes: what depends on them does not begin anew with each status.
  const serial = $derived(unit.serial);
  const there = $derived(answering);
  const at = $derived({ serial, terminal });
  const place = $derived(unit.modules.flatMap((m) => m.terminals).find((t) => t.id === terminal));
  const hand = $derived(unit.controls.filter((c) => c.terminal === terminal).map((c) => c.id));
  $effect(() => {
    const from = at;
    probe = null;
    trail = [];
    let stopped = false;
    const look = async () => {
      if (!there) return;
      try {
        const got = await call('GET /api/units/[serial]/[...terminal]', { params: from });
        if (stopped) return;
        probe = got;
        trail = [...trail.slice(-119), got.trouble === 'open' ? NaN : got.mean];
        fault = null;
      } catch (error) {
        if (!stopped) fault = faultText(error);
      }
    };
    void look();
    const timer = setInterval(() => void (document.hidden || look()), 250);
    return () => {
      stopped = true;
      clearInterval(timer);
    };
  });

  const open = $derived(channelState === 'open' || probe?.trouble === 'open');
  const set = async (chosen: (typeof FAULTS)[number]) => {
    try {
      await call('POST /api/units/[serial]', {
        params: { serial: unit.serial },
        body: { terminal, fault: chosen },
      });
    } catch (error) {
      fault = faultText(error);
    }
  };
  const title = $derived(place?.label ?? terminal.replace('/', ' · terminal '));
</script>

<aside class="card" aria-label="Terminal {terminal}">
  <div class="head">
    <h1>{title}</h1>
    <span class="muted">{channel?.name ?? 'free'}</span>
  </div>
  {#each probe?.clues ?? [] as clue (clue.what)}
    <div class="clue">
      <p class="wrong"><strong>◇ {clue.what}</strong></p>
      <p>{clue.check}</p>
    </div>
  {/each}
  {#if channel}
    {#if channelKind(channel.kind).wires(channel.settings).length}<BridgeDrawing
        {channel}
        contacts={place?.contacts}
        {open}
      />{/if}
    <p class="muted">
      {channelKind(channel.kind).wiring}
      {#if channelKind(channel.kind).powerFirst}<strong>Take the supply off before you touch a wire.</strong
        >{/if}
    </p>
  {/if}
  <h2>
    {unit.modules.some((m) => m.bandwidthShare === 0 && terminal.startsWith(m.id + '/'))
      ? 'Last value'
      : 'Raw reading'}
  </h2>
  {#if !answering}
    <p class="wrong">○ The unit does not answer: plug it in again, it is found by itself.</p>
  {:else if probe}
    <div class="now">
      <span class="mono value" class:wrong={open} data-testid="probe"
        >{probe.trouble === 'open'
          ? Number.isFinite(probe.mean)
            ? `> ${readingText(probe.mean, { digits: 3 })}`
            : 'no number'
          : place?.kind === 'line'
            ? probe.line?.pulsesHz
              ? 'pulses'
              : probe.line?.on
                ? 'high'
                : 'low'
            : readingText(probe.mean, { digits: 5 })}</span
      ><span class="muted mono">{probe.unit === '1' ? '' : probe.unit}</span
      >{#if probe.noise > 0 && place?.kind !== 'line'}<span class="muted noise"
          >noise {readingText(probe.noise, { digits: 2 })} rms</span
        >{/if}
    </div>
    <Spark values={trail} />
    {#if probe.biasV !== undefined}<p class="muted small">
        bias of the sensor’s supply <span class="mono">{probe.biasV.toFixed(1)} V</span>
      </p>{/if}
    {#if place}<TryOut {at} kind={place.kind} {probe} />{/if}
  {/if}
  {#if fault && answering}<FaultNote {fault} />{/if}
  <div class="row">
    {#if channel}
      <Button size="sm" color="alternative" href={resolve(`/channels#${channel.id}`)}>Open the channel</Button
      >
    {:else}
      <Button size="sm" href={resolve(`/channels?add=${encodeURIComponent(`${unit.serial} ${terminal}`)}`)}
        >Add a channel here</Button
      >
    {/if}
  </div>
  {#if hand.length}
    <h2>Hand at the rig</h2>
    <HandPanel {unit} only={hand} />
  {/if}
  {#if unit.standIn && unit.controls.length > 1}
    <h2>Play a fault <span class="muted">on this stand-in</span></h2>
    <Select
      size="sm"
      aria-label="Fault on {terminal}"
      value={unit.faults[terminal] ?? 'none'}
      items={FAULTS.map((f) => ({ value: f, name: f }))}
      onchange={(e) => void set((e.currentTarget as HTMLSelectElement).value as (typeof FAULTS)[number])}
    />
  {/if}
</aside>

<style>
  aside {
    padding: var(--space-3) var(--space-4);
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    overflow: auto;
  }
  .head {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: var(--space-2);
  }
  h1 {
    font-size: var(--type-reading);
    white-space: nowrap;
  }
  .head .muted {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: var(--type-small);
  }
  p {
    margin: 0;
  }
  .wrong {
    color: var(--red);
  }
  .clue {
    border-left: 3px solid var(--red);
    padding-left: var(--space-2);
  }
  .small {
    font-size: var(--type-small);
  }
  .now {
    display: flex;
    align-items: baseline;
    gap: var(--space-2);
  }
  .value {
    font-size: var(--type-title);
    min-width: 120px;
  }
  .noise {
    margin-left: auto;
    font-size: var(--type-small);
  }
</style>
