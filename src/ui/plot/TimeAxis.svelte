<!-- The one time axis under stacked strips, in the same columns as their plot areas. -->
<script lang="ts">
  import { axisTicks } from '$core/figures/scale';
  import { PLOT_LEFT, PLOT_RIGHT } from './strip-plot';

  type Props = { from: number; to: number; /** last tick reads “now” */ live?: boolean };
  let { from, to, live = false }: Props = $props();

  const ticks = $derived(axisTicks({ label: 'Time', unit: 's', scale: 'time' }, from, to, 6));
  const label = (s: number, text: string) =>
    live && s === 0 ? 'now' : text.includes(':') ? text : `${text} s`;
</script>

<div class="axis mono" style:margin-left="{PLOT_LEFT}px" style:margin-right="{PLOT_RIGHT}px">
  {#each ticks as { value, text } (value)}
    <span style:left="{((value - from) / (to - from)) * 100}%">{label(value, text)}</span>
  {/each}
</div>

<style>
  .axis {
    position: relative;
    height: 20px;
    font-size: var(--type-fine);
    color: var(--muted);
    flex-shrink: 0;
  }
  span {
    position: absolute;
    transform: translateX(-50%);
    white-space: nowrap;
    top: 2px;
  }
</style>
