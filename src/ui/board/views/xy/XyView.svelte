<!-- One channel against another, over the last seconds. -->
<script lang="ts">
  import { commonOf } from '$contract/channel';
  import type { Figure } from '$core/figures/figure';
  import { unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import LiveFigure from '../LiveFigure.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const { feed } = useShell();
  const [across, up] = $derived(channels);

  const begin = () => (): Figure | null => {
    const [a, b] = [feed.history.get(across.id), feed.history.get(up.id)];
    if (!a || !b) return null;
    const middle = (h: typeof a) => {
      const { min, max } = h.recent(Math.min(600, view.span) * 1000, 4000);
      return Float32Array.from(min, (v, i) => (v + max[i]) / 2);
    };
    const [xs, ys] = [middle(a), middle(b)];
    const n = Math.min(xs.length, ys.length);
    const ends = [xs.slice(-n), ys.slice(-n)] as const;
    const line = { mark: 'line' as const, name: up.name, colour: up.colour, dashed: false };
    return {
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
    };
  };
</script>

{#if across && up}
  <p class="muted">↑ {up.name}, {unitText(up)}</p>
  <LiveFigure label="{up.name} against {across.name}" of="{across.id} {up.id} {view.span}" {begin}>
    {#snippet foot()}<span class="right">→ {across.name}, {unitText(across)}</span>{/snippet}
  </LiveFigure>
{:else}<p class="muted">Choose two channels: the first goes across, the second up.</p>{/if}

<style>
  p {
    margin: 0;
    font-size: var(--type-small);
    padding: 0 var(--space-3);
  }
  .right {
    margin-left: auto;
  }
</style>
