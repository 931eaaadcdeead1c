<!-- One channel against another, over the last seconds. -->
<script lang="ts">
  import { commonOf } from '$contract/channel';
  import { screenInk } from '../../../plot/screen-ink';
  import { ScreenPainter } from '../../../plot/screen-painter';
  import { unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { useBoard } from '../../context.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const shell = useShell();
  const board = useBoard();
  const [across, up] = $derived(channels);

  function attach(canvas: HTMLCanvasElement) {
    const plot = new ScreenPainter(canvas, screenInk(canvas, shell.night));
    const draw = () => {
      const [a, b] = [shell.feed.history.get(across.id), shell.feed.history.get(up.id)];
      if (!a || !b || board.held || document.hidden) return;
      const middle = (h: typeof a) => {
        const { min, max } = h.recent(Math.min(600, view.span) * 1000, 4000);
        return Float32Array.from(min, (v, i) => (v + max[i]) / 2);
      };
      const [xs, ys] = [middle(a), middle(b)];
      const n = Math.min(xs.length, ys.length);
      const ends = [xs.slice(-n), ys.slice(-n)] as const;
      const line = { mark: 'line' as const, name: up.name, colour: up.colour, dashed: false };
      plot.draw({
        title: `${up.name} against ${across.name}`,
        x: {
          label: across.name,
          unit: unitText(across),
          scale: 'linear',
          ...(view.range ?? commonOf(across).range),
        },
        y: { label: up.name, unit: unitText(up), scale: 'linear', ...commonOf(up).range },
        marks: [
          { ...line, x: ends[0], y: ends[1] },
          // Where it stands now: a short bold end.
          { ...line, x: ends[0].slice(-4), y: ends[1].slice(-4), weight: 'bold' },
        ],
      });
    };
    const undo = shell.feed.onStep(draw);
    return () => {
      undo();
      plot.destroy();
    };
  }
</script>

{#if across && up}
  <p class="axis muted">↑ {up.name}, {unitText(up)}</p>
  <div class="area">
    {#key `${across.id} ${up.id} ${shell.night} ${view.span}`}<canvas
        {@attach attach}
        aria-label="{up.name} against {across.name}"
      ></canvas>{/key}
  </div>
  <p class="axis right muted">→ {across.name}, {unitText(across)}</p>
{:else}<p class="muted hint">Choose two channels: the first goes across, the second up.</p>{/if}

<style>
  .area {
    flex: 1;
    min-height: 0;
    position: relative;
  }
  .axis {
    margin: 0;
    font-size: 12px;
    padding: 0 14px;
  }
  .right {
    text-align: right;
  }
  .hint {
    padding: 8px 14px;
  }
</style>
