<!-- One live strip: draws the feed's buckets as they come, stands still while the view is held. -->
<script lang="ts">
  import { stripKey } from '$contract/live';
  import { traceColour } from '$contract/palette';
  import { commonOf, type Channel } from '$contract/channel';
  import type { LiveFeed } from '../live/feed.svelte';
  import { unitText } from '../shell/reading';
  import { StripPlot, plotColours } from './strip-plot';
  import StripFrame from './StripFrame.svelte';

  type Props = {
    channel: Channel;
    feed: LiveFeed;
    spanMs: number;
    night: boolean;
    held: boolean;
    /** Its rms instead of its extremes. */
    rms?: boolean;
    range?: { min: number; max: number } | null;
    /** Told what is drawn, for cursors. */
    drawn?: (ms: ArrayLike<number>, min: ArrayLike<number>, max: ArrayLike<number>) => void;
  };
  let { channel, feed, spanMs, night, held, rms = false, range = null, drawn }: Props = $props();
  const key = $derived(stripKey(channel.id, spanMs / 1000, rms ? 'rms' : 'extremes'));

  const condition = $derived(feed.stateOf(channel.id));
  const limit = $derived(commonOf(channel).warnAbove);

  function attach(canvas: HTMLCanvasElement) {
    const plot = new StripPlot(canvas, traceColour(channel.colour, night), plotColours(canvas));
    const draw = () => {
      const history = feed.history.get(key);
      if (!history || held || document.hidden) return;
      const { ms, min, max } = history.recent(spanMs, Math.max(200, canvas.clientWidth));
      for (let i = 0; i < ms.length; i++) ms[i] -= history.endMs;
      plot.draw(ms, min, max, -spanMs, 0, range);
      drawn?.(ms, min, max);
    };
    draw();
    const undo = feed.onStep(draw);
    return () => {
      undo();
      plot.destroy();
    };
  }
</script>

<StripFrame
  name={channel.name}
  unit={unitText(channel)}
  colour={channel.colour}
  {night}
  aside={condition === 'ok'
    ? ''
    : condition === 'warning' || condition === 'alarm'
      ? `${condition}, above ${limit ?? ''}`
      : condition}
>
  {#snippet canvas()}
    <canvas {@attach attach} aria-label="{channel.name} over the last {spanMs / 1000} s"></canvas>
  {/snippet}
</StripFrame>
