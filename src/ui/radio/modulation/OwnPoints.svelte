<!-- A constellation of one’s own: typed as points, or drawn by clicking into the plane. -->
<script lang="ts">
  import { readPoints, type Point } from '$core/modulation/schemes';
  import { untrack } from 'svelte';

  type Props = { points: Point[]; change: (points: Point[]) => void };
  let { points, change }: Props = $props();
  const asText = (list: Point[]) => list.map((p) => `${p.re} ${p.im}`).join('\n');
  let text = $state(untrack(() => asText(points)));
  const read = $derived(readPoints(text));
  const SIDE = 200;
  const most = $derived(
    Array.isArray(read) ? Math.max(1, ...read.flatMap((p) => [Math.abs(p.re), Math.abs(p.im)])) * 1.2 : 1.5,
  );
  const x = (v: number) => SIDE / 2 + (v / most) * (SIDE / 2);
  function click(e: MouseEvent & { currentTarget: SVGElement }) {
    const box = e.currentTarget.getBoundingClientRect();
    const at = (px: number, from: number, size: number) => ((px - from) / size - 0.5) * 2 * most;
    const round = (v: number) => Math.round(v * 20) / 20;
    const p = {
      re: round(at(e.clientX, box.left, box.width)),
      im: round(-at(e.clientY, box.top, box.height)),
    };
    const list = Array.isArray(read) ? read : [];
    const there = list.findIndex((q) => Math.hypot(q.re - p.re, q.im - p.im) < most / 14);
    text = asText(there >= 0 ? list.filter((_, k) => k !== there) : [...list, p]);
  }
</script>

<div class="own">
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
  <svg
    width={SIDE}
    height={SIDE}
    viewBox="0 0 {SIDE} {SIDE}"
    role="img"
    aria-label="Points; a click adds one or takes one away"
    onclick={click}
  >
    <path d="M0 {SIDE / 2}H{SIDE}M{SIDE / 2} 0V{SIDE}" class="axes" />
    {#if Array.isArray(read)}
      {#each read as p, k (k)}<circle cx={x(p.re)} cy={SIDE - x(p.im)} r="4" />{/each}
    {/if}
  </svg>
  <textarea rows="8" aria-label="Points: in phase and in quadrature, one a line" bind:value={text}></textarea>
  <p class="muted">{Array.isArray(read) ? `${read.length} points; the first stands for 0` : read.fault}</p>
  <button
    type="button"
    class="dotted"
    disabled={!Array.isArray(read)}
    onclick={() => Array.isArray(read) && change(read)}>Read by these</button
  >
</div>

<style>
  .own {
    display: grid;
    grid-template-columns: auto 160px;
    gap: var(--space-2);
    font-size: var(--type-small);
  }
  svg {
    border: 1px solid var(--line);
    background: var(--paper);
    cursor: crosshair;
  }
  .axes {
    stroke: var(--line);
  }
  circle {
    fill: var(--plum);
  }
  textarea {
    font-family: var(--font-mono);
    font-size: var(--type-small);
    background: var(--card);
    color: inherit;
    border: 1px solid var(--line);
    border-radius: var(--radius);
  }
</style>
