<!-- The last seconds of a channel about its own mean, drawn against the tolerance and not against its noise. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import type { LiveFeed } from '../live/feed.svelte';

  type Props = { channel: Channel; feed: LiveFeed; tolerance: number };
  let { channel, feed, tolerance }: Props = $props();

  const SECONDS = 10;
  let path = $state('');
  let centre = $state(NaN);

  $effect(() => {
    const id = channel.id;
    return feed.onStep(() => {
      const history = feed.history.get(id);
      if (!history || document.hidden) return;
      const { min, max } = history.recent(SECONDS * 1000, 400);
      const n = min.length;
      let sum = 0;
      let count = 0;
      for (let i = Math.max(0, n - 20); i < n; i++) {
        if (Number.isNaN(min[i])) continue;
        sum += (min[i] + max[i]) / 2;
        count++;
      }
      centre = sum / count;
      // One tolerance is a fifth of the height: a drifting signal leaves the picture, a still one looks still.
      const y = (v: number) => Math.min(98, Math.max(2, 50 - ((v - centre) / tolerance) * 20)).toFixed(1);
      let out = '';
      for (let i = 0; i < n; i++)
        if (!Number.isNaN(min[i]))
          out += `${out ? 'L' : 'M'}${((i / (n - 1)) * 400).toFixed(1)} ${y(i % 2 ? min[i] : max[i])}`;
      path = out;
    });
  });
</script>

<div class="box">
  <span class="mono">±{tolerance}</span>
  <svg
    viewBox="0 0 400 100"
    preserveAspectRatio="none"
    role="img"
    aria-label="The last {SECONDS} s against the tolerance"
  >
    <rect x="0" width="400" y="30" height="40" />
    <path d={path} fill="none" vector-effect="non-scaling-stroke" />
  </svg>
</div>

<style>
  .box {
    flex: 1;
    min-height: 0;
    display: flex;
    align-items: center;
  }
  span {
    width: 50px;
    text-align: right;
    padding-right: var(--space-1);
    font-size: var(--type-fine);
    color: var(--muted);
    flex-shrink: 0;
    overflow: hidden;
  }
  svg {
    flex: 1;
    height: 100%;
    margin-right: var(--space-3);
    min-width: 0;
  }
  rect {
    fill: var(--moss-tint);
  }
  path {
    stroke: var(--ochre-fill);
    stroke-width: 1.2;
  }
</style>
