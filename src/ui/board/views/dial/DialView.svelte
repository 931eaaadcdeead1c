<!-- One value in its range, with its limits. -->
<script lang="ts">
  import { commonOf, type Channel } from '$contract/channel';
  import { traceColour } from '$contract/palette';
  import { liveText, unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import FollowGraph from '../FollowGraph.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels, change }: ViewProps = $props();
  const shell = useShell();
  const values = new ShownValues(
    () => channels,
    () => view,
  );
  const first = $derived(channels[0]);
  const value = $derived(values.of(first));
  const spot = (k: number) => {
    const angle = Math.PI * (0.8 + 1.4 * k);
    return [60 + 46 * Math.cos(angle), 60 + 46 * Math.sin(angle)];
  };
  const arc = (from: number, to: number) => {
    const [x0, y0] = spot(from);
    const [x1, y1] = spot(to);
    return `M ${x0} ${y0} A 46 46 0 ${(to - from) * 1.4 > 1 ? 1 : 0} 1 ${x1} ${y1}`;
  };
  const limits = (c: Channel) => {
    const s = commonOf(c);
    return [s.warnBelow, s.warnAbove, s.alarmBelow, s.alarmAbove].filter((v): v is number => v !== null);
  };
</script>

<div class="dial">
  <svg viewBox="0 0 120 96" role="img" aria-label="{first.name} {liveText(first, value)} {unitText(first)}">
    <path d={arc(0, 1)} class="track" />
    <path
      d={arc(0, Math.max(0.001, values.share(first, value)))}
      style:stroke={traceColour(first.colour, shell.night)}
      class="arc"
    />
    {#each limits(first) as limit (limit)}
      {@const at = values.share(first, limit)}
      {#if at > 0 && at < 1}<path
          d={arc(Math.max(0, at - 0.004), Math.min(1, at + 0.004))}
          class="limit"
        />{/if}
    {/each}
    <text x="60" y="62" class="mono value">{liveText(first, value)}</text>
    <text x="60" y="76" class="unit">{unitText(first)}</text>
    <text x="14" y="94" class="end mono">{values.range(first).min}</text>
    <text x="106" y="94" class="end mono right">{values.range(first).max}</text>
  </svg>
  <FollowGraph channel={first} {change} />
</div>

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
    font-size: var(--type-title);
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
</style>
