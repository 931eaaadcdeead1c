<!-- Where a recorded band is looked at: a slider over all of it, played at its own speed or slower. -->
<script lang="ts">
  import { resolve } from '$app/paths';
  import { clockText } from '$core/readings';
  import type { BodyIn } from '$contract/api';
  import type { RadioView } from '$contract/radio';

  type Props = {
    recorded: NonNullable<RadioView['recorded']>;
    /** Where it is now, s; null before the first picture. */
    nowS: number | null;
    play: (to: BodyIn<'PUT /api/radio/[unit]/playing'>) => Promise<unknown>;
  };
  let { recorded, nowS, play }: Props = $props();
  const SPEEDS = [1, 0.5, 0.1, 0.01] as const;
  let speed = $state(1);
  let sending = false;
  let wanted: number | null = null;
  const at = $derived(recorded.speed > 0 ? (nowS ?? recorded.atS) : recorded.atS);

  /** The last place is what counts: one is asked for at a time. */
  async function seek(to: number) {
    wanted = to;
    if (sending) return;
    sending = true;
    while (wanted !== null) {
      const atS: number = wanted;
      wanted = null;
      await play({ atS });
    }
    sending = false;
  }
</script>

<div class="bar">
  <button type="button" class="dotted" onclick={() => void play({ speed: recorded.speed > 0 ? 0 : speed })}
    >{recorded.speed > 0 ? 'Stand still' : 'Play'}</button
  >
  <select
    class="plain"
    aria-label="Speed"
    bind:value={speed}
    onchange={() => recorded.speed > 0 && void play({ speed })}
  >
    {#each SPEEDS as s (s)}<option value={s}>{s === 1 ? 'at its own speed' : `${1 / s} times slower`}</option
      >{/each}
  </select>
  <input
    type="range"
    min="0"
    max={recorded.durationS}
    step={Math.min(0.05, recorded.durationS / 1000)}
    value={at}
    aria-label="Place in the recording"
    oninput={(e) => void seek(Number(e.currentTarget.value))}
  />
  <span class="mono">{clockText(at, 2)} of {clockText(recorded.durationS, 2)}</span>
  <a class="dotted" href={resolve('/inspect/[id]', { id: recorded.takeId })}>the take</a>
</div>

<style>
  .bar {
    display: flex;
    gap: var(--space-3);
    align-items: center;
  }
  input {
    flex: 1;
    accent-color: var(--plum-fill);
  }
  .mono {
    font-size: var(--type-small);
    white-space: nowrap;
  }
</style>
