<!-- One value large, with its extremes and the peak since the start. -->
<script lang="ts">
  import type { Channel } from '$contract/channel';
  import { call, faultText } from '../../../api';
  import { liveText, unitText } from '../../../shell/reading';
  import { useShell } from '../../../shell/shell.svelte';
  import { ShownValues } from '../values.svelte';
  import type { ViewProps } from '../view';

  let { view, channels }: ViewProps = $props();
  const shell = useShell();
  const { feed } = shell;
  const values = new ShownValues(
    () => channels,
    () => view,
  );
  const first = $derived(channels[0]);
  const s = $derived(feed.since(first.id));
  const peak = ({ min, max }: { min: number; max: number }) => (Math.abs(min) > Math.abs(max) ? min : max);
  const reset = (c: Channel) =>
    call('POST /api/live/reset', { body: { channelId: c.id } }).catch((error) => shell.say(faultText(error)));
</script>

<div class="number">
  <div class="big mono" data-testid="big">
    {liveText(first, values.of(first))} <span class="muted">{unitText(first)}</span>
  </div>
  <dl>
    <div>
      <dt>lowest</dt>
      <dd class="mono">{liveText(first, s.min)}</dd>
    </div>
    <div>
      <dt>highest</dt>
      <dd class="mono">{liveText(first, s.max)}</dd>
    </div>
    <div>
      <dt>mean</dt>
      <dd class="mono">{liveText(first, s.mean)}</dd>
    </div>
    <div>
      <dt>peak</dt>
      <dd class="mono" data-testid="peak">{liveText(first, peak(s))}</dd>
    </div>
  </dl>
  <button
    class="dotted anew"
    onclick={() => void reset(first)}
    title="Since {new Date(feed.extremes?.sinceMs ?? 0).toLocaleTimeString('en-GB')}">begin anew</button
  >
</div>

<style>
  .number {
    flex: 1;
    display: flex;
    flex-direction: column;
    justify-content: space-between;
    padding: 0 var(--space-3) var(--space-half);
    min-height: 0;
  }
  .big {
    font-size: clamp(20px, 3.2vw, 34px);
    line-height: 1.15;
    white-space: nowrap;
  }
  .big .muted {
    font-size: var(--type-reading);
  }
  dl {
    display: flex;
    gap: var(--space-3);
    margin: 0;
  }
  dt {
    font-size: var(--type-fine);
    color: var(--muted);
  }
  dd {
    margin: 0;
    font-size: var(--type-body);
  }
  .anew {
    font-size: var(--type-small);
    align-self: flex-end;
  }
</style>
