<!-- The small live views: dial, bars, number, lamp, table, text, picture with readings, control. -->
<script lang="ts">
  import { commonOf, roleOf, type Channel } from '$contract/channel';
  import { nameColour, traceColour } from '$contract/palette';
  import type { View } from '$contract/board';
  import { call, faultText } from '../api';
  import DrivenControl from '../record/DrivenControl.svelte';
  import { STATE_SIGN, liveText, unitText } from '../shell/reading';
  import { useShell } from '../shell/shell.svelte';
  import { useBoard } from './context.svelte';

  type Props = { view: View; channels: Channel[]; change: (edit: Partial<View>) => void };
  let { view, channels, change }: Props = $props();
  const shell = useShell();
  const board = useBoard();
  const { feed } = shell;

  const first = $derived(channels[0]);
  const rangeOf = (c: Channel) => view.range ?? commonOf(c).range;
  const share = (c: Channel, value: number) => {
    const { min, max } = rangeOf(c);
    return Math.min(1, Math.max(0, (value - min) / (max - min) || 0));
  };
  // Values shown while the view is held are those of the moment it was held.
  let frozen = $state.raw(new Map<string, number>());
  $effect(() => {
    if (!board.held) return;
    frozen = new Map(channels.map((c) => [c.id, feed.value(c.id)]));
  });
  const valueOf = (c: Channel) => (board.held ? (frozen.get(c.id) ?? NaN) : feed.value(c.id));
  const since = (c: Channel) => feed.since(c.id);
  const peak = ({ min, max }: { min: number; max: number }) => (Math.abs(min) > Math.abs(max) ? min : max);
  const spot = (k: number) => {
    const angle = Math.PI * (0.8 + 1.4 * k);
    return [60 + 46 * Math.cos(angle), 60 + 46 * Math.sin(angle)];
  };
  const arc = (from: number, to: number) => {
    const [x0, y0] = spot(from);
    const [x1, y1] = spot(to);
    return `M ${x0} ${y0} A 46 46 0 ${(to - from) * 1.4 > 1 ? 1 : 0} 1 ${x1} ${y1}`;
  };
  async function act(path: string, body: unknown) {
    try {
      await call('POST', path, body);
    } catch (error) {
      shell.say(faultText(error));
    }
  }
  const reset = (c: Channel) => act('/api/live/reset', { channelId: c.id });
  const drive = (c: Channel, value: number) => act('/api/record', { do: 'output', channelId: c.id, value });
  function follow(c: Channel) {
    const range = board.ranges.get(c.id);
    if (!range)
      return shell.say({
        what: `No graph of ${c.name} is on this board.`,
        next: 'Put one there, then the range can follow it.',
      });
    const room = (range.max - range.min) * 0.12;
    const neat = (v: number) => Number(v.toPrecision(3));
    change({ range: { min: neat(range.min - room), max: neat(range.max + room) } });
  }
  const limits = (c: Channel) => {
    const s = commonOf(c);
    return [s.warnBelow, s.warnAbove, s.alarmBelow, s.alarmAbove].filter((v): v is number => v !== null);
  };
  function drop(event: DragEvent) {
    const id = event.dataTransfer?.getData('text/farrier-channel');
    if (!id) return;
    event.preventDefault();
    event.stopPropagation();
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const place = {
      channel: id,
      x: (event.clientX - box.left) / box.width,
      y: (event.clientY - box.top) / box.height,
    };
    change({ spots: [...view.spots.filter((s) => s.channel !== id), place] });
  }
</script>

{#if view.kind === 'dial' && first}
  {@const value = valueOf(first)}
  <div class="dial">
    <svg viewBox="0 0 120 96" role="img" aria-label="{first.name} {liveText(first, value)} {unitText(first)}">
      <path d={arc(0, 1)} class="track" />
      <path
        d={arc(0, Math.max(0.001, share(first, value)))}
        style:stroke={traceColour(first.colour, shell.night)}
        class="arc"
      />
      {#each limits(first) as limit (limit)}
        {@const at = share(first, limit)}
        {#if at > 0 && at < 1}<path
            d={arc(Math.max(0, at - 0.004), Math.min(1, at + 0.004))}
            class="limit"
          />{/if}
      {/each}
      <text x="60" y="62" class="mono value">{liveText(first, value)}</text>
      <text x="60" y="76" class="unit">{unitText(first)}</text>
      <text x="14" y="94" class="end mono">{rangeOf(first).min}</text>
      <text x="106" y="94" class="end mono right">{rangeOf(first).max}</text>
    </svg>
    <button class="dotted follow" onclick={() => follow(first)}>range as its graph</button>
  </div>
{:else if view.kind === 'bar'}
  <div class="bars">
    {#each channels as c (c.id)}
      {@const value = valueOf(c)}
      <div class="bar-row">
        <span class="name">{c.name}</span>
        <span class="bar"
          ><span style:width="{share(c, value) * 100}%" style:background={traceColour(c.colour, shell.night)}
          ></span></span
        >
        <span class="mono num">{liveText(c, value)}</span><span class="muted unit">{unitText(c)}</span>
      </div>
    {/each}
    {#if first}<button class="dotted follow" onclick={() => follow(first)}>range as its graph</button>{/if}
  </div>
{:else if view.kind === 'number' && first}
  {@const s = since(first)}
  <div class="number">
    <div class="big mono" data-testid="big">
      {liveText(first, valueOf(first))} <span class="muted">{unitText(first)}</span>
    </div>
    <dl>
      <div>
        <dt>lowest</dt>
        <dd class="mono">{liveText(first, s.min)}</dd>
      </div>
      <div>
        <dt>highest</dt>
        <dd class="mono">{liveText(first, s.max)}</dd>
      </div>
      <div>
        <dt>mean</dt>
        <dd class="mono">{liveText(first, s.mean)}</dd>
      </div>
      <div>
        <dt>peak</dt>
        <dd class="mono" data-testid="peak">{liveText(first, peak(s))}</dd>
      </div>
    </dl>
    <button
      class="dotted follow"
      onclick={() => void reset(first)}
      title="Since {new Date(feed.extremes?.sinceMs ?? 0).toLocaleTimeString('en-GB')}">begin anew</button
    >
  </div>
{:else if view.kind === 'lamp'}
  <div class="lamps">
    {#each channels as c (c.id)}
      {@const state = feed.stateOf(c.id)}
      {@const yes = commonOf(c).unit === 'yes/no' ? valueOf(c) > 0.5 : state === 'ok'}
      <div class="lamp">
        <span class="dot {state.replace(' ', '-')}" class:yes
          >{yes ? '●' : commonOf(c).unit === 'yes/no' ? '○' : STATE_SIGN[state]}</span
        >
        <span>{c.name}</span>
        <span class="muted">{commonOf(c).unit === 'yes/no' ? (yes ? 'yes' : 'no') : state}</span>
      </div>
    {/each}
  </div>
{:else if view.kind === 'table'}
  <div class="table">
    <table class="plain">
      <thead><tr><th>Channel</th><th>now</th><th>lowest</th><th>highest</th><th>mean</th><th></th></tr></thead
      >
      <tbody>
        {#each channels as c (c.id)}
          {@const s = since(c)}
          <tr
            ><td>{c.name}</td><td class="mono">{liveText(c, valueOf(c))}</td><td class="mono"
              >{liveText(c, s.min)}</td
            ><td class="mono">{liveText(c, s.max)}</td><td class="mono">{liveText(c, s.mean)}</td><td
              class="muted">{unitText(c)}</td
            ></tr
          >
        {/each}
      </tbody>
    </table>
  </div>
{:else if view.kind === 'text'}
  <textarea
    value={view.text}
    aria-label="Text"
    placeholder="Write something that stands on the board."
    onchange={(e) => change({ text: e.currentTarget.value })}></textarea>
{:else if view.kind === 'picture'}
  <div class="picture" role="group" aria-label="Picture" ondragover={(e) => e.preventDefault()} ondrop={drop}>
    {#if view.picture}<img src="/api/pictures/{view.picture}" alt="" />{:else}<p class="muted">
        Choose a picture in the settings; then drop channels on it.
      </p>{/if}
    {#each view.spots as s (s.channel)}
      {@const c = board.channel(s.channel)}
      {#if c}<span class="spot mono" style:left="{s.x * 100}%" style:top="{s.y * 100}%" title={c.name}
          ><span style:color={nameColour(c.colour, shell.night)}>{c.name}</span>
          {liveText(c, valueOf(c))}
          {unitText(c)}</span
        >{/if}
    {/each}
  </div>
{:else if view.kind === 'control'}
  <div class="control">
    {#each channels.filter((c) => roleOf(c) === 'driven') as c (c.id)}
      {#if view.style === 'push'}
        <button
          class="push"
          onpointerdown={() => void drive(c, rangeOf(c).max)}
          onpointerup={() => void drive(c, c.settings.rest as number)}
          onpointerleave={(e) => e.buttons && void drive(c, c.settings.rest as number)}
          >{c.name}: hold for {rangeOf(c).max} {unitText(c)}</button
        >
      {:else}<DrivenControl channel={c} value={feed.value(c.id)} />{/if}
    {:else}<p class="muted">Choose a driven channel in the settings.</p>{/each}
  </div>
{/if}
{#if !first && !['text', 'picture', 'control'].includes(view.kind)}<p class="muted hint">
    Choose a channel in the settings, or drop one here.
  </p>{/if}

<style>
  .dial {
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
    align-items: center;
    position: relative;
  }
  svg {
    flex: 1;
    min-height: 0;
    width: 100%;
  }
  .track,
  .arc,
  .limit {
    fill: none;
    stroke: var(--hair);
    stroke-width: 9;
  }
  .limit {
    stroke: var(--ochre-fill);
    stroke-width: 13;
  }
  text {
    text-anchor: middle;
    fill: var(--ink);
  }
  .value {
    font-size: 19px;
  }
  text.unit {
    font-size: 9.5px;
    fill: var(--muted);
  }
  .end {
    font-size: 7.5px;
    fill: var(--muted);
    text-anchor: start;
  }
  .end.right {
    text-anchor: end;
  }
  .follow {
    font-size: 12px;
    align-self: flex-end;
    margin: 0 12px 3px;
  }
  .bars {
    padding: 2px 14px;
    display: flex;
    flex-direction: column;
    gap: 4px;
    overflow: auto;
  }
  .bar-row {
    display: grid;
    grid-template-columns: minmax(60px, 34%) 1fr 62px 40px;
    gap: 8px;
    align-items: center;
  }
  .name {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-size: 13px;
  }
  .bar {
    height: 12px;
    background: var(--hair);
    border-radius: 3px;
    overflow: hidden;
    display: block;
  }
  .bar span {
    display: block;
    height: 100%;
  }
  .num {
    text-align: right;
  }
  .unit {
    font-size: 12px;
  }
  .number {
    flex: 1;
    display: flex;
    flex-direction: column;
    justify-content: space-between;
    padding: 0 14px 2px;
    min-height: 0;
  }
  .big {
    font-size: clamp(20px, 3.2vw, 34px);
    line-height: 1.15;
    white-space: nowrap;
  }
  .big .muted {
    font-size: 15px;
  }
  dl {
    display: flex;
    gap: 14px;
    margin: 0;
  }
  dt {
    font-size: 11.5px;
    color: var(--muted);
  }
  dd {
    margin: 0;
    font-size: 13px;
  }
  .number .follow {
    margin: 0;
  }
  .lamps {
    padding: 2px 14px;
    overflow: auto;
  }
  .lamp {
    display: flex;
    gap: 9px;
    align-items: baseline;
  }
  .lamp .muted {
    margin-left: auto;
    font-size: 12.5px;
  }
  .dot {
    color: var(--muted);
    font-size: 17px;
    line-height: 1;
  }
  .dot.yes {
    color: var(--moss);
  }
  .dot.alarm,
  .dot.lost,
  .dot.open {
    color: var(--red);
  }
  .dot.warning {
    color: var(--ochre);
  }
  .table {
    overflow: auto;
    padding: 0 14px;
  }
  .table td.mono,
  .table th:not(:first-child) {
    text-align: right;
    padding-left: 14px;
  }
  textarea {
    flex: 1;
    border: 0;
    background: none;
    resize: none;
    padding: 0 14px 8px;
    font-size: 14px;
    min-height: 0;
  }
  .picture {
    position: relative;
    flex: 1;
    min-height: 0;
    margin: 0 10px 8px;
  }
  .picture img {
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .spot {
    position: absolute;
    transform: translate(-50%, -50%);
    background: var(--card);
    border: 1px solid var(--line);
    border-radius: 5px;
    padding: 1px 7px;
    font-size: 12.5px;
    white-space: nowrap;
  }
  .control {
    padding: 0 14px;
  }
  .push {
    border: 1px solid var(--plum);
    color: var(--plum);
    border-radius: var(--radius);
    padding: 5px 12px;
    width: 100%;
  }
  .push:active {
    background: var(--tint);
  }
  .hint {
    padding: 0 14px;
    margin: 0;
  }
</style>
