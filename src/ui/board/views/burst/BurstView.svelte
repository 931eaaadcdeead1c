<!-- Every sample around the moment a channel rises through a level: held in place until it happens again. -->
<script lang="ts">
  import type { Figure } from '$core/figures/figure';
  import { unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { useBoard } from '../../context.svelte';
  import LiveFigure from '../LiveFigure.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const [channel] = $derived(channels);
  const level = $derived(view.level ?? 0);
  const { feed } = useShell();
  const board = useBoard();
  /** Share of the time shown that lies before the moment. */
  const BEFORE = 0.25;
  const MOST_POINTS = 1200;
  let atMs = $state(0);
  let found = $state(0);

  function begin() {
    let shownAt = -1;
    return (): Figure | null => {
      const wave = feed.waves.get(channel.id);
      if (!wave || wave.length === 0) return null;
      const n = Math.max(2, Math.round(view.span * wave.rateHz));
      const before = Math.round(n * BEFORE);
      // The newest passage whose time after it has come in whole.
      const rise = wave.lastRise(level, wave.oldest + before, wave.length - (n - before));
      if (rise < 0 || rise === shownAt) return null;
      shownAt = rise;
      atMs = wave.timeMs(rise);
      found++;
      const step = Math.max(1, Math.floor(n / MOST_POINTS));
      const xs: number[] = [];
      const ys: number[] = [];
      for (let i = 0; i < n; i += step) {
        // Of each group of samples the extremes, so that no peak is lost.
        let low = Infinity;
        let high = -Infinity;
        for (let k = i; k < Math.min(n, i + step); k++) {
          const v = wave.at(rise - before + k);
          if (v < low) low = v;
          if (v > high) high = v;
        }
        const t = ((i - before) / wave.rateHz) * 1000;
        xs.push(t, t);
        ys.push(low, high);
      }
      const range = view.range ?? fitted(ys);
      board.ranges.set(channel.id, range);
      const edges = {
        x: [-view.span * BEFORE * 1000, view.span * (1 - BEFORE) * 1000],
        y: [level, level],
      };
      return {
        title: channel.name,
        x: { label: 'Time', unit: 'ms', scale: 'linear', min: edges.x[0], max: edges.x[1] },
        y: { label: channel.name, unit: unitText(channel), scale: 'linear', ...range },
        marks: [
          {
            mark: 'line',
            name: 'level',
            ...edges,
            tone: 'muted',
            dashed: true,
            weight: 'light',
          },
          {
            mark: 'line',
            name: channel.name,
            x: xs,
            y: ys,
            colour: channel.colour,
            dashed: false,
          },
        ],
      };
    };
  }
  function fitted(ys: number[]) {
    const low = Math.min(...ys);
    const high = Math.max(...ys);
    const room = (high - low || 1) * 0.1;
    return { min: low - room, max: high + room };
  }
</script>

<LiveFigure
  label="{channel.name} around its passage of {level}"
  of="{channel.id} {view.span} {level}"
  {begin}
>
  {#snippet foot()}
    <span>ms around rising through {level} {unitText(channel)}</span>
    <span class="mono" data-testid="burst"
      >{found ? `${new Date(atMs).toLocaleTimeString('en-GB')} · ${found} seen` : 'waiting for it'}</span
    >
  {/snippet}
</LiveFigure>
