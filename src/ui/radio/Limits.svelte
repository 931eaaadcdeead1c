<!-- Limit lines over a band, from tables: typed, or pasted from a sheet as MHz and dBm. -->
<script lang="ts">
  import { aboveLevel, limitAt, type HeardLine } from '$core/radio/measure';
  import type { Measuring } from '$contract/radio-measuring';
  import FloatBox from '../kit/FloatBox.svelte';
  import { readLimit } from './words';

  type Props = {
    line: HeardLine | null;
    limits: Measuring['limits'];
    change: (limits: Measuring['limits']) => void;
  };
  let { line, limits, change }: Props = $props();
  let box = $state<HTMLElement | null>(null);
  let text = $state('');
  let name = $state('');
  const read = $derived(readLimit(text));

  const passed = $derived(
    line
      ? limits.map(({ points }) => {
          const at = Float64Array.from({ length: line.levels.length }, (_, l) =>
            limitAt(points, line.startHz + l * line.stepHz),
          );
          return aboveLevel(line.levels, at).runs;
        })
      : [],
  );
  const says = $derived(
    limits.length === 0
      ? 'no limit'
      : passed.some((n) => n > 0)
        ? limits
            .flatMap((l, k) =>
              passed[k] ? `${l.name} is passed at ${passed[k]} ${passed[k] === 1 ? 'place' : 'places'}` : [],
            )
            .join(', ')
        : limits.length === 1
          ? `below ${limits[0].name}`
          : `below ${limits.length} limits`,
  );
  function add() {
    if (!('points' in read)) return;
    change([...limits, { name: name.trim() || `Limit ${limits.length + 1}`, points: read.points }]);
    [text, name] = ['', ''];
  }
</script>

<button
  type="button"
  class="dotted"
  aria-haspopup="dialog"
  class:passed={passed.some((n) => n > 0)}
  onclick={(e) => (box = e.currentTarget)}>{says}</button
>
{#if box}
  <FloatBox anchor={box} label="Limits" close={() => (box = null)}>
    <div class="box">
      {#each limits as l, k (k)}
        <p>
          {l.name}, {l.points.length} points
          <button type="button" class="dotted" onclick={() => change(limits.filter((_, i) => i !== k))}
            >take away</button
          >
        </p>
      {/each}
      <label>Name <input bind:value={name} maxlength="60" placeholder="Limit {limits.length + 1}" /></label>
      <textarea
        rows="4"
        aria-label="Points: MHz and dBm, one a line"
        placeholder="868.0  -54"
        bind:value={text}></textarea>
      {#if text.trim()}<p class="muted">
          {'fault' in read ? read.fault : `${read.points.length} points`}
        </p>{/if}
      <button type="button" class="dotted" disabled={!('points' in read) || limits.length >= 8} onclick={add}
        >Draw it</button
      >
    </div>
  </FloatBox>
{/if}

<style>
  .box {
    display: flex;
    flex-direction: column;
    gap: var(--space-2);
    align-items: start;
  }
  textarea {
    font-family: var(--font-mono);
    font-size: var(--type-small);
    width: 240px;
    border: 1px solid var(--line);
    border-radius: var(--radius);
    background: var(--paper);
  }
  .passed {
    color: var(--red);
  }
  button {
    font-size: var(--type-small);
  }
</style>
