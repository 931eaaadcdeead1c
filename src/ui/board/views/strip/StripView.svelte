<!-- Long history of some channels, by their extremes or rms; held, a cursor reads every strip at one moment. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import LiveStrip from '../../../plot/LiveStrip.svelte';
  import TimeAxis from '../../../plot/TimeAxis.svelte';
  import { PLOT_LEFT, PLOT_RIGHT } from '../../../plot/strip-plot';
  import { liveText, unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { useBoard } from '../../context.svelte';
  import type { ViewProps } from '../view';

  let { view, channels, rms = false }: ViewProps & { rms?: boolean } = $props();
  const shell = useShell();
  const board = useBoard();

  const last = new Map<string, { ms: ArrayLike<number>; min: ArrayLike<number>; max: ArrayLike<number> }>();
  const drawn = (id: string) => (ms: ArrayLike<number>, min: ArrayLike<number>, max: ArrayLike<number>) => {
    last.set(id, { ms, min, max });
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < min.length; i++) {
      if (min[i] < low) low = min[i];
      if (max[i] > high) high = max[i];
    }
    if (low < high) board.ranges.set(id, { min: low, max: high });
  };
  function point(event: PointerEvent) {
    if (!board.held) return;
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const share = (event.clientX - box.left - PLOT_LEFT) / (box.width - PLOT_LEFT - PLOT_RIGHT);
    board.cursor = Math.min(1, Math.max(0, share));
  }
  function step(event: KeyboardEvent) {
    if (!board.held || (event.key !== 'ArrowLeft' && event.key !== 'ArrowRight')) return;
    event.stopPropagation();
    event.preventDefault();
    const by = (event.shiftKey ? 0.02 : 0.002) * (event.key === 'ArrowLeft' ? -1 : 1);
    board.cursor = Math.min(1, Math.max(0, (board.cursor ?? 0.5) + by));
  }
  const read = (channel: Channel, share: number) => {
    const got = last.get(channel.id);
    if (!got) return '–';
    const at = (share - 1) * view.span * 1000;
    let k = 0;
    while (k < got.ms.length - 1 && got.ms[k + 1] <= at) k++;
    const [a, b] = [liveText(channel, got.min[k]), liveText(channel, got.max[k])];
    return a === b ? `${a} ${unitText(channel)}` : `${a} … ${b} ${unitText(channel)}`;
  };
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="strips"
  role="group"
  aria-label="Strips"
  tabindex={board.held ? 0 : undefined}
  onpointermove={point}
  onkeydown={step}
>
  {#each channels as channel (`${channel.id} ${shell.night}`)}
    <LiveStrip
      {channel}
      feed={shell.feed}
      spanMs={view.span * 1000}
      night={shell.night}
      held={board.held}
      {rms}
      range={view.range}
      drawn={drawn(channel.id)}
    />
  {/each}
  {#if board.held && board.cursor !== null}
    <div
      class="line"
      style:left="calc({PLOT_LEFT}px + (100% - {PLOT_LEFT + PLOT_RIGHT}px) * {board.cursor})"
    ></div>
    <div class="read mono" data-testid="cursor">
      {#each channels as channel (channel.id)}<span>{channel.name}: {read(channel, board.cursor)}</span
        >{/each}
    </div>
  {/if}
</div>
<TimeAxis from={-view.span} to={0} live />

<style>
  .strips {
    position: relative;
    flex: 1;
    min-height: 0;
    display: flex;
    flex-direction: column;
  }
  .line {
    position: absolute;
    inset-block: 0;
    border-left: 1px solid var(--plum);
    pointer-events: none;
  }
  .read {
    position: absolute;
    right: 16px;
    top: 20px;
    font-size: var(--type-small);
    background: color-mix(in srgb, var(--card) 88%, transparent);
    display: flex;
    flex-direction: column;
    text-align: right;
    pointer-events: none;
  }
</style>
