<!-- The lines over a band as a sentence; each is opened to show something else, to be held, cleared, kept, taken out. -->
<script lang="ts">
  import { LINES_MOST_OF_ALL } from '$core/radio/lines';
  import { LineWish, type HeardBand } from '$contract/radio';
  import { nameColour } from '$contract/palette';
  import FloatBox from '../kit/FloatBox.svelte';
  import { LINE_COLOURS, lineName } from './words';

  type Props = {
    lines: LineWish[];
    heard: HeardBand | null;
    night: boolean;
    /** The one that pins stand on and widths are measured of. */
    measured: string;
    measure: (id: string) => void;
    change: (lines: LineWish[]) => void;
    clear: (ids: string[]) => void;
    takeOut: (line: LineWish) => void;
  };
  let { lines, heard, night, measured, measure, change, clear, takeOut }: Props = $props();

  let open = $state<{ id: string; anchor: HTMLElement } | null>(null);
  const line = $derived(lines.find((l) => l.id === open?.id));
  const others = $derived(lines.filter((l) => l.id !== open?.id && l.shows !== 'difference'));
  const names = $derived(lines.map((l) => lineName(l, lines, heard)));

  const alter = (id: string, own: Partial<LineWish>) =>
    change(lines.map((l) => (l.id === id ? { ...l, ...own } : l)));
  function show(shows: LineWish['shows']) {
    if (!line) return;
    const [from, minus] = [others[0]?.id ?? '', others[1]?.id ?? others[0]?.id ?? ''];
    alter(line.id, { shows, ...(shows === 'difference' && { from, minus }) });
  }
  const fresh = () => {
    let n = lines.length + 1;
    while (lines.some((l) => l.id === `line-${n}`)) n++;
    return `line-${n}`;
  };
  /** What a line shows now, as one of its own that stays. */
  function keep(of: LineWish) {
    const levels = heard?.lines.find((l) => l.id === of.id)?.levels;
    if (!levels || !heard) return;
    const kept = LineWish.parse({
      id: fresh(),
      shows: 'kept',
      atMs: heard.timeMs,
      levels: Array.from(levels, (v) => Number(v.toFixed(2))),
    });
    change([...lines, kept]);
    open = null;
  }
  const SHOWS = [
    ['now', 'now'],
    ['highest', 'the highest so far'],
    ['lowest', 'the lowest so far'],
    ['average', 'an average'],
    ['difference', 'one minus another'],
  ] as const;
</script>

<span class="draw">
  Draw
  {#each lines as l, k (l.id)}
    {#if k > 0}{k === lines.length - 1 ? ' and ' : ', '}{/if}<span class="name"
      ><i class:off={!l.shown} style:background={nameColour(LINE_COLOURS[k], night)}></i><button
        type="button"
        class="dotted"
        data-line={l.id}
        aria-haspopup="dialog"
        onclick={(e) => (open = { id: l.id, anchor: e.currentTarget })}
        >{names[k]}{l.id === measured && lines.length > 1 ? ' (pins)' : ''}{l.held ? ', held' : ''}{l.shown
          ? ''
          : ', not shown'}</button
      ></span
    >{/each}{#if lines.length < LINES_MOST_OF_ALL}<button
      type="button"
      class="more"
      aria-label="One more line"
      onclick={(e) => {
        const id = fresh();
        change([...lines, LineWish.parse({ id, shows: 'lowest' })]);
        open = { id, anchor: e.currentTarget };
      }}>+ line</button
    >{/if}.
</span>

{#if open && line}
  <FloatBox anchor={open.anchor} label="Line" close={() => (open = null)}>
    <div class="box">
      {#if line.shows !== 'kept'}
        <label
          >Shows
          <select value={line.shows} onchange={(e) => show(e.currentTarget.value as LineWish['shows'])}>
            {#each SHOWS as [key, says] (key)}<option
                value={key}
                disabled={key === 'difference' && others.length < 2}>{says}</option
              >{/each}
          </select></label
        >
      {/if}
      {#if line.shows === 'average'}
        <label
          >of <input
            type="number"
            min="2"
            max="100000"
            value={line.of}
            aria-label="Pictures in the average"
            onchange={(e) =>
              alter(line.id, {
                of: Math.max(2, Math.min(1e5, Math.round(Number(e.currentTarget.value) || 50))),
              })}
          />
          pictures, on
          <select
            aria-label="What is averaged"
            value={line.on}
            onchange={(e) => alter(line.id, { on: e.currentTarget.value as 'power' | 'level' })}
          >
            <option value="power">power</option>
            <option value="level">levels in dB</option>
          </select></label
        >
      {:else if line.shows === 'difference'}
        {#each ['from', 'minus'] as const as key (key)}
          <label
            >{key === 'from' ? 'This' : 'minus that'}
            <select value={line[key]} onchange={(e) => alter(line.id, { [key]: e.currentTarget.value })}>
              {#each others as o (o.id)}<option value={o.id}>{names[lines.indexOf(o)]}</option>{/each}
            </select></label
          >
        {/each}
      {/if}
      <div class="acts">
        <button type="button" onclick={() => alter(line.id, { shown: !line.shown })}
          >{line.shown ? 'Hide' : 'Show'}</button
        >
        {#if line.id !== measured && line.shows !== 'difference'}
          <button type="button" onclick={() => measure(line.id)}>Put the pins on it</button>
        {/if}
        {#if line.shows !== 'kept' && line.shows !== 'difference'}
          <button type="button" onclick={() => alter(line.id, { held: !line.held })}
            >{line.held ? 'Go on' : 'Hold'}</button
          >
          {#if line.shows !== 'now'}<button type="button" onclick={() => clear([line.id])}>Begin anew</button
            >{/if}
        {/if}
        {#if line.shows !== 'kept' && lines.length < LINES_MOST_OF_ALL}
          <button type="button" onclick={() => keep(line)}>Keep as it is</button>
        {/if}
        <button type="button" onclick={() => takeOut(line)}>Save as CSV</button>
        {#if lines.length > 1}
          <button
            type="button"
            onclick={() => {
              const { id } = line;
              open = null;
              change(lines.filter((l) => l.id !== id && l.from !== id && l.minus !== id));
            }}>Take away</button
          >
        {/if}
      </div>
    </div>
  </FloatBox>
{/if}

<style>
  .name {
    white-space: nowrap;
  }
  i {
    display: inline-block;
    width: 16px;
    height: 3px;
    vertical-align: middle;
    margin-right: var(--space-1);
    border-radius: calc(var(--radius) / 3);
  }
  i.off {
    opacity: 0.25;
  }
  .more {
    color: var(--muted);
    margin-left: var(--space-2);
  }
  .more:hover {
    color: var(--plum);
  }
  .box {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
  }
  .box label {
    display: flex;
    align-items: center;
    gap: var(--space-2);
    white-space: nowrap;
  }
  .box input {
    width: 84px;
  }
  .acts {
    display: flex;
    flex-wrap: wrap;
    gap: var(--space-1) var(--space-3);
  }
  .acts button {
    color: var(--plum);
    font-weight: 600;
  }
</style>
