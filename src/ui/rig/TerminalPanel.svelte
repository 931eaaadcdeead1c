<!-- One terminal: what is wired to it, what it reads raw, what is wrong, and the stand-in's faults. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { channelKind, type Channel } from '$contract/channel';
  import { FAULTS, type UnitDescription } from '$contract/unit';
  import type { ChannelState } from '$contract/engine';
  import { Button, Select } from 'flowbite-svelte';
  import { call, faultText, type FaultText } from '../api';
  import FaultNote from '../kit/FaultNote.svelte';
  import BridgeDrawing from './BridgeDrawing.svelte';
  import Spark from './Spark.svelte';

  type Probe = { unit: string; mean: number; noise: number; trouble: string; remark: string | null };
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

  // The text is the same while the unit's live description changes: the effect must not start anew with each.
  const path = $derived(`/api/units/${unit.serial}/${terminal}`);
  $effect(() => {
    const from = path;
    probe = null;
    trail = [];
    let stopped = false;
    const look = async () => {
      if (!answering) return;
      try {
        const got = await call<Probe>('GET', from);
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
  const set = async (chosen: string) => {
    try {
      await call('POST', `/api/units/${unit.serial}`, { terminal, fault: chosen });
    } catch (error) {
      fault = faultText(error);
    }
  };
  const title = $derived(terminal.replace('/', ' · terminal '));
</script>

<aside class="card" aria-label="Terminal {terminal}">
  <div class="head">
    <h1>{title}</h1>
    <span class="muted">{channel?.name ?? 'free'}</span>
  </div>
  {#if open}
    <p class="wrong"><strong>◇ Open between the terminal and the sensor</strong></p>
    <p>
      The reading is past the end of the range and does not move. Look at the clamp first: conductor, not
      insulation; then at the cable. <strong>Take the supply off before you touch it.</strong>
    </p>
  {/if}
  {#if channel}
    <BridgeDrawing {channel} {open} />
    <p class="muted">{channelKind(channel.kind).wiring}</p>
  {/if}
  <h2>Raw reading</h2>
  {#if !answering}
    <p class="wrong">○ The unit does not answer: plug it in again, it is found by itself.</p>
  {:else if probe}
    <div class="now">
      <span class="mono value" class:wrong={open} data-testid="probe"
        >{probe.trouble === 'open'
          ? Number.isFinite(probe.mean)
            ? `> ${readingText(probe.mean, { digits: 3 })}`
            : 'no number'
          : readingText(probe.mean, { digits: 5 })}</span
      ><span class="muted mono">{probe.unit}</span><span class="muted noise"
        >noise {readingText(probe.noise, { digits: 2 })} rms</span
      >
    </div>
    <Spark values={trail} />
    {#if probe.remark}<p class="remark">▲ {probe.remark}</p>{/if}
  {/if}
  {#if fault && answering}<FaultNote {fault} />{/if}
  <div class="row">
    {#if channel}
      <Button size="sm" color="alternative" href={resolve(`/channels#${channel.id}`)}>Open the channel</Button
      >
    {:else}
      <Button size="sm" href={resolve(`/channels?add=${encodeURIComponent(terminal)}`)}
        >Add a channel here</Button
      >
    {/if}
  </div>
  {#if unit.standIn && unit.controls.length}
    <h2>Play a fault <span class="muted">on this stand-in</span></h2>
    <Select
      size="sm"
      aria-label="Fault on {terminal}"
      value={unit.faults[terminal] ?? 'none'}
      items={FAULTS.map((f) => ({ value: f, name: f }))}
      onchange={(e) => void set((e.currentTarget as HTMLSelectElement).value)}
    />
  {/if}
</aside>

<style>
  aside {
    padding: 14px 16px;
    display: flex;
    flex-direction: column;
    gap: 10px;
    overflow: auto;
  }
  .head {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    gap: 10px;
  }
  h1 {
    font-size: 15.5px;
    white-space: nowrap;
  }
  .head .muted {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 12.5px;
  }
  p {
    margin: 0;
  }
  .wrong {
    color: var(--red);
  }
  .remark {
    color: var(--ochre);
  }
  .now {
    display: flex;
    align-items: baseline;
    gap: 8px;
  }
  .value {
    font-size: 22px;
    min-width: 120px;
  }
  .noise {
    margin-left: auto;
    font-size: 12px;
  }
</style>
