<!-- One channel: its sentence (or table), wires, live value, calibration. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { readingText } from '$core/readings';
  import { needsProof } from '$contract/proof';
  import { channelKind, roleOf, unitChoices, type Channel } from '$contract/channel';
  import type { UnitState } from '$contract/unit';
  import { Fault, call, faultText } from '../api';
  import LiveStrip from '../plot/LiveStrip.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';
  import { STATE_SIGN, liveText, plusMinusText, namesOf, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';

  import { scaleText, type Scale } from '$contract/scale';
  import { TRACES, nameColour } from '$contract/palette';
  import { SENSOR_KINDS } from '$contract/sensor';
  import Late from '../kit/Late.svelte';
  import OnDemand from './OnDemand.svelte';
  import SensorChoice from './SensorChoice.svelte';

  type Props = {
    channel: Channel;
    channels: Channel[];
    scales: Scale[];
    units: UnitState[];
    /** Writes cells of the table; a new unit is shown with all that follows it first. @returns why not */
    write: (cells: { id: string; key: string; text: string }[]) => Promise<string | null>;
    onremove: () => void;
  };
  let { channel, channels, scales, units, write, onremove }: Props = $props();
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
    if (key === 'unit') {
      const why = await write([{ id: channel.id, key, text: String(value) }]);
      if (why) throw new Fault({ what: why, where: key }, 400);
      return;
    }
    await call('PATCH /api/channels/[id]', {
      params: { id: channel.id },
      body: { settings: { [key]: value } },
    });
    await shell.refresh();
  };
  async function set(change: object) {
    try {
      await call('PATCH /api/channels/[id]', { params: { id: channel.id }, body: change });
      await shell.refresh();
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  /** The zero is the mean of some samples, so that its noise does not go into all readings. */
  async function balance() {
    try {
      const probe = await call('GET /api/units/[serial]/[...terminal]', {
        params: { serial: channel.wire!.unit, terminal: channel.wire!.terminal },
      });
      if (probe.trouble !== 'none') throw new Error('The bridge is open: there is nothing to balance.');
      await set({ settings: { zero: Number(probe.mean.toFixed(5)) } });
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const fitting = $derived(kind.linear && kind.lawUnit === null ? scales : []);
  const actualHz = $derived(feed.status.actualRates[channel.id]);
  async function rename(name: string) {
    naming = false;
    if (!name.trim() || name === channel.name) return;
    try {
      await call('PATCH /api/channels/[id]', { params: { id: channel.id }, body: { name } });
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
  <div class="line small">
    <button class="dotted" onclick={() => (table = !table)}>{table ? 'as a sentence' : 'as a table'}</button>
    <label
      >colour <select
        value={channel.colour % (2 * TRACES.length)}
        style:color={nameColour(channel.colour, shell.night)}
        onchange={(e) => void set({ colour: Number(e.currentTarget.value) })}
        aria-label="Colour"
      >
        {#each TRACES as colour, k (colour)}<option value={k} style:color={colour}>■ {k + 1}</option>{/each}
        {#each TRACES as colour, k (colour)}<option value={k + TRACES.length} style:color={colour}
            >▪ {k + 1} dashed</option
          >{/each}
      </select></label
    >
    {#if fitting.length || channel.scale}
      <label
        >scale <select
          value={channel.scale?.id ?? ''}
          onchange={(e) => void set({ scale: e.currentTarget.value })}
          aria-label="Scale"
        >
          <option value="">as in the sentence</option>
          {#each fitting as scale (scale.id)}<option value={scale.id}>{scale.name}</option>{/each}
        </select></label
      >
    {/if}
  </div>
  {#if channel.scale}<p class="small">
      Converted by the scale <strong>{channel.scale.name}</strong>, {scaleText(channel.scale)}, in place of
      the sentence’s numbers.
    </p>{/if}
  {#if actualHz !== undefined}<p class="small ochre">
      ▲ The module cannot do {channel.settings.rateHz} S/s: it runs at {actualHz} S/s.
    </p>{/if}
  {#if kind.wires(channel.settings).length && !table}
    <Late part={() => import('../rig/BridgeDrawing.svelte')}>
      {#snippet children(BridgeDrawing)}
        <BridgeDrawing
          {channel}
          contacts={module?.terminals.find((t) => t.id === channel.wire?.terminal)?.contacts}
          open={condition === 'open'}
        />
      {/snippet}
    </Late>
    <p class="muted small">
      {kind.wiring}{module
        ? module.bandwidthShare === 0
          ? ''
          : ` Filtered, usable up to ${readingText((actualHz ?? (channel.settings.rateHz as number)) * module.bandwidthShare, { digits: 3 })} Hz.`
        : ''}
    </p>
  {/if}
  {#if kind.accepts.includes('bridge')}
    <button
      class="dotted small"
      title="Takes the present output of the bridge as its zero; nobody may touch the gauge"
      onclick={() => void balance()}>Balance: take the present output as zero</button
    >
  {/if}
  <hr />
  <h2>Now</h2>
  <div class="now">
    <span class="mono value" data-testid="now"
      >{liveText(channel, feed.value(channel.id), shell.expanded(channel.id))}
      {plusMinusText(shell.expanded(channel.id))}</span
    ><span class="muted">{unitText(channel)}</span>
    {#if roleOf(channel) !== 'computed'}<span class="mono muted raw" data-testid="raw"
        >{readingText(feed.raw(channel.id), { digits: 4 })} {kind.rawUnit === '1' ? '' : kind.rawUnit}</span
      >{/if}
  </div>
  {#if condition !== 'ok' && condition !== 'not measured'}<p class="state {condition.replace(' ', '-')}">
      {condition === 'open'
        ? '◇ open: check the wiring at the terminal'
        : `${STATE_SIGN[condition]} ${condition}`}
    </p>{/if}
  <div class="strip"><LiveStrip {channel} {feed} spanMs={30_000} night={shell.night} held={false} /></div>
  <OnDemand {channel} />
  <hr />
  {#if SENSOR_KINDS.includes(channel.kind)}<SensorChoice {channel} />{/if}
  <p class="small">
    <strong>Calibration</strong>
    {#if channel.calibration}
      {@const c = channel.calibration}
      {c.method} on {new Date(c.at).toLocaleString('en-GB', {
        dateStyle: 'medium',
        timeStyle: 'short',
      })} by {c.by}{#if c.points.length > 2}, within {readingText(c.largestResidual, { digits: 2 })}
        {c.unit}{/if}.
    {:else if roleOf(channel) === 'computed'}follows its inputs.{:else}by sheet: the values of the sentence.{/if}
    {#if needsProof(channel)}<a class="dotted" href={resolve(`/calibrate/${channel.id}`)}>Calibrate</a>{/if}
  </p>
  <button class="remove" onclick={onremove}>Remove the channel</button>
</aside>

<style>
  aside {
    padding: var(--space-3) var(--space-4);
    overflow: auto;
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
  }
  .head {
    display: flex;
    justify-content: space-between;
    gap: var(--space-2);
    align-items: baseline;
  }
  .head .muted {
    white-space: nowrap;
    font-size: var(--type-small);
  }
  h1 {
    font-size: var(--type-reading);
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .rename {
    font-weight: 700;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: var(--space-half) var(--space-1);
    min-width: 0;
  }
  .line {
    display: flex;
    gap: var(--space-1) var(--space-3);
    flex-wrap: wrap;
    align-items: center;
  }
  select {
    font: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
    padding: 0 var(--space-6) 0 var(--space-1);
    max-width: 150px;
  }
  .ochre {
    color: var(--ochre);
  }
  .small {
    font-size: var(--type-small);
    align-self: flex-start;
  }
  p {
    margin: 0;
  }
  hr {
    border: 0;
    border-top: 1px solid var(--line);
    margin: var(--space-1) 0;
  }
  .now {
    display: flex;
    align-items: baseline;
    gap: var(--space-2);
  }
  .value {
    font-size: var(--type-display);
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
    margin: 0 calc(-1 * var(--space-2));
    flex-shrink: 0;
  }
  .remove {
    color: var(--muted);
    font-size: var(--type-small);
    text-align: left;
    margin-top: auto;
  }
  .remove:hover {
    color: var(--red);
  }
</style>
