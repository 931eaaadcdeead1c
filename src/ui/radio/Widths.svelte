<!-- Widths and powers of a band: what holds a share of the power, widths below the highest, a channel with its neighbours, logged as channels. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { NO_NAMES } from '$core/sentence/sentence';
  import type { WidthsAndPowers } from '$core/radio/measure';
  import { NEIGHBOURS_MOST } from '$core/radio/widths';
  import { hertzText } from '$core/radio/words';
  import { fixed } from '$core/readings';
  import { BELOW, CHANNEL, OCCUPIED, type Measuring } from '$contract/radio-measuring';
  import FloatBox from '../kit/FloatBox.svelte';
  import SentenceView from '../sentence/SentenceView.svelte';

  type Props = {
    found: WidthsAndPowers | null;
    measuring: Measuring;
    change: (own: Partial<Measuring>) => Promise<unknown>;
    centreOn: (hz: number) => void;
    logIt: () => Promise<void>;
  };
  let { found, measuring, change, centreOn, logIt }: Props = $props();
  let box = $state<HTMLElement | null>(null);
  let busy = $state(false);
  /** Power of the channel as it was read of late, dBm. */
  const TREND = 150;
  let trend = $state.raw<number[]>([]);
  $effect(() => {
    const power = found?.channel?.main;
    if (power === undefined || !Number.isFinite(power)) return;
    untrack(() => (trend = [...trend.slice(1 - TREND), power]));
  });
  const curve = $derived.by(() => {
    if (trend.length < 2) return null;
    const [low, high] = [Math.min(...trend), Math.max(...trend)];
    const room = Math.max(1, high - low);
    const at = (v: number, k: number) =>
      `${((k + TREND - trend.length) / (TREND - 1)) * 100},${22 - ((v - low) / room) * 20}`;
    return { points: trend.map(at).join(' '), says: `${fixed(low, 1)} to ${fixed(high, 1)} dBm` };
  });
  const level = (v: number | undefined, unit: string) =>
    v === undefined || Number.isNaN(v) ? '—' : `${fixed(v, 1)} ${unit}`.trim();
  const width = (hz: number | undefined) => (hz === undefined || Number.isNaN(hz) ? '—' : hertzText(hz));
  const alter = (k: number, own: object) =>
    change({ neighbours: measuring.neighbours.map((n, i) => (i === k ? { ...n, ...own } : n)) });
  const positive = (text: string) => Math.max(0.001, Number(text) || 0.001);
</script>

<section class="card" aria-label="Widths and powers">
  <header>
    <h2>Widths and powers</h2>
    <button
      type="button"
      class="dotted"
      disabled={busy}
      onclick={async () => {
        busy = true;
        await logIt();
        busy = false;
      }}>log it</button
    >
  </header>
  <table class="plain">
    <tbody>
      <tr
        ><td
          ><SentenceView
            sentence={OCCUPIED}
            size="small"
            value={measuring}
            names={NO_NAMES}
            change={(key, value) => change({ [key]: value })}
          /></td
        ><td class="num" data-reads="occupied">{width(found?.occupied.widthHz)}</td></tr
      >
      <tr
        ><td
          ><SentenceView
            sentence={BELOW}
            size="small"
            value={measuring}
            names={NO_NAMES}
            change={(key, value) => change({ [key]: value })}
          /></td
        ><td class="num">{width(found?.below?.widthHz)}</td></tr
      >
      <tr><td>the whole band</td><td class="num">{level(found?.whole, 'dBm')}</td></tr>
      <tr
        ><td
          ><SentenceView
            sentence={CHANNEL}
            size="small"
            value={measuring}
            names={NO_NAMES}
            change={(key, value) => change({ [key]: value })}
          /></td
        ><td class="num" data-reads="channel"
          >{level(found?.channel?.main, 'dBm')}{found?.channelExpanded && found.channel
            ? ` ± ${fixed(found.channelExpanded, 1)}`
            : ''}</td
        ></tr
      >
      {#each measuring.neighbours as n, k (k)}
        {@const reads = found?.channel?.neighbours[k]}
        <tr
          ><td>{hertzText(n.offset * 1e3)} below, above, dB</td><td class="num" data-reads="neighbour-{k}"
            >{level(reads?.below, '')}, {level(reads?.above, '')}</td
          >
        </tr>
      {/each}
    </tbody>
  </table>
  {#if curve}
    <div class="trend" title="Power of the channel of late, {curve.says}">
      <svg
        viewBox="0 0 100 24"
        preserveAspectRatio="none"
        role="img"
        aria-label="Power of the channel of late, {curve.says}"
      >
        <polyline
          points={curve.points}
          fill="none"
          stroke="var(--plum)"
          stroke-width="1.25"
          vector-effect="non-scaling-stroke"
        />
      </svg>
    </div>
  {/if}
  <p>
    <button
      type="button"
      class="dotted"
      disabled={!found}
      onclick={() => found && centreOn(found.occupied.centreHz)}>Centre on it</button
    >
    <button type="button" class="dotted" aria-haspopup="dialog" onclick={(e) => (box = e.currentTarget)}
      >neighbours</button
    >
  </p>
</section>

{#if box}
  <FloatBox anchor={box} label="Neighbours" close={() => (box = null)}>
    <table class="plain">
      <thead><tr><th class="num">away, kHz</th><th class="num">wide, kHz</th><th></th></tr></thead>
      <tbody>
        {#each measuring.neighbours as n, k (k)}
          <tr>
            <td
              ><input
                type="number"
                aria-label="How far neighbour {k + 1} is away, kHz"
                value={n.offset}
                onchange={(e) => void alter(k, { offset: positive(e.currentTarget.value) })}
              /></td
            >
            <td
              ><input
                type="number"
                aria-label="Width of neighbour {k + 1}, kHz"
                value={n.wide}
                onchange={(e) => void alter(k, { wide: positive(e.currentTarget.value) })}
              /></td
            >
            <td
              ><button
                type="button"
                onclick={() => void change({ neighbours: measuring.neighbours.filter((_, i) => i !== k) })}
                >take away</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if measuring.neighbours.length < NEIGHBOURS_MOST}
      <button
        type="button"
        class="dotted"
        onclick={() => {
          const last = measuring.neighbours.at(-1) ?? { offset: 0, wide: measuring.wide };
          void change({
            neighbours: [...measuring.neighbours, { offset: last.offset + measuring.wide, wide: last.wide }],
          });
        }}>one more on either side</button
      >
    {/if}
  </FloatBox>
{/if}

<style>
  section {
    padding: var(--space-2) var(--space-3);
  }
  section td:first-child {
    padding-left: 0;
    font-size: var(--type-small);
  }
  section td:last-child {
    padding-right: 0;
  }
  td :global(.dotted) {
    white-space: normal;
    text-align: left;
  }
  header {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
  }
  p {
    margin-top: var(--space-1);
    display: flex;
    justify-content: space-between;
  }
  .trend svg {
    width: 100%;
    height: 20px;
    display: block;
    margin-top: var(--space-1);
  }
  section td {
    padding-block: 0;
    line-height: 22px;
  }
  input {
    width: 96px;
  }
</style>
