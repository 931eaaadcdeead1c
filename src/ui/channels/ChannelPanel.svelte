<!-- One channel: its sentence (or table), wires, live value, calibration. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { canCalibrate, channelKind, roleOf, unitChoices, type Channel } from '$contract/channel';
  import type { UnitState } from '$contract/engine';
  import { call } from '../api';
  import BridgeDrawing from '../rig/BridgeDrawing.svelte';
  import LiveStrip from '../plot/LiveStrip.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { liveText, namesOf, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';

  type Props = { channel: Channel; channels: Channel[]; units: UnitState[]; onremove: () => void };
  let { channel, channels, units, onremove }: Props = $props();
  const shell = useShell();
  const { feed } = shell;

  const kind = $derived(channelKind(channel.kind));
  const module = $derived(
    units
      .find((u) => u.description.serial === channel.wire?.unit)
      ?.description.modules.find((m) => channel.wire?.terminal.startsWith(m.id + '/')),
  );
  const rates = $derived(module?.ratesHz ?? [channel.settings.rateHz as number]);
  const condition = $derived(feed.stateOf(channel.id));
  let table = $state(false);
  let naming = $state(false);

  const change = async (key: string, value: unknown) => {
    await call('PATCH', `/api/channels/${channel.id}`, { settings: { [key]: value } });
    await shell.refresh();
  };
  async function rename(name: string) {
    naming = false;
    if (!name.trim() || name === channel.name) return;
    try {
      await call('PATCH', `/api/channels/${channel.id}`, { name });
      await shell.refresh();
    } catch (error) {
      shell.say({ what: (error as Error).message });
    }
  }
  const focus = (input: HTMLInputElement) => input.select();
</script>

<aside class="card" aria-label="Channel {channel.name}">
  <div class="head">
    {#if naming}
      <input
        class="rename"
        value={channel.name}
        {@attach focus}
        aria-label="Name"
        onblur={(e) => void rename(e.currentTarget.value)}
        onkeydown={(e) =>
          e.key === 'Enter' ? void rename(e.currentTarget.value) : e.key === 'Escape' && (naming = false)}
      />
    {:else}
      <h1><button title="Rename" onclick={() => (naming = true)}>{channel.name}</button></h1>
    {/if}
    <span class="muted">{channel.wire ? channel.wire.terminal.replace('/', ' · terminal ') : 'computed'}</span
    >
  </div>
  <SentenceView
    sentence={kind.sentence}
    value={channel.settings}
    names={namesOf(channels)}
    {change}
    {table}
    options={{ units: unitChoices(kind, channel.settings.unit as string), rates }}
  />
  <button class="dotted small" onclick={() => (table = !table)}
    >{table ? 'as a sentence' : 'as a table'}</button
  >
  {#if kind.wires.length && !table}
    <BridgeDrawing {channel} open={condition === 'open'} />
    <p class="muted small">
      {kind.wiring}{module
        ? ` Usable up to ${readingText((channel.settings.rateHz as number) * module.bandwidthShare, { digits: 3 })} Hz.`
        : ''}
    </p>
  {/if}
  <hr />
  <h2>Now</h2>
  <div class="now">
    <span class="mono value" data-testid="now">{liveText(channel, feed.value(channel.id))}</span><span
      class="muted">{unitText(channel)}</span
    >
    {#if roleOf(channel) !== 'computed'}<span class="mono muted raw" data-testid="raw"
        >{readingText(feed.raw(channel.id), { digits: 4 })} {kind.rawUnit === '1' ? '' : kind.rawUnit}</span
      >{/if}
  </div>
  {#if condition !== 'ok' && condition !== 'not measured'}<p class="state {condition.replace(' ', '-')}">
      {condition === 'open' ? '◇ open: check the wiring at the terminal' : condition}
    </p>{/if}
  <div class="strip"><LiveStrip {channel} {feed} spanMs={30_000} night={shell.night} held={false} /></div>
  <hr />
  <p class="small">
    <strong>Calibration</strong>
    {#if channel.calibration}
      {@const c = channel.calibration}
      by {c.points.length} points on {new Date(c.at).toLocaleString('en-GB', {
        dateStyle: 'medium',
        timeStyle: 'short',
      })} by {c.by}, within {readingText(c.largestResidual, { digits: 2 })}
      {c.unit}.
    {:else if roleOf(channel) === 'computed'}follows its inputs.{:else}by sheet: the values of the sentence.{/if}
    {#if channel.sensorSerial}Sensor {channel.sensorSerial}.{/if}
    {#if canCalibrate(kind)}<a class="dotted" href={resolve(`/calibrate/${channel.id}`)}
        >Calibrate by points</a
      >{/if}
  </p>
  <button class="remove" onclick={onremove}>Remove the channel</button>
</aside>

<style>
  aside {
    padding: 14px 16px;
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: 8px;
  }
  .head {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    align-items: baseline;
  }
  .head .muted {
    white-space: nowrap;
    font-size: 12.5px;
  }
  h1 {
    font-size: 15.5px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .rename {
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: 5px;
    background: var(--paper);
    padding: 2px 6px;
    min-width: 0;
  }
  .small {
    font-size: 12.5px;
    align-self: flex-start;
  }
  p {
    margin: 0;
  }
  hr {
    border: 0;
    border-top: 1px solid var(--line);
    margin: 4px 0;
  }
  .now {
    display: flex;
    align-items: baseline;
    gap: 8px;
  }
  .value {
    font-size: 26px;
    line-height: 1.1;
  }
  .raw {
    margin-left: auto;
  }
  .state {
    color: var(--red);
  }
  .state.warning {
    color: var(--ochre);
  }
  .strip {
    height: 96px;
    display: flex;
    flex-direction: column;
    margin: 0 -8px;
    flex-shrink: 0;
  }
  .remove {
    color: var(--muted);
    font-size: 12.5px;
    text-align: left;
    margin-top: auto;
  }
  .remove:hover {
    color: var(--red);
  }
</style>
