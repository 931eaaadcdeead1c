<!-- The one time axis under stacked strips, in the same columns as their plot areas. -->
<script lang="ts">
  import { clockText, fixed, roundTicks } from '$core/readings';
  import { PLOT_LEFT, PLOT_RIGHT } from './strip-plot';

  type Props = { from: number; to: number; /** last tick reads “now” */ live?: boolean };
  let { from, to, live = false }: Props = $props();

  const axis = $derived(roundTicks(from, to, 6));
  const label = (s: number) =>
    live && s === 0
      ? 'now'
      : to - from > 90 || Math.abs(s) >= 120
        ? clockText(s, axis.decimals > 0 ? axis.decimals : 0)
        : `${fixed(s, axis.decimals)} s`;
</script>

<div class="axis mono" style:margin-left="{PLOT_LEFT}px" style:margin-right="{PLOT_RIGHT}px">
  {#each axis.ticks as tick (tick)}
    <span style:left="{((tick - from) / (to - from)) * 100}%">{label(tick)}</span>
  {/each}
</div>

<style>
  .axis {
    position: relative;
    height: 20px;
    font-size: 11.5px;
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
